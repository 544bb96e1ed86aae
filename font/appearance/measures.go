package appearance

import (
	"math"

	"sparecrate/font/curve"
)

// each calls do with every glyph of a text that the face has.
func (l *letters) each(text string, do func(r rune, g *glyph)) {
	for _, r := range text {
		if g := l.glyphs[r]; g != nil {
			do(r, g)
		}
	}
}

// height returns the median height of letters above the baseline, 0 where there are none.
func (l *letters) height(text string) float64 {
	var tops []float64
	l.each(text, func(_ rune, g *glyph) { tops = append(tops, g.top) })
	return median(tops)
}

// caseless reports whether small letters are drawn as capitals: alike in height and width.
func (l *letters) caseless() bool {
	same, both := 0, 0
	l.each("abdeghnqrt", func(r rune, small *glyph) {
		large := l.glyphs[r-'a'+'A']
		if large == nil {
			return
		}
		both++
		if math.Abs(small.advance-large.advance) <= 0.02*large.advance && math.Abs((small.right-small.left)-(large.right-large.left)) <= 0.02*large.advance {
			same++
		}
	})
	return both >= 4 && same*4 >= both*3
}

// slant returns how far stems lean to the right, in degrees.
func (l *letters) slant() float64 {
	var angles []float64
	l.each("lhbkHIEFTLPRDBNM", func(r rune, g *glyph) {
		low, high := 0.25, 0.75
		if r == 'T' {
			low, high = 0.2, 0.6
		}
		height := g.top - g.bottom
		from, to := g.spans(g.bottom+low*height), g.spans(g.bottom+high*height)
		if len(from) == 0 || len(to) == 0 {
			return
		}
		angles = append(angles, math.Atan2(to[0].middle()-from[0].middle(), (high-low)*height)*180/math.Pi)
	})
	angle := median(angles)
	if math.Abs(angle) < 0.75 || math.Abs(angle) > 50 {
		return 0 // upright within what drawing and rounding do
	}
	return angle
}

// straighten shears all glyphs upright.
func (l *letters) straighten(angle float64) {
	if angle == 0 {
		return
	}
	k := math.Tan(angle * math.Pi / 180)
	for r, g := range l.glyphs {
		l.glyphs[r] = g.mapped(func(p curve.Point) curve.Point { return curve.Point{X: p.X - k*p.Y, Y: p.Y} })
	}
}

// stems returns the thickness of upright stems.
func (l *letters) stems() []float64 {
	var out []float64
	l.each("lhnmkbIHEFLNKBDPR", func(_ rune, g *glyph) {
		var widths []float64
		for _, at := range []float64{0.3, 0.4, 0.6} {
			if s := g.spans(g.bottom + at*(g.top-g.bottom)); len(s) > 0 {
				widths = append(widths, s[0].length())
			}
		}
		if len(widths) > 0 {
			out = append(out, median(widths))
		}
	})
	return out
}

// bowl returns a letter with a round counter.
func (l *letters) bowl() *glyph {
	for _, r := range "oO0eDQ" {
		if g := l.glyphs[r]; g != nil && len(g.polygons) >= 2 {
			return g
		}
	}
	return nil
}

// contrast compares the thick and thin parts of a bowl: lines through its middle, up to 20
// degrees off the level for the one and off the upright for the other, so that a slanted
// axis is seen.
func (l *letters) contrast() float64 {
	g := l.bowl()
	if g == nil {
		return 1
	}
	center := curve.Point{X: (g.left + g.right) / 2, Y: (g.bottom + g.top) / 2}
	thick, thin := 0.0, math.Inf(1)
	for _, turn := range []float64{-20, -10, 0, 10, 20} {
		if t := wall(g, center, turn); t > 0 {
			thick = max(thick, t)
		}
		if t := wall(g, center, 90+turn); t > 0 {
			thin = min(thin, t)
		}
	}
	if thick == 0 || math.IsInf(thin, 1) {
		return 1
	}
	return min(max(thick/thin, thin/thick), most)
}

// most bounds contrast: hairlines come out near 0.
const most = 50

