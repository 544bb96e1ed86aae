package identity

import (
	"math"
	"slices"

	"sparecrate/font/curve"
)

// measure fills in what is measured of outlines, in font units times scale.
func measure(contours []curve.Contour, scale float64, s *Shape) {
	b := box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	var area, mx, my float64
	for _, c := range contours {
		each(c, func(p curve.Point, seg curve.Segment) {
			b.around(p, seg)
			a, x, y := green(p, seg)
			area, mx, my = area+a, mx+x, my+y
		})
	}
	if math.IsInf(b.left, 0) || b.left == b.right && b.bottom == b.top {
		return
	}
	s.Left, s.Bottom, s.Right, s.Top = step(b.left*scale), step(b.bottom*scale), step(b.right*scale), step(b.top*scale)
	s.Area = step(math.Abs(area) * scale * scale / Grid)
	if math.Abs(area)*scale*scale > 16 {
		s.X, s.Y = step(mx/area*scale), step(my/area*scale)
	}
	for i := range Lines {
		y := b.bottom + (b.top-b.bottom)*(2*float64(i)+1)/(2*Lines)
		s.Ink[i] = uint8(min(math.Round(inkAt(contours, y)*scale*128/Grid), 255)) //nolint:gosec // within bounds
	}
}

// each goes around a contour, the way back to its start included.
func each(c curve.Contour, do func(from curve.Point, s curve.Segment)) {
	p := c.From
	for _, s := range c.Segments {
		do(p, s.Cubic(p))
		p = s.To
	}
	if p != c.From {
		do(p, curve.Segment{To: c.From, Line: true})
	}
}

type box struct{ left, bottom, right, top float64 }

func (b *box) add(p curve.Point) {
	b.left, b.right = min(b.left, p.X), max(b.right, p.X)
	b.bottom, b.top = min(b.bottom, p.Y), max(b.top, p.Y)
}

// around widens the box by a segment: by its ends, and by where a curve turns back.
func (b *box) around(p curve.Point, s curve.Segment) {
	b.add(p)
	b.add(s.To)
	if s.Line {
		return
	}
	inside := func(c curve.Point) bool {
		return c.X >= b.left && c.X <= b.right && c.Y >= b.bottom && c.Y <= b.top
	}
	if inside(s.C1) && inside(s.C2) {
		return // a curve lies within its control points
	}
	for _, t := range turns(p.X, s.C1.X, s.C2.X, s.To.X) {
		b.add(at(p, s, t))
	}
	for _, t := range turns(p.Y, s.C1.Y, s.C2.Y, s.To.Y) {
		b.add(at(p, s, t))
	}
}

// turns returns where between 0 and 1 the derivative of a cubic is 0.
func turns(a, b, c, d float64) []float64 {
	k2, k1, k0 := d-3*c+3*b-a, 2*(c-2*b+a), b-a
	var out []float64
	add := func(t float64) {
		if t > 0 && t < 1 {
			out = append(out, t)
		}
	}
	if math.Abs(k2) < 1e-9 {
		if k1 != 0 {
			add(-k0 / k1)
		}
		return out
	}
	if root := k1*k1 - 4*k2*k0; root >= 0 {
		r := math.Sqrt(root)
		add((-k1 + r) / (2 * k2))
		add((-k1 - r) / (2 * k2))
	}
	return out
}

func at(p curve.Point, s curve.Segment, t float64) curve.Point {
	u := 1 - t
	return p.Mul(u * u * u).Add(s.C1.Mul(3 * u * u * t)).Add(s.C2.Mul(3 * u * t * t)).Add(s.To.Mul(t * t * t))
}

// The points and weights of Gauss's rule of five points, exact to the ninth degree: a
// cubic's share of the first moments is of the eighth.
var gauss = [5][2]float64{
	{0.5, 0.28444444444444444}, {0.23076534494715845, 0.23931433524968324}, {0.7692346550528415, 0.23931433524968324},
	{0.04691007703066800, 0.11846344252809454}, {0.9530899229693320, 0.11846344252809454},
}

// green returns a segment's share of the area of its contour and of the first moments, by
// Green's theorem: the integrals of x dy, x*x/2 dy and x*y dy.
func green(p curve.Point, s curve.Segment) (area, mx, my float64) {
	if s.Line {
		dy := s.To.Y - p.Y
		return (p.X + s.To.X) / 2 * dy, (p.X*p.X + p.X*s.To.X + s.To.X*s.To.X) / 6 * dy, (p.X*(2*p.Y+s.To.Y) + s.To.X*(p.Y+2*s.To.Y)) / 6 * dy
	}
	for _, g := range gauss {
		t, u := g[0], 1-g[0]
		q := at(p, s, t)
		dy := 3 * (u*u*(s.C1.Y-p.Y) + 2*u*t*(s.C2.Y-s.C1.Y) + t*t*(s.To.Y-s.C2.Y)) * g[1]
		area += q.X * dy
		mx += q.X * q.X / 2 * dy
		my += q.X * q.Y * dy
	}
	return area, mx, my
}

// crossing is where a contour crosses a level line, and which way.
type crossing struct {
	x float64
	d int
}

// pieces is how many straight pieces a curve is cut into to find where it crosses a line.
const pieces = 6

// inkAt returns how much of the level line at y lies within contours, by the nonzero rule.
func inkAt(contours []curve.Contour, y float64) float64 {
	var all []crossing
	cut := func(p, q curve.Point) {
		if (p.Y <= y) == (q.Y <= y) {
			return
		}
		c := crossing{p.X + (q.X-p.X)*(y-p.Y)/(q.Y-p.Y), 1}
		if q.Y < p.Y {
			c.d = -1
		}
		all = append(all, c)
	}
	for _, c := range contours {
		each(c, func(p curve.Point, s curve.Segment) {
			if s.Line {
				cut(p, s.To)
				return
			}
			if over := p.Y > y; (s.C1.Y > y) == over && (s.C2.Y > y) == over && (s.To.Y > y) == over {
				return
			}
			last := p
			for i := 1; i <= pieces; i++ {
				next := at(p, s, float64(i)/pieces)
				cut(last, next)
				last = next
			}
		})
	}
	slices.SortFunc(all, func(a, b crossing) int {
		switch {
		case a.x < b.x:
			return -1
		case a.x > b.x:
			return 1
		}
		return 0
	})
	ink, winding := 0.0, 0
	for i, c := range all {
		if winding != 0 {
			ink += c.x - all[i-1].x
		}
		winding += c.d
	}
	return ink
}
