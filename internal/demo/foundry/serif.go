package foundry

import (
	"math"
	"slices"
	"unicode"

	"sparecrate/font/curve"
)

// isSmall reports whether a letter is a small Latin one.
func isSmall(r rune) bool { return unicode.IsLower(r) && r != 'ĸ' }

// finish adds to a drawn letter what its design wants besides strokes: serifs, and in a
// script the stroke to the next letter.
func finish(p *pen, r rune) {
	d := p.d
	switch {
	case d.Serif > 0 && (unicode.IsLetter(r) || r == '1'):
		serifed{p}.serifs(r)
	case d.Pitch > 0:
		feet(p, r)
	case d.Joined && isSmall(r):
		exit(p, r)
	}
}

// serifed ends the strokes of a letter with serifs.
type serifed struct{ *pen }

// stroked is a stroke that serifs may end: an upright one fills its box, a slanted one runs
// between the middles of its ends.
type stroked struct {
	box
	foot, head float64 // middles of the ends
	upright    bool
}

// strokes returns the straight strokes and the level arms among what is drawn.
func (p serifed) strokes() (stems []stroked, arms []box) {
	for _, c := range p.contours {
		if len(c.Segments) < 3 || len(c.Segments) > 4 {
			continue
		}
		if slices.ContainsFunc(c.Segments, func(s curve.Segment) bool { return !s.Line }) {
			continue
		}
		points := []curve.Point{c.From}
		for _, s := range c.Segments[:3] {
			points = append(points, s.To)
		}
		b := extent([]curve.Contour{c})
		var low, high []float64
		for _, q := range points {
			switch {
			case math.Abs(q.Y-b.y0) < 1:
				low = append(low, q.X)
			case math.Abs(q.Y-b.y1) < 1:
				high = append(high, q.X)
			}
		}
		if len(low) != 2 || len(high) != 2 {
			continue
		}
		s := stroked{box: b, foot: (low[0] + low[1]) / 2, head: (high[0] + high[1]) / 2}
		s.upright = math.Abs(s.foot-s.head) < 1
		switch {
		case s.upright && b.x1-b.x0 > b.y1-b.y0:
			arms = append(arms, b)
		case b.y1-b.y0 > p.d.X*0.3:
			stems = append(stems, s)
		}
	}
	return stems, arms
}

// serifs ends the strokes of a letter: feet and capitals on both sides, heads of small
// letters with a flag to the left, arms with a beak. Small italics have flags and one exit.
func (p serifed) serifs(r rune) {
	d := p.d
	stems, arms := p.strokes()
	switch r { // stems that are parts of curved strokes
	case 'j', 'ȷ':
		p.flag(0, d.X)
	case 'f':
		s := d.wide(120)
		if !d.italic() {
			p.foot(s-d.V/2, s+d.V/2, 0, true)
		}
	case 'a':
		w := d.wide(415)
		p.foot(w-d.V, w, 0, false)
	case 'U':
		p.slab(0, d.V*1.06, d.Cap)
		p.slab(d.wide(550)-d.V*1.06, d.wide(550), d.Cap)
	case 'J':
		p.slab(d.wide(340)-d.V*1.06, d.wide(340), d.Cap)
	}
	small, last := isSmall(r), math.Inf(-1)
	for _, s := range stems {
		last = math.Max(last, s.x1)
	}
	for i, s := range stems {
		if s.upright {
			p.footed(r, s, small, s.x1 == last)
			switch {
			case small && (near(s.y1, d.X) || near(s.y1, d.Ascender)):
				p.flag(s.x0, s.y1)
			case !small && near(s.y1, d.Cap) && r != '1':
				p.slab(s.x0, s.x1, d.Cap)
			}
			continue
		}
		for _, end := range []struct{ x, y float64 }{{s.foot, s.y0}, {s.head, s.y1}} {
			ends := near(end.y, 0) || near(end.y, d.X) && small || near(end.y, d.Cap) && !small
			if !ends || p.met(stems, i, end.x, end.y) || small && d.italic() && near(end.y, 0) {
				continue
			}
			half := d.Thin * 0.6
			if end.y < 1 {
				p.foot(end.x-half, end.x+half, 0, true)
			} else {
				p.slab(end.x-half, end.x+half, end.y)
			}
		}
	}
	for _, a := range arms {
		p.beaks(r, a)
	}
}

func near(a, b float64) bool { return math.Abs(a-b) < 2 }

// met reports whether another stroke ends at the same place, or covers it.
func (p serifed) met(stems []stroked, of int, x, y float64) bool {
	reach := p.d.Thick * 1.3
	return slices.ContainsFunc(stems, func(s stroked) bool {
		if s == stems[of] {
			return false
		}
		if s.upright {
			return x > s.x0-reach*0.6 && x < s.x1+reach*0.6 && y > s.y0-1 && y < s.y1+1
		}
		return near(s.y0, y) && math.Abs(s.foot-x) < reach || near(s.y1, y) && math.Abs(s.head-x) < reach
	})
}

