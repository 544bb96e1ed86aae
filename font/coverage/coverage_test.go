package coverage_test

import (
	"slices"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/coverage"
	"sparecrate/font/table"
)

// runs returns the characters of a text, as a font's character map would.
func runs(text string) []table.Run {
	letters := []rune(text)
	slices.Sort(letters)
	var out []table.Run
	for _, r := range slices.Compact(letters) {
		if n := len(out); n > 0 && out[n-1].First+rune(out[n-1].Count) == r {
			out[n-1].Count++
			continue
		}
		out = append(out, table.Run{First: r, Count: 1})
	}
	return out
}

const (
	latin = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
	greek = "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρσςτυφχψωάέήίόύώΆΈΉΊΌΎΏϊϋΐΰΪΫ"
)

func TestLanguages(t *testing.T) {
	for _, test := range []struct {
		name, letters string
		has, gaps     []string
	}{
		{"plain Latin", latin, []string{"en", "sw", "id"}, []string{"de", "fr", "pl", "el", "ru"}},
		{"German without sharp s", latin + "ÄÖÜäöü", []string{"en"}, []string{"de", "tr"}},
		{"German", latin + "ÄÖÜäöüß", []string{"de", "en"}, []string{"fr"}},
		{"Polish needs every one", latin + "ĄĆĘŁŃÓŚŹŻąćęłńóśźż", []string{"pl"}, []string{"cs"}},
		{"Polish without a capital", latin + "ĄĆĘŁŃÓŚŹąćęłńóśźż", nil, []string{"pl"}},
		{"Greek", greek, []string{"el"}, []string{"en"}},
		{"Korean needs its syllables", "가나다", nil, []string{"ko"}},
		{"nothing", "", nil, []string{"en", "el", "ja"}},
	} {
		t.Run(test.name, func(t *testing.T) {
			got, _ := coverage.Languages(runs(test.letters))
			assert.Subset(t, got, test.has)
			for _, code := range test.gaps {
				assert.NotContains(t, got, code)
			}
			assert.True(t, slices.IsSorted(got))
		})
	}
	everything, nearly := coverage.Languages([]table.Run{{First: 0, Count: unicode.MaxRune}})
	assert.Empty(t, nearly)
	assert.Greater(t, len(everything), 300)
	for _, code := range everything {
		assert.NotEqual(t, code, coverage.LanguageName(code), "every language has a name")
	}
	assert.Subset(t, everything, coverage.Widely)
	assert.ElementsMatch(t, everything, coverage.Codes())
	assert.Equal(t, "en", coverage.Codes()[0])
	assert.Equal(t, "Upper Sorbian", coverage.LanguageName("hsb"))
	assert.Equal(t, "xx-none", coverage.LanguageName("xx-none"))
}

func TestScripts(t *testing.T) {
	assert.Equal(t, []coverage.Script{{Name: "Latin", Covered: 3, Of: count(unicode.Latin)}, {Name: "Greek", Covered: 1, Of: count(unicode.Greek)}},
		coverage.Scripts(runs("abc α 123 €")), "shared signs count for no script")
	assert.Empty(t, coverage.Scripts(nil))
	all := coverage.Scripts([]table.Run{{First: 0, Count: unicode.MaxRune + 1}})
	assert.Len(t, all, len(unicode.Scripts)-2)
	for _, s := range all {
		assert.Equal(t, s.Of, s.Covered, s.Name)
	}
}

// TestSplitRunsCountTheSame keeps the walk through the tables honest: however a
// map is cut into runs, it covers the same.
func TestSplitRunsCountTheSame(t *testing.T) {
	whole := []table.Run{{First: 0x20, Count: 0x3000}}
	var pieces []table.Run
	for r := rune(0x20); r < 0x3020; r++ {
		pieces = append(pieces, table.Run{First: r, Count: 1})
	}
	assert.Equal(t, coverage.Scripts(whole), coverage.Scripts(pieces))
	a, nearlyA := coverage.Languages(whole)
	b, nearlyB := coverage.Languages(pieces)
	assert.Equal(t, a, b)
	assert.Equal(t, nearlyA, nearlyB)
}

func TestNearlyComplete(t *testing.T) {
	_, nearly := coverage.Languages(runs(latin + "ÄÖÜäöü" + "ĂÂÎăâîȚț"))
	byCode := map[string]string{}
	for _, n := range nearly {
		byCode[n.Code] = n.Missing
	}
	assert.Equal(t, "ß", byCode["de"])
	assert.Equal(t, "Șș", byCode["ro"])
	assert.NotContains(t, byCode, "en", "complete")
	assert.NotContains(t, byCode, "vi", "too much is missing")
	assert.NotContains(t, byCode, "ru")
	assert.Equal(t, "es", nearly[0].Code, "what most people write comes first")
}

func count(t *unicode.RangeTable) int {
	n := 0
	for r := range rune(unicode.MaxRune + 1) {
		if unicode.Is(t, r) {
			n++
		}
	}
	return n
}
