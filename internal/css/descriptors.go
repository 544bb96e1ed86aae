package css

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Descriptors are read into values and written from those, so that nothing of what
// somebody wrote gets into a stylesheet of ours but as a string in quotes.

// widths are the keywords of font-stretch (CSS Fonts Level 4, section 2.3), percent.
var widths = map[string]float64{
	"ultra-condensed": 50, "extra-condensed": 62.5, "condensed": 75, "semi-condensed": 87.5, "normal": 100,
	"semi-expanded": 112.5, "expanded": 125, "extra-expanded": 150, "ultra-expanded": 200,
}

// stretch returns the value of font-stretch that a text says: one percentage or two;
// empty where it is none.
func stretch(text string) string {
	words := strings.Fields(strings.ToLower(text))
	if len(words) == 0 || len(words) > 2 {
		return ""
	}
	var out []string
	for _, w := range words {
		x, known := widths[w]
		if !known {
			number, is := strings.CutSuffix(w, "%")
			n, err := strconv.ParseFloat(number, 64)
			if !is || err != nil || !(n >= 0 && n <= 1000) {
				return ""
			}
			x = n
		}
		out = append(out, percent(x))
	}
	return strings.Join(out, " ")
}

// oneRange is a range of characters (CSS Syntax Level 3, section 7, urange).
var oneRange = regexp.MustCompile(`^U\+(?:[0-9A-F]{1,6}(?:-[0-9A-F]{1,6})?|[0-9A-F]{0,5}\?{1,5})$`)

// maxRanges bounds the ranges of one rule; a font in parts has hundreds.
const maxRanges = 2000

// characters returns the value of unicode-range that a text says; empty where it is
// none.
func characters(text string) string {
	parts := strings.FieldsFunc(strings.ToUpper(text), func(r rune) bool { return r == ',' || r == ' ' || r == '\t' || r == '\n' || r == '\r' })
	parts = slices.DeleteFunc(parts, func(p string) bool { return !oneRange.MatchString(p) || len(p) > 16 })
	if len(parts) > maxRanges {
		return ""
	}
	return strings.Join(parts, ", ")
}

// weight returns the value of font-weight that a text says: normal, a number or two.
func weight(text string) string {
	if text == "normal" || text == "bold" {
		return text
	}
	words := strings.Fields(text)
	if len(words) == 0 || len(words) > 2 {
		return "normal"
	}
	for _, w := range words {
		if n, err := strconv.Atoi(w); err != nil || n < 1 || n > 1000 {
			return "normal"
		}
	}
	return strings.Join(words, " ")
}

// word returns a text where it is one of some keywords, else the first of them.
func word(text string, keywords ...string) string {
	if slices.Contains(keywords, text) {
		return text
	}
	return keywords[0]
}

// slopes are the keywords of font-style, loads those of font-display.
var (
	slopes = []string{"normal", "italic", "oblique"}
	loads  = []string{"swap", "auto", "block", "fallback", "optional"}
)

// descriptors writes the descriptors of a rule but for its name and sources.
func (f Face) descriptors() string {
	var s strings.Builder
	fmt.Fprintf(&s, "  font-weight: %s;\n  font-style: %s;\n", weight(f.Weight), word(f.Style, slopes...))
	if value := stretch(f.Stretch); value != "" {
		fmt.Fprintf(&s, "  font-stretch: %s;\n", value)
	}
	if o := f.Overrides; o != nil {
		fmt.Fprintf(&s, "  size-adjust: %s;\n  ascent-override: %s;\n  descent-override: %s;\n  line-gap-override: %s;\n",
			percent(o.SizeAdjust), percent(o.Ascent), percent(o.Descent), percent(o.LineGap))
	}
	if value := characters(f.Range); value != "" {
		fmt.Fprintf(&s, "  unicode-range: %s;\n", value)
	}
	if f.Display != "" {
		fmt.Fprintf(&s, "  font-display: %s;\n", word(f.Display, loads...))
	}
	return s.String()
}
