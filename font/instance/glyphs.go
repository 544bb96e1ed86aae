package instance

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/glyf"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

const (
	phantoms = 4
	// maxPoints bounds a glyph so that its variations fit the format's 16-bit sizes.
	maxPoints = 15000
)

var (
	tagVhea = sfnt.MakeTag("vhea")
	tagVmtx = sfnt.MakeTag("vmtx")
	tagHdmx = sfnt.MakeTag("hdmx")
	tagLTSH = sfnt.MakeTag("LTSH")
	tagVDMX = sfnt.MakeTag("VDMX")
)

// outlines pins the outlines, whichever table holds them. Device metrics of old
// hold for the default design only and go.
func (p *pinner) outlines() error {
	for _, tag := range []sfnt.Tag{tagHdmx, tagLTSH, tagVDMX} {
		p.put(tag, nil)
	}
	if len(p.font.Table(table.TagGlyf)) > 0 {
		return p.trueType()
	}
	if p.font.Has(table.TagCFF2) {
		return p.postScript()
	}
	return nil
}

// drawing is one glyph of glyf while it changes.
type drawing struct {
	simple *glyf.Simple // nil for a composite or a blank
	bytes  []byte
	parts  int
	shift  [phantoms][2]float64 // of the phantom points, for good
}

func (p *pinner) trueType() error {
	head, err := table.ParseHead(p.font.Table(table.TagHead))
	if err != nil {
		return damaged("its header cannot be read", err)
	}
	list, err := glyf.Locate(p.font.Table(table.TagGlyf), p.font.Table(table.TagLoca), head.LongLoca)
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	gvar := &variation.Gvar{Axes: len(p.change)}
	if b := p.font.Table(variation.TagGvar); len(b) > 0 {
		if gvar, err = variation.ParseGvar(b); err != nil {
			return damaged("the variations of its outlines cannot be read", err)
		}
	}
	drawings := make([]drawing, min(len(list), p.glyphs))
	for g := range drawings {
		if drawings[g], _, err = p.glyph(list[g], gvar, table.GlyphID(g)); err != nil {
			return damaged(fmt.Sprintf("glyph %d cannot be read", g), err)
		}
	}
	p.put(variation.TagGvar, nil)
	if !p.static {
		left, err := variation.EncodeGvar(len(drawings), p.change.Axes(), func(g int) ([]variation.Tuple, error) {
			_, rest, err := p.glyph(list[g], gvar, table.GlyphID(g))
			return rest, err
		})
		if err != nil {
			return damaged("its outlines cannot be read", err)
		}
		p.put(variation.TagGvar, left)
	}
	return p.writeGlyphs(drawings, boxes(list))
}

// glyph applies what holds for good to one glyph and gives what varies still.
func (p *pinner) glyph(b []byte, gvar *variation.Gvar, id table.GlyphID) (d drawing, rest []variation.Tuple, err error) {
	d.bytes = b
	var frame variation.Outline
	points := 0
	if n, ok := glyf.ContourCount(b); ok && n >= 0 {
		if d.simple, err = glyf.ParseSimple(b); err != nil {
			return d, nil, err
		}
		points = len(d.simple.Points)
		frame.Ends = d.simple.Ends
		for _, q := range d.simple.Points {
			frame.X, frame.Y = append(frame.X, float64(q.X)), append(frame.Y, float64(q.Y))
		}
	} else if ok {
		parts, err := glyf.ParseParts(b)
		if err != nil {
			return d, nil, err
		}
		points, d.parts = len(parts), len(parts)
	}
	if points > maxPoints {
		return d, nil, fmt.Errorf("%w: it has %d points", glyf.ErrGlyph, points)
	}
	tuples, err := gvar.Tuples(id, points+phantoms)
	if err != nil || len(tuples) == 0 {
		return d, nil, err
	}
	x, y := make([]float64, points+phantoms), make([]float64, points+phantoms)
	moved := false
	type varying struct {
		tuple variation.Tuple
		terms []variation.Term
	}
	var stay []varying
	for _, t := range tuples {
		terms := p.change.Region(t.Region)
		var still []variation.Term
		for _, term := range terms {
			if term.Region != nil {
				still = append(still, term)
				continue
			}
			dx, dy := t.Spread(points+phantoms, frame)
			for i := range dx {
				x[i] += term.Weight * dx[i]
				y[i] += term.Weight * dy[i]
				moved = moved || dx[i] != 0 || dy[i] != 0
			}
		}
		if len(still) > 0 {
			stay = append(stay, varying{t, still})
		}
	}
	for _, one := range stay {
		t := one.tuple
		if moved && t.Points != nil {
			// Deltas of points not named follow from the outline as it was; now it is another.
			t.X, t.Y = t.Spread(points+phantoms, frame)
			t.Points = nil
		}
		for _, term := range one.terms {
			rest = append(rest, variation.Tuple{Region: term.Region, Points: t.Points, X: times(t.X, term.Weight), Y: times(t.Y, term.Weight)})
		}
	}
	for i := range phantoms {
		d.shift[i] = [2]float64{x[points+i], y[points+i]}
	}
	if d.simple != nil {
		for i := range d.simple.Points {
			q := &d.simple.Points[i]
			q.X, q.Y = int(math.Round(float64(q.X)+x[i])), int(math.Round(float64(q.Y)+y[i]))
		}
		d.simple.Bounds = d.simple.Measure()
	} else if d.parts > 0 {
		d.bytes, err = glyf.MoveParts(b, x[:points], y[:points])
	}
	return d, rest, err
}

