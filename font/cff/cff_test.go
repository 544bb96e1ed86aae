package cff_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	xsfnt "golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

func pt(x, y float64) curve.Point { return curve.Point{X: x, Y: y} }

// read frames a CFF table as a font and opens it with another library.
func read(t testing.TB, f cff.Font) *xsfnt.Font {
	t.Helper()
	n := len(f.Glyphs)
	var metrics []table.Metric
	var pairs []table.Mapping
	for i, g := range f.Glyphs {
		metrics = append(metrics, table.Metric{Advance: uint16(g.Advance)})
		if i > 0 {
			pairs = append(pairs, table.Mapping{Rune: rune('A' + i - 1), Glyph: table.GlyphID(i)})
		}
	}
	name := table.Name{Records: []table.NameRecord{{Platform: 3, Encoding: 1, Language: 0x409, ID: 1, Value: "Example"}}}
	b := sfnt.Write(&sfnt.Font{Flavor: uint32(sfnt.VersionCFF), Tables: []sfnt.Table{
		{Tag: table.TagCFF, Data: f.Encode()},
		{Tag: table.TagHead, Data: (&table.Head{UnitsPerEm: 1000}).Encode()},
		{Tag: table.TagHhea, Data: (&table.Hhea{LongMetrics: uint16(n)}).Encode()},
		{Tag: table.TagHmtx, Data: table.EncodeHmtx(metrics)},
		{Tag: table.TagMaxp, Data: (&table.Maxp{Glyphs: uint16(n)}).Encode()},
		{Tag: table.TagOS2, Data: (&table.OS2{WeightClass: 400, WidthClass: 5}).Encode()},
		{Tag: table.TagPost, Data: (&table.Post{}).Encode(nil)},
		{Tag: table.TagName, Data: name.Encode()},
		{Tag: table.TagCmap, Data: table.EncodeCmap(pairs)},
	}})
	parsed, err := xsfnt.Parse(b)
	require.NoError(t, err)
	return parsed
}

// outline returns what the other library reads of a glyph: a letter and the
// points of each step, y upwards, in font units.
func outline(t testing.TB, f *xsfnt.Font, glyph int) []string {
	t.Helper()
	var buf xsfnt.Buffer
	segments, err := f.LoadGlyph(&buf, xsfnt.GlyphIndex(glyph), fixed.I(1000), nil)
	require.NoError(t, err)
	var out []string
	for _, s := range segments {
		step := map[xsfnt.SegmentOp]string{xsfnt.SegmentOpMoveTo: "M", xsfnt.SegmentOpLineTo: "L", xsfnt.SegmentOpCubeTo: "C", xsfnt.SegmentOpQuadTo: "Q"}[s.Op]
		for _, a := range s.Args[:map[string]int{"M": 1, "L": 1, "C": 3, "Q": 2}[step]] {
			step += fmt.Sprintf(" %d %d", a.X.Round(), -a.Y.Round())
		}
		out = append(out, step)
	}
	return out
}

func TestOutlinesComeBack(t *testing.T) {
	f := cff.Font{PostScript: "Example-Regular", Family: "Example", Full: "Example Regular", Weight: "Regular", Notice: "None"}
	f.Glyphs = []cff.Glyph{{Name: ".notdef", Advance: 500}}
	// Each triangle's first corner lies on one of the limits where numbers change their form.
	limits := []float64{0, 107, 108, 1131, 1132, 4000, -107, -108, -1131, -1132, -4000}
	for i, n := range limits {
		f.Glyphs = append(f.Glyphs, cff.Glyph{Name: fmt.Sprintf("g%d", i), Advance: 500 + i%3*700, Contours: []curve.Contour{
			{From: pt(n, -n), Segments: []curve.Segment{{To: pt(n+50, -n), Line: true}, {C1: pt(n+60, 10), C2: pt(n+70, 20), To: pt(n, 30)}, {To: pt(n, -n), Line: true}}},
			{From: pt(0, 0), Segments: []curve.Segment{{To: pt(0, 9), Line: true}, {To: pt(9, 0), Line: true}}},
		}})
	}
	parsed := read(t, f)
	assert.Equal(t, len(limits)+1, parsed.NumGlyphs())
	assert.Empty(t, outline(t, parsed, 0))
	for i, v := range limits {
		n := int(v)
		want := []string{
			fmt.Sprintf("M %d %d", n, -n), fmt.Sprintf("L %d %d", n+50, -n), fmt.Sprintf("C %d 10 %d 20 %d 30", n+60, n+70, n), fmt.Sprintf("L %d %d", n, -n),
			"M 0 0", "L 0 9", "L 9 0",
		}
		got := outline(t, parsed, i+1)
		// A reader may close a contour with a line of its own.
		if len(got) == len(want)+1 {
			got = got[:len(want)]
		}
		assert.Equal(t, want, got, "from %d", n)
	}
}

func TestManyGlyphsNeedLongerOffsets(t *testing.T) {
	f := cff.Font{PostScript: "Example"}
	for i := range 400 {
		g := cff.Glyph{Name: fmt.Sprintf("glyph%d", i), Advance: i}
		for k := range 20 {
			x := float64(k * 13)
			g.Contours = append(g.Contours, curve.Contour{From: pt(x, 0), Segments: []curve.Segment{{C1: pt(x, 700), C2: pt(x+300, 700), To: pt(x+300, 0)}}})
		}
		f.Glyphs = append(f.Glyphs, g)
	}
	b := f.Encode()
	assert.Greater(t, len(b), 1<<16, "offsets of three bytes are needed")
	assert.Equal(t, b, f.Encode(), "the same bytes each time")
	parsed := read(t, f)
	assert.GreaterOrEqual(t, len(outline(t, parsed, 399)), 40)
}
