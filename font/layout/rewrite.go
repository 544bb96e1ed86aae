package layout

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
)

// ErrSize says that rules cannot be written within the reach of 16-bit offsets.
var ErrSize = errors.New("the layout rules are too large to be written")

// Plan says how a table is to be written again. The zero Plan keeps everything.
type Plan struct {
	// Keep are the glyphs that stay, nil for all.
	Keep *rules.Set
	// Number gives the new number of a glyph that stays; numbers must ascend as
	// the old ones do. Nil for the same.
	Number func(rules.GlyphID) rules.GlyphID
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
	Conditions func(rules.Condition) (c rules.Condition, holds Holds)
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
func Rewrite(t *rules.Table, p Plan) ([]byte, error) {
	r := &rewriter{Plan: p, t: t, classes: map[*rules.Classes]map[int]bool{}}
	r.settleVariations()
	live := map[int]bool{}
	for i := range t.Lookups {
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
		if r.wants(i) && r.present(f.Tag) {
			return true
		}
	}
	return false
}

func (r *rewriter) present(tag sfnt.Tag) bool { return r.Present != nil && r.Present(tag) }

type rewriter struct {
	Plan
	t         *rules.Table
	index     map[int]int // lookups that stay, by old number
	calls     map[int]map[int]bool
	current   int
	features  []rules.Feature
	variables []rules.Variation
	classes   map[*rules.Classes]map[int]bool
	outgrown  bool // a scaled value is more than its field holds
}

func (r *rewriter) err() error {
	if r.outgrown {
		return fmt.Errorf("table `%s`: its values are too large for a finer grid: %w", r.t.Name, ErrSize)
	}
	return r.t.Err()
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
func (r *rewriter) stays(g rules.GlyphID) (rules.GlyphID, bool) {
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
func (r *rewriter) lookups() map[int][]*offsets.Node {
	out := map[int][]*offsets.Node{}
	r.calls = map[int]map[int]bool{}
	for i := range r.index {
		r.current = i
		r.calls[i] = map[int]bool{}
		l := r.t.Lookups[i]
		acts := false
		var subs []*offsets.Node
		for _, at := range l.Subtables {
			n, does := r.subtable(l.Kind, at)
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
func (r *rewriter) used(made map[int][]*offsets.Node) map[int]bool {
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
		for _, l := range f.Lookups {
			visit(l)
		}
	}
	for _, v := range r.variables {
		for _, s := range v.Subs {
			if r.wants(s.Feature) {
				for _, l := range s.Lookups {
					visit(l)
				}
			}
		}
	}
	return out
}

func (r *rewriter) wants(feature int) bool {
	return feature < len(r.features) && (r.Feature == nil || r.Feature(r.features[feature].Tag))
}

// settleVariations applies what is known of the conditions: records that never
// apply go, and one that always does becomes the usual case for what follows.
func (r *rewriter) settleVariations() {
	r.features = slices.Clone(r.t.Features)
	if r.Conditions == nil {
		r.variables = r.t.Variations
		return
	}
	for _, v := range r.t.Variations {
		out := rules.Variation{Subs: v.Subs}
		never := false
		for _, c := range v.Conditions {
			settled, holds := r.Conditions(c)
			never = never || holds == Nowhere
			if holds == Somewhere {
				out.Conditions = append(out.Conditions, settled)
			}
		}
		if never {
			continue
		}
		if len(out.Conditions) > 0 {
			r.variables = append(r.variables, out)
			continue
		}
		// Records before this one name only what they change; the rest stays as it was for them.
		usual := map[int][]int{}
		for _, s := range v.Subs {
			if s.Feature < len(r.features) {
				usual[s.Feature] = r.features[s.Feature].Lookups
				r.features[s.Feature].Lookups = s.Lookups
			}
		}
		for i := range r.variables {
			for _, f := range slices.Sorted(maps.Keys(usual)) {
				if !slices.ContainsFunc(r.variables[i].Subs, func(s rules.FeatureSub) bool { return s.Feature == f }) {
					r.variables[i].Subs = append(slices.Clone(r.variables[i].Subs), rules.FeatureSub{Feature: f, Lookups: usual[f]})
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
