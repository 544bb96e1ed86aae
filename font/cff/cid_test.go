package cff_test

import (
	"encoding/binary"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/cff"
)

// keyed writes a table whose glyphs have numbers for names and two dictionaries
// (Technical Note 5176, section 18): each with widths of its own, a scale written
// as a real number, and one subroutine. selector says which glyph has which.
func keyed(selector []byte, glyphs ...[]byte) []byte {
	header := []byte{1, 0, 4, 2}
	names, strings, globals := list(false, []byte("Example")), list(false, []byte("Registry"), []byte("Order")), list(false)
	charset := []byte{0}
	for i := range glyphs {
		charset = binary.BigEndian.AppendUint16(charset, uint16(1000+i)) // CIDs
	}
	charstrings := list(false, append([][]byte{{14}}, glyphs...)...)
	matrix := []byte{30, 0x0A, 0x00, 0x1F, num(0), num(0), 30, 0x1C, 0x3F, num(0), num(0), 12, 7} // .001 0 0 1E-3 0 0
	var privates [][]byte
	for k := range 2 {
		private := []byte{num(50 + 10*k), 20, num(100 + k), 21, num(6), 19}
		routine := code(10*(k+1), 0, byte(5), byte(11)) // a line of 10 or of 20 to the right
		privates = append(privates, append(private, list(false, routine)...))
	}
	fonts := func(at int) []byte {
		var dicts [][]byte
		for _, p := range privates {
			dicts = append(dicts, append(append(append([]byte{}, matrix...), num(6)), append(offset(at), 18)...))
			at += len(p)
		}
		return list(false, dicts...)
	}
	top := func(charsetAt, selectorAt, charstringsAt, fontsAt int) []byte {
		d := []byte{28, 1, 135, 28, 1, 136, num(3), 12, 30} // strings 391 and 392
		for _, one := range []struct {
			at int
			op []byte
		}{{charsetAt, []byte{15}}, {selectorAt, []byte{12, 37}}, {charstringsAt, []byte{17}}, {fontsAt, []byte{12, 36}}} {
			d = append(append(d, offset(one.at)...), one.op...)
		}
		return d
	}
	at := len(header) + len(names) + len(list(false, top(0, 0, 0, 0))) + len(strings) + len(globals)
	selectorAt := at + len(charset)
	charstringsAt := selectorAt + len(selector)
	fontsAt := charstringsAt + len(charstrings)
	privatesAt := fontsAt + len(fonts(0))
	b := append(append(header, names...), list(false, top(at, selectorAt, charstringsAt, fontsAt))...)
	for _, part := range [][]byte{strings, globals, charset, selector, charstrings, fonts(privatesAt), privates[0], privates[1]} {
		b = append(b, part...)
	}
	return b
}

// TestGlyphsThatAreNumbered reads and trims a font with two dictionaries, which say
// in different ways which glyph has which.
func TestGlyphsThatAreNumbered(t *testing.T) {
	callsubr := byte(10)
	line := func(width int) []byte { return code(width, 0, 0, byte(21), -107, callsubr, byte(14)) }
	plain := code(0, 0, byte(21), -107, callsubr, byte(14)) // of the default width
	glyphs := [][]byte{line(1), line(2), plain, line(4), plain}
	for name, selector := range map[string][]byte{
		"a byte a glyph": {0, 0, 0, 1, 1, 0, 1},
		"in ranges":      {3, 0, 4, 0, 0, 0, 0, 2, 1, 0, 4, 0, 0, 5, 1, 0, 6},
	} {
		t.Run(name, func(t *testing.T) {
			b := keyed(selector, glyphs...)
			table, err := cff.Parse(b)
			require.NoError(t, err)
			want := []string{"101 M0,0 L10,0", "103 M0,0 L20,0", "60 M0,0 L20,0", "104 M0,0 L10,0", "60 M0,0 L20,0"}
			said := func(table *cff.Table, glyph int) string {
				contours, width, err := table.Glyph(glyph)
				require.NoError(t, err)
				return fmt.Sprintf("%g %s", width, drawn(contours))
			}
			for i, w := range want {
				assert.Equal(t, w, said(table, i+1), "glyph %d", i+1)
			}
			small, err := table.Subset([]int{0, 3, 4, 5})
			require.NoError(t, err)
			assert.Less(t, len(small), len(b))
			now, err := cff.Parse(small)
			require.NoError(t, err)
			require.Equal(t, 4, now.Glyphs())
			for i, from := range []int{3, 4, 5} {
				assert.Equal(t, want[from-1], said(now, i+1), "glyph %d, which was %d", i+1, from)
			}
			assert.Equal(t, table.GlyphName(4), now.GlyphName(2), "a glyph keeps its number")
			one, err := table.Subset([]int{0, 1})
			require.NoError(t, err)
			assert.Less(t, len(one), len(small))
			for cut := 4; cut < len(b); cut++ { // damaged or read, without a panic
				if table, err := cff.Parse(b[:cut]); err == nil {
					for g := range table.Glyphs() {
						_, _, _ = table.Glyph(g)
					}
				}
			}
		})
	}
}
