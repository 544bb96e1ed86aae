package layout

import (
	"slices"

	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
)

// Close adds every glyph that the features which keep accepts (nil for all)
// can make of the glyphs in the set. Contextual rules are followed only where
// glyphs of the set can stand at each place, and the lookups they call see only
// what can stand at theirs. The error wraps sfnt.ErrDamaged or ErrWork.
func Close(t *rules.Table, set *rules.Set, keep func(sfnt.Tag) bool) error {
	roots := roots(t, keep)
	for before := -1; before != set.Len() && t.Work >= 0; {
		before = set.Len()
		c := &closer{t: t, set: set, seen: map[int]*rules.Set{}, classes: map[*rules.Classes]map[int]bool{}}
		for _, i := range roots {
			c.lookup(i, nil, 0)
		}
	}
	return t.Err()
}

// roots are the lookups that features call, in order.
func roots(t *rules.Table, keep func(sfnt.Tag) bool) []int {
	on := map[int]bool{}
	add := func(feature int, lookups []int) {
		if feature < len(t.Features) && (keep == nil || keep(t.Features[feature].Tag)) {
			for _, l := range lookups {
				on[l] = true
			}
		}
	}
	for i, f := range t.Features {
		add(i, f.Lookups)
	}
	for _, v := range t.Variations {
		for _, s := range v.Subs {
			add(s.Feature, s.Lookups)
		}
	}
	var out []int
	for l := range on {
		if l < len(t.Lookups) {
			out = append(out, l)
		}
	}
	slices.Sort(out)
	return out
}

type closer struct {
	t       *rules.Table
	set     *rules.Set
	seen    map[int]*rules.Set // by lookup, what it was given
	size    int                // of the set when seen and classes were true
	classes map[*rules.Classes]map[int]bool
}

// fresh forgets what was true of a smaller set.
func (c *closer) fresh() {
	if n := c.set.Len(); n != c.size {
		c.size = n
		clear(c.seen)
		clear(c.classes)
	}
}

// lookup closes over one lookup for the active glyphs, nil for all of the set.
func (c *closer) lookup(i int, active *rules.Set, depth int) {
	t := c.t
	if i >= len(t.Lookups) || depth > rules.MaxDepth || t.Work < 0 {
		return
	}
	c.fresh()
	if active == nil {
		active = c.set
	}
	done := c.seen[i]
	if done == nil {
		done = &rules.Set{}
		c.seen[i] = done
	} else if active.Within(done) {
		return
	}
	done.Merge(active)
	if active == c.set {
		copied := *c.set
		active = &copied // what the lookup makes is for the next round
	}
	l := t.Lookups[i]
	for _, at := range l.Subtables {
		if context, chain := t.IsContext(l.Kind); context {
			c.context(at, chain, active, depth)
			continue
		}
		c.simple(l.Kind, at, active)
	}
}

// simple closes over a subtable that substitutes without calling others.
func (c *closer) simple(kind, at int, active *rules.Set) {
	t := c.t
	add := func(place int) { c.set.Add(rules.GlyphID(t.U16(place))) }
	format := t.U16(at)
	covered := t.Coverage(at + t.U16(at+2))
	for i, g := range covered {
		t.Work--
		if t.Work < 0 {
			return
		}
		if !active.Has(g) {
			continue
		}
		switch kind {
		case rules.SubSingle:
			if format == 1 {
				c.set.Add(g + rules.GlyphID(t.U16(at+4)))
			} else if i < t.U16(at+4) {
				add(at + 6 + 2*i)
			}
		case rules.SubMultiple, rules.SubAlternate:
			if i < t.U16(at+4) {
				list := at + t.U16(at+6+2*i)
				for k := range t.Count(list, list+2, 2) {
					add(list + 2 + 2*k)
				}
			}
		case rules.SubLigature:
			if i < t.U16(at+4) {
				list := at + t.U16(at+6+2*i)
				for k := range t.Count(list, list+2, 2) {
					lig := list + t.U16(list+2+2*k)
					if n := t.U16(lig + 2); n > 0 && c.all(lig+4, n-1) {
						add(lig)
					}
				}
			}
		case rules.SubReverse:
			c.reverse(at, i)
		}
	}
}

