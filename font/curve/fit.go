package curve

import (
	"math"
	"slices"
)

// fitter moves the control points of quadratics that follow a cubic until the
// largest distance between the two is about as small as it can be. Quadratics
// that follow a cubic evenly stray from it with the third power of their length;
// such as may slide along it, so that only the distance across it counts, with
// the fourth.
type fitter struct {
	p          Point
	s          Segment
	controls   []Point
	start, end Point // tangents at the ends, as long as one unit
	places     []place
	cubic      polynomial
	kept       struct {
		controls []Point
		places   []place
	}
}

// place is a place on the quadratics that is looked at.
type place struct {
	on      int     // the quadratic
	t       float64 // where on it
	nearest float64 // where on the cubic the nearest place is
	weight  float64 // how much its distance counts
}

// placesOn is how many places are looked at on each quadratic.
const placesOn = 8

// newFitter starts from control points, two at least, that follow the cubic from
// p about evenly.
func newFitter(p Point, s Segment, controls []Point) *fitter {
	f := &fitter{p: p, s: s, cubic: polynomialOf(p, s), controls: slices.Clone(controls), start: direction(p, s.C1, s.C2, s.To), end: direction(s.To, s.C2, s.C1, p)}
	for i := range controls {
		for k := range placesOn {
			t := (float64(k) + 0.5) / placesOn
			f.places = append(f.places, place{on: i, t: t, nearest: (float64(i) + t) / float64(len(controls)), weight: 1})
		}
	}
	return f
}

// direction returns the way from a point to the first of others that lies
// elsewhere, as long as one unit.
func direction(p Point, others ...Point) Point {
	for _, q := range others {
		if d := q.Sub(p); d.Len() > 0 {
			return d.Mul(1 / d.Len())
		}
	}
	return Point{}
}

// shares returns how much of a place on quadratic i comes from the control points
// before, at and after it.
func (f *fitter) shares(i int, t float64) (before, at, after float64) {
	u := 1 - t
	at = 2 * u * t
	if i > 0 {
		before = u * u / 2
		at += before
	}
	if i < len(f.controls)-1 {
		after = t * t / 2
		at += after
	}
	return before, at, after
}

// on returns the point at a place of the quadratics.
func (f *fitter) on(i int, t float64) Point {
	before, at, after := f.shares(i, t)
	q := f.controls[i].Mul(at)
	if i > 0 {
		q = q.Add(f.controls[i-1].Mul(before))
	} else {
		q = q.Add(f.p.Mul((1 - t) * (1 - t)))
	}
	if i < len(f.controls)-1 {
		return q.Add(f.controls[i+1].Mul(after))
	}
	return q.Add(f.s.To.Mul(t * t))
}

// off returns how far the point of a place is from about the nearest one of the
// cubic, and finds that one anew.
func (f *fitter) off(pl *place) Point {
	q := f.on(pl.on, pl.t)
	d, v, a := f.cubic.at(pl.nearest).Sub(q), f.cubic.slope(pl.nearest), f.cubic.bend(pl.nearest)
	down := d.X*v.X + d.Y*v.Y
	if curved := v.X*v.X + v.Y*v.Y + d.X*a.X + d.Y*a.Y; curved > 0 {
		pl.nearest = max(0, min(1, pl.nearest-down/curved))
	}
	return q.Sub(f.cubic.at(pl.nearest))
}

// most returns the largest distance between the curves and the quadratic it is on.
// It is infinite where the quadratics leave out a part of the cubic or go back on
// it, and where it is no smaller than the limit.
func (f *fitter) most(limit float64) (most float64, on int) {
	last, from := 0.0, f.p
	for i := range f.places {
		pl := &f.places[i]
		off := f.off(pl).Len()
		if off >= limit || pl.nearest < last {
			return math.Inf(1), 0
		}
		q := f.on(pl.on, pl.t)
		if !f.covered(last, pl.nearest, q.Sub(from).Len()+most+off) {
			return math.Inf(1), 0
		}
		if off > most {
			most, on = off, pl.on
		}
		last, from = pl.nearest, q
	}
	if !f.covered(last, 1, f.s.To.Sub(from).Len()+most) {
		return math.Inf(1), 0
	}
	return most, on
}

// covered reports whether a part of the cubic is about as long as what stands for
// it, a loop left out is not.
func (f *fitter) covered(t0, t1, length float64) bool {
	usual := 3 / float64(len(f.places))
	if t1-t0 <= usual {
		return true
	}
	const parts = 8
	way, last := 0.0, f.cubic.at(t0)
	for k := range parts {
		p := f.cubic.at(t0 + (t1-t0)*float64(k+1)/parts)
		way += p.Sub(last).Len()
		last = p
	}
	const slow = 1.5
	return way <= slow*length+1
}

// keep remembers where things are, and undo puts them back.
func (f *fitter) keep() {
	f.kept.controls = append(f.kept.controls[:0], f.controls...)
	f.kept.places = append(f.kept.places[:0], f.places...)
}

