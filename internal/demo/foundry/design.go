// Package foundry draws the demo studio's font families from parameters and
// writes them as real font files: TrueType and PostScript outlines, kerning, a
// ligature, names, permissions. Nothing is random and nothing is read: the same
// design gives the same bytes on every run.
//
// A design is a handful of measures; glyphs are strokes, bowls and arches drawn
// with a pen of the design's two thicknesses. Coverage is ASCII, Latin-1, the
// letters of Polish, Czech, Turkish and the Nordic languages, and common
// punctuation.
package foundry

import (
	"maps"
	"math"
	"slices"
	"unicode"

	"sparecrate/font/curve"
)

// unitsPerEm is the em of every family drawn here.
const unitsPerEm = 1000

// Design is one face to draw. Measures in font units.
type Design struct {
	Family, Style string
	PostScript    string // name ID 6
	Weight        int    // OS/2.usWeightClass
	WidthClass    int
	FsType        int // OS/2.fsType
	Version       string
	License       string // name ID 13
	LicenseURL    string // name ID 14
	Sample        string // name ID 19

	Cap, X, Ascender, Descender float64
	Overshoot                   float64 // how far round letters reach past straight ones
	V, H                        float64 // thickness of upright and of level strokes
	Thick, Thin                 float64 // thickness of falling and of rising diagonals
	Dot                         float64 // radius of points
	Roundness                   float64 // handle length of a quarter: 0.5523 is a circle, more is squarer
	Width, Extra                float64 // letter widths: factor, and units added for weight
	Side                        float64 // space beside a straight stem

	Serif  float64 // how far serifs reach from a stem; 0 draws none
	Slab   float64 // thickness of serifs at their ends
	Slant  float64 // degrees that the design leans to the right
	Pitch  float64 // the one advance of a monospaced design; 0 for letters of their own widths
	Joined bool    // a script: small letters are connected
}

// wide returns the width of a letter whose body is base units in the plain design.
func (d *Design) wide(base float64) float64 { return base*d.Width + d.Extra }

// dotHeight is the middle of the dot on i and j: level with capitals, and
// higher where a heavy dot would touch the stem.
func (d *Design) dotHeight() float64 {
	return max(d.Cap-d.Dot+d.Overshoot, d.X+d.H*0.5+d.Dot)
}

// drawing is how to draw a glyph and the kind of its two sides, which says how
// much space they want.
type drawing struct {
	draw  func(*pen)
	sides string
}

// sideFactors give the space beside a kind of side as a share of Design.Side.
var sideFactors = map[byte]float64{
	's': 1,    // straight stem
	'n': 0.94, // straight leg under a shoulder
	'o': 0.52, // round
	'c': 0.34, // open round
	'e': 0.44, // open curves, as of s
	'v': 0.12, // diagonal
	't': 0.5,  // level arms
	'T': 0.26, // arms over a void
	'f': 0.10, // overhang
	'j': -0.4, // hook under the letter before
	'p': 0.72, // points and quotes
	'x': 0,
}

// figureSide marks glyphs that share the digits' width.
const figureSide = '#'

// figureWidth is the advance of digits and signs of arithmetic.
func (d *Design) figureWidth() float64 { return d.wide(450) + d.Side*1.05 }

// glyph is a drawn or composed glyph, in place.
type glyph struct {
	name     string
	rune     rune // 0 for .notdef and ligatures
	advance  int
	contours []curve.Contour
	parts    []part // set for composed glyphs, next to contours
}

// part is a glyph within a composed one.
type part struct {
	rune rune
	x, y int
}

// draw returns all glyphs of the design: .notdef and space first, then by code point, then
// ligatures.
func (d *Design) draw() []glyph {
	drawings := d.drawings()
	ready := map[rune]glyph{}
	for r, dr := range drawings {
		p := d.drawn(r, dr)
		body := extent(p.contours)
		finish(p, r)
		ready[r] = d.fit(r, p.contours, body, dr.sides)
	}
	for _, a := range accents(d) {
		g := d.compose(a, ready)
		if d.Pitch > 0 {
			g.advance = nearest(d.Pitch)
		}
		ready[a.rune] = g
	}
	notdef := &pen{d: d}
	notdef.poly(pt(60, 0), pt(460, 0), pt(460, d.Cap), pt(60, d.Cap))
	notdef.add(curve.Contour{From: pt(100, 40), Segments: []curve.Segment{line(pt(100, d.Cap-40)), line(pt(420, d.Cap-40)), line(pt(420, 40))}}, false)
	space := int(d.wide(200) * 1.12)
	if d.Pitch > 0 {
		space = nearest(d.Pitch)
	}
	glyphs := []glyph{
		{name: ".notdef", advance: 520, contours: notdef.contours},
		{name: glyphName(' '), rune: ' ', advance: space},
	}
	ready['\u00A0'] = glyph{rune: '\u00A0', advance: space}
	ready['\u00AD'] = func() glyph { g := ready['-']; g.rune = '\u00AD'; return g }()
	for _, r := range slices.Sorted(maps.Keys(ready)) {
		g := ready[r]
		g.name = glyphName(r)
		glyphs = append(glyphs, g)
	}
	if d.Pitch == 0 {
		glyphs = append(glyphs, d.ligatures(ready)...)
	}
	d.lean(glyphs)
	return glyphs
}

