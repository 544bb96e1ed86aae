package css

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFontRulesWithTheirLines(t *testing.T) {
	rules := FontRules(`/* two
lines @font-face { } */
@font-face { font-family: "Skerrow Sans"; src: url(a.woff2) format("woff2"); font-weight: 700; font-display: swap }
body { font-family: x }
@media print {
  @font-face { font-family: Quay; src: local("Quay"), url("data:font/woff2;base64,AA==") }
}
@font-face { src: url(b.woff2) }
@font-face { font-family: "Quay Fallback"; src: local(Arial); size-adjust: 98% }`, "https://www.harbour.example/css/site.css")
	require.Len(t, rules, 4)
	assert.Equal(t, []int{3, 6, 8, 9}, []int{rules[0].Line, rules[1].Line, rules[2].Line, rules[3].Line})
	assert.Equal(t, "https://www.harbour.example/css/a.woff2", rules[0].Files[0].Address)
	assert.Equal(t, "swap", rules[0].Display)
	assert.Equal(t, 700, rules[0].WeightMin)
	assert.Equal(t, []bool{false, true, false, false}, []bool{rules[0].Nested, rules[1].Nested, rules[2].Nested, rules[3].Nested})
	assert.Equal(t, 1, rules[1].Embedded)
	assert.Empty(t, rules[2].Family)
	assert.True(t, rules[2].Source)
	assert.True(t, rules[3].Adjusted)
	assert.False(t, rules[0].Adjusted)
}

func TestMisspelledRulesAreFound(t *testing.T) {
	sheet := "@font-face { font-family: A; src: url(a) }\n\n@fontface { font-family: B; src: url(b) }\n@font_face{font-family:C;src:url(c)}\n@font-faces { font-family: D; src: url(d) }\n" +
		"@font-feature-values Quay { @styleset { nice: 1 } }\n@media screen { p { font-family: E } }\n@font-palette-values --p { font-family: F; base-palette: 1 }\n/* @fontface { font-family: G; src: url(g) } */"
	var names []string
	var lines []int
	for _, m := range MisspelledRules(sheet) {
		names, lines = append(names, m.Name), append(lines, m.Line)
	}
	assert.Equal(t, []string{"@fontface", "@font_face", "@font-faces"}, names)
	assert.Equal(t, []int{3, 4, 5}, lines)
}

func TestCurlyQuotesAreFound(t *testing.T) {
	assert.Equal(t, []int{2, 3}, CurlyLines("p::before { content: “x” }\n@font-face { font-family: “Quay”;\nsrc: url(‘a.woff2’) }\n/* font-family: “x” */\nq { quotes: “ ” }"))
}
