package layout

import (
	"slices"

	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
)

// Glyph is one glyph of a line that is being set. Distances are font units.
type Glyph struct {
	ID      rules.GlyphID
	Cluster int // of the text, as the caller counts it
	// Form is the feature for the shape the glyph takes within its word, such as
	// `init`, 0 for none: features limited to forms apply where it is theirs.
	Form    sfnt.Tag
	X, Y    int // shift from where it stands
	Advance int
	on      int // the place, from 1, of the glyph it is put on
	parts   int // letters in a ligature
	part    int // of a ligature, that a mark belongs to, from 1
}

// Setter applies the rules of one table to lines.
type Setter struct {
	t       *rules.Table
	defs    *rules.Definitions
	lookups []pick
	offers  []sfnt.Tag // features of the script and the language, on or off
	steps   int
}

// pick is a lookup that features switched on call, and the form it is limited
// to, 0 for none.
type pick struct {
	lookup int
	form   sfnt.Tag
}

// stepsPerGlyph bounds the work of setting a line.
const stepsPerGlyph = 1 << 16

// NewSetter picks the rules for a script and a language (OpenType tags; 0 for the
// usual one) and the features that are on. limited names the features that
// apply only to glyphs of that form.
func NewSetter(t *rules.Table, d *rules.Definitions, script, language sfnt.Tag, on func(sfnt.Tag) bool, limited func(sfnt.Tag) bool) *Setter {
	s := &Setter{t: t, defs: d}
	forms := map[int]sfnt.Tag{}
	add := func(feature int) {
		if feature >= len(t.Features) {
			return
		}
		f := t.Features[feature]
		s.offers = append(s.offers, f.Tag)
		if !on(f.Tag) {
			return
		}
		for _, l := range f.Lookups {
			if l >= len(t.Lookups) {
				continue
			}
			form := sfnt.Tag(0)
			if limited(f.Tag) {
				form = f.Tag
			}
			if old, ok := forms[l]; ok && old != form {
				form = 0
			}
			forms[l] = form
		}
	}
	for _, f := range t.SystemFeatures(script, language) {
		add(f)
	}
	for l, form := range forms {
		s.lookups = append(s.lookups, pick{l, form})
	}
	slices.SortFunc(s.lookups, func(a, b pick) int { return a.lookup - b.lookup })
	return s
}

// Offers reports whether the script and the language have a feature, switched on
// or not.
func (s *Setter) Offers(tag sfnt.Tag) bool { return slices.Contains(s.offers, tag) }

// Set applies the rules to a line, lookup by lookup.
func (s *Setter) Set(line []Glyph) []Glyph {
	b := &buffer{Setter: s, glyphs: line}
	s.steps = stepsPerGlyph * (len(line) + 1)
	for _, p := range s.lookups {
		b.form = p.form
		if !s.t.Gpos && s.t.Lookups[p.lookup].Kind == rules.SubReverse {
			for i := len(b.glyphs) - 1; i >= 0; i-- {
				b.lookup(p.lookup, i, 0)
			}
			continue
		}
		for i := 0; i < len(b.glyphs); {
			if moved := b.lookup(p.lookup, i, 0); moved > 0 {
				i += moved
			} else {
				i++
			}
			if s.steps < 0 {
				return b.glyphs
			}
		}
	}
	return b.glyphs
}

// buffer is a line while rules apply to it.
type buffer struct {
	*Setter
	glyphs []Glyph
	form   sfnt.Tag
}

// ignored reports whether a lookup looks past a glyph.
func (b *buffer) ignored(l rules.Lookup, g rules.GlyphID) bool {
	switch b.defs.Class(g) {
	case rules.ClassBase:
		return l.Flag&rules.IgnoreBases != 0
	case rules.ClassLigature:
		return l.Flag&rules.IgnoreLigatures != 0
	case rules.ClassMark:
		if l.Flag&rules.IgnoreMarks != 0 {
			return true
		}
		if l.Flag&rules.UseMarkFilterSet != 0 {
			if l.MarkSet >= len(b.defs.MarkSets) {
				return true
			}
			_, in := b.defs.Table.Covers(b.defs.MarkSets[l.MarkSet], g)
			return !in
		}
		return l.Flag>>8 != 0 && b.defs.Marks.Of(g) != l.Flag>>8
	}
	return false
}

// next returns the place of the next glyph that a lookup sees, -1 for none; step
// is 1 or -1.
func (b *buffer) next(l rules.Lookup, i, step int) int {
	for i += step; i >= 0 && i < len(b.glyphs); i += step {
		b.steps--
		if !b.ignored(l, b.glyphs[i].ID) {
			return i
		}
	}
	return -1
}

// lookup applies a lookup at one glyph and gives how many glyphs it is done
// with, 0 where nothing matched.
func (b *buffer) lookup(number, i, depth int) int {
	if b.steps--; depth > rules.MaxDepth || b.steps < 0 || number >= len(b.t.Lookups) || i >= len(b.glyphs) {
		return 0
	}
	l := b.t.Lookups[number]
	g := b.glyphs[i]
	if b.ignored(l, g.ID) || depth == 0 && b.form != 0 && g.Form != b.form {
		return 0
	}
	for _, at := range l.Subtables {
		var done int
		if context, chain := b.t.IsContext(l.Kind); context {
			done = b.context(l, at, i, chain, depth)
		} else if b.t.Gpos {
			done = b.position(l, at, i)
		} else {
			done = b.substitute(l, at, i)
		}
		if done > 0 {
			return done
		}
	}
	return 0
}