// drawn draws a letter; in a monospaced design as narrow as it has to be.
func (d *Design) drawn(r rune, dr drawing) *pen {
	p := &pen{d: d}
	dr.draw(p)
	e := *d
	for range 8 {
		b := extent(p.contours)
		if room := d.Pitch * 0.93; d.Pitch == 0 || b.x1-b.x0 <= room {
			break
		}
		e.Width, e.Extra = e.Width*0.93, e.Extra*0.93
		e.V, e.Thick, e.Thin = e.V*0.97, e.Thick*0.97, e.Thin*0.97
		p = &pen{d: &e}
		e.drawings()[r].draw(p)
	}
	p.d = d
	return p
}

// lean slants all glyphs by the design's angle.
func (d *Design) lean(glyphs []glyph) {
	if d.Slant == 0 {
		return
	}
	by := math.Tan(d.Slant * math.Pi / 180)
	shear := func(q curve.Point) curve.Point { return pt(q.X+q.Y*by, q.Y) }
	for i := range glyphs {
		for j, c := range glyphs[i].contours {
			to := curve.Contour{From: shear(c.From)}
			for _, s := range c.Segments {
				to.Segments = append(to.Segments, curve.Segment{C1: shear(s.C1), C2: shear(s.C2), To: shear(s.To), Line: s.Line})
			}
			glyphs[i].contours[j] = to
		}
		for j := range glyphs[i].parts {
			part := &glyphs[i].parts[j]
			part.x += nearest(float64(part.y) * by)
		}
	}
}

func (d *Design) drawings() map[rune]drawing {
	all := lowercase(d)
	maps.Copy(all, uppercase(d))
	maps.Copy(all, digits(d))
	maps.Copy(all, punctuation(d))
	maps.Copy(all, marks(d))
	return all
}

// fit sets the drawn contours between their side spaces; body is their extent without serifs.
func (d *Design) fit(r rune, contours []curve.Contour, b box, sides string) glyph {
	left, right := d.Side*sideFactors[sides[0]], d.Side*sideFactors[sides[1]]
	if sides[0] == figureSide {
		spare := d.figureWidth() - (b.x1 - b.x0)
		left, right = spare/2, spare/2
	}
	if d.Joined && isSmall(r) {
		left, right = 0, d.joint(r)
	}
	if d.Pitch > 0 {
		left = (d.Pitch - (b.x1 - b.x0)) / 2
		right = left
	}
	g := glyph{rune: r, advance: nearest(left + b.x1 - b.x0 + right)}
	for _, c := range contours {
		g.contours = append(g.contours, c.Move(pt(float64(nearest(left))-b.x0, 0)))
	}
	return g
}

// ligatures returns the joined letters: f and i, whose hook takes the dot's place, and in
// scripts double letters with one bar.
func (d *Design) ligatures(ready map[rune]glyph) []glyph {
	out := []glyph{d.ligature(ready)}
	if d.Joined {
		for _, r := range "tf" {
			one := ready[r]
			p := &pen{d: d}
			p.place(one.contours, 0, 0)
			p.place(one.contours, float64(one.advance), 0)
			b := extent(one.contours)
			p.bar(b.x0, d.X-d.H, b.x0+float64(one.advance)+d.wide(230), d.X)
			out = append(out, glyph{name: string(r) + "_" + string(r), advance: 2 * one.advance, contours: p.contours})
		}
	}
	return out
}

// ligature joins f and i into one glyph whose hook takes the dot's place.
func (d *Design) ligature(ready map[rune]glyph) glyph {
	f, i := ready['f'], ready['ı']
	g := glyph{name: "f_i", advance: f.advance + i.advance - nearest(d.Side*0.45)}
	shift := float64(f.advance) - d.Side*0.45
	stem := extent(i.contours)
	p := &pen{d: d}
	p.contours = append(p.contours, f.contours...)
	p.place(i.contours, shift, 0)
	p.bar(extent(f.contours).x0+d.V, d.X-d.H, shift+stem.x1, d.X)
	p.dot(shift+(stem.x0+stem.x1)/2, d.dotHeight(), d.Dot)
	g.contours = p.contours
	return g
}

// place adds contours shifted by x and y.
func (p *pen) place(contours []curve.Contour, x, y float64) {
	for _, c := range contours {
		p.contours = append(p.contours, c.Move(pt(x, y)))
	}
}

// miniature draws a letter k times as large with a pen that is less thinned, so
// that small letters keep their color.
func (p *pen) miniature(r rune, k float64) []curve.Contour {
	d := *p.d
	for _, f := range []*float64{&d.Cap, &d.X, &d.Ascender, &d.Descender, &d.Overshoot, &d.Width, &d.Extra} {
		*f *= k
	}
	thinned := (k + 1) / 2 * 0.94
	for _, f := range []*float64{&d.V, &d.H, &d.Thick, &d.Thin, &d.Dot} {
		*f *= thinned
	}
	all := lowercase(&d)
	if unicode.IsUpper(r) {
		all = uppercase(&d)
	} else if unicode.IsDigit(r) {
		all = digits(&d)
	}
	q := &pen{d: &d}
	all[r].draw(q)
	return q.contours
}

// scaled adds a miniature at x and y.
func (p *pen) scaled(r rune, x, y, k float64) { p.place(p.miniature(r, k), x, y) }

func nearest(f float64) int {
	if f < 0 {
		return -int(-f + 0.5)
	}
	return int(f + 0.5)
}
