package lint

import (
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// read parses a table; one that cannot be is an error.
func read[T any](c *checker, tag sfnt.Tag, parse func([]byte) (*T, error)) *T {
	b := c.font.Table(tag)
	if b == nil {
		return nil
	}
	t, err := parse(b)
	if err != nil {
		c.wrong(tag, "table-short", "The %v.", err)
		return nil
	}
	return t
}

func (c *checker) checkHead() {
	c.head = read(c, table.TagHead, table.ParseHead)
	if c.head == nil {
		return
	}
	v := sfnt.View(c.font.Table(table.TagHead))
	if magic, _ := v.U32(12); magic != 0x5F0F3CF5 {
		c.wrong(table.TagHead, "head-magic", "The magic number is 0x%08X and must be 0x5F0F3CF5.", magic)
	}
	if u := c.head.UnitsPerEm; u < 16 || u > 16384 {
		c.wrong(table.TagHead, "head-units", "The em has %d units; 16 to 16384 are allowed.", u)
	}
	if format, _ := v.I16(50); format != 0 && format != 1 {
		c.wrong(table.TagHead, "head-loca", "The format of the list of glyphs is %d; only 0 and 1 exist.", format)
	}
	if format, _ := v.I16(52); format != 0 {
		c.wrong(table.TagHead, "head-glyphs", "The format of the glyphs is %d; only 0 exists.", format)
	}
	if h := c.head; h.XMin > h.XMax || h.YMin > h.YMax {
		c.odd(table.TagHead, "head-box", "The box around all glyphs ends before it begins.")
	}
}

func (c *checker) checkMaxp() {
	c.maxp = read(c, table.TagMaxp, table.ParseMaxp)
	if c.maxp == nil {
		return
	}
	c.glyphs = int(c.maxp.Glyphs)
	b := c.font.Table(table.TagMaxp)
	version, _ := sfnt.View(b).U32(0)
	switch {
	case c.glyphs == 0:
		c.wrong(table.TagMaxp, "no-glyphs", "The font says it has no glyphs.")
	case version == 0x00010000 && len(b) < 32:
		c.wrong(table.TagMaxp, "table-short", "The table has %d bytes; version 1 has 32.", len(b))
	case version != 0x00005000 && version != 0x00010000:
		c.wrong(table.TagMaxp, "version", "The version is 0x%08X; there are 0.5 and 1.0.", version)
	case version == 0x00005000 && c.font.Has(table.TagGlyf):
		c.wrong(table.TagMaxp, "version", "TrueType outlines need version 1.0 of this table.")
	}
}

func (c *checker) checkHhea() {
	c.hhea = read(c, table.TagHhea, table.ParseHhea)
	if c.hhea == nil {
		return
	}
	long := int(c.hhea.LongMetrics)
	hmtx := c.font.Table(table.TagHmtx)
	switch {
	case long == 0:
		c.wrong(table.TagHhea, "metrics-count", "No glyph has its own advance width; at least one needs it.")
	case c.glyphs > 0 && long > c.glyphs:
		c.wrong(table.TagHhea, "metrics-count", "It announces %d advance widths for %d glyphs.", long, c.glyphs)
	case hmtx != nil && len(hmtx) < 4*long+2*max(0, c.glyphs-long):
		c.wrong(table.TagHmtx, "table-short", "The widths of %d glyphs need %d bytes; there are %d.", c.glyphs, 4*long+2*max(0, c.glyphs-long), len(hmtx))
	}
	if c.hhea.Ascent < 0 {
		c.odd(table.TagHhea, "ascent", "The ascent is negative (%d).", c.hhea.Ascent)
	}
	if c.hhea.Descent > 0 {
		c.odd(table.TagHhea, "descent", "The descent is positive (%d), above the baseline; browsers take it as zero.", c.hhea.Descent)
	}
	widest := uint16(0)
	for _, m := range table.ParseHmtx(hmtx, long, c.glyphs) {
		widest = max(widest, m.Advance)
	}
	if hmtx != nil && widest > c.hhea.AdvanceMax {
		c.odd(table.TagHhea, "advance-max", "The widest glyph is %d wide; the table says none is wider than %d.", widest, c.hhea.AdvanceMax)
	}
}

// os2Sizes are the lengths of OS/2 by version.
var os2Sizes = [...]int{78, 86, 96, 96, 96, 100}

func (c *checker) checkOS2() {
	o := read(c, table.TagOS2, table.ParseOS2)
	if o == nil {
		return
	}
	if int(o.Version) >= len(os2Sizes) {
		c.wrong(table.TagOS2, "version", "The version is %d; the last one is %d.", o.Version, len(os2Sizes)-1)
	} else if n := len(c.font.Table(table.TagOS2)); n < os2Sizes[o.Version] && (o.Version > 0 || n != 68) {
		c.wrong(table.TagOS2, "table-short", "Version %d has %d bytes; there are %d.", o.Version, os2Sizes[o.Version], n)
	}
	if o.WeightClass < 1 || o.WeightClass > 1000 {
		c.odd(table.TagOS2, "weight", "The weight is %d; 1 to 1000 are allowed.", o.WeightClass)
	}
	if o.WidthClass < 1 || o.WidthClass > 9 {
		c.odd(table.TagOS2, "width", "The width class is %d; 1 to 9 are allowed.", o.WidthClass)
	}
	if o.Type&^(table.EmbedLevels&^1|table.EmbedNoSubsetting|table.EmbedBitmapOnly) != 0 {
		c.odd(table.TagOS2, "permission-bits", "The embedding permission 0x%04X holds bits that mean nothing.", o.Type)
	}
	if o.Selection&table.SelectRegular != 0 && o.Selection&(table.SelectBold|table.SelectItalic) != 0 {
		c.odd(table.TagOS2, "selection", "The style is marked regular and bold or italic at once (fsSelection 0x%04X).", o.Selection)
	}
	if o.Version < 4 && o.Selection&(table.SelectUseTypo|table.SelectWWS|table.SelectOblique) != 0 {
		c.odd(table.TagOS2, "selection", "Version %d does not know the bits 7 to 9 of fsSelection (0x%04X).", o.Version, o.Selection)
	}
}

func (c *checker) checkPost() {
	p := read(c, table.TagPost, table.ParsePost)
	if p == nil {
		return
	}
	switch p.Version {
	case 0x00010000, 0x00025000, 0x00030000, 0x00040000:
	case 0x00020000:
		c.checkGlyphNames()
	default:
		c.wrong(table.TagPost, "version", "The version is 0x%08X, which does not exist.", p.Version)
	}
}

// checkGlyphNames follows the names of version 2.
func (c *checker) checkGlyphNames() {
	const header, standard = 34, 258
	v := sfnt.View(c.font.Table(table.TagPost))
	count, ok := v.U16(32)
	if !ok {
		c.wrong(table.TagPost, "table-short", "It ends before its list of glyph names.")
		return
	}
	if c.glyphs > 0 && int(count) != c.glyphs {
		c.wrong(table.TagPost, "names-count", "It names %d glyphs of %d.", count, c.glyphs)
	}
	highest := -1
	for i := range int(count) {
		n, ok := v.U16(header + 2*i)
		if !ok {
			c.wrong(table.TagPost, "table-short", "It ends inside its list of glyph names.")
			return
		}
		highest = max(highest, int(n)-standard)
	}
	at, names := header+2*int(count), 0
	for at < len(v) && names <= highest {
		n, _ := v.U8(at)
		at += 1 + int(n)
		names++
	}
	if names <= highest || at > len(v) {
		c.wrong(table.TagPost, "names-missing", "A glyph goes by name %d of the table's own; there are %d.", highest, names)
	}
}

func (c *checker) checkName() {
	n := read(c, table.TagName, table.ParseName)
	if n == nil {
		return
	}
	if n.Skipped > 0 {
		c.wrong(table.TagName, "names-outside", "The text of %d records lies outside the table.", n.Skipped)
	}
	if format, _ := sfnt.View(c.font.Table(table.TagName)).U16(0); format > 1 {
		c.wrong(table.TagName, "version", "The format is %d; there are 0 and 1.", format)
	}
	last, ordered := int64(-1), true
	var odd tally
	for i := range n.Records {
		r := &n.Records[i]
		key := int64(r.Platform)<<48 | int64(r.Encoding)<<32 | int64(r.Language)<<16 | int64(r.ID)
		ordered = ordered && key > last
		last = key
		if r.Platform == table.PlatformWindows && r.Encoding == 1 && r.Bytes()%2 != 0 {
			odd.add("Name %d is written in units of two bytes and has an odd number of bytes.", r.ID)
		}
	}
	if !ordered {
		c.odd(table.TagName, "names-order", "The records are out of order.")
	}
	c.report(Warning, table.TagName, "names-odd", &odd)
	for _, id := range []table.NameID{table.NameFamily, table.NameSubfamily, table.NameFull, table.NamePostScript} {
		if n.Best(id) == "" {
			c.odd(table.TagName, "name-missing", "There is no name %d, which systems list fonts by.", id)
		}
	}
}
