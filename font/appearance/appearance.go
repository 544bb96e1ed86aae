// Package appearance measures how a face looks: serif or sans serif, how heavy, how much
// contrast, how tall its small letters are, how wide, how round, how slanted.
//
// Everything is measured from the outlines of the Latin letters. What a file states about
// itself (the PANOSE numbers and the family class of the table OS/2) only counts where
// outlines cannot tell: handwriting whose letters do not join, and ornaments.
//
// Measures are ratios, so they do not depend on the units per em, on hints, or on the
// file's format. A variable face is measured in its default design. A face without Latin
// letters has no measures; Of returns ErrNoLetters for it.
package appearance

import (
	"errors"
	"math"
	"slices"

	"sparecrate/font/curve"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Version goes up when the same face is measured differently than before.
const Version = 1

// ErrNoLetters is returned for a face that has too few Latin letters to be measured.
var ErrNoLetters = errors.New("too few Latin letters to measure")

// Kind is the broad class of a face.
type Kind string

// The kinds. A face has one: the first that applies of Mono, Script, Display, Serif, Sans.
const (
	Sans    Kind = "sans"    // stems end without serifs
	Serif   Kind = "serif"   // most stems end in serifs
	Mono    Kind = "mono"    // all letters have one width
	Script  Kind = "script"  // letters join, or the file states that it is a script
	Display Kind = "display" // for large sizes: no small letters, extreme contrast or proportions
)

// Kinds lists the kinds in the order in which people look for them.
var Kinds = []Kind{Sans, Serif, Mono, Script, Display}

// Appearance is how a face looks.
type Appearance struct {
	Kind Kind `json:"kind"`
	// Serifs is the share of stems that end in serifs, 0 to 1.
	Serifs float64 `json:"serifs"`
	// Stem is how thick stems are, in percent of the height of capitals.
	Stem float64 `json:"stem"`
	// Contrast is how many times the thin parts of the letter o go into the thick ones; 1 is none.
	Contrast float64 `json:"contrast"`
	// XHeight is the height of small letters, in percent of that of capitals.
	XHeight float64 `json:"xHeight"`
	// Width is the mean advance of common small letters, in percent of their height.
	Width float64 `json:"width"`
	// Roundness says how bowls are drawn: 100 is an ellipse, 0 a rectangle.
	Roundness float64 `json:"roundness"`
	// Slant is how far stems lean to the right, in degrees.
	Slant float64 `json:"slant"`
}

// Of measures a face. The error wraps outline.ErrNone where it has no outlines, ErrNoLetters,
// or sfnt.ErrDamaged.
func Of(f *sfnt.Font) (*Appearance, error) {
	l, err := open(f)
	if err != nil {
		return nil, err
	}
	capital, lower := l.height("HIETNZ"), l.height("xzvw")
	if capital <= 0 {
		capital = l.height("bdhkl")
	}
	caseless := lower <= 0 || l.caseless()
	if lower <= 0 {
		lower = capital
	}
	if capital <= 0 || len(l.glyphs) < fewest {
		return nil, ErrNoLetters
	}
	a := &Appearance{Slant: l.slant()}
	l.straighten(a.Slant)
	stems := l.stems()
	a.Stem = percent(median(stems) / capital)
	a.Contrast = l.contrast()
	a.XHeight = percent(lower / capital)
	a.Width = percent(l.width() / lower)
	a.Roundness = l.roundness()
	a.Serifs = l.serifs(capital)
	a.Kind = l.kind(a, caseless, spread(stems))
	for _, v := range []*float64{&a.Serifs, &a.Stem, &a.Contrast, &a.XHeight, &a.Width, &a.Roundness, &a.Slant} {
		*v = math.Round(*v*100) / 100
	}
	return a, nil
}

// Limits of what is measured.
const (
	fewest = 8  // letters and figures a face must have
	pieces = 12 // straight pieces a curve is cut into
)

// measured are the characters that measures are taken from.
const measured = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ01"

// letters are the measured glyphs of a face.
type letters struct {
	glyphs map[rune]*glyph
	panose [10]byte
	class  int16
}

// glyph is an outline as polygons, in font units.
type glyph struct {
	polygons                 [][]curve.Point
	advance                  float64
	left, bottom, right, top float64
}

func open(f *sfnt.Font) (*letters, error) {
	r, err := outline.Open(f)
	if err != nil {
		return nil, err
	}
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	if err != nil {
		return nil, err
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, err
	}
	metrics := table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), r.Count())
	l := &letters{glyphs: map[rune]*glyph{}}
	if os2, err := table.ParseOS2(f.Table(table.TagOS2)); err == nil {
		l.panose, l.class = os2.Panose, os2.FamilyClass
	}
	for _, c := range measured {
		id := glyphOf(runs, c)
		if id <= 0 || id >= r.Count() || id >= len(metrics) {
			continue
		}
		contours, err := r.Contours(id)
		if err != nil || len(contours) == 0 {
			continue
		}
		g := newGlyph(contours)
		g.advance = float64(metrics[id].Advance)
		if g.right > g.left && g.top > g.bottom {
			l.glyphs[c] = g
		}
	}
	return l, nil
}

