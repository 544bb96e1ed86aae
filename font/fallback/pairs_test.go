package fallback

import (
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestPairsAreThoseOfEachLanguage looks through the table of pairs: every language
// whose letters are known has them, of its own writing, common ones first.
func TestPairsAreThoseOfEachLanguage(t *testing.T) {
	scripts := map[string]*unicode.RangeTable{"ru": unicode.Cyrillic, "uk": unicode.Cyrillic, "el": unicode.Greek}
	for _, language := range Languages() {
		list := pairsIn(language)
		require.Greater(t, len(list), 200, language)
		sum, last := 0.0, list[0].count
		script := scripts[language]
		if script == nil {
			script = unicode.Latin
		}
		for _, p := range list {
			sum += p.count
			assert.LessOrEqual(t, p.count, last, "%s: the commonest first", language)
			last = p.count
			for _, r := range []rune{p.first, p.second} {
				assert.True(t, unicode.Is(script, r) || r == ' ' || unicode.IsPunct(r) || r == '\u0301' || r == 'ʼ', "%s: %q", language, r)
			}
		}
		assert.InDelta(t, 97_500, sum, 2_500, "%s: nearly all text", language)
	}
	assert.Equal(t, pairsIn("en"), pairsIn(""), "English where nothing is said")
	assert.Equal(t, pairsIn("pt"), pairsIn("pt-BR"))
	common := func(language string) string { p := pairsIn(language)[0]; return string([]rune{p.first, p.second}) }
	assert.Equal(t, "e ", common("en"))
	assert.Equal(t, "en", common("de"))
}

// TestHalvesOfKerningAddUp kerns two letters whatever follows them: each takes what
// is its own, and those that are not kerned nothing.
func TestHalvesOfKerningAddUp(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	require.NoError(t, err)
	glyph := func(r rune) table.GlyphID {
		for _, run := range runs {
			if r >= run.First && r < run.First+rune(run.Count) {
				return run.Glyph + table.GlyphID(r-run.First)
			}
		}
		return 0
	}
	// A t draws whatever follows it nearer; nothing else is kerned.
	k := table.Kerning{Left: map[table.GlyphID]int{glyph('t'): 1}, Right: map[table.GlyphID]int{}, Adjust: map[[2]int]int{{1, 1}: -50}}
	for r := 'a'; r <= 'z'; r++ {
		k.Right[glyph(r)] = 1
	}
	k.Right[glyph(' ')] = 1
	for i := range f.Tables {
		if f.Tables[i].Tag == table.TagGPOS {
			f.Tables[i].Data = k.Encode()
		}
	}
	m, err := Face(f)
	require.NoError(t, err)
	kerned := m.kerned("en")
	assert.InDelta(t, -0.05, kerned['t']-kerned['x'], 0.004, "all of it, whichever way the halves are shared")
	assert.InDelta(t, kerned['a'], kerned['o'], 0.004)
	assert.Nil(t, (&Measure{}).kerned("en"), "of a font without its file nothing is known")
}
