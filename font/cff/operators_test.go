package cff_test

import (
	"encoding/binary"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/sfnt"
)

// num writes an operand from -107 to 107.
func num(n int) byte { return byte(n + 139) }

// code writes a charstring: numbers as operands, bytes as they are.
func code(parts ...any) []byte {
	var b []byte
	for _, p := range parts {
		switch p := p.(type) {
		case int:
			b = append(b, num(p))
		case byte:
			b = append(b, p)
		case []byte:
			b = append(b, p...)
		}
	}
	return b
}

func list(wide bool, items ...[]byte) []byte {
	var b []byte
	if wide {
		b = binary.BigEndian.AppendUint32(b, uint32(len(items)))
	} else {
		b = binary.BigEndian.AppendUint16(b, uint16(len(items)))
	}
	if len(items) == 0 {
		return b
	}
	b = append(b, 2)
	at := 1
	b = binary.BigEndian.AppendUint16(b, uint16(at))
	for _, it := range items {
		at += len(it)
		b = binary.BigEndian.AppendUint16(b, uint16(at))
	}
	for _, it := range items {
		b = append(b, it...)
	}
	return b
}

func offset(n int) []byte { return append([]byte{29}, be32(n)...) }

func be32(n int) []byte { return binary.BigEndian.AppendUint32(nil, uint32(n)) }

// assembled writes a table of version 1 by hand: glyph 0 empty, then the
// charstrings given, named by the standard names from "A" (34) on; with local
// and global subroutines.
func assembled(local, global [][]byte, glyphs ...[]byte) []byte {
	header := []byte{1, 0, 4, 2}
	names, strings := list(false, []byte("Example")), list(false)
	globals := list(false, global...)
	charset := []byte{0}
	for i := range glyphs {
		charset = binary.BigEndian.AppendUint16(charset, uint16(34+i))
	}
	charstrings := list(false, append([][]byte{{14}}, glyphs...)...)
	private := []byte{num(50), 20, num(100), 21} // default and nominal width
	private = append(private, num(6), 19)        // subroutines right behind
	top := func(charsetAt, charstringsAt, privateAt int) []byte {
		d := append(offset(charsetAt), 15)
		d = append(append(d, offset(charstringsAt)...), 17)
		d = append(d, num(len(private)))
		return append(append(d, offset(privateAt)...), 18)
	}
	at := len(header) + len(names) + len(list(false, top(0, 0, 0))) + len(strings) + len(globals)
	b := append(header, names...)
	b = append(b, list(false, top(at, at+len(charset), at+len(charset)+len(charstrings)))...)
	b = append(append(append(append(append(b, strings...), globals...), charset...), charstrings...), private...)
	return append(b, list(false, local...)...)
}

// drawn writes contours as steps: M, L and C with absolute points.
func drawn(contours []curve.Contour) string {
	var out []string
	for _, c := range contours {
		out = append(out, fmt.Sprintf("M%g,%g", c.From.X, c.From.Y))
		for _, s := range c.Segments {
			if s.Line {
				out = append(out, fmt.Sprintf("L%g,%g", s.To.X, s.To.Y))
			} else {
				out = append(out, fmt.Sprintf("C%g,%g %g,%g %g,%g", s.C1.X, s.C1.Y, s.C2.X, s.C2.Y, s.To.X, s.To.Y))
			}
		}
	}
	return strings.Join(out, " ")
}

