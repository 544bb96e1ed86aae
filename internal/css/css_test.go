package css_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/css"
)

func TestSheet(t *testing.T) {
	got := css.Sheet([]css.Face{
		{Family: "Skerrow Sans", Sources: []css.Source{{"fonts/a.woff2", "woff2"}, {"fonts/a.woff", "woff"}}, Weight: "700", Style: "italic", Stretch: "87.5%", Display: "swap"},
		{Family: "B", Sources: []css.Source{{"b.woff2", "woff2"}}, Weight: "100 900", Style: "normal", Display: "block"},
	})
	assert.Equal(t, `@font-face {
  font-family: "Skerrow Sans";
  src: url("fonts/a.woff2") format("woff2"),
       url("fonts/a.woff") format("woff");
  font-weight: 700;
  font-style: italic;
  font-stretch: 87.5%;
  font-display: swap;
}

@font-face {
  font-family: "B";
  src: url("b.woff2") format("woff2");
  font-weight: 100 900;
  font-style: normal;
  font-display: block;
}
`, got)
}

func TestQuote(t *testing.T) {
	for in, want := range map[string]string{
		`plain`: `"plain"`, `it's "so"`: `"it's \"so\""`, `back\slash`: `"back\\slash"`, "new\nline": `"new\a line"`,
		`</style>`: `"\3c /style>"`, "nul\x00": "\"nul\uFFFD\"", `Łódź 字`: `"Łódź 字"`,
	} {
		assert.Equal(t, want, css.Quote(in))
	}
}
