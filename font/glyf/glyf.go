// Package glyf reads and writes TrueType outlines: the tables `glyf` and `loca`
// of the OpenType specification 1.9.1, with simple and composite glyphs.
//
// Encode makes the tables from cubic contours (package curve), which become
// quadratics without instructions. Simple is one glyph's points, read and
// written as they are.
package glyf

import (
	"encoding/binary"
	"math"

	"sparecrate/font/curve"
	"sparecrate/font/table"
)

// Flags of a point in a simple glyph.
const (
	onCurve       = 0x01
	xShort        = 0x02
	yShort        = 0x04
	repeat        = 0x08
	xSameOrPlus   = 0x10
	ySameOrPlus   = 0x20
	overlapSimple = 0x40
)

// Flags of a part of a composite glyph.
const (
	argsAreWords       = 0x0001
	argsAreXY          = 0x0002
	roundXY            = 0x0004
	weHaveScale        = 0x0008
	moreComponents     = 0x0020
	weHaveXYScale      = 0x0040
	weHaveTwoByTwo     = 0x0080
	weHaveInstructions = 0x0100
	useMyMetrics       = 0x0200
	scaledOffset       = 0x0800
)

// Tolerance is the distance in font units that a quadratic may keep from the
// cubic it stands for.
const Tolerance = 0.5

// Part places another glyph in a composite, shifted by X and Y font units.
type Part struct {
	Glyph table.GlyphID
	X, Y  int
}

// Outline is a glyph to write: contours, or parts of other glyphs, or neither.
type Outline struct {
	Contours []curve.Contour
	Parts    []Part
	// Overlap says that contours cross, which renderers want to know.
	Overlap bool
}

// Bounds is a box in font units. An empty box is all zeros.
type Bounds struct{ XMin, YMin, XMax, YMax int16 }

// Tables is what Encode makes.
type Tables struct {
	Glyf, Loca []byte
	LongLoca   bool
	Bounds     []Bounds // one a glyph
	Profile    table.Maxp
}

// Encode writes the glyphs in order. Parts must name simple glyphs.
func Encode(glyphs []Outline) Tables {
	t := Tables{Profile: table.Maxp{TrueType: true, Glyphs: uint16(len(glyphs))}, Bounds: make([]Bounds, len(glyphs))}
	simple := make([]*Simple, len(glyphs))
	for i, g := range glyphs {
		simple[i] = quadratic(g)
		t.Bounds[i] = simple[i].Bounds
		t.Profile.Points = max(t.Profile.Points, uint16(len(simple[i].Points)))
		t.Profile.Contours = max(t.Profile.Contours, uint16(len(simple[i].Ends)))
	}
	offsets := []int{0}
	for i, g := range glyphs {
		switch {
		case len(g.Parts) > 0:
			points, contours := 0, 0
			for _, p := range g.Parts {
				points += len(simple[p.Glyph].Points)
				contours += len(simple[p.Glyph].Ends)
			}
			t.Profile.CompositePoints = max(t.Profile.CompositePoints, uint16(points))
			t.Profile.CompositeContours = max(t.Profile.CompositeContours, uint16(contours))
			t.Profile.Components = max(t.Profile.Components, uint16(len(g.Parts)))
			t.Profile.Depth = 1
			t.Bounds[i] = compositeBounds(g.Parts, t.Bounds)
			t.Glyf = appendComposite(t.Glyf, g.Parts, t.Bounds[i])
		case len(simple[i].Ends) > 0:
			t.Glyf = simple[i].Append(t.Glyf)
		}
		for len(t.Glyf)%4 != 0 {
			t.Glyf = append(t.Glyf, 0)
		}
		offsets = append(offsets, len(t.Glyf))
	}
	t.LongLoca = len(t.Glyf) > 2*math.MaxUint16
	t.Loca = Index(offsets, t.LongLoca)
	return t
}

// quadratic turns contours into rings of rounded points, without points that
// fall on the one before.
func quadratic(g Outline) *Simple {
	out := &Simple{Overlap: g.Overlap}
	for _, c := range g.Contours {
		var ring []Point
		add := func(p curve.Point, on bool) {
			q := Point{int(math.Round(p.X)), int(math.Round(p.Y)), on}
			if n := len(ring); n > 0 && on && ring[n-1] == q {
				return
			}
			ring = append(ring, q)
		}
		add(c.From, true)
		last := c.From
		for _, s := range c.Segments {
			switch {
			case s.Line:
				add(s.To, true)
			case s.Quadratic:
				add(s.C1, false)
				add(s.To, true)
			default:
				for _, q := range curve.Quads(last, s, Tolerance) {
					add(q.C, false)
					add(q.To, true)
				}
			}
			last = s.To
		}
		if n := len(ring); n > 1 && ring[n-1] == ring[0] {
			ring = ring[:n-1]
		}
		if len(ring) > 2 {
			out.Points = append(out.Points, ring...)
			out.Ends = append(out.Ends, len(out.Points)-1)
		}
	}
	out.Bounds = out.Measure()
	return out
}

func compositeBounds(parts []Part, known []Bounds) Bounds {
	box := Bounds{math.MaxInt16, math.MaxInt16, math.MinInt16, math.MinInt16}
	for _, p := range parts {
		b := known[p.Glyph]
		box.XMin, box.XMax = min(box.XMin, b.XMin+int16(p.X)), max(box.XMax, b.XMax+int16(p.X))
		box.YMin, box.YMax = min(box.YMin, b.YMin+int16(p.Y)), max(box.YMax, b.YMax+int16(p.Y))
	}
	return box
}

func appendComposite(out []byte, parts []Part, box Bounds) []byte {
	out = appendHeader(out, -1, box)
	for i, p := range parts {
		flags := argsAreWords | argsAreXY | roundXY
		if i == 0 {
			flags |= useMyMetrics
		}
		if i < len(parts)-1 {
			flags |= moreComponents
		}
		for _, n := range []int{flags, int(p.Glyph), p.X, p.Y} {
			out = binary.BigEndian.AppendUint16(out, uint16(n))
		}
	}
	return out
}