func times(d []float64, k float64) []float64 {
	out := make([]float64, len(d))
	for i, x := range d {
		out[i] = k * x
	}
	return out
}

// box is a glyph's bounding box, where it has one.
type box struct {
	glyf.Bounds
	drawn bool
}

// boxes returns the boxes that glyphs state.
func boxes(list [][]byte) []box {
	out := make([]box, len(list))
	for g, b := range list {
		if _, ok := glyf.ContourCount(b); ok {
			out[g] = box{glyf.BoundsOf(b), true}
		}
	}
	return out
}

// writeGlyphs writes glyf and loca, and the metrics that follow from the new
// boxes and the phantom points.
func (p *pinner) writeGlyphs(drawings []drawing, before []box) error {
	var data []byte
	offsets := []int{0}
	for _, d := range drawings {
		if d.simple != nil && len(d.simple.Ends) > 0 {
			data = d.simple.Append(data)
		} else {
			data = append(data, d.bytes...)
		}
		for len(data)%4 != 0 {
			data = append(data, 0)
		}
		offsets = append(offsets, len(data))
	}
	head := p.editable(table.TagHead, 54)
	binary.BigEndian.PutUint16(head[50:], 1)
	if len(data) == 0 {
		data = []byte{0}
	}
	p.put(table.TagGlyf, data)
	p.put(table.TagLoca, glyf.Index(offsets, true))
	now := &sfnt.Font{Tables: []sfnt.Table{{Tag: table.TagHead, Data: head}, {Tag: table.TagGlyf, Data: data}, {Tag: table.TagLoca, Data: p.made[table.TagLoca]}}}
	reader, err := outline.Open(now)
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	after := make([]box, len(drawings))
	whole := box{}
	for g, d := range drawings {
		b, drawn, err := reader.Bounds(g)
		if err != nil {
			return damaged("its outlines cannot be read", err)
		}
		after[g] = box{b, drawn}
		if d.parts > 0 && drawn {
			glyf.SetBounds(data[offsets[g]:], b)
		}
		if drawn {
			whole = whole.with(b)
		}
	}
	if offsets[len(offsets)-1] <= 2*math.MaxUint16 {
		binary.BigEndian.PutUint16(head[50:], 0)
		p.put(table.TagLoca, glyf.Index(offsets, false))
	}
	for i, n := range []int16{whole.XMin, whole.YMin, whole.XMax, whole.YMax} {
		binary.BigEndian.PutUint16(head[36+2*i:], uint16(n))
	}
	p.phantomMetrics(drawings, before, after)
	return nil
}

func (b box) with(o glyf.Bounds) box {
	if !b.drawn {
		return box{o, true}
	}
	return box{glyf.Bounds{XMin: min(b.XMin, o.XMin), YMin: min(b.YMin, o.YMin), XMax: max(b.XMax, o.XMax), YMax: max(b.YMax, o.YMax)}, true}
}

// phantomMetrics writes hmtx and vmtx by the phantom points: origin and advance
// move, and the bearing is the way from the origin to the new box.
func (p *pinner) phantomMetrics(drawings []drawing, before, after []box) {
	for _, one := range []struct {
		header, list sfnt.Tag
		first, xy    int
		edge         func(glyf.Bounds) float64
		sign         float64
	}{
		{table.TagHhea, table.TagHmtx, 0, 0, func(b glyf.Bounds) float64 { return float64(b.XMin) }, 1},
		{tagVhea, tagVmtx, 2, 1, func(b glyf.Bounds) float64 { return float64(b.YMax) }, -1},
	} {
		header := p.editable(one.header, 36)
		if header == nil {
			continue
		}
		metrics := table.ParseHmtx(p.font.Table(one.list), int(binary.BigEndian.Uint16(header[34:])), p.glyphs)
		for g := range metrics {
			if g >= len(drawings) {
				break
			}
			// Along its direction, the origin lies the bearing before the edge.
			origin := one.sign*one.edge(before[g].Bounds) - float64(metrics[g].Left)
			shift := drawings[g].shift
			start, end := one.sign*shift[one.first][one.xy], one.sign*shift[one.first+1][one.xy]
			metrics[g].Advance = p.advance(float64(metrics[g].Advance) + end - start)
			if after[g].drawn {
				metrics[g].Left = int16(math.Round(one.sign*one.edge(after[g].Bounds) - (origin + start)))
			}
		}
		list, long := table.EncodeMetrics(metrics)
		binary.BigEndian.PutUint16(header[34:], uint16(long))
		p.put(one.list, list)
	}
}
