package subset

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/cff"
	"sparecrate/font/glyf"
	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// outlines are the drawings of a face, in whichever table.
type outlines interface {
	// close adds the glyphs that others are made of.
	close(*layout.Set) error
	// write puts the tables of the glyphs that stay into made, and what they
	// change in head.
	write(t *trimmer, made map[sfnt.Tag][]byte, head []byte) error
}

// openOutlines finds the outlines; a face of bitmaps has none.
func openOutlines(f *sfnt.Font, glyphs int) (outlines, error) {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, damaged("its header cannot be read", err)
	}
	if b := f.Table(table.TagGlyf); len(b) > 0 {
		list, err := glyf.Locate(b, f.Table(table.TagLoca), head.LongLoca)
		if err != nil {
			return nil, damaged("its outlines cannot be read", err)
		}
		if len(list) < glyphs {
			return nil, fmt.Errorf("%w: it holds outlines of %d glyphs only, of %d", sfnt.ErrDamaged, len(list), glyphs)
		}
		return trueType(list[:glyphs]), nil
	}
	for _, tag := range []sfnt.Tag{table.TagCFF, table.TagCFF2} {
		b := f.Table(tag)
		if len(b) == 0 {
			continue
		}
		c, err := cff.Parse(b)
		if err != nil {
			return nil, damaged("its outlines cannot be read", err)
		}
		if c.Glyphs() < glyphs {
			return nil, fmt.Errorf("%w: it holds outlines of %d glyphs only, of %d", sfnt.ErrDamaged, c.Glyphs(), glyphs)
		}
		return &postScript{c, tag}, nil
	}
	return noOutlines{}, nil
}

type noOutlines struct{}

func (noOutlines) close(*layout.Set) error { return nil }

func (noOutlines) write(_ *trimmer, made map[sfnt.Tag][]byte, _ []byte) error {
	made[table.TagGlyf], made[table.TagLoca] = nil, nil
	return nil
}

// trueType are the glyphs of glyf, in order.
type trueType [][]byte

func (o trueType) close(set *layout.Set) error {
	queue := set.Glyphs()
	for len(queue) > 0 {
		g := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		if int(g) >= len(o) {
			continue
		}
		if n, ok := glyf.ContourCount(o[g]); !ok || n >= 0 {
			continue
		}
		parts, err := glyf.ParseParts(o[g])
		if err != nil {
			return damaged(fmt.Sprintf("glyph %d cannot be read", g), err)
		}
		for _, p := range parts {
			if int(p.Glyph) >= len(o) {
				return fmt.Errorf("%w: glyph %d is made of glyph %d, and there are %d", sfnt.ErrDamaged, g, p.Glyph, len(o))
			}
			if !set.Has(p.Glyph) {
				set.Add(p.Glyph)
				queue = append(queue, p.Glyph)
			}
		}
	}
	return nil
}

func (o trueType) write(t *trimmer, made map[sfnt.Tag][]byte, head []byte) error {
	offsets := []int{0}
	var out []byte
	for _, g := range t.glyphs {
		b := o[g]
		if n, ok := glyf.ContourCount(b); ok && n < 0 {
			var err error
			if b, err = glyf.Renumber(b, func(g table.GlyphID) table.GlyphID { return t.to[g] }); err != nil {
				return damaged(fmt.Sprintf("glyph %d cannot be read", g), err)
			}
		}
		out = append(out, b...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
		offsets = append(offsets, len(out))
	}
	long := len(out) > 2*0xFFFF
	made[table.TagGlyf], made[table.TagLoca] = out, glyf.Index(offsets, long)
	if len(out) == 0 {
		made[table.TagGlyf] = []byte{0} // readers want the table even where all glyphs are blank
	}
	format := uint16(0)
	if long {
		format = 1
	}
	binary.BigEndian.PutUint16(head[50:], format)
	return nil
}

// postScript are the glyphs of CFF or CFF2.
type postScript struct {
	table *cff.Table
	tag   sfnt.Tag
}

func (o *postScript) close(set *layout.Set) error {
	for _, g := range set.Glyphs() {
		if int(g) >= o.table.Glyphs() {
			continue
		}
		parts, err := o.table.Parts(int(g))
		if err != nil {
			return damaged("its outlines cannot be read", err)
		}
		for _, p := range parts {
			set.Add(table.GlyphID(p))
		}
	}
	return nil
}

func (o *postScript) write(t *trimmer, made map[sfnt.Tag][]byte, _ []byte) error {
	glyphs := make([]int, len(t.glyphs))
	for i, g := range t.glyphs {
		glyphs[i] = int(g)
	}
	b, err := o.table.Subset(glyphs)
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	made[o.tag] = b
	return nil
}
