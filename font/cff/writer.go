package cff

import (
	"encoding/binary"
	"math"
	"strconv"

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
	private = append(appendInt(private, nominal), opDefaultWidth)
	private = append(appendInt(private, nominal), opNominalWidth)

	header := []byte{1, 0, 4, 4}
	names := encodeIndex([][]byte{[]byte(f.PostScript)})
	stringIndex := encodeIndex(strings)
	subrs := encodeIndex(nil)
	charstringIndex := encodeIndex(charstrings)

	// Offsets in the top dictionary take five bytes whatever their value, so its size is known before they are.
	top := func(charsetAt, charstringsAt, privateAt int) []byte {
		var d []byte
		for i, op := range []byte{opNotice, opFullName, opFamilyName, opWeight} {
			d = append(appendInt(d, standardStrings+i), op)
		}
		for _, n := range f.Bounds {
			d = appendInt(d, n)
		}
		d = append(d, opFontBBox)
		d = append(appendInt32(d, charsetAt), opCharset)
		d = append(appendInt32(d, charstringsAt), opCharStrings)
		d = appendInt32(d, len(private))
		return append(appendInt32(d, privateAt), opPrivate)
	}
	charsetAt := len(header) + len(names) + len(encodeIndex([][]byte{top(0, 0, 0)})) + len(stringIndex) + len(subrs)
	charstringsAt := charsetAt + len(charset)
	privateAt := charstringsAt + len(charstringIndex)

	var out []byte
	for _, piece := range [][]byte{header, names, encodeIndex([][]byte{top(charsetAt, charstringsAt, privateAt)}),
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
	return appendInt(out, n)
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

// appendInt writes an operand of a dictionary (TN 5176, section 4).
func appendInt(out []byte, n int) []byte {
	switch {
	case n >= -107 && n <= 107:
		return append(out, byte(n+139))
	case n >= 108 && n <= 1131:
		n -= 108
		return append(out, byte(n>>8+247), byte(n))
	case n >= -1131 && n <= -108:
		n = -n - 108
		return append(out, byte(n>>8+251), byte(n))
	case n >= math.MinInt16 && n <= math.MaxInt16:
		return append(out, 28, byte(n>>8), byte(n))
	}
	return appendInt32(out, n)
}

// appendNumber writes an operand of a dictionary, in nibbles where it is not whole
// (TN 5176, section 4, table 5).
func appendNumber(out []byte, x float64) []byte {
	if x == math.Trunc(x) && math.Abs(x) <= math.MaxInt32 {
		return appendInt(out, int(x))
	}
	const end, point, minus = 15, 10, 14
	nibbles := make([]byte, 0, 16)
	for _, c := range strconv.FormatFloat(x, 'f', -1, 32) {
		switch c {
		case '-':
			nibbles = append(nibbles, minus)
		case '.':
			nibbles = append(nibbles, point)
		default:
			nibbles = append(nibbles, byte(c-'0'))
		}
	}
	nibbles = append(nibbles, end)
	if len(nibbles)%2 == 1 {
		nibbles = append(nibbles, end)
	}
	out = append(out, 30)
	for i := 0; i < len(nibbles); i += 2 {
		out = append(out, nibbles[i]<<4|nibbles[i+1])
	}
	return out
}

func appendInt32(out []byte, n int) []byte {
	return append(out, 29, byte(n>>24), byte(n>>16), byte(n>>8), byte(n))
}

// encodeIndex writes an INDEX (TN 5176, section 5), with offsets as short as they can be.
func encodeIndex(items [][]byte) []byte {
	out := binary.BigEndian.AppendUint16(nil, uint16(len(items)))
	if len(items) == 0 {
		return out
	}
	total := 1
	for _, it := range items {
		total += len(it)
	}
	size := 1
	for total>>(8*size) > 0 {
		size++
	}
	out = append(out, byte(size))
	at := 1
	offset := func() {
		for i := size - 1; i >= 0; i-- {
			out = append(out, byte(at>>(8*i)))
		}
	}
	offset()
	for _, it := range items {
		at += len(it)
		offset()
	}
	for _, it := range items {
		out = append(out, it...)
	}
	return out
}
