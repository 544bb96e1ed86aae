// Package subset makes a smaller face of the same design: the glyphs of some
// characters, and every rule, metric, color and variation they need, after the
// OpenType specification 1.9.1.
//
// What stays behaves as before: glyphs that substitution can make of the
// characters stay with them, positioning keeps its order, hints keep their
// programs, and a variable font stays variable. Glyphs are renumbered. Tables
// that only other systems than OpenType's read (morx, kerx, Graphite), old
// device metrics, signatures and MATH go; Result says which.
//
// Face is pure, gives the same bytes for the same input, and its result
// trimmed again in the same way is the same.
package subset

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// What a caller may want to tell apart.
var (
	// ErrNothing says that no character asked for is in the font.
	ErrNothing = errors.New("nothing of what is to be kept is in this font")
)

// Options say what to keep.
type Options struct {
	Characters coverage.Characters
	// Features are the layout features that stay, nil for all. Those that
	// scripts cannot be written without stay in any case.
	Features []string
}

// Basic are the features that browsers apply without being asked.
var Basic = []string{"calt", "clig", "curs", "dist", "kern", "liga", "rclt", "frac", "numr", "dnom", "vert", "vrt2", "vkrn", "chws", "vchw"}

// needed are the features that scripts cannot be written without.
var needed = []string{
	"ccmp", "locl", "mark", "mkmk", "rlig", "rvrn", "ltra", "ltrm", "rtla", "rtlm",
	"isol", "fina", "fin2", "fin3", "medi", "med2", "init", "stch", "mset", "cswh",
	"nukt", "akhn", "rphf", "rkrf", "pref", "blwf", "abvf", "half", "pstf", "vatu", "cjct", "cfar",
	"pres", "abvs", "blws", "psts", "haln", "abvm", "blwm", "ljmo", "vjmo", "tjmo", "opbd", "lfbd", "rtbd", "valt", "dtls",
}

// Result says what became of the face.
type Result struct {
	Glyphs, GlyphsBefore         int
	Characters, CharactersBefore int
	Dropped                      []string // tables left out, by tag
}

// Face trims a face. The face given is not changed. The error wraps ErrNothing,
// sfnt.ErrDamaged, or what is wrong with a table, and is a sentence for people.
func Face(f *sfnt.Font, o Options) (*sfnt.Font, *Result, error) {
	t := &trimmer{font: f, options: o, result: &Result{}}
	for _, step := range []func() error{t.open, t.close, t.number} {
		if err := step(); err != nil {
			return nil, nil, err
		}
	}
	if len(t.glyphs) == t.before && o.Features == nil && t.result.Characters == t.result.CharactersBefore {
		// All of it is kept: nothing is taken apart.
		return &sfnt.Font{Flavor: f.Flavor, Tables: slices.Clone(f.Tables)}, t.result, nil
	}
	out, err := t.tables()
	if err != nil {
		return nil, nil, err
	}
	return out, t.result, nil
}

var tagInit = sfnt.MakeTag("init")

// Missing returns the characters of a set that the font has no glyph for.
func Missing(f *sfnt.Font, want coverage.Characters) (coverage.Characters, error) {
	have, err := Has(f)
	return want.Without(have), err
}

// Has returns the characters a font has glyphs for.
func Has(f *sfnt.Font) (coverage.Characters, error) {
	runs, err := table.AppendCoverage(nil, f.Table(table.TagCmap))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	return coverage.NewCharacters(runs), nil
}

// trimmer trims one face.
type trimmer struct {
	font    *sfnt.Font
	options Options
	result  *Result

	before    int // glyphs
	symbol    bool
	pairs     []table.Mapping // characters that stay, by old glyphs
	selectors []table.Selector

	gsub, gpos  *layout.Table
	definitions *layout.Definitions
	outlines    outlines

	keep   layout.Set
	glyphs []table.GlyphID // that stay, by old number, ascending
	to     []table.GlyphID // new numbers, by old; of every number there can be
}

func damaged(what string, err error) error {
	return fmt.Errorf("%w: %s: %w", sfnt.ErrDamaged, what, err)
}

// open reads the tables that say which glyphs there are.
func (t *trimmer) open() error {
	maxp, err := table.ParseMaxp(t.font.Table(table.TagMaxp))
	if err != nil {
		return damaged("the number of glyphs cannot be read", err)
	}
	t.before = int(maxp.Glyphs)
	if t.before == 0 {
		return fmt.Errorf("%w: it has no glyphs", sfnt.ErrDamaged)
	}
	if t.outlines, err = openOutlines(t.font, t.before); err != nil {
		return err
	}
	for _, one := range []struct {
		tag sfnt.Tag
		to  **layout.Table
	}{{table.TagGSUB, &t.gsub}, {table.TagGPOS, &t.gpos}} {
		if b := t.font.Table(one.tag); len(b) > 0 {
			if *one.to, err = layout.Open(b, one.tag); err != nil {
				return damaged("its layout rules cannot be read", err)
			}
		}
	}
	if t.definitions, err = layout.OpenDefinitions(t.font.Table(layout.TagGDEF)); err != nil {
		// Readers do without classes they cannot read.
		t.definitions, _ = layout.OpenDefinitions(nil)
		t.result.Dropped = append(t.result.Dropped, layout.TagGDEF.String())
	}
	return t.choose()
}