// TestOperators follows each operator of Type 2 charstrings (Technical Note
// 5177, section 4), with the width in front where there may be one.
func TestOperators(t *testing.T) {
	esc := func(op byte) []byte { return []byte{12, op} }
	for _, test := range []struct {
		name    string
		code    []byte
		advance float64
		want    string
	}{
		{"nothing, of the default width", code(byte(14)), 50, ""},
		{"nothing, of its own width", code(7, byte(14)), 107, ""},
		{"rmoveto with a width, rlineto", code(7, 1, 2, byte(21), 3, 4, 5, 6, byte(5), byte(14)), 107, "M1,2 L4,6 L9,12"},
		{"hmoveto, hlineto", code(3, byte(22), 1, 2, 3, byte(6), byte(14)), 50, "M3,0 L4,0 L4,2 L7,2"},
		{"vmoveto with a width, vlineto", code(9, 3, byte(4), 1, 2, 3, byte(7), byte(14)), 109, "M0,3 L0,4 L2,4 L2,7"},
		{"rrcurveto", code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, byte(8), byte(14)), 50, "M0,0 C1,2 4,6 9,12"},
		{"rcurveline", code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, 8, byte(24), byte(14)), 50, "M0,0 C1,2 4,6 9,12 L16,20"},
		{"rlinecurve", code(0, 0, byte(21), 7, 8, 1, 2, 3, 4, 5, 6, byte(25), byte(14)), 50, "M0,0 L7,8 C8,10 11,14 16,20"},
		{"vvcurveto", code(0, 0, byte(21), 9, 1, 2, 3, 4, byte(26), byte(14)), 50, "M0,0 C9,1 11,4 11,8"},
		{"hhcurveto", code(0, 0, byte(21), 9, 1, 2, 3, 4, byte(27), byte(14)), 50, "M0,0 C1,9 3,12 7,12"},
		{"vhcurveto", code(0, 0, byte(21), 1, 2, 3, 4, 5, byte(30), byte(14)), 50, "M0,0 C0,1 2,4 6,9"},
		{"hvcurveto twice", code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, 8, byte(31), byte(14)), 50, "M0,0 C1,0 3,3 3,7 C3,12 9,19 17,19"},
		{"flex", code(0, 0, byte(21), 1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 50, esc(35), byte(14)), 50, "M0,0 C1,1 2,2 3,3 C5,5 7,7 9,9"},
		{"hflex", code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, esc(34), byte(14)), 50, "M0,0 C1,0 3,3 7,3 C12,3 18,0 25,0"},
		{"hflex1", code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, 8, 9, esc(36), byte(14)), 50, "M0,0 C1,2 4,6 9,6 C15,6 22,14 31,0"},
		{"flex1, wide", code(0, 0, byte(21), 9, 1, 9, 1, 9, 1, 9, 1, 9, 1, 9, esc(37), byte(14)), 50, "M0,0 C9,1 18,2 27,3 C36,4 45,5 54,0"},
		{"flex1, high", code(0, 0, byte(21), 1, 9, 1, 9, 1, 9, 1, 9, 1, 9, 9, esc(37), byte(14)), 50, "M0,0 C1,9 2,18 3,27 C4,36 5,45 0,54"},
		{"stems and a mask of two bytes", code(7, 1, 2, 3, 4, 5, 6, 7, 8, byte(18), 1, 2, 3, 4, 5, 6, 7, 8, 9, 9, byte(19), byte(0xFF), byte(0x80), 1, 1, byte(21), 2, byte(6), byte(14)), 107, "M1,1 L3,1"},
		{"a counter mask after stems", code(1, 2, byte(1), 3, 4, byte(3), byte(20), byte(0xC0), 1, 1, byte(21), 2, byte(6), byte(14)), 50, "M1,1 L3,1"},
		{"two contours", code(1, 1, byte(21), 2, byte(6), 1, 1, byte(21), 2, byte(7), byte(14)), 50, "M1,1 L3,1 M4,2 L4,4"},
		{"a move that draws nothing", code(1, 1, byte(21), 1, 1, byte(21), 2, byte(7), byte(14)), 50, "M2,2 L2,4"},
		{"a local subroutine", code(0, 0, byte(21), -107, byte(10), byte(14)), 50, "M0,0 L5,0"},
		{"a global subroutine that calls a local one and ends", code(0, 0, byte(21), -107, byte(29)), 50, "M0,0 L0,7 L5,7"},
		{"numbers of every length", code(0, 0, byte(21), []byte{28, 0x01, 0x00}, []byte{247, 0}, []byte{251, 0}, []byte{255, 0, 1, 0x80, 0}, byte(5), byte(14)), 50, "M0,0 L256,108 L148,109.5"},
		{"add, sub, mul, div", code(0, 0, byte(21), 4, 5, esc(10), 9, 2, esc(11), 3, 4, esc(24), 9, 2, esc(12), byte(5), byte(14)), 50, "M0,0 L9,7 L21,11.5"},
		{"neg, abs, sqrt, drop", code(0, 0, byte(21), 4, esc(14), esc(9), 9, esc(26), 1, esc(18), byte(5), byte(14)), 50, "M0,0 L4,3"},
		{"exch, dup, index, roll", code(0, 0, byte(21), 1, 2, esc(28), esc(27), 1, esc(29), 4, 1, esc(30), byte(5), byte(14)), 50, "M0,0 L1,2 L2,3"},
		{"put, get, ifelse, eq, not, and, or", code(0, 0, byte(21), 8, 3, esc(20), 3, esc(21), 1, 2, 3, 4, esc(22), byte(5), 5, 5, esc(15), 0, esc(5), 1, 0, esc(3), 1, esc(4), byte(5), byte(14)), 50, "M0,0 L8,1 L9,2"},
	} {
		t.Run(test.name, func(t *testing.T) {
			local := [][]byte{code(5, byte(6), byte(11))}
			global := [][]byte{code(7, byte(7), -107, byte(10), byte(14))}
			table, err := cff.Parse(assembled(local, global, test.code))
			require.NoError(t, err)
			contours, advance, err := table.Glyph(1)
			require.NoError(t, err)
			assert.Equal(t, test.want, drawn(contours))
			assert.InDelta(t, test.advance, advance, 0)
			assert.Equal(t, "Example", table.Name)
		})
	}
}