// wall returns how thick a ring is where a line through its middle cuts it, the mean of both
// sides, 0 where the line does not cut a ring; turn is the angle of the line in degrees.
func wall(g *glyph, center curve.Point, turn float64) float64 {
	sin, cos := math.Sincos(-turn * math.Pi / 180)
	turned := g.mapped(func(p curve.Point) curve.Point {
		d := p.Sub(center)
		return curve.Point{X: d.X*cos - d.Y*sin, Y: d.X*sin + d.Y*cos}
	})
	s := turned.spans(0)
	if len(s) < 2 || s[0].to > 0 || s[len(s)-1].from < 0 {
		return 0
	}
	return (s[0].length() + s[len(s)-1].length()) / 2
}

// width returns the mean advance of the most common small letters, of capitals where there
// are none.
func (l *letters) width() float64 {
	for _, text := range []string{"aeinorsthu", "AEINORSTHU"} {
		sum, n := 0.0, 0
		l.each(text, func(_ rune, g *glyph) { sum, n = sum+g.advance, n+1 })
		if n >= 4 {
			return sum / float64(n)
		}
	}
	return 0
}

// roundness compares the outer contour of bowls with the ellipse and the rectangle of their
// box.
func (l *letters) roundness() float64 {
	g := l.bowl()
	if g == nil {
		return 0
	}
	largest := 0.0
	for _, polygon := range g.polygons {
		area := 0.0
		for i, p := range polygon {
			q := polygon[(i+1)%len(polygon)]
			area += p.X*q.Y - q.X*p.Y
		}
		largest = max(largest, math.Abs(area)/2)
	}
	fill := largest / ((g.right - g.left) * (g.top - g.bottom))
	return min(max(percent((1-fill)/(1-math.Pi/4)), 0), 100)
}

// serifs returns the share of stems that are clearly wider at their foot than above it. I, i
// and l do not count: many sans serifs give them bars.
func (l *letters) serifs(capital float64) float64 {
	wide, all := 0, 0
	l.each("hnmkrfHKNMTFPY", func(_ rune, g *glyph) {
		foot, stem := 0.0, math.Inf(1)
		for _, at := range []float64{0.008, 0.02, 0.035} {
			if s := g.spans(g.bottom + at*capital); len(s) > 0 {
				foot = max(foot, s[0].length())
			}
		}
		for _, at := range []float64{0.16, 0.22, 0.3} {
			if s := g.spans(g.bottom + at*capital); len(s) > 0 {
				stem = min(stem, s[0].length())
			}
		}
		if foot == 0 || math.IsInf(stem, 1) {
			return
		}
		all++
		if foot >= 1.28*stem {
			wide++
		}
	})
	if all == 0 {
		return 0
	}
	return float64(wide) / float64(all)
}

// Kinds that files state: the first PANOSE number, and the first byte of the family class.
const (
	panoseScript     = 3
	panoseDecorative = 4
	classOrnamental  = 9
	classScript      = 10
)

// seriffed is the share of stems with serifs from which a face is a serif face: the small
// letters of an italic have none.
const seriffed = 0.35

// kind returns the class of a face.
func (l *letters) kind(a *Appearance, caseless bool, spread float64) Kind {
	class := l.class >> 8
	switch {
	case l.monospaced():
		return Mono
	case l.joined() || l.panose[0] == panoseScript || class == classScript:
		return Script
	case caseless, l.panose[0] == panoseDecorative, class == classOrnamental,
		a.Contrast > 12, a.Serifs < seriffed && a.Contrast > 3.2, a.Stem > 38, a.Stem < 2.5, a.XHeight < 48, a.XHeight > 96, a.Width < 48, a.Width > 170, spread > 0.45:
		return Display
	case a.Serifs >= seriffed:
		return Serif
	}
	return Sans
}

// monospaced reports whether all letters and figures have one width.
func (l *letters) monospaced() bool {
	low, high, n := math.Inf(1), 0.0, 0
	l.each("ilmwaenIMWA01", func(_ rune, g *glyph) { low, high, n = min(low, g.advance), max(high, g.advance), n+1 })
	return n >= 6 && high-low <= 0.01*high
}

// joined reports whether most small letters run into their neighbors.
func (l *letters) joined() bool {
	joined, all := 0, 0
	l.each("acdehikmnu", func(_ rune, g *glyph) {
		all++
		if g.advance > 0 && g.right-g.left >= 0.995*g.advance {
			joined++
		}
	})
	return all >= 5 && joined*10 >= all*6
}
