// Package fallback computes what makes a font that every system has stand in for
// a web font until that arrives, so that text does not move: the descriptors
// `size-adjust`, `ascent-override`, `descent-override` and `line-gap-override`
// of CSS Fonts Level 5, section 4.9 ("Font metrics overrides").
//
// Widths are compared over running text: letters as often as the language has
// them (letters.txt), with spaces, punctuation and capitals. Kerning, which for
// all letters together comes to next to nothing, counts where each letter has a
// size of its own (pairs.txt). Metrics of the common system fonts are metadata with
// their source (systems.txt); any other face can be measured instead.
package fallback

import (
	"cmp"
	_ "embed"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// What a caller may want to tell apart.
var (
	// ErrUnknown says that no metrics of a system font or no letters of a language
	// are known; the message lists those that are.
	ErrUnknown = errors.New("not known")
	// ErrText says that a face has too few of the language's letters.
	ErrText = errors.New("the font has too few of the letters")
)

// Overrides are the descriptors, in percent.
type Overrides struct {
	SizeAdjust float64 `json:"sizeAdjust"`
	Ascent     float64 `json:"ascentOverride"`
	Descent    float64 `json:"descentOverride"`
	LineGap    float64 `json:"lineGapOverride"`
}

// Measure is how wide and how high a font sets text.
type Measure struct {
	Name                     string // as systems know it; empty for a face
	Source                   string // where the widths are from, in words
	Ascent, Descent, LineGap float64
	advances                 map[rune]float64 // in ems
	face                     *sfnt.Font       // that was measured
}

// Advance returns how far a character of a system font moves on, as a part of an em; false
// where that is not known, and for a face.
func (m *Measure) Advance(r rune) (float64, bool) {
	a, known := m.advances[r]
	return a, known
}

// Systems lists the system fonts that are known, by the names to give.
func Systems() []string { return slices.Sorted(maps.Keys(systems())) }

// System returns the measure of a system font by name, such as arial or
// times-new-roman; a bold one where bold is set and known. The error wraps
// ErrUnknown.
func System(name string, bold bool) (*Measure, error) {
	key := strings.ReplaceAll(strings.ToLower(strings.TrimSpace(name)), " ", "-")
	if m, ok := systems()[key+"-bold"]; bold && ok {
		return m, nil
	}
	if m, ok := systems()[key]; ok {
		return m, nil
	}
	var names []string
	for _, n := range Systems() {
		if !strings.HasSuffix(n, "-bold") {
			names = append(names, n)
		}
	}
	return nil, fmt.Errorf("metrics of %q are %w; there are %s, and any font file can be given instead", name, ErrUnknown, strings.Join(names, ", "))
}

// Face measures a face: by the line metrics that browsers take, which are those
// of `hhea` unless OS/2 asks for its typographic ones. The error wraps
// sfnt.ErrDamaged.
func Face(f *sfnt.Font) (*Measure, error) {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	if err != nil || head.UnitsPerEm == 0 {
		return nil, fmt.Errorf("%w: its characters cannot be read", sfnt.ErrDamaged)
	}
	em := float64(head.UnitsPerEm)
	m := &Measure{Ascent: float64(hhea.Ascent) / em, Descent: -float64(hhea.Descent) / em, LineGap: float64(hhea.LineGap) / em, advances: map[rune]float64{}, face: f}
	if os2, err := table.ParseOS2(f.Table(table.TagOS2)); err == nil && os2.HasTypo &&
		(os2.Selection&table.SelectUseTypo != 0 || hhea.Ascent == 0 && hhea.Descent == 0) {
		m.Ascent, m.Descent, m.LineGap = float64(os2.TypoAscender)/em, -float64(os2.TypoDescender)/em, float64(os2.TypoLineGap)/em
	}
	metrics := table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), math.MaxUint16)
	for _, run := range runs {
		if run.First > 0x2FFF {
			break // beyond the alphabets
		}
		for i := range run.Count {
			if g := int(run.Glyph) + i; g < len(metrics) {
				m.advances[run.First+rune(i)] = float64(metrics[g].Advance) / em
			}
		}
	}
	return m, nil
}

// Languages lists the languages whose letters are known, by code.
func Languages() []string { return slices.Sorted(maps.Keys(letters())) }

