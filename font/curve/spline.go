package curve

import (
	"math"
	"slices"
)

// maxSpline bounds the quadratics that stand for one cubic; real outlines need
// up to about five.
const maxSpline = 12

// Four quadratics have five thirds of the points of the cubic they stand for. A
// curve that needs more of them may stray by half as much again instead.
const (
	lean  = 4
	slack = 1.5
)

// Spline returns the control points of quadratics that follow the cubic from p:
// between two control points lies, half-way, a point of the curve that need not
// be written down. The first and the last control point lie on the tangents of
// the ends, so that smooth joins stay smooth. All are whole units, and with them
// the curve keeps within tolerance of the cubic, or within half as much again where
// it would take more than four quadratics; where a dozen cannot, it comes as near as
// they can.
func Spline(p Point, s Segment, tolerance float64) []Point {
	var best []Point
	least := math.Inf(1)
	for n := 1; n <= maxSpline && least > tolerance; n++ {
		if n > lean && least <= slack*tolerance {
			break
		}
		controls := controlsOf(p, s, n)
		if controls == nil {
			continue
		}
		try := func(c []Point, off float64) {
			if off < least {
				best, least = c, off
			}
		}
		rounded := slices.Clone(controls)
		for i, c := range rounded {
			rounded[i] = Point{math.Round(c.X), math.Round(c.Y)}
		}
		off := Deviation(p, s, rounded)
		try(rounded, off)
		// Fitted ones lie as many times nearer, at best.
		nearer := float64(n + 4)
		if n > 1 && off > tolerance && off < nearer*slack*tolerance {
			f := newFitter(p, s, controls)
			if f.fit(tolerance/2) < 2*slack*tolerance {
				off := f.round(tolerance)
				try(f.controls, off)
			}
		}
	}
	return best
}

// controlsOf returns n control points for a cubic, nil where one cannot do it.
func controlsOf(p Point, s Segment, n int) []Point {
	if n == 1 {
		c, ok := meeting(p, s.C1.Sub(p), s.To, s.C2.Sub(s.To))
		if !ok {
			return nil
		}
		return []Point{c}
	}
	cubic := polynomialOf(p, s)
	out := make([]Point, n)
	for i := range out {
		// Half as far again along its tangents lie two guesses at the control point of
		// a piece. The first piece takes the one on the tangent of the start, the last
		// that of the end, those between a mixture.
		t0, t1 := float64(i)/float64(n), float64(i+1)/float64(n)
		k := float64(i) / float64(n-1)
		c0, c1 := cubic.pieceControls(t0, t1)
		from, to := cubic.at(t0), cubic.at(t1)
		out[i] = from.Add(c0.Sub(from).Mul(1.5)).Mul(1 - k).Add(to.Add(c1.Sub(to).Mul(1.5)).Mul(k))
	}
	return out
}

// polynomial is a cubic by the powers of t, from the zeroth.
type polynomial [4]Point

func polynomialOf(p Point, s Segment) polynomial {
	return polynomial{p, s.C1.Sub(p).Mul(3), p.Sub(s.C1.Mul(2)).Add(s.C2).Mul(3), s.To.Sub(p).Add(s.C1.Sub(s.C2).Mul(3))}
}

// at returns the point at t, slope and bend the first and the second derivative.
func (c *polynomial) at(t float64) Point {
	return c[0].Add(c[1].Mul(t)).Add(c[2].Mul(t * t)).Add(c[3].Mul(t * t * t))
}

func (c *polynomial) slope(t float64) Point {
	return c[1].Add(c[2].Mul(2 * t)).Add(c[3].Mul(3 * t * t))
}

func (c *polynomial) bend(t float64) Point { return c[2].Mul(2).Add(c[3].Mul(6 * t)) }

// pieceControls are the control points of the part of a cubic between t0 and t1.
func (c *polynomial) pieceControls(t0, t1 float64) (Point, Point) {
	third := (t1 - t0) / 3
	return c.at(t0).Add(c.slope(t0).Mul(third)), c.at(t1).Sub(c.slope(t1).Mul(third))
}

// meeting returns where two lines through a and b meet, false where they run
// along each other or meet behind their start.
func meeting(a, da, b, db Point) (Point, bool) {
	cross := da.X*db.Y - da.Y*db.X
	if math.Abs(cross) < 1e-6*(da.Len()*db.Len()+1e-9) {
		return Point{}, false
	}
	d := b.Sub(a)
	k, l := (d.X*db.Y-d.Y*db.X)/cross, (d.X*da.Y-d.Y*da.X)/cross
	return a.Add(da.Mul(k)), k > 0 && l > 0
}

// Deviation returns how far the quadratics with these control points stray from
// the cubic from p, in units: the largest distance across the curve at places
// along it.
func Deviation(p Point, s Segment, controls []Point) float64 {
	const places = 8 // on each quadratic
	cubic := polynomialOf(p, s)
	n := len(controls)
	most := 0.0
	from := p
	for i, c := range controls {
		to := s.To
		if i < n-1 {
			to = c.Add(controls[i+1]).Mul(0.5)
		}
		for k := range places {
			t := float64(k+1) / places
			u := 1 - t
			q := from.Mul(u * u).Add(c.Mul(2 * u * t)).Add(to.Mul(t * t))
			whole := (float64(i) + t) / float64(n)
			most = max(most, across(q.Sub(cubic.at(whole)), cubic.slope(whole), cubic.bend(whole)))
		}
		from = to
	}
	return most
}

// across bounds how far a point lies from a curve, seen from a place on it that
// the point is d away from: the part of d that is not along the curve, and what
// the curve bends away over the part that is.
func across(d, direction, bend Point) float64 {
	speed := direction.Len()
	if speed < 8*d.Len() || speed == 0 {
		return d.Len()
	}
	cross := func(a, b Point) float64 { return math.Abs(a.X*b.Y - a.Y*b.X) }
	along := (d.X*direction.X + d.Y*direction.Y) / speed
	return cross(d, direction)/speed + along*along*cross(direction, bend)/(speed*speed*speed)/2
}