// TestAccentedLetters follows the old form of endchar: a letter and an accent by
// their codes, here A (65) and B (66).
func TestAccentedLetters(t *testing.T) {
	letter, accent := code(1, 1, byte(21), 2, byte(6), byte(14)), code(3, 3, byte(21), 4, byte(7), byte(14))
	table, err := cff.Parse(assembled(nil, nil, letter, accent, code(10, 20, 65, 66, byte(14)), code(1, 1, 67, 65, byte(14)), code(1, 1, 65, 100, byte(14))))
	require.NoError(t, err)
	contours, _, err := table.Glyph(3)
	require.NoError(t, err)
	assert.Equal(t, "M1,1 L3,1 M13,23 L13,27", drawn(contours))
	for name, glyph := range map[string]int{"made of a made one": 4, "made of one that is not there": 5, "not there": 99, "before the first": -1} {
		_, _, err := table.Glyph(glyph)
		require.ErrorIs(t, err, sfnt.ErrDamaged, name)
	}
	assert.Empty(t, table.GlyphName(1), "a standard name")
	assert.False(t, table.CID)
	assert.False(t, table.Hinted())
}

func TestBrokenCharstrings(t *testing.T) {
	for name, c := range map[string][]byte{
		"an operator without operands":  code(byte(10)),
		"a subroutine that is not":      code(99, byte(10)),
		"a subroutine of itself":        code(-106, byte(10)),
		"a number cut off":              {28, 1},
		"an unknown operator":           code(byte(2)),
		"a roll of more than there is":  code(9, 1, []byte{12, 30}),
		"dividing by nothing":           code(1, 0, []byte{12, 12}),
		"a place that is not":           code(99, []byte{12, 21}),
		"an index below the bottom":     code(5, []byte{12, 29}),
		"a blend without variations":    code(5, 9, byte(16)),
		"more operands than may be had": append(make([]byte, 0), repeated(num(1), 600)...),
	} {
		t.Run(name, func(t *testing.T) {
			table, err := cff.Parse(assembled([][]byte{{11}, code(-106, byte(10))}, nil, c))
			require.NoError(t, err)
			_, _, err = table.Glyph(1)
			require.Error(t, err)
		})
	}
	for n, whole := 0, assembled(nil, nil, code(byte(14))); n < len(whole)-3; n++ {
		if table, err := cff.Parse(whole[:n]); err == nil {
			_, _, _ = table.Glyph(1) // whatever is left of it, nothing breaks off
		}
	}
}

func repeated(b byte, n int) []byte {
	out := make([]byte, n)
	for i := range out {
		out[i] = b
	}
	return out
}

// TestVersion2 reads a table of the variable form: the default design stays
// where `blend` gives differences.
func TestVersion2(t *testing.T) {
	glyph := code(10, 20, 1, 2, 2, byte(16), byte(21), 30, 5, 1, byte(16), byte(6)) // two values with a difference each, then one
	table, err := cff.Parse(varying(glyph, nil))
	require.NoError(t, err)
	assert.Equal(t, 2, table.Version)
	assert.Equal(t, 2, table.Glyphs())
	contours, _, err := table.Glyph(1)
	require.NoError(t, err)
	assert.Equal(t, "M10,20 L40,20", drawn(contours))
}
