package lint

import (
	"sparecrate/font/cff"
	"sparecrate/font/glyf"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

var pictures = []sfnt.Tag{sfnt.MakeTag("EBDT"), sfnt.MakeTag("CBDT"), sfnt.MakeTag("sbix"), sfnt.MakeTag("bdat"), sfnt.MakeTag("SVG ")}

// checkOutlines checks that there are drawings, of one kind, and that every one
// can be read.
func (c *checker) checkOutlines() {
	trueType, postScript := c.font.Has(table.TagGlyf), c.font.Has(table.TagCFF) || c.font.Has(table.TagCFF2)
	switch {
	case trueType && postScript:
		c.odd(0, "outlines-twice", "There are TrueType and PostScript outlines; readers differ in which they draw.")
	case !trueType && !postScript:
		for _, tag := range pictures {
			if c.font.Has(tag) {
				return
			}
		}
		c.wrong(0, "outlines-missing", "There are no drawings of letters: none of the tables `glyf`, `CFF ` and `CFF2`.")
		return
	}
	if flavor := sfnt.Tag(c.font.Flavor); !postScript && flavor == sfnt.VersionCFF || !trueType && flavor != sfnt.VersionCFF {
		c.wrong(0, "outlines-kind", "The file opens with %q, as fonts with the other kind of outlines do.", flavor)
	}
	if c.drawn[drawing(c.font)] {
		return // an earlier face of the collection has the same outlines
	}
	c.drawn[drawing(c.font)] = true
	if trueType && !postScript {
		c.checkGlyf()
	} else if postScript {
		c.checkPostScript()
	}
}

// drawing tells outlines apart by where their bytes begin, which faces of a
// collection share.
func drawing(f *sfnt.Font) [2]*byte {
	var d [2]*byte
	for i, tag := range []sfnt.Tag{table.TagLoca, table.TagCFF} {
		if b := f.Table(tag); len(b) > 0 {
			d[i] = &b[0]
		}
	}
	return d
}

func (c *checker) checkGlyf() {
	loca := c.font.Table(table.TagLoca)
	if loca == nil {
		c.wrong(table.TagLoca, "table-missing", "The table `loca` is missing, without which no glyph is found.")
		return
	}
	if c.head == nil {
		return
	}
	size := 2
	if c.head.LongLoca {
		size = 4
	}
	if have := len(loca)/size - 1; c.glyphs > 0 && have < c.glyphs {
		c.wrong(table.TagLoca, "table-short", "It has places for %d glyphs; there are %d.", max(have, 0), c.glyphs)
		return
	} else if c.glyphs > 0 && have > c.glyphs+1 {
		c.odd(table.TagLoca, "table-long", "It has places for %d glyphs; there are %d.", have, c.glyphs)
	}
	glyphs, err := glyf.Locate(c.font.Table(table.TagGlyf), loca, c.head.LongLoca)
	if err != nil {
		c.wrong(table.TagLoca, "glyphs-outside", "The places of glyphs are wrong: %v.", err)
		return
	}
	var broken, outside, boxes, small tally
	for i, g := range glyphs[:min(len(glyphs), max(c.glyphs, 0))] {
		if len(g) == 0 {
			continue
		}
		count, ok := glyf.ContourCount(g)
		if !ok {
			broken.add("Glyph %d ends inside its header.", i)
			continue
		}
		if count < 0 {
			parts, err := glyf.ParseParts(g)
			if err != nil {
				broken.add("Glyph %d: %v.", i, err)
			}
			for _, p := range parts {
				if int(p.Glyph) >= c.glyphs {
					outside.add("Glyph %d is made of glyph %d; there are %d.", i, p.Glyph, c.glyphs)
				}
			}
			continue
		}
		s, err := glyf.ParseSimple(g)
		if err != nil {
			broken.add("Glyph %d: %v.", i, err)
			continue
		}
		if p, ok := outsideBox(s); ok {
			boxes.add("Glyph %d says it lies within %v; its point %d, %d does not. What lies outside may be cut off.", i, s.Bounds, p.X, p.Y)
		}
		if c.maxp != nil && c.maxp.TrueType && (len(s.Points) > int(c.maxp.Points) || len(s.Ends) > int(c.maxp.Contours)) {
			small.add("Glyph %d has %d points in %d contours; `maxp` announces %d in %d at most.", i, len(s.Points), len(s.Ends), c.maxp.Points, c.maxp.Contours)
		}
	}
	c.report(Error, table.TagGlyf, "glyph-broken", &broken)
	c.report(Error, table.TagGlyf, "glyph-parts", &outside)
	c.report(Warning, table.TagGlyf, "glyph-box", &boxes)
	c.report(Warning, table.TagMaxp, "glyph-points", &small)
	if broken.count+outside.count == 0 {
		c.checkContours(table.TagGlyf)
	}
}

// outsideBox returns a point on the curve that lies outside the box the glyph
// states. Control points may: some makers measure the curve, some its points.
func outsideBox(s *glyf.Simple) (glyf.Point, bool) {
	b := s.Bounds
	for _, p := range s.Points {
		if p.On && (p.X < int(b.XMin) || p.X > int(b.XMax) || p.Y < int(b.YMin) || p.Y > int(b.YMax)) {
			return p, true
		}
	}
	return glyf.Point{}, false
}

// checkContours puts every glyph together, parts and all.
func (c *checker) checkContours(tag sfnt.Tag) {
	r, err := outline.Open(c.font)
	if err != nil {
		c.wrong(tag, "outlines-broken", "The outlines cannot be read: %v.", err)
		return
	}
	var broken tally
	for i := range r.Count() {
		if _, err := r.Contours(i); err != nil {
			broken.add("An outline cannot be followed: %v.", err)
		}
	}
	c.report(Error, tag, "glyph-broken", &broken)
}

func (c *checker) checkPostScript() {
	tag := table.TagCFF
	if !c.font.Has(tag) {
		tag = table.TagCFF2
	}
	t, err := cff.Parse(c.font.Table(tag))
	if err != nil {
		c.wrong(tag, "outlines-broken", "The outlines cannot be read: %v.", err)
		return
	}
	if c.glyphs > 0 && t.Glyphs() != c.glyphs {
		c.wrong(tag, "glyph-count", "It holds %d glyphs; `maxp` says %d.", t.Glyphs(), c.glyphs)
	}
	if tag == table.TagCFF && t.Name == "" {
		c.odd(tag, "name-missing", "It does not name its font.")
	}
	c.checkContours(tag)
}
