package layout

import (
	"fmt"
	"maps"
	"slices"

	"sparecrate/font/sfnt"
)

// Plan says how a table is to be written again. The zero Plan keeps everything.
type Plan struct {
	// Keep are the glyphs that stay, nil for all.
	Keep *Set
	// Number gives the new number of a glyph that stays; numbers must ascend as
	// the old ones do. Nil for the same.
	Number func(GlyphID) GlyphID
	// Feature says which features stay, nil for all.
	Feature func(sfnt.Tag) bool
	// Present says which features stay where they were even without a rule left:
	// readers take the lack of some for a reason to guess. Nil for none.
	Present func(sfnt.Tag) bool
	// Always writes the table even where nothing is left in it.
	Always bool
	// Vary settles a variation index (OpenType, "Device and VariationIndex
	// tables"): what is added to the value for good, and the index of what
	// varies still. Nil leaves all as they are.
	Vary func(outer, inner int) (add, newOuter, newInner int, varies bool)
	// Scale is what values in font units are multiplied by, 0 for 1.
	Scale int
	// Conditions settles a condition of feature variations: whether it holds
	// everywhere, nowhere, or where the new condition says. Nil leaves all.
	Conditions func(Condition) (c Condition, holds Holds)
}

// Holds says where a condition holds.
type Holds uint8

// The places where a condition may hold.
const (
	Somewhere Holds = iota
	Everywhere
	Nowhere
)

// Rewrite writes the table by the plan. Rules that can no longer match are left
// out, lookups without rules and features without lookups too; scripts and
// languages stay, as their presence alone changes how text is set. It gives nil
// where no lookup is left and no feature whose presence matters. The error wraps sfnt.ErrDamaged, ErrWork or ErrSize.
func (t *Table) Rewrite(p Plan) ([]byte, error) {
	r := &rewriter{Plan: p, t: t, classes: map[*classes]map[int]bool{}}
	r.settleVariations()
	live := map[int]bool{}
	for i := range t.lookups {
		live[i] = true
	}
	// A lookup left out may leave others without use, so it goes on until none is.
	for {
		r.number(live)
		made := r.lookups()
		if err := r.err(); err != nil {
			return nil, err
		}
		next := r.used(made)
		if len(next) == len(live) {
			if len(next) == 0 && !r.Always && !r.presence() {
				return nil, nil
			}
			return r.frame(made)
		}
		live = next
	}
}

// presence reports whether a feature stays for its presence.
func (r *rewriter) presence() bool {
	for i, f := range r.features {
		if r.wants(i) && r.present(f.tag) {
			return true
		}
	}
	return false
}

func (r *rewriter) present(tag sfnt.Tag) bool { return r.Present != nil && r.Present(tag) }

type rewriter struct {
	Plan
	t         *Table
	index     map[int]int // lookups that stay, by old number
	calls     map[int]map[int]bool
	current   int
	features  []feature
	variables []variation
	classes   map[*classes]map[int]bool
	outgrown  bool // a scaled value is more than its field holds
}

func (r *rewriter) err() error {
	if r.outgrown {
		return fmt.Errorf("table `%s`: its values are too large for a finer grid: %w", r.t.name, ErrSize)
	}
	return r.t.err()
}

// scaled returns a value in font units as it is written.
func (r *rewriter) scaled(n int) int {
	if r.Scale == 0 {
		return n
	}
	n *= r.Scale
	r.outgrown = r.outgrown || n != int(int16(n))
	return n
}

// stays reports whether a glyph stays, and its new number.
func (r *rewriter) stays(g GlyphID) (GlyphID, bool) {
	if r.Keep == nil {
		return g, true
	}
	if !r.Keep.Has(g) {
		return 0, false
	}
	if r.Number == nil {
		return g, true
	}
	return r.Number(g), true
}

func (r *rewriter) number(live map[int]bool) {
	r.index = map[int]int{}
	for _, i := range slices.Sorted(maps.Keys(live)) {
		r.index[i] = len(r.index)
	}
}

// lookups writes each lookup that stays, as packed subtables.
func (r *rewriter) lookups() map[int][]*node {
	out := map[int][]*node{}
	r.calls = map[int]map[int]bool{}
	for i := range r.index {
		r.current = i
		r.calls[i] = map[int]bool{}
		l := r.t.lookups[i]
		acts := false
		var subs []*node
		for _, at := range l.subtables {
			n, does := r.subtable(l.kind, at)
			if n != nil {
				subs = append(subs, n)
				acts = acts || does
			}
		}
		if acts {
			out[i] = subs
		}
	}
	return out
}

// used are the lookups with rules that a feature which stays calls, or another
// such lookup.
func (r *rewriter) used(made map[int][]*node) map[int]bool {
	out := map[int]bool{}
	var visit func(l int)
	visit = func(l int) {
		if made[l] == nil || out[l] {
			return
		}
		out[l] = true
		for to := range r.calls[l] {
			visit(to)
		}
	}
	for i, f := range r.features {
		if !r.wants(i) {
			continue
		}
		for _, l := range f.lookups {
			visit(l)
		}
	}
	for _, v := range r.variables {
		for _, s := range v.subs {
			if r.wants(s.feature) {
				for _, l := range s.lookups {
					visit(l)
				}
			}
		}
	}
	return out
}

func (r *rewriter) wants(feature int) bool {
	return feature < len(r.features) && (r.Feature == nil || r.Feature(r.features[feature].tag))
}

// settleVariations applies what is known of the conditions: records that never
// apply go, and one that always does becomes the usual case for what follows.
func (r *rewriter) settleVariations() {
	r.features = slices.Clone(r.t.features)
	if r.Conditions == nil {
		r.variables = r.t.variations
		return
	}
	for _, v := range r.t.variations {
		out := variation{subs: v.subs}
		never := false
		for _, c := range v.conditions {
			settled, holds := r.Conditions(c)
			never = never || holds == Nowhere
			if holds == Somewhere {
				out.conditions = append(out.conditions, settled)
			}
		}
		if never {
			continue
		}
		if len(out.conditions) > 0 {
			r.variables = append(r.variables, out)
			continue
		}
		// Records before this one name only what they change; the rest stays as it was for them.
		usual := map[int][]int{}
		for _, s := range v.subs {
			if s.feature < len(r.features) {
				usual[s.feature] = r.features[s.feature].lookups
				r.features[s.feature].lookups = s.lookups
			}
		}
		for i := range r.variables {
			for _, f := range slices.Sorted(maps.Keys(usual)) {
				if !slices.ContainsFunc(r.variables[i].subs, func(s featureSub) bool { return s.feature == f }) {
					r.variables[i].subs = append(slices.Clone(r.variables[i].subs), featureSub{f, usual[f]})
				}
			}
		}
		break
	}
}

// mapped returns new numbers of lookups, without those left out.
func (r *rewriter) mapped(lookups []int) []int {
	var out []int
	for _, l := range lookups {
		if to, ok := r.index[l]; ok {
			out = append(out, to)
		}
	}
	return out
}