// matched returns the places of the glyphs that fit a list of matches going one
// way from i, false where one does not.
func (b *buffer) matched(l rules.Lookup, i, step int, ms []rules.Match) ([]int, bool) {
	out := make([]int, 0, len(ms))
	for _, m := range ms {
		if i = b.next(l, i, step); i < 0 || !b.t.Fits(m, b.glyphs[i].ID) {
			return nil, false
		}
		out = append(out, i)
	}
	return out, true
}

func (b *buffer) context(l rules.Lookup, at, i int, chain bool, depth int) (done int) {
	g := b.glyphs[i].ID
	b.t.EachRule(at, chain, func(coverage int, first rules.Match) bool {
		_, ok := b.t.Covers(coverage, g)
		return ok && b.t.Fits(first, g)
	}, func(_ int, r rules.Rule) bool {
		rest, ok := b.matched(l, i, 1, r.Input[1:])
		if !ok {
			return true
		}
		places := append([]int{i}, rest...)
		if _, ok = b.matched(l, i, -1, r.Back); !ok {
			return true
		}
		if _, ok = b.matched(l, places[len(places)-1], 1, r.Ahead); !ok {
			return true
		}
		end := places[len(places)-1] + 1
		for _, rec := range r.Records {
			if rec.At >= len(places) {
				continue
			}
			before := len(b.glyphs)
			b.lookup(rec.Lookup, places[rec.At], depth+1)
			grown := len(b.glyphs) - before
			end += grown
			for k := rec.At + 1; k < len(places) && grown != 0; k++ {
				places[k] = max(places[rec.At]+1, places[k]+grown)
			}
		}
		done = max(1, end-i)
		return false
	})
	return done
}

func (b *buffer) substitute(l rules.Lookup, at, i int) int {
	t := b.t
	n, ok := t.Covers(at+t.U16(at+2), b.glyphs[i].ID)
	if !ok {
		return 0
	}
	switch l.Kind {
	case rules.SubSingle:
		if t.U16(at) == 1 {
			b.glyphs[i].ID += rules.GlyphID(t.U16(at + 4))
		} else if n < t.U16(at+4) {
			b.glyphs[i].ID = rules.GlyphID(t.U16(at + 6 + 2*n))
		}
		return 1
	case rules.SubMultiple:
		if n >= t.U16(at+4) {
			return 0
		}
		list := at + t.U16(at+6+2*n)
		var made []Glyph
		for k := range t.Count(list, list+2, 2) {
			one := b.glyphs[i]
			one.ID = rules.GlyphID(t.U16(list + 2 + 2*k))
			made = append(made, one)
		}
		const longest = 1 << 16
		if len(b.glyphs)+len(made) > longest {
			return 0
		}
		b.glyphs = slices.Replace(b.glyphs, i, i+1, made...)
		return max(len(made), 1)
	case rules.SubAlternate:
		if n < t.U16(at+4) {
			if list := at + t.U16(at+6+2*n); t.U16(list) > 0 {
				b.glyphs[i].ID = rules.GlyphID(t.U16(list + 2))
			}
		}
		return 1
	case rules.SubLigature:
		if n >= t.U16(at+4) {
			return 0
		}
		list := at + t.U16(at+6+2*n)
		for k := range t.Count(list, list+2, 2) {
			if b.ligate(l, list+t.U16(list+2+2*k), i) {
				return 1
			}
		}
	case rules.SubReverse:
		return b.reverse(l, at, i, n)
	}
	return 0
}

// ligate makes a ligature of the glyph at i and those behind it; marks between
// stay behind it and remember their letter.
func (b *buffer) ligate(l rules.Lookup, at, i int) bool {
	t := b.t
	n := t.U16(at + 2)
	if n == 0 {
		return false
	}
	var ms []rules.Match
	for k := range n - 1 {
		ms = append(ms, rules.Match{Kind: rules.MatchGlyph, Value: t.U16(at + 4 + 2*k)})
	}
	places, ok := b.matched(l, i, 1, ms)
	if !ok || t.Bad {
		return false
	}
	b.glyphs[i].ID = rules.GlyphID(t.U16(at))
	b.glyphs[i].parts = n
	part := 1
	end := i
	if n > 1 {
		end = places[n-2]
	}
	for k := i + 1; k < len(b.glyphs); k++ {
		if part < n && k == places[part-1] {
			part++
			continue
		}
		if k > end && b.defs.Class(b.glyphs[k].ID) != rules.ClassMark {
			break
		}
		b.glyphs[k].part = part
	}
	for k := n - 2; k >= 0; k-- {
		b.glyphs = slices.Delete(b.glyphs, places[k], places[k]+1)
	}
	return true
}

func (b *buffer) reverse(l rules.Lookup, at, i, n int) int {
	t := b.t
	place := at + 4
	for _, step := range []int{-1, 1} {
		count := t.Count(place, place+2, 2)
		var ms []rules.Match
		for k := range count {
			ms = append(ms, rules.Match{Kind: rules.MatchCoverage, Value: at + t.U16(place+2+2*k)})
		}
		if _, ok := b.matched(l, i, step, ms); !ok {
			return 0
		}
		place += 2 + 2*count
	}
	if n < t.U16(place) {
		b.glyphs[i].ID = rules.GlyphID(t.U16(place + 2 + 2*n))
	}
	return 1
}
