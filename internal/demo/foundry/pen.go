package foundry

import (
	"math"

	"sparecrate/font/curve"
)

// pen draws one glyph from strokes, bars, bowls and arches. Solid contours run
// counter-clockwise, counters clockwise; they may overlap, as the non-zero rule
// fills what any of them covers.
type pen struct {
	d        *Design
	contours []curve.Contour
}

// box is a rectangle in font units.
type box struct{ x0, y0, x1, y1 float64 }

func pt(x, y float64) curve.Point { return curve.Point{X: x, Y: y} }

func line(to curve.Point) curve.Segment { return curve.Segment{To: to, Line: true} }

// add keeps a contour, turned to run counter-clockwise when solid and clockwise
// when it is a counter.
func (p *pen) add(c curve.Contour, solid bool) {
	if (c.Area() > 0) != solid {
		c = c.Reverse()
	}
	p.contours = append(p.contours, c)
}

// poly fills a polygon.
func (p *pen) poly(points ...curve.Point) {
	c := curve.Contour{From: points[0]}
	for _, q := range points[1:] {
		c.Segments = append(c.Segments, line(q))
	}
	p.add(c, true)
}

// bar fills an upright rectangle.
func (p *pen) bar(x0, y0, x1, y1 float64) {
	p.poly(pt(x0, y0), pt(x1, y0), pt(x1, y1), pt(x0, y1))
}

// diagonal fills a slanted stroke of thickness t, cut level at both ends. The
// points are the middles of its ends.
func (p *pen) diagonal(x0, y0, x1, y1, t float64) {
	half := t * math.Hypot(x1-x0, y1-y0) / math.Abs(y1-y0) / 2
	p.poly(pt(x0-half, y0), pt(x0+half, y0), pt(x1+half, y1), pt(x1-half, y1))
}

// quarter is a quarter of a superellipse from a to b, leaving a upright or level.
func (p *pen) quarter(a, b curve.Point, upright bool) curve.Segment {
	k := p.d.Roundness
	dx, dy := (b.X-a.X)*k, (b.Y-a.Y)*k
	if upright {
		return curve.Segment{C1: pt(a.X, a.Y+dy), C2: pt(b.X-dx, b.Y), To: b}
	}
	return curve.Segment{C1: pt(a.X+dx, a.Y), C2: pt(b.X, b.Y-dy), To: b}
}

// ellipse is a closed superellipse that fills a box.
func (p *pen) ellipse(b box) curve.Contour {
	cx, cy := (b.x0+b.x1)/2, (b.y0+b.y1)/2
	right, top, left, bottom := pt(b.x1, cy), pt(cx, b.y1), pt(b.x0, cy), pt(cx, b.y0)
	return curve.Contour{From: right, Segments: []curve.Segment{
		p.quarter(right, top, true), p.quarter(top, left, false), p.quarter(left, bottom, true), p.quarter(bottom, right, false),
	}}
}

// ring fills the space between two boxes' ellipses.
func (p *pen) ring(outer, inner box) {
	p.add(p.ellipse(outer), true)
	p.add(p.ellipse(inner), false)
}

// dot fills an ellipse around a middle.
func (p *pen) dot(x, y, r float64) {
	p.add(p.ellipse(box{x - r, y - r, x + r, y + r}), true)
}

// arch fills the upper half of the space between two boxes' ellipses: the
// shoulder of an n. With under it is the lower half, of a u.
func (p *pen) arch(outer, inner box, under bool) {
	half := func(b box) (from curve.Point, segs []curve.Segment) {
		cx, cy := (b.x0+b.x1)/2, (b.y0+b.y1)/2
		apex := pt(cx, b.y1)
		if under {
			apex = pt(cx, b.y0)
		}
		from = pt(b.x0, cy)
		to := pt(b.x1, cy)
		return from, []curve.Segment{p.quarter(from, apex, true), p.quarter(apex, to, false)}
	}
	from, segs := half(outer)
	back := curve.Contour{}
	back.From, back.Segments = half(inner)
	back = back.Reverse()
	c := curve.Contour{From: from, Segments: append(segs, line(back.From))}
	c.Segments = append(c.Segments, back.Segments...)
	p.add(c, true)
}

// branch fills the left half of an arch from the stem at x0 to its apex at x1:
// the arm of an r.
func (p *pen) branch(x0, x1, low, top float64) {
	v, h := p.d.V, p.d.H
	from, apex := pt(x0+0.3*v, low), pt(x1, top)
	inner, under := pt(x0+0.62*v, low), pt(x1, top-h)
	back := curve.Contour{From: inner, Segments: []curve.Segment{p.quarter(inner, under, true)}}.Reverse()
	c := curve.Contour{From: from, Segments: []curve.Segment{p.quarter(from, apex, true), line(back.From)}}
	c.Segments = append(c.Segments, back.Segments...)
	p.add(c, true)
}