// footed ends a stem at the baseline or below it.
func (p serifed) footed(r rune, s stroked, small, last bool) {
	d := p.d
	switch {
	case near(s.y0, d.Descender) && small:
		p.foot(s.x0, s.x1, s.y0, true)
	case !near(s.y0, 0), r == 'b':
	case r == 'd', r == 'u':
		p.foot(s.x0, s.x1, 0, false)
	case small && d.italic():
		if last {
			p.foot(s.x0, s.x1, 0, false)
		}
	default:
		p.foot(s.x0, s.x1, 0, true)
	}
}

// bracket is how high the curve from a serif to its stem reaches.
func (d *Design) bracket() float64 { return d.Serif * 0.5 }

// foot fills a serif that stands at y under a stem from x0 to x1.
func (p serifed) foot(x0, x1, y float64, left bool) { p.bracketed(x0, x1, y, 1, left, true) }

// slab fills a serif that hangs from y at the head of a stem.
func (p serifed) slab(x0, x1, y float64) { p.bracketed(x0, x1, y, -1, true, true) }

func (p serifed) bracketed(x0, x1, y, up float64, left, right bool) {
	d := p.d
	t, high := d.Slab*up, (d.Slab+d.bracket())*up
	reach := func(on bool) float64 {
		if on {
			return d.Serif
		}
		return 0
	}
	a, b := x0-reach(left), x1+reach(right)
	ease := func(from, to curve.Point) curve.Segment {
		return curve.Segment{C1: pt(from.X+(to.X-from.X)*0.75, from.Y), C2: pt(to.X, to.Y-(to.Y-from.Y)*0.45), To: to}
	}
	c := curve.Contour{From: pt(a, y), Segments: []curve.Segment{line(pt(b, y)), line(pt(b, y+t))}}
	c.Segments = append(c.Segments, ease(pt(b, y+t), pt(x1, y+high)), line(pt(x0, y+high)))
	back := ease(pt(a, y+t), pt(x0, y+high))
	c.Segments = append(c.Segments, curve.Segment{C1: back.C2, C2: back.C1, To: pt(a, y+t)})
	p.add(c, true)
}

// flag fills the serif to the left of the head of a small letter's stem, which begins at x.
func (p serifed) flag(x, y float64) {
	d := p.d
	drop, t, a := d.Serif*0.3, d.Slab*1.1, x-d.Serif*0.95
	c := curve.Contour{From: pt(x+d.V*0.4, y), Segments: []curve.Segment{
		line(pt(x, y)), line(pt(a, y-drop)), line(pt(a, y-drop-t)),
		{C1: pt(x-d.Serif*0.3, y-drop-t*0.8), C2: pt(x, y-drop-t-d.bracket()*0.5), To: pt(x, y-drop-t-d.bracket())},
		line(pt(x+d.V*0.4, y-drop-t-d.bracket())),
	}}
	p.add(c, true)
}

// beaks ends the arms of E, F, L, T and Z.
func (p serifed) beaks(r rune, a box) {
	d := p.d
	beak := func(x, y, in, down float64) {
		p.poly(pt(x, y), pt(x, y+down*(d.H+d.Serif*1.05)), pt(x+in*d.Slab*0.9, y+down*(d.H+d.Serif*1.05)), pt(x+in*d.Slab*2.4, y+down*d.H), pt(x+in*d.Slab*2.4, y))
	}
	top, bottom := near(a.y1, d.Cap) || near(a.y1, d.X), near(a.y0, 0)
	switch r {
	case 'E', 'F', 'L', 'Æ', 'Œ':
		if top {
			beak(a.x1, a.y1, -1, -1)
		}
		if bottom {
			beak(a.x1, a.y0, -1, 1)
		}
	case 'T':
		beak(a.x0, a.y1, 1, -1)
		beak(a.x1, a.y1, -1, -1)
	case 'Z', 'z':
		if top {
			beak(a.x0, a.y1, 1, -1)
		}
		if bottom {
			beak(a.x1, a.y0, -1, 1)
		}
	}
}

// feet adds bars to the narrow letters of a monospaced design, so that they fill their advance.
func feet(p *pen, r rune) {
	d := p.d
	b := extent(p.contours)
	mid, long := (b.x0+b.x1)/2, d.Pitch*0.34
	switch r {
	case 'i', 'ı', 'l':
		top := d.X
		if r == 'l' {
			top = d.Ascender
		}
		p.bar(mid-long, 0, mid+long, d.H)
		p.bar(mid-long*0.95, top-d.H, mid, top)
	case 'j', 'ȷ':
		p.bar(d.V-long*1.1, d.X-d.H, d.V, d.X)
	case 'I', '1':
		p.bar(mid-long, 0, mid+long, d.H)
		if r == 'I' {
			p.bar(mid-long, d.Cap-d.H, mid+long, d.Cap)
		}
	case 'r':
		p.bar(d.V/2-long*0.55, 0, d.V/2+long*0.75, d.H)
		p.bar(d.V/2-long*0.55, d.X-d.H, d.V/2, d.X)
	}
}
