package instance

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// metrics pins advances by HVAR and VVAR, which readers take before phantom
// points.
func (p *pinner) metrics() error {
	for _, one := range []struct{ tag, header, list sfnt.Tag }{
		{variation.TagHVAR, table.TagHhea, table.TagHmtx}, {variation.TagVVAR, tagVhea, tagVmtx},
	} {
		b := p.font.Table(one.tag)
		if len(b) == 0 {
			continue
		}
		m, err := variation.ParseMetrics(b, one.tag)
		if err != nil {
			return damaged(fmt.Sprintf("the table `%s` cannot be read", one.tag), err)
		}
		p.put(one.tag, nil)
		rest, gain := m.Change(p.change, p.glyphs)
		if !p.static {
			p.put(one.tag, rest.Encode())
		}
		p.advances(one.header, one.list, gain)
	}
	return nil
}

// advances adds to the advances of the font as it was; bearings are those that
// the outlines gave.
func (p *pinner) advances(headerTag, listTag sfnt.Tag, gain []float64) {
	old, header := p.font.Table(headerTag), p.editable(headerTag, 36)
	if header == nil {
		return
	}
	was := table.ParseHmtx(p.font.Table(listTag), int(binary.BigEndian.Uint16(old[34:])), p.glyphs)
	now := table.ParseHmtx(p.table(listTag), int(binary.BigEndian.Uint16(header[34:])), p.glyphs)
	widest := uint16(0)
	for g := range now {
		if g < len(was) {
			now[g].Advance = p.advance(float64(was[g].Advance) + gain[g])
		}
		widest = max(widest, now[g].Advance)
	}
	list, long := table.EncodeMetrics(now)
	binary.BigEndian.PutUint16(header[10:], widest)
	binary.BigEndian.PutUint16(header[34:], uint16(long))
	p.put(listTag, list)
}

// layout pins the variations of GSUB, GPOS and GDEF.
func (p *pinner) layout() error {
	definitions, err := layout.OpenDefinitions(p.font.Table(layout.TagGDEF))
	if err != nil {
		return damaged("its glyph classes cannot be read", err)
	}
	plan := layout.Plan{Conditions: p.condition, Present: func(sfnt.Tag) bool { return true }}
	used, to := map[uint32]bool{}, map[uint32]uint32(nil)
	var settled *variation.Settle
	if b := definitions.Store(); b != nil {
		store, err := variation.ParseStore(b)
		if err != nil {
			return damaged("the variations of its layout cannot be read", err)
		}
		settled = p.change.Settle(store)
		plan.Vary = func(outer, inner int) (int, int, int, bool) {
			add := settled.Fixed(outer, inner)
			if !settled.Varies(outer, inner) {
				return add, 0, 0, false
			}
			k := variation.Index(outer, inner)
			used[k] = true
			if to != nil {
				k = to[k]
			}
			return add, int(k >> 16), int(k & 0xFFFF), true
		}
	}
	write := func() error {
		for _, tag := range []sfnt.Tag{table.TagGSUB, table.TagGPOS} {
			b := p.font.Table(tag)
			if len(b) == 0 {
				continue
			}
			t, err := layout.Open(b, tag)
			if err == nil {
				b, err = layout.Rewrite(t, plan)
			}
			if err != nil {
				return damaged("its layout rules cannot be read", err)
			}
			p.put(tag, b)
		}
		return nil
	}
	if err := write(); err != nil {
		return err
	}
	out, err := layout.RewriteDefinitions(definitions, plan, nil)
	if err == nil && len(used) > 0 {
		var less *variation.Store
		less, to = settled.Store.Only(used)
		if err := write(); err != nil {
			return err
		}
		out, err = layout.RewriteDefinitions(definitions, plan, less.Encode())
	}
	if err != nil {
		return damaged("its glyph classes cannot be read", err)
	}
	p.put(layout.TagGDEF, out)
	return nil
}

// condition settles a condition of feature variations.
func (p *pinner) condition(c layout.Condition) (layout.Condition, layout.Holds) {
	if c.Axis >= len(p.change) {
		return c, layout.Nowhere
	}
	low, high := float64(c.Min)/16384, float64(c.Max)/16384
	switch a := p.change[c.Axis]; {
	case a.Pinned:
		if low <= a.At && a.At <= high {
			return c, layout.Everywhere
		}
		return c, layout.Nowhere
	case a.Limited:
		if high < a.Min || low > a.Max {
			return c, layout.Nowhere
		}
		if low <= a.Min && a.Max <= high {
			return c, layout.Everywhere
		}
		low, high = a.Place(max(low, a.Min)), a.Place(min(high, a.Max))
	}
	return layout.Condition{Axis: p.change.Index(c.Axis), Min: int16(math.Round(low * 16384)), Max: int16(math.Round(high * 16384))}, layout.Somewhere
}

