package inspect

import (
	"fmt"
	"net/url"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNamesThatAreNearlyTheSame(t *testing.T) {
	for _, c := range []struct {
		a, b string
		is   bool
	}{
		{"Skerrow Sans", "SkerrowSans", true}, {"Skerrow Sans", "skerrow-sans", true}, {"Skerrow Sans", "Skerow Sans", true}, {"Skerrow Sans", "Skerrow Snas", true},
		{"Skerrow Sans", "Skerrow Serif", false}, {"Quay", "Quai", false}, {"", "Skerrow", false}, {"Skerrow Sans", "Skerrow Sanss", true}, {"Skerrow Sans", "Skerrow", false},
	} {
		assert.Equal(t, c.is, near(c.a, c.b), c.a+" "+c.b)
		assert.Equal(t, c.is, near(c.b, c.a), c.b+" "+c.a)
	}
}

// TestWhichFaceABrowserTakes compares with CSS Fonts Level 4, section 5.2.
func TestWhichFaceABrowserTakes(t *testing.T) {
	face := func(weight, style string) *Face { return &Face{Weight: weight, Style: style} }
	for _, c := range []struct {
		of     []*Face
		weight int
		style  string
		want   int
	}{
		{[]*Face{face("400", "normal"), face("700", "normal")}, 400, "normal", 0},
		{[]*Face{face("400", "normal"), face("700", "normal")}, 600, "normal", 1},
		{[]*Face{face("300", "normal"), face("500", "normal")}, 400, "normal", 1},
		{[]*Face{face("300", "normal"), face("600", "normal")}, 400, "normal", 0},
		{[]*Face{face("300", "normal"), face("600", "normal")}, 450, "normal", 0},
		{[]*Face{face("100", "normal"), face("400", "normal")}, 300, "normal", 0},
		{[]*Face{face("400", "normal"), face("900", "normal")}, 300, "normal", 0},
		{[]*Face{face("300", "normal"), face("400", "normal")}, 900, "normal", 1},
		{[]*Face{face("100 400", "normal"), face("500 900", "normal")}, 700, "normal", 1},
		{[]*Face{face("700", "normal"), face("400", "italic")}, 700, "italic", 1},
		{[]*Face{face("400", "oblique"), face("400", "normal")}, 400, "italic", 0},
		{[]*Face{face("400", "italic"), face("400", "oblique 10deg")}, 400, "normal", 1},
		{[]*Face{face("bold", "normal"), face("normal", "normal")}, 400, "normal", 1},
	} {
		assert.Same(t, c.of[c.want], nearest(c.of, c.weight, c.style), "%d %s", c.weight, c.style)
	}
}

func TestWhatIsMadeUp(t *testing.T) {
	both := Synthesis{MayBold: true, MaySlant: true}
	for _, c := range []struct {
		run         Run
		face        Face
		bold, slant bool
	}{
		{Run{Weight: 700, Style: "normal", Synthesis: both}, Face{Weight: "400", Style: "normal"}, true, false},
		{Run{Weight: 599, Style: "normal", Synthesis: both}, Face{Weight: "400", Style: "normal"}, false, false},
		{Run{Weight: 700, Style: "normal", Synthesis: both}, Face{Weight: "600", Style: "normal"}, false, false},
		{Run{Weight: 900, Style: "normal", Synthesis: both}, Face{Weight: "100 900", Style: "normal"}, false, false},
		{Run{Weight: 700, Style: "italic", Synthesis: both}, Face{Weight: "400", Style: "normal"}, true, true},
		{Run{Weight: 400, Style: "italic", Synthesis: both}, Face{Weight: "400", Style: "italic"}, false, false},
		{Run{Weight: 700, Style: "italic"}, Face{Weight: "400", Style: "normal"}, false, false},
	} {
		bold, slant := c.run.Faux(&c.face)
		assert.Equal(t, []bool{c.bold, c.slant}, []bool{bold, slant}, "%+v", c)
	}
}

func TestHowLongBrowsersKeepAFont(t *testing.T) {
	for _, c := range []struct {
		r    Request
		want time.Duration
	}{
		{Request{Cache: "public, max-age=31536000, immutable"}, 365 * 24 * time.Hour},
		{Request{Cache: "max-age=600"}, 10 * time.Minute},
		{Request{Cache: "no-cache, max-age=600"}, 0},
		{Request{Cache: "no-store"}, 0},
		{Request{Cache: "public"}, 0},
		{Request{}, 0},
	} {
		got, said := freshness(&c.r)
		assert.Equal(t, c.want, got, c.r.Cache)
		assert.NotEmpty(t, said)
	}
	got, _ := freshness(&Request{Expires: time.Now().Add(48 * time.Hour).UTC().Format("Mon, 02 Jan 2006 15:04:05 GMT")})
	assert.InDelta(t, 48, got.Hours(), 1)
}

// TestCodesAreNamedOnce holds the list of codes: at least forty, each with a severity and a
// title, and those among them that others rely on.
func TestCodesAreNamedOnce(t *testing.T) {
	seen := map[string]bool{}
	for _, c := range Codes {
		assert.False(t, seen[c.Code], c.Code)
		seen[c.Code] = true
		assert.NotEmpty(t, c.Title, c.Code)
		assert.Contains(t, []Severity{Error, Warning, Note}, c.Severity)
		assert.Equal(t, url.PathEscape(c.Code), c.Code)
	}
	assert.GreaterOrEqual(t, len(Codes), 40)
	for _, code := range []string{"font-404", "font-is-html", "font-wrong-type", "font-cors", "mixed-content", "rule-dropped", "rule-overridden", "family-not-declared", "weight-mislabeled", "declared-unused", "loaded-unused", "local-only", "faux-bold", "faux-italic", "missing-characters", "third-party", "uncompressed", "subset-would-save", "no-font-display", "fallback-shift", "several-versions", "preload-unused", "short-cache", "license-blocked", "embedding-restricted", "unknown-font", "pack-outdated"} {
		assert.True(t, slices.ContainsFunc(Codes, func(c Code) bool { return c.Code == code }), code)
	}
}

// TestThePageOfFindingsListsAllCodes holds docs/INSPECTION.md to the codes that are found.
func TestThePageOfFindingsListsAllCodes(t *testing.T) {
	page, err := os.ReadFile("../../docs/INSPECTION.md")
	require.NoError(t, err)
	for _, c := range Codes {
		assert.Contains(t, string(page), fmt.Sprintf("| `%s` | %s | %s |", c.Code, c.Severity, c.Title))
	}
}
