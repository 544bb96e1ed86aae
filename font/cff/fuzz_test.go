package cff_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
)

// FuzzGlyphs opens a table and follows every outline in it. Seeds are a small
// table of our own and one with subroutines, hints, flexes and arithmetic.
func FuzzGlyphs(f *testing.F) {
	small := cff.Font{PostScript: "Example", Family: "Example", Glyphs: []cff.Glyph{
		{Name: ".notdef", Advance: 500}, {Name: "a", Advance: 510, Contours: []curve.Contour{{From: pt(0, 0), Segments: []curve.Segment{
			{To: pt(100, 0), Line: true}, {C1: pt(100, 50), C2: pt(50, 100), To: pt(0, 100)}}}}},
	}}
	f.Add(small.Encode())
	operators := []byte{
		139, 140, 1, 141, 142, 3, 139, 139, 18, 19, 0x80, 149, 159, 21, // stems, a mask, a move
		140, 141, 142, 143, 144, 145, 24, 146, 147, 148, 149, 150, 151, 25, 140, 141, 142, 143, 26, 144, 145, 146, 147, 27, 148, 149, 150, 151, 30, 31,
		140, 141, 142, 143, 144, 145, 146, 12, 34, 139, 140, 12, 10, 141, 12, 27, 12, 28, 12, 18, 14,
	}
	rich := cff.Font{PostScript: "Example", Glyphs: []cff.Glyph{{Name: ".notdef"}, {Name: "b"}}}
	f.Add(append(rich.Encode(), operators...))
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > 1<<14 {
			return
		}
		table, err := cff.Parse(b)
		if err != nil {
			return
		}
		segments := 0
		for i := range table.Glyphs() {
			contours, _, err := table.Glyph(i)
			if err != nil {
				continue
			}
			for _, c := range contours {
				segments += len(c.Segments)
			}
			_ = table.GlyphName(i)
		}
		require.Less(t, segments, 300*len(b)+1<<17, "the work is bounded by the size of the table")
	})
}