// values pins the metrics of the whole face (`MVAR`) and the control values of
// hints (`cvar`).
func (p *pinner) values() error {
	if b := p.font.Table(variation.TagMVAR); len(b) > 0 {
		if err := p.faceValues(b); err != nil {
			return err
		}
	}
	b, values := p.font.Table(variation.TagCvar), p.font.Table(tagCvt)
	if len(b) == 0 {
		return nil
	}
	p.put(variation.TagCvar, nil)
	if len(values) < 2 {
		return nil
	}
	count := len(values) / 2
	tuples, err := variation.ParseCvar(b, len(p.change), count)
	if err != nil {
		return damaged("the variations of its hints cannot be read", err)
	}
	gain := make([]float64, count)
	var rest []variation.Tuple
	for _, t := range tuples {
		for _, term := range p.change.Region(t.Region) {
			if term.Region != nil {
				rest = append(rest, variation.Tuple{Region: term.Region, Points: t.Points, X: times(t.X, term.Weight)})
				continue
			}
			for i, d := range t.X {
				at := i
				if t.Points != nil {
					at = t.Points[i]
				}
				if at < count {
					gain[at] += term.Weight * d
				}
			}
		}
	}
	cvt := p.editable(tagCvt, 2)
	for i, d := range gain {
		old := int16(binary.BigEndian.Uint16(cvt[2*i:]))
		binary.BigEndian.PutUint16(cvt[2*i:], uint16(int16(math.Round(float64(old)+d))))
	}
	if !p.static {
		p.put(variation.TagCvar, variation.EncodeCvar(rest))
	}
	return nil
}

var tagCvt = sfnt.MakeTag("cvt ")

// valuePlaces are the fields that MVAR varies, by its value tags (OpenType,
// `MVAR`, "Value tags"): 16-bit numbers at an offset.
var valuePlaces = map[string]struct {
	table sfnt.Tag
	at    int
}{
	"hasc": {table.TagOS2, 68}, "hdsc": {table.TagOS2, 70}, "hlgp": {table.TagOS2, 72}, "hcla": {table.TagOS2, 74}, "hcld": {table.TagOS2, 76},
	"xhgt": {table.TagOS2, 86}, "cpht": {table.TagOS2, 88},
	"sbxs": {table.TagOS2, 10}, "sbys": {table.TagOS2, 12}, "sbxo": {table.TagOS2, 14}, "sbyo": {table.TagOS2, 16},
	"spxs": {table.TagOS2, 18}, "spys": {table.TagOS2, 20}, "spxo": {table.TagOS2, 22}, "spyo": {table.TagOS2, 24},
	"strs": {table.TagOS2, 26}, "stro": {table.TagOS2, 28},
	"hcrs": {table.TagHhea, 18}, "hcrn": {table.TagHhea, 20}, "hcof": {table.TagHhea, 22},
	"vasc": {tagVhea, 4}, "vdsc": {tagVhea, 6}, "vlgp": {tagVhea, 8}, "vcrs": {tagVhea, 18}, "vcrn": {tagVhea, 20}, "vcof": {tagVhea, 22},
	"undo": {table.TagPost, 8}, "unds": {table.TagPost, 10},
}

func (p *pinner) faceValues(b []byte) error {
	v := sfnt.View(b)
	size, _ := v.U16(6)
	count, _ := v.U16(8)
	at, ok := v.U16(10)
	rest, ok2 := v.From(int(at))
	records, ok3 := v.Sub(12, int(size)*int(count))
	if !ok || !ok2 || !ok3 || size < 8 {
		return damaged("the metrics that vary cannot be read", sfnt.ErrDamaged)
	}
	p.put(variation.TagMVAR, nil)
	if count == 0 || at == 0 {
		return nil
	}
	store, err := variation.ParseStore(rest)
	if err != nil {
		return damaged("the metrics that vary cannot be read", err)
	}
	settled := p.change.Settle(store)
	var left []byte
	for i := range int(count) {
		rec, _ := records.Sub(i*int(size), int(size))
		tag, _ := rec.U32(0)
		outer, _ := rec.U16(4)
		inner, _ := rec.U16(6)
		if place, known := valuePlaces[sfnt.Tag(tag).String()]; known {
			if t := p.editable(place.table, place.at+2); t != nil {
				old := int16(binary.BigEndian.Uint16(t[place.at:]))
				binary.BigEndian.PutUint16(t[place.at:], uint16(int(old)+settled.Fixed(int(outer), int(inner))))
			}
		}
		if settled.Varies(int(outer), int(inner)) {
			left = append(left, rec[:8]...)
		}
	}
	if p.static || len(left) == 0 {
		return nil
	}
	out := []byte{0, 1, 0, 0, 0, 0, 0, 8}
	out = binary.BigEndian.AppendUint16(out, uint16(len(left)/8))
	out = binary.BigEndian.AppendUint16(out, uint16(12+len(left)))
	out = append(out, left...)
	p.put(variation.TagMVAR, append(out, settled.Store.Encode()...))
	return nil
}