func (f *fitter) undo() {
	copy(f.controls, f.kept.controls)
	copy(f.places, f.kept.places)
}

// ways returns the number of the first unknown of a control point, and what a step
// of each of its unknowns does to it: the first and the last point have one each,
// how far they lie along the tangent.
func (f *fitter) ways(i int) (int, []Point) {
	switch n := len(f.controls); i {
	case 0:
		return 0, []Point{f.start}
	case n - 1:
		return 2*n - 3, []Point{f.end}
	}
	return 2*i - 1, []Point{{1, 0}, {0, 1}}
}

// fit moves the control points until the largest distance is no more than
// enough, or hardly falls, and gives the largest that is left.
func (f *fitter) fit(enough float64) float64 {
	const rounds = 8
	least, _ := f.most(math.Inf(1))
	for range rounds {
		if least <= enough {
			break
		}
		moves, offs := f.step()
		f.keep()
		moved := false
		// A step that goes too far is tried by halves.
		for part := 1.0; part > 0.2 && !moved; part /= 2 {
			for i := range f.controls {
				first, steps := f.ways(i)
				for c := range steps {
					f.controls[i] = f.controls[i].Add(steps[c].Mul(part * moves[first+c]))
				}
			}
			most := math.Inf(1)
			if f.ahead() {
				most, _ = f.most(least)
			}
			if moved = most < least; moved {
				least = most
			} else {
				f.undo()
			}
		}
		if !moved {
			break
		}
		// What was far off counts more in the next round, so that the largest distance
		// falls and not only the sum of squares.
		largest := max(slices.Max(offs), math.SmallestNonzeroFloat64)
		for k := range f.places {
			f.places[k].weight *= 0.3 + offs[k]/largest
		}
	}
	return least
}

// step returns the change of each unknown that makes the distances across the
// curve smallest, as far as they change evenly, and the distances as they are.
func (f *fitter) step() (moves, offs []float64) {
	unknowns := 2*len(f.controls) - 2
	m := newEquations(unknowns)
	row := make([]float64, unknowns)
	offs = make([]float64, len(f.places))
	for k := range f.places {
		pl := &f.places[k]
		d := f.off(pl)
		along := direction(Point{}, f.cubic.slope(pl.nearest))
		across := Point{-along.Y, along.X}
		off := across.X*d.X + across.Y*d.Y
		offs[k] = math.Abs(off)
		clear(row)
		before, on, after := f.shares(pl.on, pl.t)
		for j, share := range []float64{before, on, after} {
			if share == 0 {
				continue
			}
			first, steps := f.ways(pl.on + j - 1)
			for c, step := range steps {
				row[first+c] = share * (across.X*step.X + across.Y*step.Y)
			}
		}
		m.add(row, -off, pl.weight)
	}
	return m.solve(), offs
}

// ahead reports whether the first and the last control point lie on their side
// of the ends.
func (f *fitter) ahead() bool {
	one := func(c, from, way Point) bool { d := c.Sub(from); return d.X*way.X+d.Y*way.Y > 0 }
	return one(f.controls[0], f.p, f.start) && one(f.controls[len(f.controls)-1], f.s.To, f.end)
}

// round puts the control points on whole units, and then, while the largest
// distance is above the tolerance, one of those that make it to the neighbor
// where it is smallest. The first and the last keep to the tangents as nearly as
// whole units can. It gives the largest distance.
func (f *fitter) round(tolerance float64) float64 {
	for i, c := range f.controls {
		f.controls[i] = Point{math.Round(c.X), math.Round(c.Y)}
	}
	least, on := f.most(math.Inf(1))
	const moves = 6
	for range moves {
		// From far off, neighbors do not lead back.
		const far = 4
		if least <= tolerance || least > far*tolerance {
			break
		}
		f.keep()
		best, at, to := least, -1, Point{}
		for i := max(0, on-1); i <= min(on+1, len(f.controls)-1); i++ {
			for _, c := range f.neighbors(i) {
				f.controls[i] = c
				if most, _ := f.most(best); most < best {
					best, at, to = most, i, c
				}
				f.undo()
			}
		}
		if at < 0 {
			break
		}
		f.controls[at] = to
		least, on = f.most(math.Inf(1))
	}
	return least
}

// neighbors returns the places a unit from a control point that it may be moved to.
func (f *fitter) neighbors(i int) []Point {
	const half = 0.5
	strays := func(c, from, way Point) bool {
		d := c.Sub(from)
		return math.Abs(d.X*way.Y-d.Y*way.X) > half
	}
	out := make([]Point, 0, 8)
	for dx := -1.0; dx <= 1; dx++ {
		for dy := -1.0; dy <= 1; dy++ {
			c := f.controls[i].Add(Point{dx, dy})
			if dx == 0 && dy == 0 || i == 0 && strays(c, f.p, f.start) || i == len(f.controls)-1 && strays(c, f.s.To, f.end) {
				continue
			}
			out = append(out, c)
		}
	}
	return out
}
