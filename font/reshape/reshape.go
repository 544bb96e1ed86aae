// Package reshape puts the verbs on a face together: a Recipe says what is
// wanted, and Apply does it in the one order that works. A recipe is what
// commands, the service and packs hand on, and what a made file is kept under.
package reshape

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/instance"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/font/unitscale"
)

// ErrRecipe says that a recipe cannot be read; the message says why.
var ErrRecipe = errors.New("this cannot be made")

// Recipe says what is to become of a face. Its zero value leaves it as it is.
type Recipe struct {
	Instance   *Instance `json:"instance,omitempty"`
	Subset     *Subset   `json:"subset,omitempty"`
	ToTrueType bool      `json:"toTrueType,omitempty"` // PostScript outlines become TrueType ones
	Rename     *Rename   `json:"rename,omitempty"`
	// Fine has outlines that are drawn anew rounded on a finer grid (package
	// grid): they come out truer and larger. Without Pin or Retype it does nothing.
	// Whole leaves them on the font's own grid. With neither, a face is pinned on a
	// finer grid where rounding would be seen.
	Fine  bool `json:"fine,omitempty"`
	Whole bool `json:"whole,omitempty"`
	// Split has one file for each of these named sets of characters (see Parts);
	// Part says which of them is made.
	Split []string `json:"split,omitempty"`
	Part  string   `json:"part,omitempty"`
	// Fallback asks for rules for local fonts in the stylesheet. Nothing becomes of
	// the face by it.
	Fallback *Fallback `json:"fallback,omitempty"`
}

// Fallback says which local fonts stand in for a face; see package fallback.
type Fallback struct {
	Against  []string `json:"against"`            // system fonts
	Language string   `json:"language,omitempty"` // of the text; English when it is empty
	Groups   int      `json:"groups,omitempty"`   // of letters that have a size of their own
}

// Instance fixes or limits axes; see package instance. Values are "700" or "400:700".
type Instance struct {
	At    map[string]string `json:"at,omitempty"`
	Named string            `json:"named,omitempty"` // the name of a named instance
	Rest  bool              `json:"rest,omitempty"`  // pin all other axes to their defaults
}

// Subset keeps characters; see package subset.
type Subset struct {
	Keep   []string `json:"keep,omitempty"`   // named sets of characters
	Text   string   `json:"text,omitempty"`   // every character of it
	Ranges []string `json:"ranges,omitempty"` // U+20AC, U+0400-045F
	// Features is empty for all, "basic" for those browsers apply unasked, or a
	// list of tags.
	Features []string `json:"features,omitempty"`
}

// Rename gives other names; see package rename.
type Rename struct {
	Family     string `json:"family,omitempty"`
	Style      string `json:"style,omitempty"`
	Alone      bool   `json:"alone,omitempty"`
	PostScript string `json:"postScript,omitempty"`
}

// Outcome says what became of the face.
type Outcome struct {
	Subset   *subset.Result   `json:"subset,omitempty"`
	Instance *instance.Result `json:"instance,omitempty"`
	Names    *rename.Names    `json:"names,omitempty"`
	// Missing are characters of the text that the font lacks.
	Missing []rune `json:"-"`
}

// Empty reports whether a recipe asks for nothing.
func (r *Recipe) Empty() bool {
	return r.Plain() && (r == nil || r.Fallback == nil)
}

// Plain reports whether the face stays as it is.
func (r *Recipe) Plain() bool {
	return r == nil || r.Instance == nil && r.Subset == nil && !r.ToTrueType && r.Rename == nil && len(r.Split) == 0
}

// Made is the recipe without what does not change the face.
func (r *Recipe) Made() *Recipe {
	out := *r
	out.Fallback = nil
	return &out
}

// Changes are the kinds of change a recipe makes, as licenses speak of them:
// subset, outlines, name.
func (r *Recipe) Changes() []string {
	var out []string
	if r.Subset != nil || len(r.Split) > 0 {
		out = append(out, "subset")
	}
	if r.Instance != nil || r.ToTrueType {
		out = append(out, "outlines")
	}
	if r.Rename != nil {
		out = append(out, "name")
	}
	return out
}

// Key is the same for recipes that make the same.
func (r *Recipe) Key() string {
	b, err := json.Marshal(r)
	if err != nil {
		return "" // strings and lists always become JSON
	}
	return string(b)
}

// Words says what a recipe does, for lists and logs: "pinned at wght 700, trimmed
// to latin".
func (r *Recipe) Words() string {
	var words []string
	if p := r.Instance; p != nil {
		var at []string
		if p.Named != "" {
			at = append(at, p.Named)
		}
		for _, tag := range sortedTags(p.At) {
			at = append(at, tag+" "+p.At[tag])
		}
		words = append(words, "fixed at "+cmp.Or(strings.Join(at, ", "), "its defaults"))
	}
	if t := r.Subset; t != nil {
		parts := slices.Clone(t.Keep)
		if t.Text != "" {
			parts = append(parts, "a text")
		}
		words = append(words, "subset to "+strings.Join(append(parts, t.Ranges...), ", "))
	}
	if r.ToTrueType {
		words = append(words, "converted to TrueType outlines")
	}
	switch drawn := r.Instance != nil || r.ToTrueType; {
	case drawn && r.Fine:
		words = append(words, "on a fine grid")
	case drawn && r.Whole:
		words = append(words, "on its own grid")
	}
	if n := r.Rename; n != nil {
		words = append(words, "renamed "+strings.TrimSpace(n.Family+" "+n.Style))
	}
	switch {
	case r.Part != "":
		words = append(words, "the part "+r.Part)
	case len(r.Split) > 0:
		words = append(words, "split into "+strings.Join(r.Split, ", "))
	}
	if r.Fallback != nil {
		words = append(words, "fallback metrics for "+strings.Join(r.Fallback.Against, ", "))
	}
	return strings.Join(words, "; ")
}

