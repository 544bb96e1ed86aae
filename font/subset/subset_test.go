package subset_test

import (
	"bytes"
	"maps"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/cff"
	"sparecrate/font/coverage"
	"sparecrate/font/layout"
	"sparecrate/font/metadata"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func sample(t testing.TB, path string) *sfnt.Font {
	t.Helper()
	b, err := os.ReadFile("/usr/share/fonts/truetype/" + path) //nolint:gosec // installed with the project
	require.NoError(t, err)
	return foundrytest.Parsed(t, b)
}

func trimmed(t testing.TB, f *sfnt.Font, o subset.Options) (*sfnt.Font, *subset.Result) {
	t.Helper()
	out, result, err := subset.Face(f, o)
	require.NoError(t, err)
	return out, result
}

// same compares how a line is set in two faces: the same advances, places and
// outlines.
func same(t *testing.T, a, b *sfnt.Font, text string) {
	t.Helper()
	set := func(f *sfnt.Font) (*shape.Line, *outline.Reader) {
		face, err := shape.Open(f)
		require.NoError(t, err)
		r, err := outline.Open(f)
		require.NoError(t, err)
		return face.Set(text, shape.Options{}), r
	}
	x, xo := set(a)
	y, yo := set(b)
	assert.Equal(t, x.Advance, y.Advance, text)
	require.Equal(t, len(x.Glyphs), len(y.Glyphs), text)
	for i := range x.Glyphs {
		assert.Equal(t, [2]int{x.Glyphs[i].X, x.Glyphs[i].Y}, [2]int{y.Glyphs[i].X, y.Glyphs[i].Y}, text)
		c, err := xo.Contours(int(x.Glyphs[i].ID))
		require.NoError(t, err)
		d, err := yo.Contours(int(y.Glyphs[i].ID))
		require.NoError(t, err)
		assert.Equal(t, c, d, text)
	}
}

// TestTextIsSetTheSame trims to a text and sets it: kerning, ligatures, marks,
// joined forms and composites all stay.
func TestTextIsSetTheSame(t *testing.T) {
	dejavu := sample(t, "dejavu/DejaVuSans.ttf")
	for name, test := range map[string]struct {
		font *sfnt.Font
		text string
	}{
		"TrueType with ligatures":    {foundrytest.Face(t, foundry.Signage()[1], font.TTF), "AVATo. office Łódź"},
		"PostScript":                 {foundrytest.Face(t, foundry.Display(), font.OTF), "AVATo. office Žluť"},
		"many features and the kern": {dejavu, "AVATAR office ffi ﬂ fjord"},
		"marks on letters":           {dejavu, "ạ̈ x̌ Ǭ"},
		"joined forms":               {dejavu, "السلام عليكم"},
		"points of Hebrew":           {dejavu, "שָׁלוֹם"},
		"the am of Lao":              {dejavu, "ນ້ຳ"},
	} {
		t.Run(name, func(t *testing.T) {
			out, result := trimmed(t, test.font, subset.Options{Characters: coverage.OfText(test.text)})
			assert.Less(t, result.Glyphs, result.GlyphsBefore)
			same(t, test.font, out, test.text)
			again, _ := trimmed(t, out, subset.Options{Characters: coverage.OfText(test.text)})
			assert.Equal(t, sfnt.Write(out), sfnt.Write(again), "trimmed twice is trimmed once")
		})
	}
}

func TestEverythingKeepsEverything(t *testing.T) {
	f := sample(t, "dejavu/DejaVuSerif-Bold.ttf")
	out, result := trimmed(t, f, subset.Options{Characters: coverage.All})
	assert.Equal(t, result.GlyphsBefore, result.Glyphs)
	assert.Equal(t, sfnt.Write(f), sfnt.Write(out))
}

func TestFeaturesGoOrStay(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	latin, err := coverage.Named("latin")
	require.NoError(t, err)
	features := func(o subset.Options) (out []string) {
		o.Characters = latin
		now, _ := trimmed(t, f, o)
		return append(out, metadata.One(now).Features...)
	}
	assert.Equal(t, []string{"kern", "liga"}, features(subset.Options{}))
	assert.Equal(t, []string{"kern"}, features(subset.Options{Features: []string{"kern"}}))
	assert.Empty(t, features(subset.Options{Features: []string{"smcp"}}))
	out, _ := trimmed(t, f, subset.Options{Characters: coverage.OfText("xyz")})
	assert.Empty(t, out.Table(table.TagGSUB), "no ligature is left, and no table of them")
}

func TestNothingOfTheTextIsThere(t *testing.T) {
	_, _, err := subset.Face(foundrytest.Face(t, foundry.Signage()[1], font.TTF), subset.Options{Characters: coverage.OfText("жук")})
	require.ErrorIs(t, err, subset.ErrNothing)
	assert.Contains(t, err.Error(), "ж (U+0436), к (U+043A), у (U+0443)")
}

// TestPostScriptKeepsNamesAndLosesSubroutines writes outlines again: names stay,
// widths and outlines too, and what no glyph calls is gone.
func TestPostScriptKeepsNamesAndLosesSubroutines(t *testing.T) {
	f := foundrytest.Face(t, foundry.Display(), font.OTF)
	out, _ := trimmed(t, f, subset.Options{Characters: coverage.OfText("ABé")})
	c, err := cff.Parse(out.Table(table.TagCFF))
	require.NoError(t, err)
	assert.Equal(t, []string{".notdef", "space", "A", "B", "uni00E9"}, c.Names())
	assert.Equal(t, "UmbriskDisplay-Rg", c.Name)
	assert.Less(t, len(out.Table(table.TagCFF)), len(f.Table(table.TagCFF))/10)
}

// TestAVariableFaceStaysVariable trims a face that varies; what is left varies
// as before.
func TestAVariableFaceStaysVariable(t *testing.T) {
	for _, as := range []font.Container{font.TTF, font.OTF} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		require.NoError(t, err)
		f := foundrytest.Parsed(t, b)
		out, _ := trimmed(t, f, subset.Options{Characters: coverage.OfText("Åg4")})
		now := metadata.One(out)
		require.Len(t, now.Axes, 1)
		assert.Len(t, now.Instances, 3)
		assert.Less(t, len(sfnt.Write(out)), len(b)/8)
	}
}

