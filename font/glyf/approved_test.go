package glyf_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// all is all that this package does with one glyph.
func all(glyph []byte) (string, error) {
	contours, is := glyf.ContourCount(glyph)
	points, err := glyf.PointCount(glyph)
	out := fmt.Sprintln(contours, is, points, err != nil)
	refused := err != nil
	if s, err := glyf.ParseSimple(glyph); err == nil {
		refused = false
		out += fmt.Sprintf("%+v %+v %x\n", *s, s.Measure(), s.Append(nil))
	}
	if parts, err := glyf.ParseParts(glyph); err == nil {
		refused = false
		out += fmt.Sprintf("%+v\n", parts)
	}
	n, err := glyf.Renumber(glyph, func(g table.GlyphID) table.GlyphID { return g + 7 })
	out += fmt.Sprintf("%x %v\n", n, err != nil)
	n, err = glyf.MoveParts(glyph, []float64{100, -3, 500}, []float64{0, 7, -200})
	out += fmt.Sprintf("%x %v\n", n, err != nil)
	if refused {
		return "", glyf.ErrGlyph
	}
	return out, nil
}

// TestGlyphsAsApproved reads glyphs of contours and of parts, whole and damaged.
func TestGlyphsAsApproved(t *testing.T) {
	t.Parallel()
	f := foundrytest.Face(t, foundry.Signage()[0], font.TTF)
	glyphs, err := glyf.Locate(f.Table(table.TagGlyf), f.Table(table.TagLoca), true)
	if err != nil {
		glyphs, err = glyf.Locate(f.Table(table.TagGlyf), f.Table(table.TagLoca), false)
	}
	if err != nil {
		t.Fatal(err)
	}
	cases := []fonttest.Case{
		{Name: "parts of every size", Bytes: []byte{0xFF, 0xFF, 0, 0, 0, 0, 0, 0, 0, 0,
			0, 0x23, 0, 5, 1, 0, 0xFF, 0, // words
			0, 0x22, 0, 6, 10, 0xF0, // bytes
			0, 0x2A, 0, 7, 1, 2, 0x20, 0, // a scale
			0, 0x62, 0, 8, 1, 2, 0x20, 0, 0x40, 0, // two scales
			8, 0xA0, 0, 9, 1, 2, 0x20, 0, 0x10, 0, 0xF0, 0, 0x40, 0, // a matrix, points
			1, 0, 0, 3, 1, 1, 0, 2, 0xB0, 0x01, // instructions
		}},
	}
	for _, g := range []int{3, 30, 60, len(glyphs) - 1} {
		cases = append(cases, fonttest.Case{Name: fmt.Sprint("glyph ", g), Bytes: glyphs[g]})
	}
	fonttest.Approve(t, "glyphs", all, cases...)

	made := glyf.Encode([]glyf.Outline{{}, {Contours: nil, Parts: []glyf.Part{{Glyph: 2, X: 10, Y: -300}, {Glyph: 2, X: 0, Y: 0}}}, {Overlap: true}})
	fonttest.Lines(t, "encoded", fmt.Sprintf("%x %x %v %v %+v", made.Glyf, made.Loca, made.LongLoca, made.Bounds, made.Profile))
	fonttest.Approve(t, "places", func(loca []byte) (string, error) {
		short, err := glyf.Locate(f.Table(table.TagGlyf)[:400], loca, false)
		long, bad := glyf.Locate(f.Table(table.TagGlyf)[:400], loca, true)
		if err != nil && bad != nil {
			return "", sfnt.ErrDamaged
		}
		return fmt.Sprintf("%x %x", short, long), nil
	}, fonttest.Case{Name: "short", Bytes: glyf.Index([]int{0, 20, 20, 100}, false)}, fonttest.Case{Name: "long", Bytes: glyf.Index([]int{0, 20, 20, 100}, true)})
}
