package layout

import (
	"slices"

	"sparecrate/font/sfnt"
)

// Close adds every glyph that the features which keep accepts (nil for all)
// can make of the glyphs in the set. Contextual rules are followed only where
// glyphs of the set can stand at each place, and the lookups they call see only
// what can stand at theirs. The error wraps sfnt.ErrDamaged or ErrWork.
func (t *Table) Close(set *Set, keep func(sfnt.Tag) bool) error {
	roots := t.roots(keep)
	for before := -1; before != set.Len() && t.work >= 0; {
		before = set.Len()
		c := &closer{t: t, set: set, seen: map[int]*Set{}, classes: map[*classes]map[int]bool{}}
		for _, i := range roots {
			c.lookup(i, nil, 0)
		}
	}
	return t.err()
}

// roots are the lookups that features call, in order.
func (t *Table) roots(keep func(sfnt.Tag) bool) []int {
	on := map[int]bool{}
	add := func(feature int, lookups []int) {
		if feature < len(t.features) && (keep == nil || keep(t.features[feature].tag)) {
			for _, l := range lookups {
				on[l] = true
			}
		}
	}
	for i, f := range t.features {
		add(i, f.lookups)
	}
	for _, v := range t.variations {
		for _, s := range v.subs {
			add(s.feature, s.lookups)
		}
	}
	var out []int
	for l := range on {
		if l < len(t.lookups) {
			out = append(out, l)
		}
	}
	slices.Sort(out)
	return out
}

type closer struct {
	t       *Table
	set     *Set
	seen    map[int]*Set // by lookup, what it was given
	size    int          // of the set when seen and classes were true
	classes map[*classes]map[int]bool
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
func (c *closer) lookup(i int, active *Set, depth int) {
	t := c.t
	if i >= len(t.lookups) || depth > maxDepth || t.work < 0 {
		return
	}
	c.fresh()
	if active == nil {
		active = c.set
	}
	done := c.seen[i]
	if done == nil {
		done = &Set{}
		c.seen[i] = done
	} else if active.within(done) {
		return
	}
	done.merge(active)
	if active == c.set {
		copied := *c.set
		active = &copied // what the lookup makes is for the next round
	}
	l := t.lookups[i]
	for _, at := range l.subtables {
		if context, chain := t.isContext(l.kind); context {
			c.context(at, chain, active, depth)
			continue
		}
		c.simple(l.kind, at, active)
	}
}

// simple closes over a subtable that substitutes without calling others.
func (c *closer) simple(kind, at int, active *Set) {
	t := c.t
	add := func(place int) { c.set.Add(GlyphID(t.u16(place))) }
	format := t.u16(at)
	covered := t.coverage(at + t.u16(at+2))
	for i, g := range covered {
		t.work--
		if t.work < 0 {
			return
		}
		if !active.Has(g) {
			continue
		}
		switch kind {
		case subSingle:
			if format == 1 {
				c.set.Add(g + GlyphID(t.u16(at+4)))
			} else if i < t.u16(at+4) {
				add(at + 6 + 2*i)
			}
		case subMultiple, subAlternate:
			if i < t.u16(at+4) {
				list := at + t.u16(at+6+2*i)
				for k := range t.count(list, list+2, 2) {
					add(list + 2 + 2*k)
				}
			}
		case subLigature:
			if i < t.u16(at+4) {
				list := at + t.u16(at+6+2*i)
				for k := range t.count(list, list+2, 2) {
					lig := list + t.u16(list+2+2*k)
					if n := t.u16(lig + 2); n > 0 && c.all(lig+4, n-1) {
						add(lig)
					}
				}
			}
		case subReverse:
			c.reverse(at, i)
		}
	}
}

// all reports whether the set has each of n glyphs listed at a place.
func (c *closer) all(at, n int) bool {
	for i := range n {
		c.t.work--
		if !c.set.Has(GlyphID(c.t.u16(at + 2*i))) {
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
		n := t.count(place, place+2, 2)
		for k := range n {
			if !c.meets(match{matchCoverage, at + t.u16(place+2+2*k), nil}) {
				return
			}
		}
		place += 2 + 2*n
	}
	if i < t.u16(place) {
		c.set.Add(GlyphID(t.u16(place + 2 + 2*i)))
	}
}

// meets reports whether any glyph of the set is what the match asks for.
func (c *closer) meets(m match) bool {
	switch m.kind {
	case matchGlyph:
		return c.set.Has(GlyphID(m.value))
	case matchClass:
		c.fresh()
		present, ok := c.classes[m.classes]
		if !ok {
			present = m.classes.present(c.set)
			c.classes[m.classes] = present
		}
		return present[m.value]
	}
	for _, g := range c.t.coverage(m.value) {
		c.t.work--
		if c.set.Has(g) {
			return true
		}
	}
	return false
}

func (c *closer) meetAll(ms []match) bool {
	for _, m := range ms {
		if !c.meets(m) {
			return false
		}
	}
	return true
}

// at returns the glyphs of from that the match lets stand at its place.
func (c *closer) at(m match, from *Set) *Set {
	out := &Set{}
	switch m.kind {
	case matchGlyph:
		if from.Has(GlyphID(m.value)) {
			out.Add(GlyphID(m.value))
		}
	case matchCoverage:
		for _, g := range c.t.coverage(m.value) {
			if from.Has(g) {
				out.Add(g)
			}
		}
	case matchClass:
		for _, g := range from.Glyphs() {
			c.t.work--
			if m.classes.of(g) == m.value {
				out.Add(g)
			}
		}
	}
	return out
}

func (c *closer) context(at int, chain bool, active *Set, depth int) {
	t := c.t
	var covered *Set
	firsts := func(coverage int, first match) *Set {
		if covered == nil { // every rule of a subtable has the same coverage
			covered = c.at(match{matchCoverage, coverage, nil}, active)
		}
		if first.kind == matchCoverage {
			return covered
		}
		return c.at(first, covered)
	}
	t.eachRule(at, chain, func(coverage int, first match) bool {
		return *firsts(coverage, first) != Set{}
	}, func(coverage int, r rule) bool {
		if len(r.records) == 0 || !c.meetAll(r.input[1:]) || !c.meetAll(r.back) || !c.meetAll(r.ahead) {
			return t.work >= 0
		}
		moved := false // an earlier lookup of this rule may have changed what stands where
		done := map[int]bool{}
		for _, rec := range r.records {
			if rec.at >= len(r.input) {
				continue
			}
			var here *Set
			switch {
			case moved || done[rec.at]:
			case rec.at == 0:
				here = firsts(coverage, r.input[0])
			default:
				here = c.at(r.input[rec.at], c.set)
			}
			done[rec.at] = true
			c.lookup(rec.lookup, here, depth+1)
			if rec.lookup < len(t.lookups) {
				kind := t.lookups[rec.lookup].kind
				moved = moved || kind != subSingle && kind != subAlternate
			}
		}
		return t.work >= 0
	})
}