// Of returns the overrides that make the stand-in measure like the web font for
// text of a language, by code; empty for English. The error wraps ErrUnknown or
// ErrText.
func Of(web, replacement *Measure, language string) (*Overrides, error) {
	if err := Known(language); err != nil {
		return nil, err
	}
	counts := commonIn(language)
	a, b, shared := 0.0, 0.0, 0.0
	for r, n := range counts {
		x, ok := web.advance(r)
		y, ok2 := replacement.advance(r)
		if ok && ok2 {
			a, b, shared = a+n*x, b+n*y, shared+n
		}
	}
	// Text of a language can do without a rare letter, not without a tenth of all.
	const enough = 0.9
	if shared < enough || b == 0 {
		return nil, fmt.Errorf("%w: %.0f %% of the text of %q can be measured in both", ErrText, 100*shared, language)
	}
	return overrides(web, a/b), nil
}

// Known says whether the letters of a language are known, by code; the error
// wraps ErrUnknown. An empty code stands for English.
func Known(language string) error {
	if commonIn(language) == nil {
		return fmt.Errorf("how often letters come up in %q is %w; there are %s", language, ErrUnknown, strings.Join(Languages(), ", "))
	}
	return nil
}

// overrides returns the descriptors for a stand-in that is to be so many times as
// wide and as high as the web font.
func overrides(web *Measure, size float64) *Overrides {
	percent := func(x float64) float64 { return math.Round(x*100*100) / 100 }
	return &Overrides{SizeAdjust: percent(size), Ascent: percent(web.Ascent / size), Descent: percent(web.Descent / size), LineGap: percent(web.LineGap / size)}
}

// commonIn returns how often characters come up in a language that is known.
func commonIn(language string) map[rune]float64 {
	return letters()[cmp.Or(base(language), english)]
}

// english is the language where none is given.
const english = "en"

// base returns the language of a code that may name a region, too.
func base(language string) string {
	code, _, _ := strings.Cut(strings.ToLower(language), "-")
	return code
}

// advance returns the width of a character, that of its letter where a letter with
// a mark is not known.
func (m *Measure) advance(r rune) (float64, bool) {
	if w, ok := m.advances[r]; ok && w > 0 {
		return w, true
	}
	for _, base := range norm.NFD.String(string(r)) {
		w, ok := m.advances[base]
		return w, ok && w > 0
	}
	return 0, false
}

//go:embed systems.txt
var systemText string

var systems = sync.OnceValue(func() map[string]*Measure {
	out := map[string]*Measure{}
	for line := range strings.Lines(systemText) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		f := strings.Split(strings.TrimSpace(line), "\t")
		n := numbers(f[2], 10)
		em := n[3]
		source := "as its makers published them"
		switch f[3] {
		case "published":
		case "itself":
			source = "those of its free files"
		default:
			source = "those of " + f[3] + ", which is made to the same"
		}
		m := &Measure{Name: f[1], Source: source, Ascent: n[0] / em, Descent: n[1] / em, LineGap: n[2] / em, advances: map[rune]float64{}}
		for _, run := range f[4:] {
			first, widths, _ := strings.Cut(run, " ")
			start := rune(numbers(first, 16)[0])
			for i, w := range numbers(widths, 10) {
				if w > 0 {
					m.advances[start+rune(i)] = w / em
				}
			}
		}
		out[f[0]] = m
	}
	return out
})

// numbers reads numbers of an embedded file, which is known to be well-formed.
func numbers(text string, base int) []float64 {
	var out []float64
	for word := range strings.FieldsSeq(text) {
		n, err := strconv.ParseInt(word, base, 32)
		if err != nil {
			panic("a table of fallback metrics: " + err.Error())
		}
		out = append(out, float64(n))
	}
	return out
}

//go:embed letters.txt
var letterText string

// Shares of running text that is no small letter: of every hundred characters.
const (
	spaces   = 0.165
	commas   = 0.012
	stops    = 0.012
	hyphens  = 0.003
	capitals = 0.03 // of the letters
)

// letters gives for each language how often each character comes up; they sum
// up to 1.
var letters = sync.OnceValue(func() map[string]map[rune]float64 {
	out := map[string]map[rune]float64{}
	for line := range strings.Lines(letterText) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		language, list, _ := strings.Cut(strings.TrimSpace(line), "\t")
		counts := map[rune]float64{' ': spaces, ',': commas, '.': stops, '-': hyphens}
		total := 0.0
		each := func(do func(r rune, n float64)) {
			for word := range strings.FieldsSeq(list) {
				r := []rune(word)
				do(r[0], numbers(string(r[1:]), 10)[0])
			}
		}
		each(func(_ rune, n float64) { total += n })
		rest := 1 - spaces - commas - stops - hyphens
		each(func(r rune, n float64) {
			share := rest * n / total
			counts[r] += share * (1 - capitals)
			counts[unicode.ToUpper(r)] += share * capitals
		})
		out[language] = counts
	}
	return out
})
