package cff

import (
	"encoding/binary"
	"math"

	"sparecrate/font/cff/internal/dict"
	"sparecrate/font/curve"
)

// Glyph is one glyph to write.
type Glyph struct {
	Name     string // ".notdef" for the first
	Advance  int    // font units
	Contours []curve.Contour
}

// Font is a whole CFF table to write.
type Font struct {
	PostScript, Family, Full, Weight string
	Notice                           string
	Bounds                           [4]int // xMin, yMin, xMax, yMax, font units
	Glyphs                           []Glyph
}

// Encode writes the table. The same font gives the same bytes.
func (f *Font) Encode() []byte {
	strings := [][]byte{[]byte(f.Notice), []byte(f.Full), []byte(f.Family), []byte(f.Weight)}
	charset := []byte{0}
	var charstrings [][]byte
	nominal := f.nominalWidth()
	for i, g := range f.Glyphs {
		if i > 0 {
			charset = binary.BigEndian.AppendUint16(charset, uint16(standardStrings+len(strings)))
			strings = append(strings, []byte(g.Name))
		}
		charstrings = append(charstrings, charstring(g, nominal))
	}
	var private []byte
	private = append(dict.AppendInt(private, nominal), opDefaultWidth)
	private = append(dict.AppendInt(private, nominal), opNominalWidth)

	header := []byte{1, 0, 4, 4}
	names := dict.EncodeIndex([][]byte{[]byte(f.PostScript)})
	stringIndex := dict.EncodeIndex(strings)
	subrs := dict.EncodeIndex(nil)
	charstringIndex := dict.EncodeIndex(charstrings)

	// Offsets in the top dictionary take five bytes whatever their value, so its size is known before they are.
	top := func(charsetAt, charstringsAt, privateAt int) []byte {
		var d []byte
		for i, op := range []byte{opNotice, opFullName, opFamilyName, opWeight} {
			d = append(dict.AppendInt(d, standardStrings+i), op)
		}
		for _, n := range f.Bounds {
			d = dict.AppendInt(d, n)
		}
		d = append(d, opFontBBox)
		d = append(dict.AppendInt32(d, charsetAt), opCharset)
		d = append(dict.AppendInt32(d, charstringsAt), opCharStrings)
		d = dict.AppendInt32(d, len(private))
		return append(dict.AppendInt32(d, privateAt), opPrivate)
	}
	charsetAt := len(header) + len(names) + len(dict.EncodeIndex([][]byte{top(0, 0, 0)})) + len(stringIndex) + len(subrs)
	charstringsAt := charsetAt + len(charset)
	privateAt := charstringsAt + len(charstringIndex)

	var out []byte
	for _, piece := range [][]byte{header, names, dict.EncodeIndex([][]byte{top(charsetAt, charstringsAt, privateAt)}),
		stringIndex, subrs, charset, charstringIndex, private} {
		out = append(out, piece...)
	}
	return out
}

// nominalWidth is the commonest advance, the lowest of several: glyphs of that
// width leave it out.
func (f *Font) nominalWidth() int {
	count := map[int]int{}
	best := 0
	for _, g := range f.Glyphs {
		count[g.Advance]++
		if n := count[g.Advance]; n > count[best] || n == count[best] && g.Advance < best {
			best = g.Advance
		}
	}
	return best
}

func charstring(g Glyph, nominal int) []byte {
	var out []byte
	if g.Advance != nominal {
		out = appendCharInt(out, g.Advance-nominal)
	}
	var x, y int
	to := func(p curve.Point) {
		nx, ny := int(math.Round(p.X)), int(math.Round(p.Y))
		out = appendCharInt(appendCharInt(out, nx-x), ny-y)
		x, y = nx, ny
	}
	for _, c := range g.Contours {
		to(c.From)
		out = append(out, csRMoveTo)
		last := c.From
		for _, s := range c.Segments {
			from := last
			last = s.To
			if s.Line {
				to(s.To)
				out = append(out, csRLineTo)
				continue
			}
			s = s.Cubic(from)
			to(s.C1)
			to(s.C2)
			to(s.To)
			out = append(out, csRRCurveTo)
		}
	}
	return append(out, csEndChar)
}

// appendCharInt writes an operand of a charstring (TN 5177, section 3.2).
func appendCharInt(out []byte, n int) []byte {
	if n < -1131 || n > 1131 {
		return append(out, 28, byte(n>>8), byte(n))
	}
	return dict.AppendInt(out, n)
}

// appendCharNumber writes an operand of a charstring, as 16.16 where it is not
// whole.
func appendCharNumber(out []byte, x float64) []byte {
	if x == math.Trunc(x) {
		return appendCharInt(out, int(x))
	}
	const parts = 1 << 16
	return binary.BigEndian.AppendUint32(append(out, 255), uint32(int32(math.Round(x*parts))))
}
