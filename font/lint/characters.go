package lint

import (
	"fmt"
	"math"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// checkCmap checks every subtable's frame and the glyphs the best one names.
func (c *checker) checkCmap() {
	b := c.font.Table(table.TagCmap)
	if b == nil {
		return
	}
	v := sfnt.View(b)
	count, ok := v.U16(2)
	if !ok {
		c.wrong(table.TagCmap, "table-short", "It ends inside its header.")
		return
	}
	last, ordered, unicode := int64(-1), true, false
	for i := range int(count) {
		platform, _ := v.U16(4 + 8*i)
		encoding, _ := v.U16(6 + 8*i)
		at, ok := v.U32(8 + 8*i)
		if !ok {
			c.wrong(table.TagCmap, "table-short", "It ends inside its list of subtables.")
			return
		}
		key := int64(platform)<<16 | int64(encoding)
		ordered = ordered && key >= last // a subtable a language may follow one another
		last = key
		unicode = unicode || platform == 0 && encoding != 5 || platform == 3 && (encoding == 0 || encoding == 1 || encoding == 10)
		sub, ok := v.From(int(at))
		if !ok || len(sub) < 4 {
			c.wrong(table.TagCmap, "subtable-outside", "Subtable %d (platform %d, encoding %d) lies outside the table.", i, platform, encoding)
			continue
		}
		c.checkCharacters(sub, i)
	}
	if !ordered {
		c.odd(table.TagCmap, "subtables-order", "The list of subtables is out of order.")
	}
	if !unicode {
		c.odd(table.TagCmap, "no-unicode", "No subtable maps Unicode characters; browsers find no letters.")
	}
	runs, err := table.ParseCmap(b)
	if err != nil {
		c.wrong(table.TagCmap, "table-short", "The %v.", err)
	}
	var outside tally
	for _, r := range runs {
		if g := int(r.Glyph) + r.Count - 1; c.glyphs > 0 && g >= c.glyphs {
			outside.add("The character U+%04X is mapped to glyph %d; there are %d.", r.First+rune(r.Count-1), g, c.glyphs)
		}
	}
	c.report(Error, table.TagCmap, "glyphs-outside", &outside)
}

// checkCharacters checks one subtable's length and order.
func (c *checker) checkCharacters(sub sfnt.View, i int) {
	if !c.spend(min(len(sub), math.MaxUint16), table.TagCmap) {
		return
	}
	format, _ := sub.U16(0)
	length, at := 0, 0
	switch format {
	case 0, 2, 4, 6:
		n, _ := sub.U16(2)
		length = int(n)
	case 8, 10, 12, 13:
		n, _ := sub.U32(4)
		length = int(n)
	case 14:
		n, _ := sub.U32(2)
		length = int(n)
	default:
		c.wrong(table.TagCmap, "subtable-format", "Subtable %d is of the format %d, which does not exist.", i, format)
		return
	}
	if length > len(sub) {
		// Format 4 counts its bytes in 16 bits; makers of large maps let the number wrap or lie.
		c.odd(table.TagCmap, "subtable-long", "Subtable %d says it has %d bytes; %d follow.", i, length, len(sub))
	}
	what := ""
	switch format {
	case 4:
		what, at = segmentsFault(sub)
	case 12, 13:
		if groups, _ := sub.U32(12); !c.spend(int(groups), table.TagCmap) {
			return
		}
		what, at = groupsFault(sub)
	}
	if what != "" {
		c.wrong(table.TagCmap, "characters-order", "Subtable %d, entry %d: %s.", i, at, what)
	}
}

// segmentsFault checks the segments of format 4.
func segmentsFault(v sfnt.View) (string, int) {
	doubled, ok := v.U16(6)
	if !ok || doubled%2 != 0 {
		return fmt.Sprintf("the number of segments, doubled, cannot be %d", doubled), 0
	}
	n := int(doubled) / 2
	if _, ok := v.Sub(14, 8*n+2); !ok {
		return "the segments run past the end", 0
	}
	last := -1
	for i := range n {
		end, _ := v.U16(14 + 2*i)
		start, _ := v.U16(16 + 2*n + 2*i)
		if start > end {
			return fmt.Sprintf("it runs from U+%04X to U+%04X", start, end), i
		}
		if int(end) <= last && end != 0xFFFF {
			return fmt.Sprintf("it ends at U+%04X, behind the one before", end), i
		}
		last = int(end)
	}
	return "", 0
}

// groupsFault checks the groups of formats 12 and 13.
func groupsFault(v sfnt.View) (string, int) {
	n, _ := v.U32(12)
	if _, ok := v.Sub(16, 12*int(n)); !ok {
		return "the groups run past the end", 0
	}
	last := int64(-1)
	for i := range int(n) {
		start, _ := v.U32(16 + 12*i)
		end, _ := v.U32(20 + 12*i)
		switch {
		case start > end:
			return fmt.Sprintf("it runs from U+%04X to U+%04X", start, end), i
		case int64(start) <= last:
			return fmt.Sprintf("it starts at U+%04X, before the one before ends", start), i
		case end > 0x10FFFF:
			return fmt.Sprintf("it ends at 0x%X, beyond Unicode", end), i
		}
		last = int64(end)
	}
	return "", 0
}

var tagKern = sfnt.MakeTag("kern")

// checkKern checks the pairs of an old kerning table: in order, and of glyphs
// that are there.
func (c *checker) checkKern() {
	v := sfnt.View(c.font.Table(tagKern))
	if len(v) < 4 {
		if v != nil {
			c.odd(tagKern, "table-short", "It ends inside its header.")
		}
		return
	}
	version, _ := v.U16(0)
	if version != 0 {
		return // Apple's, which no browser reads
	}
	if c.font.Has(table.TagCFF) || c.font.Has(table.TagCFF2) {
		c.odd(tagKern, "kern-postscript", "Readers pass it over beside PostScript outlines; kerning belongs in GPOS.")
	}
	count, _ := v.U16(2)
	at := 4
	for i := range int(count) {
		format, _ := v.U8(at + 4)
		pairs, ok := v.U16(at + 6)
		if format != 0 {
			return
		}
		list, fits := v.Sub(at+14, 6*int(pairs))
		if !ok || !fits {
			c.odd(tagKern, "table-short", "Subtable %d ends before its %d pairs do.", i, pairs)
			return
		}
		last, ordered := int64(-1), true
		var outside tally
		for p := range int(pairs) {
			pair, _ := list.U32(6 * p)
			ordered = ordered && int64(pair) > last
			last = int64(pair)
			if g := max(pair>>16, pair&0xFFFF); int(g) >= c.glyphs {
				outside.add("A pair names glyph %d; there are %d.", g, c.glyphs)
			}
		}
		if !ordered {
			c.odd(tagKern, "pairs-order", "The pairs of subtable %d are out of order; readers that search will miss some.", i)
		}
		c.report(Warning, tagKern, "glyphs-outside", &outside)
		at += 14 + 6*int(pairs)
	}
}
