package subset

import (
	"encoding/binary"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

func printable(r rune) bool { return unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.IsMark(r) }

var (
	tagVhea = sfnt.MakeTag("vhea")
	tagVmtx = sfnt.MakeTag("vmtx")
	tagKern = sfnt.MakeTag("kern")
	tagLTSH = sfnt.MakeTag("LTSH")
	tagVORG = sfnt.MakeTag("VORG")
	tagCOLR = sfnt.MakeTag("COLR")
	tagSVG  = sfnt.MakeTag("SVG ")
	tagSbix = sfnt.MakeTag("sbix")
)

// same are tables that hold nothing by glyph.
var same = map[string]bool{
	"fvar": true, "avar": true, "cvar": true, "MVAR": true, "STAT": true, "cvt": true, "fpgm": true, "prep": true,
	"gasp": true, "BASE": true, "CPAL": true, "meta": true, "VDMX": true, "EBSC": true,
}

// tables writes the new face.
func (t *trimmer) tables() (*sfnt.Font, error) {
	out := &sfnt.Font{Flavor: t.font.Flavor}
	made, err := t.special()
	if err != nil {
		return nil, err
	}
	for _, one := range t.font.Tables {
		b, ours := made[one.Tag]
		switch {
		case ours && len(b) > 0:
			out.Tables = append(out.Tables, sfnt.Table{Tag: one.Tag, Data: b})
		case ours:
		case same[strings.TrimSpace(one.Tag.String())]:
			out.Tables = append(out.Tables, sfnt.Table{Tag: one.Tag, Data: one.Data})
		case !slices.Contains(t.result.Dropped, one.Tag.String()):
			t.result.Dropped = append(t.result.Dropped, one.Tag.String())
		}
	}
	return out, nil
}

// special writes the tables that speak of glyphs or characters; none for those
// of which nothing is left.
func (t *trimmer) special() (map[sfnt.Tag][]byte, error) {
	made := map[sfnt.Tag][]byte{}
	for _, step := range []func(map[sfnt.Tag][]byte) error{
		t.layout, t.outlineTables, t.metrics, t.characters, t.variations, t.colors, t.bitmaps,
	} {
		if err := step(made); err != nil {
			return nil, err
		}
	}
	return made, nil
}

// outlineTables writes the outlines and what must agree with them.
func (t *trimmer) outlineTables(made map[sfnt.Tag][]byte) error {
	head := slices.Clone(t.font.Table(table.TagHead))
	if err := t.outlines.write(t, made, head); err != nil {
		return err
	}
	made[table.TagHead] = head
	maxp := slices.Clone(t.font.Table(table.TagMaxp))
	binary.BigEndian.PutUint16(maxp[4:], uint16(len(t.glyphs)))
	made[table.TagMaxp] = maxp
	return nil
}

// metrics writes advances and bearings of both directions, and what else has a
// value for each glyph.
func (t *trimmer) metrics(made map[sfnt.Tag][]byte) error {
	for _, one := range []struct{ head, list sfnt.Tag }{{table.TagHhea, table.TagHmtx}, {tagVhea, tagVmtx}} {
		b := t.font.Table(one.head)
		if len(b) < 36 {
			continue
		}
		long := int(binary.BigEndian.Uint16(b[34:]))
		metrics := table.ParseHmtx(t.font.Table(one.list), long, t.before)
		kept := make([]table.Metric, len(t.glyphs))
		for i, g := range t.glyphs {
			if int(g) < len(metrics) {
				kept[i] = metrics[g]
			}
		}
		head := slices.Clone(b)
		list, count := table.EncodeMetrics(kept)
		binary.BigEndian.PutUint16(head[34:], uint16(count))
		made[one.head], made[one.list] = head, list
	}
	if b := t.font.Table(tagLTSH); len(b) >= 4+t.before {
		out := append(slices.Clone(b[:2]), byte(len(t.glyphs)>>8), byte(len(t.glyphs)))
		for _, g := range t.glyphs {
			out = append(out, b[4+int(g)])
		}
		made[tagLTSH] = out
	}
	if v := sfnt.View(t.font.Table(tagVORG)); len(v) >= 8 {
		made[tagVORG] = t.verticalOrigins(v)
	}
	if b := t.font.Table(tagKern); len(b) > 0 && (t.gpos == nil || !t.gpos.Has(tagKern) || len(made[table.TagGPOS]) > 0) {
		// Readers take `kern` where GPOS does not kern; it must not step in for rules trimmed away.
		made[tagKern] = t.kern(b)
	} else {
		made[tagKern] = nil
	}
	return nil
}

func (t *trimmer) verticalOrigins(v sfnt.View) []byte {
	out := slices.Clone(v[:8])
	n, _ := v.U16(6)
	count := 0
	for i := range int(n) {
		g, _ := v.U16(8 + 4*i)
		y, ok := v.U16(10 + 4*i)
		if ok && t.keep.Has(table.GlyphID(g)) {
			out = binary.BigEndian.AppendUint16(out, uint16(t.to[g]))
			out = binary.BigEndian.AppendUint16(out, y)
			count++
		}
	}
	binary.BigEndian.PutUint16(out[6:], uint16(count))
	return out
}

// kern writes the pairs of the old kerning table that stay (format 0); tables
// of other formats, which only one system reads, go.
func (t *trimmer) kern(b []byte) []byte {
	const header, pairSize = 14, 6
	v := sfnt.View(b)
	if version, _ := v.U16(0); version != 0 {
		return nil
	}
	tables, _ := v.U16(2)
	out := []byte{0, 0, 0, 0}
	count := 0
	at := 4
	for range int(tables) {
		length, _ := v.U16(at + 2)
		coverage, ok := v.U16(at + 4)
		pairs, ok2 := v.U16(at + 6)
		if !ok || !ok2 {
			break
		}
		size := int(length)
		if coverage>>8 == 0 {
			if size = header + pairSize*int(pairs); size > 0xFFFF {
				// The length of so large a table does not fit its field, and browsers refuse it;
				// written smaller, it would move text that stood without it.
				t.result.Dropped = append(t.result.Dropped, tagKern.String())
				return nil
			}
			var list []byte
			last := -1
			for i := range int(pairs) {
				pair, ok := v.Sub(at+header+pairSize*i, pairSize)
				key, _ := pair.U32(0)
				if !ok || int(key) <= last { // pairs out of order are refused too
					t.result.Dropped = append(t.result.Dropped, tagKern.String())
					return nil
				}
				last = int(key)
				a, _ := pair.U16(0)
				c, _ := pair.U16(2)
				if t.keep.Has(table.GlyphID(a)) && t.keep.Has(table.GlyphID(c)) {
					list = binary.BigEndian.AppendUint16(list, uint16(t.to[a]))
					list = binary.BigEndian.AppendUint16(list, uint16(t.to[c]))
					list = append(list, pair[4:]...)
				}
			}
			if n := len(list) / pairSize; n > 0 {
				log := 0
				for 2<<log <= n {
					log++
				}
				for _, f := range []int{0, header + len(list), int(coverage), n, pairSize << log, log, pairSize * (n - 1<<log)} {
					out = binary.BigEndian.AppendUint16(out, uint16(f))
				}
				out = append(out, list...)
				count++
			}
		}
		if size < 6 {
			break
		}
		at += size
	}
	if count == 0 {
		return nil
	}
	binary.BigEndian.PutUint16(out[2:], uint16(count))
	return out
}

// layout writes GSUB, GPOS and GDEF with the variations they name.
func (t *trimmer) layout(made map[sfnt.Tag][]byte) error {
	used, settled := map[uint32]bool{}, map[uint32]uint32(nil)
	plan := t.plan()
	marks, joins := t.definitions.HoldsMark(&t.keep) || t.has(isMark), t.has(isJoining)
	plan.Present = func(tag sfnt.Tag) bool {
		switch tag.String() {
		case "mark", "mkmk": // without them readers place marks by their own guess
			return marks
		case "init", "medi", "fina", "isol": // without them, joined forms by their code points
			return joins
		}
		return false
	}
	var store *variation.Store
	if b := t.definitions.Store(); b != nil {
		var err error
		if store, err = variation.ParseStore(b); err != nil {
			return damaged("the variations of its layout cannot be read", err)
		}
		plan.Vary = func(outer, inner int) (int, int, int, bool) {
			key := variation.Index(outer, inner)
			if settled == nil {
				used[key] = true
				return 0, outer, inner, true
			}
			to := settled[key]
			return 0, int(to >> 16), int(to & 0xFFFF), to != variation.NoVariation
		}
	}
	write := func() error {
		for _, one := range []struct {
			tag   sfnt.Tag
			table *layout.Table
		}{{table.TagGSUB, t.gsub}, {table.TagGPOS, t.gpos}} {
			made[one.tag] = nil
			if one.table == nil {
				continue
			}
			// Even a table without rules chooses how marks and complex scripts are set.
			plan.Always = marks || joins || t.has(complexScript)
			b, err := layout.Rewrite(one.table, plan)
			if err != nil {
				return damaged("its layout rules cannot be written", err)
			}
			made[one.tag] = b
		}
		return nil
	}
	if err := write(); err != nil {
		return err
	}
	var kept []byte
	definitions, err := layout.RewriteDefinitions(t.definitions, plan, nil) // which notes the variations that carets use
	if err != nil {
		return damaged("its glyph classes cannot be written", err)
	}
	if store != nil && len(used) > 0 {
		var less *variation.Store
		less, settled = store.Only(used)
		kept = less.Encode()
		if err := write(); err != nil {
			return err
		}
		if definitions, err = layout.RewriteDefinitions(t.definitions, plan, kept); err != nil {
			return damaged("its glyph classes cannot be written", err)
		}
	}
	made[layout.TagGDEF] = definitions
	return nil
}

// characters writes the character map and what else speaks of characters and
// names of glyphs.
func (t *trimmer) characters(made map[sfnt.Tag][]byte) error {
	c := &table.Cmap{Symbol: t.symbol, Selectors: t.selectors}
	for _, p := range t.pairs {
		c.Pairs = append(c.Pairs, table.Mapping{Rune: p.Rune, Glyph: t.to[p.Glyph]})
	}
	for i := range c.Selectors {
		for k, m := range c.Selectors[i].Special {
			c.Selectors[i].Special[k].Glyph = t.to[m.Glyph]
		}
	}
	made[table.TagCmap] = c.Encode()
	if b := t.font.Table(table.TagPost); b != nil {
		made[table.TagPost] = table.TrimPost(b, t.glyphs)
	}
	if b := slices.Clone(t.font.Table(table.TagOS2)); len(b) >= 68 {
		binary.BigEndian.PutUint16(b[64:], uint16(min(c.Pairs[0].Rune, 0xFFFF)))
		binary.BigEndian.PutUint16(b[66:], uint16(min(c.Pairs[len(c.Pairs)-1].Rune, 0xFFFF)))
		made[table.TagOS2] = b
	}
	return t.names(made)
}

// names drops the names that nothing speaks of any more.
func (t *trimmer) names(made map[sfnt.Tag][]byte) error {
	b := t.font.Table(table.TagName)
	if b == nil {
		return nil
	}
	n, err := table.ParseName(b)
	if err != nil {
		return damaged("its names cannot be read", err)
	}
	named, err := table.NamesUsed(func(tag sfnt.Tag) []byte {
		if b, ours := made[tag]; ours {
			return b
		}
		return t.font.Table(tag)
	})
	if err != nil {
		return damaged("its names cannot be read", err)
	}
	const firstOwn = 256
	before := len(n.Records)
	n.Records = slices.DeleteFunc(n.Records, func(r table.NameRecord) bool { return r.ID >= firstOwn && !named[r.ID] })
	made[table.TagName] = b
	if len(n.Records) < before && len(n.Tags) == 0 {
		made[table.TagName] = n.Encode()
	}
	return nil
}

// variations writes what varies by glyph.
func (t *trimmer) variations(made map[sfnt.Tag][]byte) error {
	if b := t.font.Table(variation.TagGvar); b != nil {
		out, err := variation.TrimGvar(b, t.glyphs)
		if err != nil {
			return damaged("the variations of its outlines cannot be read", err)
		}
		made[variation.TagGvar] = out
	}
	for _, tag := range []sfnt.Tag{variation.TagHVAR, variation.TagVVAR} {
		if b := t.font.Table(tag); b != nil {
			m, err := variation.ParseMetrics(b, tag)
			if err != nil {
				return damaged(fmt.Sprintf("the table `%s` cannot be read", tag), err)
			}
			made[tag] = m.Trim(t.glyphs).Encode()
		}
	}
	return nil
}