// all reports whether the set has each of n glyphs listed at a place.
func (c *closer) all(at, n int) bool {
	for i := range n {
		c.t.Work--
		if !c.set.Has(rules.GlyphID(c.t.U16(at + 2*i))) {
			return false
		}
	}
	return true
}

// reverse adds what a reverse chaining substitution makes of covered glyph i.
func (c *closer) reverse(at, i int) {
	t := c.t
	place := at + 4
	for range 2 {
		n := t.Count(place, place+2, 2)
		for k := range n {
			if !c.meets(rules.Match{Kind: rules.MatchCoverage, Value: at + t.U16(place+2+2*k)}) {
				return
			}
		}
		place += 2 + 2*n
	}
	if i < t.U16(place) {
		c.set.Add(rules.GlyphID(t.U16(place + 2 + 2*i)))
	}
}

// meets reports whether any glyph of the set is what the match asks for.
func (c *closer) meets(m rules.Match) bool {
	switch m.Kind {
	case rules.MatchGlyph:
		return c.set.Has(rules.GlyphID(m.Value))
	case rules.MatchClass:
		c.fresh()
		present, ok := c.classes[m.Classes]
		if !ok {
			present = m.Classes.Present(c.set)
			c.classes[m.Classes] = present
		}
		return present[m.Value]
	}
	for _, g := range c.t.Coverage(m.Value) {
		c.t.Work--
		if c.set.Has(g) {
			return true
		}
	}
	return false
}

func (c *closer) meetAll(ms []rules.Match) bool {
	for _, m := range ms {
		if !c.meets(m) {
			return false
		}
	}
	return true
}

// at returns the glyphs of from that the match lets stand at its place.
func (c *closer) at(m rules.Match, from *rules.Set) *rules.Set {
	out := &rules.Set{}
	switch m.Kind {
	case rules.MatchGlyph:
		if from.Has(rules.GlyphID(m.Value)) {
			out.Add(rules.GlyphID(m.Value))
		}
	case rules.MatchCoverage:
		for _, g := range c.t.Coverage(m.Value) {
			if from.Has(g) {
				out.Add(g)
			}
		}
	case rules.MatchClass:
		for _, g := range from.Glyphs() {
			c.t.Work--
			if m.Classes.Of(g) == m.Value {
				out.Add(g)
			}
		}
	}
	return out
}

func (c *closer) context(at int, chain bool, active *rules.Set, depth int) {
	t := c.t
	var covered *rules.Set
	firsts := func(coverage int, first rules.Match) *rules.Set {
		if covered == nil { // every rule of a subtable has the same coverage
			covered = c.at(rules.Match{Kind: rules.MatchCoverage, Value: coverage}, active)
		}
		if first.Kind == rules.MatchCoverage {
			return covered
		}
		return c.at(first, covered)
	}
	t.EachRule(at, chain, func(coverage int, first rules.Match) bool {
		return *firsts(coverage, first) != rules.Set{}
	}, func(coverage int, r rules.Rule) bool {
		if len(r.Records) == 0 || !c.meetAll(r.Input[1:]) || !c.meetAll(r.Back) || !c.meetAll(r.Ahead) {
			return t.Work >= 0
		}
		moved := false // an earlier lookup of this rule may have changed what stands where
		done := map[int]bool{}
		for _, rec := range r.Records {
			if rec.At >= len(r.Input) {
				continue
			}
			var here *rules.Set
			switch {
			case moved || done[rec.At]:
			case rec.At == 0:
				here = firsts(coverage, r.Input[0])
			default:
				here = c.at(r.Input[rec.At], c.set)
			}
			done[rec.At] = true
			c.lookup(rec.Lookup, here, depth+1)
			if rec.Lookup < len(t.Lookups) {
				kind := t.Lookups[rec.Lookup].Kind
				moved = moved || kind != rules.SubSingle && kind != rules.SubAlternate
			}
		}
		return t.Work >= 0
	})
}
