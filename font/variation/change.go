package variation

import (
	"math"
	"slices"
)

// AxisChange says what becomes of one axis. Places are normalized coordinates
// after `avar`, of the font as it was. The zero AxisChange leaves the axis.
type AxisChange struct {
	Pinned bool
	At     float64 // where it is pinned
	// Limited keeps the axis from Min to Max with a new default.
	Limited           bool
	Min, Default, Max float64
}

// Change says what becomes of every axis, in their order.
type Change []AxisChange

// Axes is how many axes stay.
func (c Change) Axes() int {
	n := 0
	for _, a := range c {
		if !a.Pinned {
			n++
		}
	}
	return n
}

// Index returns an axis's new number, -1 for one that is pinned.
func (c Change) Index(axis int) int {
	n := 0
	for i, a := range c {
		if i == axis {
			if a.Pinned {
				return -1
			}
			return n
		}
		if !a.Pinned {
			n++
		}
	}
	return -1
}

// Term is what a region contributes: its deltas times Weight, for good where
// Region is nil, else over the new region.
type Term struct {
	Weight float64
	Region Region
}

// part is a term along one axis: a weight, and the tent it goes with, nil for
// none.
type part struct {
	weight float64
	tent   *Tent
}

// Region returns what becomes of a region: the sum of the terms is the old region
// over the space that is left.
func (c Change) Region(r Region) []Term {
	terms := []Term{{Weight: 1, Region: make(Region, 0, len(c))}}
	for i, a := range c {
		t := Tent{}
		if i < len(r) {
			t = r[i]
		}
		parts := a.parts(t)
		var next []Term
		for _, term := range terms {
			for _, p := range parts {
				if p.weight == 0 {
					continue
				}
				one := Term{Weight: term.Weight * p.weight, Region: slices.Clone(term.Region)}
				if !a.Pinned {
					tent := Tent{}
					if p.tent != nil {
						tent = *p.tent
					}
					one.Region = append(one.Region, tent)
				}
				next = append(next, one)
			}
		}
		terms = next
	}
	for i := range terms {
		if !slices.ContainsFunc(terms[i].Region, func(t Tent) bool { return t.Peak != 0 }) {
			terms[i].Region = nil
		}
	}
	return terms
}

// parts takes a tent along one axis apart.
func (a AxisChange) parts(t Tent) []part {
	everywhere := t.Peak == 0 || t.Start > t.Peak || t.Peak > t.End || t.Start < 0 && t.End > 0
	switch {
	case a.Pinned:
		return []part{{t.At(a.At), nil}}
	case everywhere:
		return []part{{1, nil}}
	case !a.Limited:
		return []part{{1, &t}}
	}
	usual := t.At(a.Default)
	parts := []part{{usual, nil}}
	parts = append(parts, a.side(t, a.Max, 1, usual)...)
	return append(parts, a.side(t, a.Min, -1, usual)...)
}

// side returns the tents between the new default and one end of the new range.
// Between places where the old tent bends, what is left of it is straight, so
// one tent with its peak at each such place makes it up.
func (a AxisChange) side(t Tent, end, sign, usual float64) []part {
	span := math.Abs(end - a.Default)
	if span == 0 {
		return nil
	}
	places := []float64{0, 1}
	for _, x := range []float64{t.Start, t.Peak, t.End} {
		if k := (x - a.Default) * sign / span; k > 0 && k < 1 {
			places = append(places, math.Round(k*16384)/16384)
		}
	}
	slices.Sort(places)
	places = slices.Compact(places)
	var parts []part
	for i := 1; i < len(places); i++ {
		gain := t.At(a.Default+sign*span*places[i]) - usual
		if math.Abs(gain) < 1e-9 {
			continue
		}
		next := 1.0
		if i+1 < len(places) {
			next = places[i+1]
		}
		tent := Tent{places[i-1], places[i], next}
		if sign < 0 {
			tent = Tent{-next, -places[i], -places[i-1]}
		}
		parts = append(parts, part{gain, &tent})
	}
	return parts
}

// Place returns the new normalized coordinate of an old one, both after `avar`,
// within the new range.
func (a AxisChange) Place(x float64) float64 {
	if !a.Limited {
		return x
	}
	switch {
	case x > a.Default && a.Max > a.Default:
		return min(1, (x-a.Default)/(a.Max-a.Default))
	case x < a.Default && a.Min < a.Default:
		return max(-1, (x-a.Default)/(a.Default-a.Min))
	}
	return 0
}

// Store returns the store after the change, its rows named as before, and what
// each row adds for good.
func (c Change) Store(s *Store) (*Store, [][]float64) {
	out := &Store{Axes: c.Axes()}
	numbers := map[string]int{}
	region := func(r Region) int {
		key := r.key()
		n, ok := numbers[key]
		if !ok {
			n = len(out.Regions)
			numbers[key] = n
			out.Regions = append(out.Regions, r)
		}
		return n
	}
	terms := make([][]Term, len(s.Regions))
	for i, r := range s.Regions {
		terms[i] = c.Region(r)
	}
	fixed := make([][]float64, len(s.Sets))
	for i, set := range s.Sets {
		var regions []int
		column := map[int]int{}
		for _, r := range set.Regions {
			for _, t := range terms[r] {
				if t.Region == nil {
					continue
				}
				n := region(t.Region)
				if _, ok := column[n]; !ok {
					column[n] = len(regions)
					regions = append(regions, n)
				}
			}
		}
		one := Set{Regions: regions, Rows: make([][]int32, len(set.Rows))}
		fixed[i] = make([]float64, len(set.Rows))
		sums := make([]float64, len(regions))
		for k, row := range set.Rows {
			clear(sums)
			for j, d := range row {
				if d == 0 {
					continue
				}
				for _, t := range terms[set.Regions[j]] {
					if t.Region == nil {
						fixed[i][k] += t.Weight * float64(d)
					} else {
						sums[column[region(t.Region)]] += t.Weight * float64(d)
					}
				}
			}
			one.Rows[k] = make([]int32, len(regions))
			for j, sum := range sums {
				one.Rows[k][j] = int32(math.Round(sum))
			}
		}
		out.Sets = append(out.Sets, one)
	}
	return out, fixed
}

// Same reports whether two regions are the same, in the steps of the format.
func (r Region) Same(o Region) bool { return r.key() == o.key() }

// key tells equal regions from others.
func (r Region) key() string {
	b := make([]byte, 0, 6*len(r))
	for _, t := range r {
		for _, x := range []float64{t.Start, t.Peak, t.End} {
			n := toF2(x)
			b = append(b, byte(n>>8), byte(n))
		}
	}
	return string(b)
}

// Settle changes a store that layout tables name: Fixed says what is added to a
// value for good, and Varies whether its row still says anything.
type Settle struct {
	Store *Store
	fixed [][]float64
}

// Settle prepares a store for Fixed and Varies.
func (c Change) Settle(s *Store) *Settle {
	out, fixed := c.Store(s)
	return &Settle{out, fixed}
}

// Fixed returns what a row adds for good, rounded to whole units.
func (s *Settle) Fixed(outer, inner int) int {
	if outer >= len(s.fixed) || inner >= len(s.fixed[outer]) {
		return 0
	}
	return int(math.Round(s.fixed[outer][inner]))
}

// Varies reports whether a row still varies.
func (s *Settle) Varies(outer, inner int) bool {
	_, row, ok := s.Store.row(outer, inner)
	return ok && slices.ContainsFunc(row, func(d int32) bool { return d != 0 })
}
