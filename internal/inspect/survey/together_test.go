package survey_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/internal/fakes/sites"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/survey"
)

// TestPagesTogether weighs a subset by the characters of all pages, and tells versions of a
// face that only several pages show.
func TestPagesTogether(t *testing.T) {
	large := sites.Fonts()["large.woff2"]
	f, err := font.Open([]byte(large))
	require.NoError(t, err)
	page := func(text, version string) *inspect.Page {
		return &inspect.Page{Findings: []inspect.Finding{{Code: "subset-would-save"}, {Code: "faux-bold"}},
			Shown: []inspect.Shown{{URL: "https://harbour.example/large.woff2", SHA256: "same", Face: f.Faces[0], Text: text, Size: int64(len(large))},
				{URL: "https://harbour.example/" + version + ".woff2", SHA256: version, Name: "Skerrow Sans", Style: "Bold", Version: version}}}
	}
	codes := func(found []inspect.Finding) []string {
		out := []string{}
		for _, f := range found {
			out = append(out, f.Code)
			assert.Equal(t, "https://harbour.example/", f.URL[:len("https://harbour.example/")])
			assert.NotEmpty(t, f.Fix)
			assert.NotEmpty(t, f.Severity)
		}
		return out
	}
	var little survey.Together
	pages := []*inspect.Page{page("abc", "1.0"), page("cde", "1.0")}
	for _, p := range pages {
		little.Add(p)
		assert.Nil(t, p.Shown)
	}
	found := little.Findings(pages)
	assert.Equal(t, []string{"subset-would-save"}, codes(found))
	assert.Contains(t, found[0].Message, "none of the 2 pages shows")
	for _, p := range pages {
		assert.Equal(t, []inspect.Finding{{Code: "faux-bold"}}, p.Findings, "what one page says of subsets is for one page")
	}

	// Most of the font is shown, on one page or another.
	var much survey.Together
	first, second := "", ""
	for c := rune(0x4E00); c < 0x4E00+4000; c++ {
		if c%2 == 0 {
			first += string(c)
		} else {
			second += string(c)
		}
	}
	pages = []*inspect.Page{page(first, "1.0"), page(second, "2.0")}
	for _, p := range pages {
		much.Add(p)
	}
	found = much.Findings(pages)
	assert.Equal(t, []string{"several-versions"}, codes(found))
	assert.Contains(t, found[0].Message, "Skerrow Sans Bold in two versions: 1.0 and 2.0")

	var alone survey.Together
	one := page("abc", "1.0")
	alone.Add(one)
	assert.Empty(t, alone.Findings([]*inspect.Page{one}))
	assert.Len(t, one.Findings, 2)
}
