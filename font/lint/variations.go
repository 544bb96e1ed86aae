package lint

import (
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

var (
	tagGvar = sfnt.MakeTag("gvar")
	tagCOLR = sfnt.MakeTag("COLR")
	tagCPAL = sfnt.MakeTag("CPAL")
)

// checkVariations checks axes, instances and the tables that count them.
func (c *checker) checkVariations() {
	f := read(c, table.TagFvar, table.ParseFvar)
	if f == nil {
		if !c.font.Has(table.TagFvar) && (c.font.Has(tagGvar) || c.font.Has(table.TagAvar)) {
			c.odd(table.TagFvar, "table-missing", "There are variations without the table `fvar`, which names their axes; the font does not vary.")
		}
		return
	}
	c.axes = len(f.Axes)
	if c.axes == 0 {
		c.wrong(table.TagFvar, "no-axes", "It names no axis.")
	}
	for _, a := range f.Axes {
		if a.Min > a.Default || a.Default > a.Max {
			c.wrong(table.TagFvar, "axis-range", "The axis `%s` goes from %g to %g and starts at %g.", a.Tag, a.Min.Float(), a.Max.Float(), a.Default.Float())
		}
	}
	for i, in := range f.Instances {
		for k, at := range in.Coordinates {
			if a := f.Axes[k]; at < a.Min || at > a.Max {
				c.odd(table.TagFvar, "instance-outside", "Instance %d lies at %g on the axis `%s`, which goes from %g to %g.", i, at.Float(), a.Tag, a.Min.Float(), a.Max.Float())
			}
		}
	}
	if !c.font.Has(table.TagSTAT) {
		c.odd(table.TagSTAT, "table-missing", "A variable font must have the table `STAT`; systems may list its styles under wrong names.")
	}
	read(c, table.TagSTAT, table.ParseStat)
	if b := c.font.Table(table.TagAvar); b != nil {
		if bent, err := table.ParseAvar(b); err != nil {
			c.wrong(table.TagAvar, "table-short", "The %v.", err)
		} else if len(bent) != c.axes {
			c.wrong(table.TagAvar, "axis-count", "It has scales for %d axes; there are %d.", len(bent), c.axes)
		}
	}
	switch {
	case c.font.Has(tagGvar):
		c.checkGvar()
	case c.font.Has(table.TagGlyf):
		c.odd(tagGvar, "table-missing", "The outlines do not vary: there is no table `gvar`.")
	}
}

// checkGvar checks the counts and the places of each glyph's variations.
func (c *checker) checkGvar() {
	v := sfnt.View(c.font.Table(tagGvar))
	if len(v) < 20 {
		c.wrong(tagGvar, "table-short", "It ends inside its header.")
		return
	}
	axes, _ := v.U16(4)
	glyphs, _ := v.U16(12)
	flags, _ := v.U16(14)
	data, _ := v.U32(16)
	if int(axes) != c.axes {
		c.wrong(tagGvar, "axis-count", "It varies along %d axes; there are %d.", axes, c.axes)
	}
	if c.glyphs > 0 && int(glyphs) != c.glyphs {
		c.wrong(tagGvar, "glyph-count", "It varies %d glyphs; there are %d.", glyphs, c.glyphs)
	}
	last := 0
	for i := range int(glyphs) + 1 {
		var at int
		var ok bool
		if flags&1 != 0 {
			var n uint32
			n, ok = v.U32(20 + 4*i)
			at = int(n)
		} else {
			var n uint16
			n, ok = v.U16(20 + 2*i)
			at = 2 * int(n)
		}
		if !ok || at < last || at > len(v)-int(data) {
			c.wrong(tagGvar, "glyphs-outside", "The variations of glyph %d lie outside the table.", max(i-1, 0))
			return
		}
		last = at
	}
}

// checkColor checks layers and palettes of COLR version 0 and CPAL.
func (c *checker) checkColor() {
	v := sfnt.View(c.font.Table(tagCOLR))
	if v == nil {
		return
	}
	entries := -1
	if p := sfnt.View(c.font.Table(tagCPAL)); p == nil {
		c.odd(tagCPAL, "table-missing", "There are colored layers without the table `CPAL`, which holds their colors.")
	} else if n, ok := p.U16(2); ok {
		entries = int(n)
	}
	bases, _ := v.U16(2)
	basesAt, _ := v.U32(4)
	layersAt, _ := v.U32(8)
	layers, ok := v.U16(12)
	if !ok {
		c.wrong(tagCOLR, "table-short", "It ends inside its header.")
		return
	}
	baseList, ok1 := v.Sub(int(basesAt), 6*int(bases))
	layerList, ok2 := v.Sub(int(layersAt), 4*int(layers))
	if !ok1 && bases > 0 || !ok2 && layers > 0 {
		c.wrong(tagCOLR, "table-short", "Its lists of glyphs and layers run past its end.")
		return
	}
	var outside, colors tally
	for i := range int(bases) {
		first, _ := baseList.U16(6*i + 2)
		n, _ := baseList.U16(6*i + 4)
		if int(first)+int(n) > int(layers) {
			outside.add("Glyph record %d takes layers %d to %d; there are %d.", i, first, int(first)+int(n)-1, layers)
		}
	}
	for i := range int(layers) {
		g, _ := layerList.U16(4 * i)
		color, _ := layerList.U16(4*i + 2)
		if int(g) >= c.glyphs {
			outside.add("Layer %d is glyph %d; there are %d.", i, g, c.glyphs)
		}
		if entries >= 0 && int(color) >= entries && color != 0xFFFF {
			colors.add("Layer %d has color %d; a palette has %d.", i, color, entries)
		}
	}
	c.report(Error, tagCOLR, "layers-outside", &outside)
	c.report(Error, tagCOLR, "colors-outside", &colors)
}