// skeleton is a path to be stroked: the middle line of a pen.
type skeleton struct {
	p    *pen
	from curve.Point
	at   curve.Point
	segs []curve.Segment
}

func (p *pen) path(x, y float64) *skeleton {
	return &skeleton{p: p, from: pt(x, y), at: pt(x, y)}
}

func (s *skeleton) push(seg curve.Segment) *skeleton {
	s.segs = append(s.segs, seg)
	s.at = seg.To
	return s
}

// to goes straight.
func (s *skeleton) to(x, y float64) *skeleton { return s.push(line(pt(x, y))) }

// up is a quarter that leaves upright, level one that leaves level.
func (s *skeleton) up(x, y float64) *skeleton { return s.push(s.p.quarter(s.at, pt(x, y), true)) }

func (s *skeleton) level(x, y float64) *skeleton {
	return s.push(s.p.quarter(s.at, pt(x, y), false))
}

// curve goes along a free cubic, cut in four so that its offsets stay true.
func (s *skeleton) curve(c1, c2, to curve.Point) *skeleton {
	rest := curve.Segment{C1: c1, C2: c2, To: to}
	for left := 4; left > 1; left-- {
		var piece curve.Segment
		piece, rest = curve.Split(s.at, rest, 1/float64(left))
		s.push(piece)
	}
	return s.push(rest)
}

// cut shortens the last piece to the part before t.
func (s *skeleton) cut(t float64) *skeleton {
	n := len(s.segs) - 1
	before := s.from
	if n > 0 {
		before = s.segs[n-1].To
	}
	s.segs[n], _ = curve.Split(before, s.segs[n], t)
	s.at = s.segs[n].To
	return s
}

// cutStart shortens the first piece to the part after t.
func (s *skeleton) cutStart(t float64) *skeleton {
	head, tail := curve.Split(s.from, s.segs[0], t)
	s.from, s.segs[0] = head.To, tail
	return s
}

// stroke fills the path with an elliptic pen w wide across upright pieces and
// h high across level ones.
func (s *skeleton) stroke(w, h float64) {
	var left, right []curve.Segment
	var leftFrom, rightFrom curve.Point
	at := s.from
	for i, seg := range s.segs {
		t0, t1 := seg.C1.Sub(at), seg.To.Sub(seg.C2)
		if seg.Line {
			t0 = seg.To.Sub(at)
			t1 = t0
		}
		o0, o1 := reach(t0, w, h), reach(t1, w, h)
		if i == 0 {
			leftFrom, rightFrom = at.Add(o0), at.Sub(o0)
		}
		left = append(left, offset(at, seg, o0, o1))
		right = append(right, offset(at, seg, o0.Mul(-1), o1.Mul(-1)))
		at = seg.To
	}
	back := curve.Contour{From: rightFrom, Segments: right}.Reverse()
	c := curve.Contour{From: leftFrom, Segments: append(left, line(back.From))}
	c.Segments = append(c.Segments, back.Segments...)
	s.p.add(c, true)
}

// reach is the vector from the middle line to the left edge of the pen's
// stroke where the line runs along t: the support of an ellipse.
func reach(t curve.Point, w, h float64) curve.Point {
	n := pt(-t.Y, t.X)
	a, b := w/2, h/2
	size := math.Hypot(a*n.X, b*n.Y)
	if size == 0 {
		return curve.Point{}
	}
	return pt(a*a*n.X/size, b*b*n.Y/size)
}

// offset moves a piece by o0 at its start and o1 at its end. Handles grow with
// the piece: upright and level ones by their own direction's growth, slanted
// ones by the chord's.
func offset(at curve.Point, seg curve.Segment, o0, o1 curve.Point) curve.Segment {
	from, to := at.Add(o0), seg.To.Add(o1)
	if seg.Line {
		return line(to)
	}
	was, is := seg.To.Sub(at), to.Sub(from)
	grow := func(h curve.Point) curve.Point {
		const tiny = 1e-6
		switch {
		case math.Abs(h.X) < tiny && math.Abs(was.Y) > 1:
			return h.Mul(math.Abs(is.Y / was.Y))
		case math.Abs(h.Y) < tiny && math.Abs(was.X) > 1:
			return h.Mul(math.Abs(is.X / was.X))
		}
		return h.Mul(is.Len() / was.Len())
	}
	return curve.Segment{C1: from.Add(grow(seg.C1.Sub(at))), C2: to.Add(grow(seg.C2.Sub(seg.To))), To: to}
}

// extent is the box around all points of the contours; curves have theirs at
// their ends, as quarters do.
func extent(contours []curve.Contour) box {
	b := box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	grow := func(q curve.Point) {
		b.x0, b.x1 = math.Min(b.x0, q.X), math.Max(b.x1, q.X)
		b.y0, b.y1 = math.Min(b.y0, q.Y), math.Max(b.y1, q.Y)
	}
	for _, c := range contours {
		grow(c.From)
		for _, s := range c.Segments {
			grow(s.To)
		}
	}
	return b
}
