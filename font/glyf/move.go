package glyf

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/sfnt"
)

// MoveParts writes a composite glyph again with its parts shifted by dx and dy,
// font units, one a part, rounded; parts joined at points have no shift of their
// own. The error wraps ErrGlyph.
func MoveParts(glyph []byte, dx, dy []float64) ([]byte, error) {
	v := sfnt.View(glyph)
	out := append([]byte(nil), glyph[:min(len(glyph), glyphHeader)]...)
	at := glyphHeader
	for i := 0; ; i++ {
		size, ok := partSize(v, at)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside its parts", ErrGlyph)
		}
		flags, _ := v.U16(at)
		part := v[at : at+size]
		if flags&argsAreXY == 0 || i >= len(dx) {
			out = append(out, part...)
		} else {
			x, y, rest := 0, 0, part[6:]
			if flags&argsAreWords != 0 {
				a, _ := part.I16(4)
				b, _ := part.I16(6)
				x, y, rest = int(a), int(b), part[8:]
			} else {
				x, y = int(int8(part[4])), int(int8(part[5]))
			}
			x, y = int(math.Round(float64(x)+dx[i])), int(math.Round(float64(y)+dy[i]))
			if x != int(int8(x)) || y != int(int8(y)) {
				flags |= argsAreWords
			}
			out = binary.BigEndian.AppendUint16(out, flags)
			out = append(out, part[2:4]...)
			if flags&argsAreWords != 0 {
				out = binary.BigEndian.AppendUint16(out, uint16(x))
				out = binary.BigEndian.AppendUint16(out, uint16(y))
			} else {
				out = append(out, byte(x), byte(y))
			}
			out = append(out, rest...)
		}
		if at += size; flags&moreComponents == 0 {
			return append(out, v[at:]...), nil
		}
	}
}

// SetBounds overwrites the bounding box in a glyph's header.
func SetBounds(glyph []byte, box Bounds) {
	for i, n := range []int16{box.XMin, box.YMin, box.XMax, box.YMax} {
		binary.BigEndian.PutUint16(glyph[2+2*i:], uint16(n))
	}
}