func sortedTags(m map[string]string) []string {
	out := make([]string, 0, len(m))
	for tag := range m {
		out = append(out, tag)
	}
	slices.Sort(out)
	return out
}

// Characters returns the set a trim keeps. The error wraps ErrRecipe.
func (t *Subset) Characters() (coverage.Characters, error) {
	out := coverage.OfText(t.Text)
	for _, word := range t.Keep {
		c, err := coverage.Named(word)
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrRecipe, err)
		}
		out = out.Plus(c)
	}
	for _, word := range t.Ranges {
		c, err := coverage.ParseRange(word)
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrRecipe, err)
		}
		out = out.Plus(c)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%w: say what to keep: named sets, a text, or ranges of characters", ErrRecipe)
	}
	return out, nil
}

// options returns what package trim takes.
func (t *Subset) options() (subset.Options, error) {
	c, err := t.Characters()
	o := subset.Options{Characters: c}
	for _, f := range t.Features {
		switch {
		case f == "keep" && len(t.Features) == 1:
		case f == "basic":
			o.Features = append(o.Features, subset.Basic...)
		case len(f) != 4:
			return o, fmt.Errorf("%w: %q is no layout feature; they have four letters, like liga", ErrRecipe, f)
		default:
			o.Features = append(o.Features, f)
		}
	}
	return o, err
}

// options returns what package pin takes.
func (p *Instance) options() (instance.Options, error) {
	o := instance.Options{Instance: p.Named, Rest: p.Rest, At: map[string]instance.Range{}}
	for tag, value := range p.At {
		low, high, ranged := strings.Cut(value, ":")
		if !ranged {
			high = low
		}
		a, err := strconv.ParseFloat(strings.TrimSpace(low), 64)
		b, err2 := strconv.ParseFloat(strings.TrimSpace(high), 64)
		if err != nil || err2 != nil {
			return o, fmt.Errorf("%w: %q is no place on the axis `%s`; write a number, or two with a colon between", ErrRecipe, value, tag)
		}
		o.At[tag] = instance.Range{Min: a, Max: b}
	}
	return o, nil
}

// Apply makes a face by the recipe: pinned, then trimmed (to one part, where it
// is split), retyped and renamed.
// The face given is not changed. The error wraps that of the verb that failed,
// or ErrRecipe, and is a sentence for people.
func (r *Recipe) Apply(f *sfnt.Font) (*sfnt.Font, *Outcome, error) {
	out := &Outcome{}
	if r.Instance != nil {
		o, err := r.Instance.options()
		if err != nil {
			return nil, nil, err
		}
		o.Fine = r.Fine || !r.Whole && rounds(f, o)
		if o.Fine && f.Has(table.TagGlyf) {
			pinned := f
			f, o.Step, err = finer(f)
			if errors.Is(err, unitscale.ErrUnits) && !r.Fine {
				f, err = pinned, nil // it is as true as this font can be
			}
			if err != nil {
				return nil, nil, err
			}
		}
		if f, out.Instance, err = instance.Face(f, o); err != nil {
			return nil, nil, err
		}
	}
	if r.Subset != nil {
		o, err := r.Subset.options()
		if err != nil {
			return nil, nil, err
		}
		missing, err := subset.Missing(f, coverage.OfText(r.Subset.Text).Without(coverage.OfText(" \u00a0\u200c\u200d\ufe0e\ufe0f")))
		if err != nil {
			return nil, nil, err
		}
		for _, run := range missing {
			for i := range run.Count {
				out.Missing = append(out.Missing, run.First+rune(i))
			}
		}
		if f, out.Subset, err = subset.Face(f, o); err != nil {
			return nil, nil, err
		}
	}
	if len(r.Split) > 0 {
		var err error
		if f, out.Subset, err = r.part(f); err != nil {
			return nil, nil, err
		}
	}
	if r.ToTrueType && !f.Has(table.TagGlyf) {
		times := 1
		if r.Fine {
			times = factor(f) // 1 where it is fine already
		}
		retyped, err := totruetype.Finer(f, times)
		for errors.Is(err, unitscale.ErrSize) && times > 1 {
			times /= 2
			retyped, err = totruetype.Finer(f, times)
		}
		if err != nil {
			return nil, nil, err
		}
		f = retyped
	}
	if r.Rename != nil {
		var err error
		if f, out.Names, err = rename.Face(f, rename.Options(*r.Rename)); err != nil {
			return nil, nil, err
		}
	}
	return f, out, nil
}

// factor is how many times finer the grid of a face has to be.
func factor(f *sfnt.Font) int {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return 1 // what needs the header says so
	}
	return unitscale.Factor(int(head.UnitsPerEm))
}

// coarse is the number of units in an em from which on rounding to whole units is
// not seen.
const coarse = 2500

// rounds reports whether pinning would round outlines so that it is seen: those
// that end between whole units, on a coarse grid.
func rounds(f *sfnt.Font, o instance.Options) bool {
	head, err := table.ParseHead(f.Table(table.TagHead))
	return err == nil && head.UnitsPerEm < coarse && !instance.Exact(f, o)
}

// finer puts a face on a grid as fine as it takes, and says how many times finer.
func finer(f *sfnt.Font) (*sfnt.Font, int, error) {
	for times := factor(f); times > 1; times /= 2 {
		out, err := unitscale.Finer(f, times)
		if !errors.Is(err, unitscale.ErrSize) {
			return out, times, err
		}
	}
	return f, 1, nil
}
