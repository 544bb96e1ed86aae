package appearance_test

import (
	"maps"
	"math"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/appearance"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/unitscale"
)

const folder = "/usr/share/fonts/truetype/"

func opened(t *testing.T, path string) *sfnt.Font {
	t.Helper()
	b, err := os.ReadFile(folder + path)
	require.NoError(t, err, "run make setup: the tests read fonts of Debian's packages")
	f, err := font.Open(b)
	require.NoError(t, err)
	return f.Faces[0]
}

func measured(t *testing.T, path string) *appearance.Appearance {
	t.Helper()
	a, err := appearance.Of(opened(t, path))
	require.NoError(t, err)
	return a
}

// part returns a face with the characters of a text alone.
func part(t *testing.T, f *sfnt.Font, text string) *sfnt.Font {
	t.Helper()
	out, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(text)})
	require.NoError(t, err)
	return out
}

// TestFacesAreMeasured compares measures with what a ruler says of printed letters.
func TestFacesAreMeasured(t *testing.T) {
	for path, want := range map[string]appearance.Appearance{
		"dejavu/DejaVuSans.ttf":                     {Kind: appearance.Sans, Stem: 13.5, Contrast: 1.25, XHeight: 75, Width: 98, Roundness: 85},
		"dejavu/DejaVuSans-Bold.ttf":                {Kind: appearance.Sans, Stem: 26, Contrast: 1.45, XHeight: 75, Width: 111, Roundness: 85},
		"dejavu/DejaVuSans-Oblique.ttf":             {Kind: appearance.Sans, Stem: 13.5, Contrast: 1.25, XHeight: 75, Width: 98, Roundness: 89, Slant: 11},
		"dejavu/DejaVuSansMono.ttf":                 {Kind: appearance.Mono, Stem: 13.5, Contrast: 1.25, XHeight: 75, Width: 110, Roundness: 81},
		"dejavu/DejaVuSerif.ttf":                    {Kind: appearance.Serif, Serifs: 1, Stem: 13.5, Contrast: 2.2, XHeight: 71, Width: 105, Roundness: 89},
		"liberation2/LiberationSerif-Regular.ttf":   {Kind: appearance.Serif, Serifs: 1, Stem: 14.4, Contrast: 2.3, XHeight: 70, Width: 91, Roundness: 79},
		"liberation2/LiberationSerif-Italic.ttf":    {Kind: appearance.Serif, Serifs: 0.57, Stem: 14.4, Contrast: 2.3, XHeight: 70, Width: 93, Roundness: 92, Slant: 10},
		"liberation2/LiberationSans-BoldItalic.ttf": {Kind: appearance.Sans, Stem: 21, Contrast: 1.55, XHeight: 77, Width: 97, Roundness: 86, Slant: 11},
		"liberation2/LiberationMono-Bold.ttf":       {Kind: appearance.Mono, Stem: 22, Contrast: 1.55, XHeight: 80, Width: 114, Roundness: 82},
	} {
		a := measured(t, path)
		assert.Equal(t, want.Kind, a.Kind, path)
		assert.InDelta(t, want.Serifs, a.Serifs, 0.05, path)
		assert.InDelta(t, want.Stem, a.Stem, 0.6, path)
		assert.InDelta(t, want.Contrast, a.Contrast, 0.12, path)
		assert.InDelta(t, want.XHeight, a.XHeight, 1, path)
		assert.InDelta(t, want.Width, a.Width, 1, path)
		assert.InDelta(t, want.Roundness, a.Roundness, 2, path)
		assert.InDelta(t, want.Slant, a.Slant, 0.3, path)
	}
}