// Tables drawn by hand, for kinds of color and selectors that no demo font has.

func u16s(values ...int) []byte {
	var out []byte
	for _, v := range values {
		out = append(out, byte(v>>8), byte(v))
	}
	return out
}

func with(f *sfnt.Font, tables map[string][]byte) *sfnt.Font {
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		if _, ours := tables[t.Tag.String()]; !ours {
			out.Tables = append(out.Tables, t)
		}
	}
	for _, tag := range slices.Sorted(maps.Keys(tables)) {
		out.Tables = append(out.Tables, sfnt.Table{Tag: sfnt.MakeTag(tag), Data: tables[tag]})
	}
	return out
}

func glyphOf(t *testing.T, f *sfnt.Font, r rune) int {
	face, err := shape.Open(f)
	require.NoError(t, err)
	return int(face.Glyph(r))
}

func TestLayersOfColorStay(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a, b, c := glyphOf(t, f, 'A'), glyphOf(t, f, 'B'), glyphOf(t, f, 'C')
	colr := append(u16s(0, 1, 0, 14, 0, 20, 2), append(u16s(a, 0, 2), u16s(b, 0, c, 1)...)...)
	cpal := append(u16s(0, 2, 1, 2, 0, 14, 0), make([]byte, 8)...)
	out, result := trimmed(t, with(f, map[string][]byte{"COLR": colr, "CPAL": cpal}), subset.Options{Characters: coverage.OfText("A")})
	assert.Equal(t, 5, result.Glyphs, ".notdef, a space, A and its two layers")
	assert.Equal(t, append(u16s(0, 1, 0, 14, 0, 20, 2), append(u16s(2, 0, 2), u16s(3, 0, 4, 1)...)...), out.Table(sfnt.MakeTag("COLR")))
	gone, _ := trimmed(t, with(f, map[string][]byte{"COLR": colr, "CPAL": cpal}), subset.Options{Characters: coverage.OfText("D")})
	assert.Empty(t, gone.Table(sfnt.MakeTag("COLR")))
}

