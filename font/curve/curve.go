// Package curve holds outlines between formats: contours of lines and cubic
// Bézier curves, and the way from a cubic to quadratics that stay within a
// stated distance of it.
package curve

import "math"

// Point is a place in font units, y upwards.
type Point struct{ X, Y float64 }

// Add returns p moved by q.
func (p Point) Add(q Point) Point { return Point{p.X + q.X, p.Y + q.Y} }

// Sub returns the vector from q to p.
func (p Point) Sub(q Point) Point { return Point{p.X - q.X, p.Y - q.Y} }

// Mul returns p scaled by k.
func (p Point) Mul(k float64) Point { return Point{p.X * k, p.Y * k} }

// Len is the distance from the origin.
func (p Point) Len() float64 { return math.Hypot(p.X, p.Y) }

// Segment goes from where the one before ended to To: straight where Line is
// set, as a quadratic with the control point C1 where Quadratic is, else as a
// cubic with control points C1 and C2.
type Segment struct {
	C1, C2, To Point
	Line       bool
	Quadratic  bool
}

// Cubic returns a curve from p as a cubic; a quadratic's control points lie two
// thirds of the way to its own.
func (s Segment) Cubic(p Point) Segment {
	if !s.Quadratic {
		return s
	}
	c := s.C1.Mul(2.0 / 3)
	return Segment{C1: p.Mul(1.0 / 3).Add(c), C2: s.To.Mul(1.0 / 3).Add(c), To: s.To}
}

// Contour is a closed outline; the way back to From is a line where the last
// segment does not end there.
type Contour struct {
	From     Point
	Segments []Segment
}

// Move returns the contour shifted by d.
func (c Contour) Move(d Point) Contour { return c.Map(func(p Point) Point { return p.Add(d) }) }

// Map returns the contour with every point put elsewhere.
func (c Contour) Map(to func(Point) Point) Contour {
	out := Contour{From: to(c.From), Segments: make([]Segment, len(c.Segments))}
	for i, s := range c.Segments {
		out.Segments[i] = Segment{to(s.C1), to(s.C2), to(s.To), s.Line, s.Quadratic}
	}
	return out
}

// Area is the signed area inside the contour in square units, positive when it
// runs counter-clockwise; curves count by their control polygon, which is
// enough to tell the direction.
func (c Contour) Area() float64 {
	sum, last := 0.0, c.From
	step := func(p Point) {
		sum += last.X*p.Y - p.X*last.Y
		last = p
	}
	for _, s := range c.Segments {
		if !s.Line {
			step(s.C1)
			if !s.Quadratic {
				step(s.C2)
			}
		}
		step(s.To)
	}
	step(c.From)
	return sum / 2
}

// Reverse returns the contour run the other way round.
func (c Contour) Reverse() Contour {
	n := len(c.Segments)
	if n == 0 {
		return c
	}
	out := Contour{From: c.Segments[n-1].To, Segments: make([]Segment, 0, n)}
	for i := n - 1; i >= 0; i-- {
		s, to := c.Segments[i], c.From
		if i > 0 {
			to = c.Segments[i-1].To
		}
		if !s.Quadratic {
			s.C1, s.C2 = s.C2, s.C1
		}
		s.To = to
		out.Segments = append(out.Segments, s)
	}
	return out
}

// Split cuts the cubic from p at t (0 to 1) into two.
func Split(p Point, s Segment, t float64) (Segment, Segment) {
	mix := func(a, b Point) Point { return a.Mul(1 - t).Add(b.Mul(t)) }
	a, b, c := mix(p, s.C1), mix(s.C1, s.C2), mix(s.C2, s.To)
	ab, bc := mix(a, b), mix(b, c)
	mid := mix(ab, bc)
	return Segment{C1: a, C2: ab, To: mid}, Segment{C1: bc, C2: c, To: s.To}
}

// Quad is a quadratic Bézier: one control point, then the end.
type Quad struct{ C, To Point }

// Quads returns quadratics that follow the cubic from p within tolerance (font
// units). The distance between a cubic and the quadratic through its ends falls
// with the cube of the number of pieces, from sqrt(3)/36 times the length of
// the cubic's third difference.
func Quads(p Point, s Segment, tolerance float64) []Quad {
	third := s.To.Sub(s.C2.Mul(3)).Add(s.C1.Mul(3)).Sub(p)
	pieces := int(math.Ceil(math.Cbrt(third.Len() * math.Sqrt(3) / 36 / tolerance)))
	return QuadsOf(p, s, max(1, min(pieces, 32)))
}

// QuadsOf returns so many quadratics for the cubic from p, of equal parts of it.
func QuadsOf(p Point, s Segment, pieces int) []Quad {
	quads := make([]Quad, 0, pieces)
	for i := range pieces {
		piece := s
		if left := pieces - i; left > 1 {
			piece, s = Split(p, s, 1/float64(left))
		}
		c := piece.C1.Add(piece.C2).Mul(3).Sub(p).Sub(piece.To).Mul(0.25)
		quads = append(quads, Quad{c, piece.To})
		p = piece.To
	}
	return quads
}
