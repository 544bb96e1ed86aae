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

// TrimPost writes the table for some of the glyphs, in their order. Names of
// version 2 go along; of other versions than 2 the header is kept, as version 3
// where names went by the number of glyphs.
func TrimPost(b []byte, glyphs []GlyphID) []byte {
	v := sfnt.View(b)
	header, ok := v.Sub(0, postSize)
	version, _ := v.U32(0)
	if !ok {
		return b
	}
	w := writer(append([]byte(nil), header...))
	if version == 0x00030000 {
		return w
	}
	count, ok := v.U16(postSize)
	if version != 0x00020000 || !ok {
		w.setU16(0, 3)
		w.setU16(2, 0)
		return w
	}
	var names [][]byte
	for at := postSize + 2 + 2*int(count); ; {
		n, ok := v.U8(at)
		name, ok2 := v.Sub(at+1, int(n))
		if !ok || !ok2 {
			break
		}
		names = append(names, name)
		at += 1 + int(n)
	}
	w.u16(len(glyphs))
	var pool writer
	next := standardGlyphs
	for _, g := range glyphs {
		index, _ := v.U16(postSize + 2 + 2*int(g))
		switch i := int(index) - standardGlyphs; {
		case int(g) >= int(count) || i >= len(names):
			w.u16(0)
		case i < 0:
			w.u16(int(index))
		default:
			w.u16(next)
			next++
			pool.u8(uint8(len(names[i])))
			pool = append(pool, names[i]...)
		}
	}
	return append(w, pool...)
}