// glyphOf returns the glyph of a character, 0 for none.
func glyphOf(runs []table.Run, c rune) int {
	for _, run := range runs {
		if c >= run.First && int(c-run.First) < run.Count {
			return int(run.Glyph) + int(c-run.First)
		}
	}
	return 0
}

func newGlyph(contours []curve.Contour) *glyph {
	g := &glyph{}
	for _, c := range contours {
		polygon := []curve.Point{c.From}
		p := c.From
		for _, s := range c.Segments {
			if s.Line {
				polygon = append(polygon, s.To)
			} else {
				cubic := s.Cubic(p)
				for i := 1; i <= pieces; i++ {
					polygon = append(polygon, pointAt(p, cubic, float64(i)/pieces))
				}
			}
			p = s.To
		}
		g.polygons = append(g.polygons, polygon)
	}
	g.bounds()
	return g
}

func pointAt(p curve.Point, s curve.Segment, t float64) curve.Point {
	u := 1 - t
	return p.Mul(u * u * u).Add(s.C1.Mul(3 * u * u * t)).Add(s.C2.Mul(3 * u * t * t)).Add(s.To.Mul(t * t * t))
}

func (g *glyph) bounds() {
	g.left, g.bottom, g.right, g.top = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, polygon := range g.polygons {
		for _, p := range polygon {
			g.left, g.right = min(g.left, p.X), max(g.right, p.X)
			g.bottom, g.top = min(g.bottom, p.Y), max(g.top, p.Y)
		}
	}
}

// mapped returns the glyph with every point put elsewhere.
func (g *glyph) mapped(to func(curve.Point) curve.Point) *glyph {
	out := &glyph{advance: g.advance, polygons: make([][]curve.Point, len(g.polygons))}
	for i, polygon := range g.polygons {
		out.polygons[i] = make([]curve.Point, len(polygon))
		for k, p := range polygon {
			out.polygons[i][k] = to(p)
		}
	}
	out.bounds()
	return out
}

// span is a stretch of a level line that lies within an outline.
type span struct{ from, to float64 }

func (s span) length() float64 { return s.to - s.from }
func (s span) middle() float64 { return (s.from + s.to) / 2 }

// spans returns where the level line at y lies within the outline, by the nonzero winding
// rule, from left to right.
func (g *glyph) spans(y float64) []span {
	type crossing struct {
		x   float64
		way int
	}
	var all []crossing
	for _, polygon := range g.polygons {
		for i, p := range polygon {
			q := polygon[(i+1)%len(polygon)]
			if (p.Y <= y) == (q.Y <= y) {
				continue
			}
			way := 1
			if q.Y < p.Y {
				way = -1
			}
			all = append(all, crossing{p.X + (q.X-p.X)*(y-p.Y)/(q.Y-p.Y), way})
		}
	}
	slices.SortFunc(all, func(a, b crossing) int {
		switch {
		case a.x < b.x:
			return -1
		case a.x > b.x:
			return 1
		}
		return a.way - b.way
	})
	var out []span
	winding := 0
	for i, c := range all {
		before := winding
		winding += c.way
		switch {
		case before == 0 && len(out) > 0 && c.x-out[len(out)-1].to < 1e-6:
			// Two contours that touch are one stretch.
		case before == 0:
			out = append(out, span{c.x, c.x})
		case winding == 0 || i == len(all)-1:
			out[len(out)-1].to = c.x
		}
	}
	return out
}

func percent(x float64) float64 { return 100 * x }

func median(values []float64) float64 {
	if len(values) == 0 {
		return 0
	}
	sorted := slices.Sorted(slices.Values(values))
	return sorted[len(sorted)/2]
}

// spread returns how far values lie apart: the range of the middle half, as a part of the
// median.
func spread(values []float64) float64 {
	if len(values) < 4 {
		return 0
	}
	sorted := slices.Sorted(slices.Values(values))
	n := len(sorted)
	return (sorted[3*n/4] - sorted[n/4]) / max(sorted[n/2], 1)
}