// TestMeasuresStay measures a face on another grid, and a part of it: ratios do not change.
func TestMeasuresStay(t *testing.T) {
	f := opened(t, "dejavu/DejaVuSerif.ttf")
	whole, err := appearance.Of(f)
	require.NoError(t, err)

	finer, err := unitscale.Finer(f, 4)
	require.NoError(t, err)
	b, err := appearance.Of(finer)
	require.NoError(t, err)
	assert.Less(t, appearance.Distance(whole, b), 0.02)

	b, err = appearance.Of(part(t, f, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ01"))
	require.NoError(t, err)
	assert.Equal(t, whole, b)
}

// TestWithoutLetters refuses what has no Latin letters.
func TestWithoutLetters(t *testing.T) {
	_, err := appearance.Of(part(t, opened(t, "dejavu/DejaVuSans.ttf"), "αβγδεζηθ .,;:!?"))
	require.ErrorIs(t, err, appearance.ErrNoLetters)
}

// TestDamagedFacesAreRefused cuts a font and fills tables with zeros: nothing panics, and no
// measure is without bounds.
func TestDamagedFacesAreRefused(t *testing.T) {
	f := opened(t, "liberation2/LiberationSans-Regular.ttf")
	for i := range f.Tables {
		for _, cut := range []int{0, 1, 4, len(f.Tables[i].Data) / 2} {
			broken := *f
			broken.Tables = append([]sfnt.Table{}, f.Tables...)
			broken.Tables[i].Data = f.Tables[i].Data[:min(cut, len(f.Tables[i].Data))]
			bounded(t, &broken)
			broken.Tables[i].Data = make([]byte, len(f.Tables[i].Data))
			bounded(t, &broken)
		}
	}
}

func bounded(t *testing.T, f *sfnt.Font) {
	t.Helper()
	a, err := appearance.Of(f)
	if err != nil {
		return
	}
	for _, v := range []float64{a.Serifs, a.Stem, a.Contrast, a.XHeight, a.Width, a.Roundness, a.Slant} {
		assert.False(t, math.IsNaN(v) || math.IsInf(v, 0), "%+v", a)
	}
}

// TestDistance puts what looks alike nearer than what does not.
func TestDistance(t *testing.T) {
	sans, serif := measured(t, "dejavu/DejaVuSans.ttf"), measured(t, "dejavu/DejaVuSerif.ttf")
	assert.Zero(t, appearance.Distance(sans, sans))
	assert.Less(t, appearance.Distance(sans, measured(t, "liberation2/LiberationSans-Regular.ttf")), appearance.Distance(sans, serif))
	assert.Less(t, appearance.Distance(sans, measured(t, "dejavu/DejaVuSansCondensed.ttf")), appearance.Distance(sans, measured(t, "dejavu/DejaVuSans-Bold.ttf")))
	assert.Less(t, appearance.Distance(serif, measured(t, "liberation2/LiberationSerif-Regular.ttf")), 1.0)
}

// TestPair prefers a clear difference with one x-height over two faces that look alike.
func TestPair(t *testing.T) {
	a := appearance.Appearance{Kind: appearance.Sans, Stem: 13, Contrast: 1.1, XHeight: 72, Width: 95, Roundness: 90}
	serif := appearance.Appearance{Kind: appearance.Serif, Serifs: 1, Stem: 13.5, Contrast: 3, XHeight: 71, Width: 95, Roundness: 90}
	short := serif
	short.XHeight = 58
	twin := a
	twin.Width = 97
	black := a
	black.Stem = 30
	display := appearance.Appearance{Kind: appearance.Display, Stem: 40, Contrast: 5, XHeight: 73, Width: 120, Roundness: 60}

	good := appearance.Pair(&a, &serif)
	assert.Equal(t, []string{
		"Sans serif with serif: the difference is clear.", "Their x-heights match: 72 % and 71 % of the cap height.",
		"Stroke contrast sets them apart: 1.1 to 1 and 3.0 to 1.", "Their stems are equally thick, so the text color stays even.",
	}, good.Why)
	assert.Greater(t, good.Score, appearance.Pair(&a, &short).Score)
	assert.Less(t, appearance.Pair(&a, &twin).Score, 0.0)
	assert.Greater(t, appearance.Pair(&a, &black).Score, appearance.Pair(&a, &twin).Score)
	assert.Contains(t, appearance.Pair(&display, &a).Why[0], "one for large sizes, one for text")
	assert.InDelta(t, good.Score, appearance.Pair(&serif, &a).Score, 1e-9, "either way")
}

// TestCapitalsAloneAreForDisplay has the small letters of a sans drawn as its capitals: all of
// them, which makes it a display face, or a few, which does not.
func TestCapitalsAloneAreForDisplay(t *testing.T) {
	f := opened(t, "liberation2/LiberationSans-Regular.ttf")
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	require.NoError(t, err)
	capitals := func(small string) *sfnt.Font {
		glyphs := map[rune]table.GlyphID{}
		for _, run := range runs {
			for i := range run.Count {
				glyphs[run.First+rune(i)] = run.Glyph + table.GlyphID(i)
			}
		}
		for _, r := range small {
			glyphs[r] = glyphs[r-'a'+'A']
		}
		var pairs []table.Mapping
		for _, r := range slices.Sorted(maps.Keys(glyphs)) {
			pairs = append(pairs, table.Mapping{Rune: r, Glyph: glyphs[r]})
		}
		out := &sfnt.Font{Flavor: f.Flavor, Tables: slices.Clone(f.Tables)}
		for i := range out.Tables {
			if out.Tables[i].Tag == table.TagCmap {
				out.Tables[i].Data = table.EncodeCmap(pairs)
			}
		}
		return out
	}
	for small, want := range map[string]appearance.Kind{"abcdefghijklmnopqrstuvwxyz": appearance.Display, "": appearance.Sans, "abd": appearance.Sans} {
		a, err := appearance.Of(capitals(small))
		require.NoError(t, err)
		assert.Equal(t, want, a.Kind, small)
	}
}