// choose finds the characters that stay.
func (t *trimmer) choose() error {
	b := t.font.Table(table.TagCmap)
	runs, err := table.ParseCmap(b)
	if err != nil {
		return damaged("the character map cannot be read", err)
	}
	t.symbol = table.SymbolCmap(b)
	asked := 0
	with := t.options.Characters.Plus(companions(t.options.Characters))
	if t.gsub == nil || !t.gsub.Has(tagInit) {
		with = with.Plus(presentationForms(t.options.Characters))
	}
	for _, run := range runs {
		t.result.CharactersBefore += run.Count
		for i := range run.Count {
			r, g := run.First+rune(i), run.Glyph+table.GlyphID(i)
			if int(g) >= t.before {
				continue
			}
			wanted := t.wants(r)
			if wanted && r != ' ' {
				asked++
			}
			if wanted || with.Has(r) {
				t.pairs = append(t.pairs, table.Mapping{Rune: r, Glyph: g})
			}
		}
	}
	if asked == 0 {
		return fmt.Errorf("%w: missing %s", ErrNothing, Listed(t.options.Characters))
	}
	t.result.Characters = len(t.pairs)
	for _, s := range table.ParseSelectors(b) {
		one := table.Selector{Selector: s.Selector}
		for _, run := range s.Default {
			for i := range run.Count {
				if r := run.First + rune(i); t.mapped(r) {
					one.Default = append(one.Default, table.Run{First: r, Count: 1})
				}
			}
		}
		one.Default = joined(one.Default)
		for _, m := range s.Special {
			if t.wants(m.Rune) && int(m.Glyph) < t.before {
				one.Special = append(one.Special, m)
			}
		}
		if len(one.Default)+len(one.Special) > 0 {
			t.selectors = append(t.selectors, one)
		}
	}
	return nil
}

// joined joins runs that touch, up to the 256 characters a range can hold.
func joined(runs []table.Run) []table.Run {
	var out []table.Run
	for _, r := range runs {
		if n := len(out); n > 0 && out[n-1].First+rune(out[n-1].Count) == r.First && out[n-1].Count < 256 {
			out[n-1].Count++
			continue
		}
		out = append(out, r)
	}
	return out
}

// wants reports whether a character stays. Fonts for symbols hold characters of
// one byte in the private area.
func (t *trimmer) wants(r rune) bool {
	return t.options.Characters.Has(r) || t.symbol && r>>8 == 0xF0 && t.options.Characters.Has(r&0xFF)
}

func (t *trimmer) mapped(r rune) bool {
	_, ok := slices.BinarySearchFunc(t.pairs, r, func(m table.Mapping, r rune) int { return int(m.Rune - r) })
	return ok
}

// feature reports whether a layout feature stays.
func (t *trimmer) feature(tag sfnt.Tag) bool {
	name := tag.String()
	return t.options.Features == nil || slices.Contains(t.options.Features, name) || slices.Contains(needed, name)
}

// close adds every glyph that those of the characters need.
func (t *trimmer) close() error {
	t.keep.Add(0)
	for _, p := range t.pairs {
		t.keep.Add(p.Glyph)
	}
	for _, s := range t.selectors {
		for _, m := range s.Special {
			t.keep.Add(m.Glyph)
		}
	}
	if t.options.Characters.Len() >= coverage.All.Len() {
		for g := range t.before {
			t.keep.Add(table.GlyphID(g))
		}
		return nil
	}
	if t.gsub != nil {
		if err := layout.Close(t.gsub, &t.keep, t.feature); err != nil {
			return damaged("its layout rules cannot be followed", err)
		}
	}
	if err := t.closeColors(); err != nil {
		return err
	}
	// Parts of glyphs are drawn, not set: no rule applies to them, so they come last.
	return t.outlines.close(&t.keep)
}

// number gives the glyphs that stay new numbers in the old order.
func (t *trimmer) number() error {
	t.to = make([]table.GlyphID, math.MaxUint16+1) // damaged tables may name glyphs that are not there
	for _, g := range t.keep.Glyphs() {
		if int(g) >= t.before {
			break // rules may speak of glyphs that are not there
		}
		t.to[g] = table.GlyphID(len(t.glyphs))
		t.glyphs = append(t.glyphs, g)
	}
	clear(t.keep[:])
	for _, g := range t.glyphs {
		t.keep.Add(g)
	}
	t.result.Glyphs, t.result.GlyphsBefore = len(t.glyphs), t.before
	return nil
}

func (t *trimmer) plan() layout.Plan {
	return layout.Plan{Keep: &t.keep, Number: func(g table.GlyphID) table.GlyphID { return t.to[g] }, Feature: t.feature}
}

// Listed writes characters for people: each with its code point, a dozen at
// most.
func Listed(c coverage.Characters) string {
	const most = 12
	var words []string
	for _, run := range c {
		for i := range run.Count {
			if len(words) == most {
				return fmt.Sprintf("%s and %d more", strings.Join(words, ", "), c.Len()-most)
			}
			r := run.First + rune(i)
			word := fmt.Sprintf("U+%04X", r)
			if printable(r) {
				word = fmt.Sprintf("%c (%s)", r, word)
			}
			words = append(words, word)
		}
	}
	return strings.Join(words, ", ")
}
