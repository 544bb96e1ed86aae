package glyf

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Component places another glyph in a composite one: each point (x, y) of it
// goes to (XX*x + YX*y + DX, XY*x + YY*y + DY).
type Component struct {
	Glyph          table.GlyphID
	XX, XY, YX, YY float64
	DX, DY         float64 // font units
	// Match says that DX and DY are numbers of points instead, one of the glyph
	// as built so far and one of the part, which come to lie on each other.
	Match bool
	// Scaled says that the shift goes through the matrix too.
	Scaled bool
}

// ParseParts reads the parts of a composite glyph. The error wraps ErrGlyph.
func ParseParts(glyph []byte) ([]Component, error) {
	v := sfnt.View(glyph)
	var parts []Component
	at := glyphHeader
	for {
		size, ok := partSize(v, at)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside its parts", ErrGlyph)
		}
		flags, _ := v.U16(at)
		number, _ := v.U16(at + 2)
		c := Component{Glyph: table.GlyphID(number), XX: 1, YY: 1, Match: flags&argsAreXY == 0, Scaled: flags&scaledOffset != 0}
		next := at + 6
		if flags&argsAreWords != 0 {
			x, _ := v.I16(at + 4)
			y, _ := v.I16(at + 6)
			c.DX, c.DY, next = float64(x), float64(y), at+8
			if c.Match {
				c.DX, c.DY = float64(uint16(x)), float64(uint16(y))
			}
		} else {
			x, _ := v.U8(at + 4)
			y, _ := v.U8(at + 5)
			c.DX, c.DY = float64(int8(x)), float64(int8(y))
			if c.Match {
				c.DX, c.DY = float64(x), float64(y)
			}
		}
		scale := v.Cursor() // the part is there
		f2dot14 := func(i int) float64 { return float64(scale.I16(next+2*i)) / 16384 }
		switch {
		case flags&weHaveScale != 0:
			c.XX = f2dot14(0)
			c.YY = c.XX
		case flags&weHaveXYScale != 0:
			c.XX, c.YY = f2dot14(0), f2dot14(1)
		case flags&weHaveTwoByTwo != 0:
			c.XX, c.XY, c.YX, c.YY = f2dot14(0), f2dot14(1), f2dot14(2), f2dot14(3)
		}
		parts = append(parts, c)
		at += size
		if flags&moreComponents == 0 {
			return parts, nil
		}
	}
}

// partSize is the length of the part at an offset, false where it does not fit.
func partSize(v sfnt.View, at int) (int, bool) {
	flags, ok := v.U16(at)
	size := 6 // flags, glyph and two bytes of arguments
	if flags&argsAreWords != 0 {
		size += 2
	}
	switch {
	case flags&weHaveScale != 0:
		size += 2
	case flags&weHaveXYScale != 0:
		size += 4
	case flags&weHaveTwoByTwo != 0:
		size += 8
	}
	_, fits := v.Sub(at, size)
	return size, ok && fits
}

// Components measures the parts of a composite glyph from offset at on: the
// offset behind them, and whether instructions follow. The error wraps ErrGlyph.
func Components(v sfnt.View, at int) (end int, instructions bool, err error) {
	for {
		size, ok := partSize(v, at)
		if !ok {
			return 0, false, fmt.Errorf("%w: it ends inside its parts", ErrGlyph)
		}
		flags, _ := v.U16(at)
		at += size
		instructions = instructions || flags&weHaveInstructions != 0
		if flags&moreComponents == 0 {
			return at, instructions, nil
		}
	}
}

// PointCount returns how many points a glyph's variations speak of, without the
// phantom points: those of its outline, or one a part. The error wraps ErrGlyph.
func PointCount(glyph []byte) (int, error) {
	contours, ok := ContourCount(glyph)
	switch {
	case !ok || contours == 0:
		return 0, nil
	case contours < 0:
		parts, err := ParseParts(glyph)
		return len(parts), err
	}
	last, ok := sfnt.View(glyph).U16(glyphHeader + 2*(contours-1))
	if !ok {
		return 0, fmt.Errorf("%w: it ends inside its contours", ErrGlyph)
	}
	return int(last) + 1, nil
}

// Renumber writes a composite glyph again with its parts by new numbers; all
// else stays as it is. The error wraps ErrGlyph.
func Renumber(glyph []byte, to func(table.GlyphID) table.GlyphID) ([]byte, error) {
	out := append([]byte(nil), glyph...)
	v := sfnt.View(out)
	at := glyphHeader
	for {
		size, ok := partSize(v, at)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside its parts", ErrGlyph)
		}
		flags, _ := v.U16(at)
		number, _ := v.U16(at + 2)
		binary.BigEndian.PutUint16(out[at+2:], uint16(to(table.GlyphID(number))))
		if at += size; flags&moreComponents == 0 {
			return out, nil
		}
	}
}
