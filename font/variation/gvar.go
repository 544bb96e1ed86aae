package variation

import (
	"encoding/binary"
	"math"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

const (
	gvarHeader  = 20
	gvarLong    = 1
	maxTuples   = 4095
	sharedPoint = 0x8000
	tupleOwn    = 0x8000 // the peak stands in the header itself
	tupleRange  = 0x4000 // with a start and an end of its own
	tupleOwnPts = 0x2000
	tupleIndex  = 0x0FFF
)

// Gvar is the table of outline variations opened for reading.
type Gvar struct {
	Axes   int
	Shared []Region // peaks only, as tents around them
	glyphs [][]byte
	shared []byte
}

// ParseGvar reads the frame of the table. The error wraps sfnt.ErrDamaged.
func ParseGvar(b []byte) (*Gvar, error) {
	v := sfnt.View(b)
	if len(b) < gvarHeader {
		return nil, damaged("the variations of outlines have no header")
	}
	axes, _ := v.U16(4)
	count, _ := v.U16(6)
	at, _ := v.U32(8)
	glyphs, _ := v.U16(12)
	flags, _ := v.U16(14)
	data, _ := v.U32(16)
	if int(axes) > MaxAxes {
		return nil, damaged("there are too many axes")
	}
	g := &Gvar{Axes: int(axes)}
	var ok bool
	if g.shared, ok = v.Sub(int(at), 2*int(axes)*int(count)); !ok {
		return nil, damaged("shared places lie outside their table")
	}
	for i := range int(count) {
		g.Shared = append(g.Shared, peaks(sfnt.View(g.shared), 2*int(axes)*i, int(axes)))
	}
	rest, ok := v.From(int(data))
	if !ok {
		return nil, damaged("the variations of glyphs lie outside their table")
	}
	place := func(i int) (int, bool) {
		if flags&gvarLong != 0 {
			n, ok := v.U32(gvarHeader + 4*i)
			return int(n), ok
		}
		n, ok := v.U16(gvarHeader + 2*i)
		return 2 * int(n), ok
	}
	for i := range int(glyphs) {
		from, ok1 := place(i)
		to, ok2 := place(i + 1)
		one, ok3 := rest.Sub(from, to-from)
		if !ok1 || !ok2 || !ok3 {
			return nil, damaged("the variations of a glyph lie outside their table")
		}
		g.glyphs = append(g.glyphs, one)
	}
	return g, nil
}

// peaks reads a tuple of coordinates as tents from nothing to the peak's end.
func peaks(v sfnt.View, at, axes int) Region {
	r := make(Region, axes)
	for i := range r {
		n, _ := v.I16(at + 2*i)
		p := fromF2(n)
		r[i] = Tent{min(p, 0), p, max(p, 0)}
	}
	return r
}

// frame writes the table around the data of glyphs.
func (g *Gvar) frame(shared []byte, glyphs [][]byte) []byte {
	size := 0
	for _, b := range glyphs {
		size += len(b) + len(b)%2
	}
	long := size > 2*math.MaxUint16
	width := 2
	flags := 0
	if long {
		width, flags = 4, gvarLong
	}
	sharedAt := gvarHeader + width*(len(glyphs)+1)
	count := 0
	if g.Axes > 0 {
		count = len(shared) / (2 * g.Axes)
	}
	out := binary.BigEndian.AppendUint32(nil, 0x00010000)
	out = binary.BigEndian.AppendUint16(out, uint16(g.Axes))
	out = binary.BigEndian.AppendUint16(out, uint16(count))
	out = binary.BigEndian.AppendUint32(out, uint32(sharedAt))
	out = binary.BigEndian.AppendUint16(out, uint16(len(glyphs)))
	out = binary.BigEndian.AppendUint16(out, uint16(flags))
	out = binary.BigEndian.AppendUint32(out, uint32(sharedAt+len(shared)))
	at := 0
	put := func() {
		if long {
			out = binary.BigEndian.AppendUint32(out, uint32(at))
		} else {
			out = binary.BigEndian.AppendUint16(out, uint16(at/2))
		}
	}
	put()
	for _, b := range glyphs {
		at += len(b) + len(b)%2
		put()
	}
	out = append(out, shared...)
	for _, b := range glyphs {
		out = append(out, b...)
		if len(b)%2 != 0 {
			out = append(out, 0)
		}
	}
	return out
}

// TrimGvar writes the table for some of the glyphs, in their order. The error
// wraps sfnt.ErrDamaged.
func TrimGvar(b []byte, glyphs []table.GlyphID) ([]byte, error) {
	g, err := ParseGvar(b)
	if err != nil {
		return nil, err
	}
	kept := make([][]byte, len(glyphs))
	for i, id := range glyphs {
		if int(id) < len(g.glyphs) {
			kept[i] = g.glyphs[id]
		}
	}
	return g.frame(g.shared, kept), nil
}