// TestPaintsOfColorStay has a paint of two layers, one a glyph filled and moved.
func TestPaintsOfColorStay(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a, b, c := glyphOf(t, f, 'A'), glyphOf(t, f, 'B'), glyphOf(t, f, 'C')
	colr := u16s(1, 0, 0, 0, 0, 0, 0, 0, 34, 0, 50, 0, 0, 0, 0, 0, 0) // header of version 1
	colr = append(colr, append([]byte{0, 0, 0, 2}, append(u16s(a, 0, 28), u16s(b, 0, 60)...)...)...)
	colr = append(colr, 0, 0, 0, 1, 0, 0, 0, 18) // one layer, at 68
	for len(colr) < 62 {
		colr = append(colr, 0)
	}
	colr = append(colr, 1, 1, 0, 0, 0, 0)                 // at 62: the layer
	colr = append(colr, 14, 0, 0, 8, 0, 5, 0, 5)          // at 68: moved
	colr = append(colr, 10, 0, 0, 6, byte(c>>8), byte(c)) // at 76: a glyph
	colr = append(colr, 2, 0, 0, 0x40, 0)                 // at 82: filled
	colr = append(colr, make([]byte, 94-len(colr))...)    // at 94: another base
	colr = append(colr, 2, 0, 0, 0x40, 0)
	out, result := trimmed(t, with(f, map[string][]byte{"COLR": colr}), subset.Options{Characters: coverage.OfText("A")})
	assert.Equal(t, 4, result.Glyphs, ".notdef, a space, A and the glyph of its paint")
	now := out.Table(sfnt.MakeTag("COLR"))
	assert.Less(t, len(now), len(colr))
	at := bytes.Index(now, []byte{10, 0, 0, 6})
	require.Positive(t, at)
	assert.Equal(t, u16s(3), now[at+4:at+6], "the glyph by its new number")
	again, _ := trimmed(t, out, subset.Options{Characters: coverage.OfText("A")})
	assert.Equal(t, now, again.Table(sfnt.MakeTag("COLR")))
}

func TestDrawingsAreRenumbered(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a, b := glyphOf(t, f, 'A'), glyphOf(t, f, 'B')
	doc := []byte(`<svg xmlns="http://www.w3.org/2000/svg"><g id="glyph` + itoa(a) + `"><path d="M0 0"/></g><g id="glyph` + itoa(b) + `"><path d="M1 1"/></g></svg>`)
	svg := append(u16s(0, 0, 10, 0, 0, 1, a, b, 0, 14), append(append([]byte{0, 0, 0}, byte(len(doc))), doc...)...)
	out, _ := trimmed(t, with(f, map[string][]byte{"SVG ": svg}), subset.Options{Characters: coverage.OfText("A")})
	text := string(out.Table(sfnt.MakeTag("SVG ")))
	assert.Contains(t, text, `id="glyph2"`)
	assert.NotContains(t, text, "M1 1", "the drawing of the other letter is gone")
}

func itoa(n int) string { return string([]byte{byte('0' + n/10), byte('0' + n%10)}) }

func TestSelectorsStayWithTheirCharacters(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	c := &table.Cmap{Pairs: []table.Mapping{{Rune: 'A', Glyph: 5}, {Rune: 'B', Glyph: 6}, {Rune: 0x1F600, Glyph: 7}},
		Selectors: []table.Selector{{Selector: 0xFE00, Special: []table.Mapping{{Rune: 'A', Glyph: 20}, {Rune: 'B', Glyph: 21}}, Default: []table.Run{{First: 0x1F600, Count: 1}}}}}
	out, result := trimmed(t, with(f, map[string][]byte{"cmap": c.Encode()}), subset.Options{Characters: coverage.OfText("A😀")})
	assert.Equal(t, 2, result.Characters)
	now := table.ParseSelectors(out.Table(table.TagCmap))
	require.Len(t, now, 1)
	require.Len(t, now[0].Special, 1)
	assert.Equal(t, 'A', now[0].Special[0].Rune)
	assert.Len(t, now[0].Default, 1)
	runs, err := table.ParseCmap(out.Table(table.TagCmap))
	require.NoError(t, err)
	assert.Len(t, runs, 2)
}

// TestHostileLayoutEnds gives rules that call one another in circles.
func TestHostileLayoutEnds(t *testing.T) {
	// One feature with one contextual lookup that calls itself.
	gsub := u16s(1, 0, 10, 12, 26, 0, 1)
	gsub = append(gsub[:12], append([]byte{0, 1, 'c', 'a', 'l', 't', 0, 8, 0, 0, 0, 1, 0, 0}, u16s(1, 4, 5, 0, 1, 8, 3, 1, 1, 12, 0, 0, 1, 2, 5, 6)...)...)
	f := with(foundrytest.Face(t, foundry.Signage()[1], font.TTF), map[string][]byte{"GSUB": gsub})
	_, err := layout.Open(gsub, table.TagGSUB)
	require.NoError(t, err)
	_, _, err = subset.Face(f, subset.Options{Characters: coverage.OfText("%&")})
	assert.NoError(t, err)
}
