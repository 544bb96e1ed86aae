package css_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/coverage"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/internal/css"
)

// face is a face with a style and axes.
func face(style metadata.Style, axes ...metadata.Axis) metadata.Face {
	f := metadata.Face{Style: style, Axes: axes}
	f.Names.Family, f.Names.Full = "Zenithar", "Zenithar Text"
	return f
}

// TestRulesSayWhatVaries writes rules of static faces and of such as vary in weight,
// width and slant (CSS Fonts 4, section 4.4: ranges).
func TestRulesSayWhatVaries(t *testing.T) {
	upright := metadata.Style{Weight: 400, WidthPercent: 100, Slope: metadata.Upright}
	axis := func(tag string, low, high float64) metadata.Axis { return metadata.Axis{Tag: tag, Min: low, Max: high} }
	for name, test := range map[string]struct {
		face                   metadata.Face
		weight, style, stretch string
	}{
		"static":             {face(upright), "400", "normal", ""},
		"a narrow italic":    {face(metadata.Style{Weight: 700, WidthPercent: 87.5, Slope: metadata.Italic}), "700", "italic", "87.5%"},
		"weight":             {face(upright, axis("wght", 100, 900)), "100 900", "normal", ""},
		"weight and width":   {face(upright, axis("wght", 100, 900), axis("wdth", 62.5, 125)), "100 900", "normal", "62.5% 125%"},
		"slant":              {face(upright, axis("slnt", -12, 0)), "400", "normal", ""},
		"a slant of a face":  {face(metadata.Style{Weight: 400, WidthPercent: 100, Slope: metadata.Oblique}), "400", "oblique", ""},
		"others":             {face(upright, axis("opsz", 8, 72), axis("GRAD", -1, 1)), "400", "normal", ""},
		"an axis of nothing": {face(upright, axis("wdth", 100, 100), axis("slnt", 0, 0)), "400", "normal", ""},
	} {
		rule := css.Of(test.face)
		assert.Equal(t, []string{test.weight, test.style, test.stretch}, []string{rule.Weight, rule.Style, rule.Stretch}, name)
		assert.Equal(t, "Zenithar", rule.Family)
	}
}

// TestRulesOfReplacements names the local font and its measures for each group, and
// nothing of what the face varies in besides weight.
func TestRulesOfReplacements(t *testing.T) {
	f := face(metadata.Style{Weight: 400, WidthPercent: 75, Slope: metadata.Upright}, metadata.Axis{Tag: "slnt", Min: -10, Max: 0})
	groups := []fallback.Group{
		{Overrides: fallback.Overrides{SizeAdjust: 97.25, Ascent: 95, Descent: 25}},
		{Characters: coverage.OfText("abc"), Overrides: fallback.Overrides{SizeAdjust: 101, Ascent: 91.5, Descent: 24}},
	}
	rules := css.Fallbacks(f, []string{"Arial", "Liberation Sans"}, groups)
	require.Len(t, rules, 2)
	assert.Equal(t, `@font-face {
  font-family: "Zenithar Fallback";
  src: local("Arial"),
       local("Liberation Sans");
  font-weight: 400;
  font-style: normal;
  size-adjust: 101%;
  ascent-override: 91.5%;
  descent-override: 24%;
  line-gap-override: 0%;
  unicode-range: U+0061-0063;
}
`, rules[1].String())
	assert.Empty(t, rules[0].Range, "the first is for all characters")
	assert.Empty(t, rules[0].Stretch)
}

// TestHostedRulesComeBack writes the rules that were read, and reads them again.
func TestHostedRulesComeBack(t *testing.T) {
	read := css.ReadSheet(rules, "https://type.example/sheets/all.css").Faces
	require.Len(t, read, 2)
	assert.Equal(t, read, css.ReadSheet(css.HostedRules(read), "").Faces)
	for text, want := range map[string]string{"U+0000-00FF": "U+0000-00FF", "U+0000-00FF, U+131, U+152-153": "U+0000-00FF and 2 more"} {
		assert.Equal(t, want, css.ShortRange(text))
	}
}

// TestEscapesInSheets reads names and weights as browsers do (CSS Syntax 3, section
// 4.3.7).
func TestEscapesInSheets(t *testing.T) {
	for said, want := range map[string]string{
		`"Zenithar"`: "Zenithar", `'Zenith\61r'`: "Zenithar", `"Zenith\61 r"`: "Zenithar", `"Zenith\000061r"`: "Zenithar", `"Zenith\61	r"`: "Zenithar",
		`"A\"B"`: `A"B`, `Zenithar   Text`: "Zenithar Text", `"\0 x"`: "\ufffdx", `"\D800x"`: "\ufffdx", `"\110000x"`: "\ufffdx",
	} {
		found := css.ReadSheet("@font-face{font-family:"+said+";src:url(z.woff2)}", "").Faces
		require.Len(t, found, 1, said)
		assert.Equal(t, want, found[0].Family, said)
	}
	for said, want := range map[string][2]int{
		"400": {400, 400}, "bold": {700, 700}, "NORMAL": {400, 400}, "100 900": {100, 900}, "900 100": {100, 900}, "450.5": {450, 450}, "bolder": {400, 400}, "0": {400, 400}, "1001": {400, 400}, "": {400, 400},
	} {
		found := css.ReadSheet("@font-face{font-family:Z;font-weight:"+said+";src:url(z.woff2)}", "").Faces
		require.Len(t, found, 1, said)
		assert.Equal(t, want, [2]int{found[0].WeightMin, found[0].WeightMax}, said)
	}
}
