package table

import "sparecrate/font/sfnt"

const (
	postSize = 32
	// standardGlyphs is the count of glyph names every reader knows (Apple's standard order).
	standardGlyphs = 258
)

// Post is the table for printers (`post`).
type Post struct {
	Version            uint32
	ItalicAngle        Fixed // degrees counter-clockwise from the vertical: negative leans right
	UnderlinePosition  int16
	UnderlineThickness int16
	Monospaced         bool
}

// ParsePost reads the table's header. The error wraps ErrShort.
func ParsePost(b []byte) (*Post, error) {
	if len(b) < postSize {
		return nil, short("post", len(b), postSize)
	}
	v := sfnt.View(b)
	version, _ := v.U32(0)
	angle, _ := v.U32(4)
	position, _ := v.I16(8)
	thickness, _ := v.I16(10)
	fixed, _ := v.U32(12)
	return &Post{version, Fixed(angle), position, thickness, fixed != 0}, nil
}

// Encode writes version 2 with a name a glyph, or version 3 where names is nil
// (names of glyphs in CFF stand in the CFF table).
func (p *Post) Encode(names []string) []byte {
	var w writer
	if names == nil {
		w.u32(0x00030000)
	} else {
		w.u32(0x00020000)
	}
	w.u32(uint32(p.ItalicAngle))
	w.u16(int(p.UnderlinePosition))
	w.u16(int(p.UnderlineThickness))
	if p.Monospaced {
		w.u32(1)
	} else {
		w.u32(0)
	}
	for range 4 {
		w.u32(0)
	}
	if names == nil {
		return w
	}
	w.u16(len(names))
	var pool writer
	for i, name := range names {
		if name == ".notdef" {
			w.u16(0)
			continue
		}
		w.u16(standardGlyphs + i)
	}
	// Index i past the standard names is the i-th string, so .notdef keeps its place in the pool too.
	for _, name := range names {
		pool.u8(uint8(min(len(name), 63)))
		pool = append(pool, name[:min(len(name), 63)]...)
	}
	return append(w, pool...)
}
