// Package glyf writes TrueType outlines: the tables `glyf` and `loca` of the
// OpenType specification 1.9.1, with simple and composite glyphs. Outlines come
// as cubic contours (package curve) and become quadratics; instructions are not
// written.
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
	argsAreWords   = 0x0001
	argsAreXY      = 0x0002
	roundXY        = 0x0004
	moreComponents = 0x0020
	useMyMetrics   = 0x0200
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

type point struct {
	x, y int
	on   bool
}

// Encode writes the glyphs in order. Parts must name simple glyphs.
func Encode(glyphs []Outline) Tables {
	t := Tables{Profile: table.Maxp{TrueType: true, Glyphs: uint16(len(glyphs))}, Bounds: make([]Bounds, len(glyphs))}
	rings := make([][][]point, len(glyphs))
	for i, g := range glyphs {
		rings[i] = quadratic(g.Contours)
		t.Bounds[i] = simpleBounds(rings[i])
		t.Profile.Points = max(t.Profile.Points, uint16(countPoints(rings[i])))
		t.Profile.Contours = max(t.Profile.Contours, uint16(len(rings[i])))
	}
	offsets := []int{0}
	for i, g := range glyphs {
		switch {
		case len(g.Parts) > 0:
			points, contours := 0, 0
			for _, p := range g.Parts {
				points += countPoints(rings[p.Glyph])
				contours += len(rings[p.Glyph])
			}
			t.Profile.CompositePoints = max(t.Profile.CompositePoints, uint16(points))
			t.Profile.CompositeContours = max(t.Profile.CompositeContours, uint16(contours))
			t.Profile.Components = max(t.Profile.Components, uint16(len(g.Parts)))
			t.Profile.Depth = 1
			t.Bounds[i] = compositeBounds(g.Parts, t.Bounds)
			t.Glyf = appendComposite(t.Glyf, g.Parts, t.Bounds[i])
		case len(rings[i]) > 0:
			t.Glyf = appendSimple(t.Glyf, rings[i], t.Bounds[i], g.Overlap)
		}
		for len(t.Glyf)%4 != 0 {
			t.Glyf = append(t.Glyf, 0)
		}
		offsets = append(offsets, len(t.Glyf))
	}
	t.LongLoca = len(t.Glyf) > 2*math.MaxUint16
	for _, at := range offsets {
		if t.LongLoca {
			t.Loca = binary.BigEndian.AppendUint32(t.Loca, uint32(at))
		} else {
			t.Loca = binary.BigEndian.AppendUint16(t.Loca, uint16(at/2))
		}
	}
	return t
}

func countPoints(rings [][]point) int {
	n := 0
	for _, r := range rings {
		n += len(r)
	}
	return n
}

// quadratic turns contours into rings of rounded points, without points that
// fall on the one before.
func quadratic(contours []curve.Contour) [][]point {
	var rings [][]point
	for _, c := range contours {
		var ring []point
		add := func(p curve.Point, on bool) {
			q := point{int(math.Round(p.X)), int(math.Round(p.Y)), on}
			if n := len(ring); n > 0 && on && ring[n-1] == q {
				return
			}
			ring = append(ring, q)
		}
		add(c.From, true)
		last := c.From
		for _, s := range c.Segments {
			if s.Line {
				add(s.To, true)
			} else {
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
			rings = append(rings, ring)
		}
	}
	return rings
}

func simpleBounds(rings [][]point) Bounds {
	if len(rings) == 0 {
		return Bounds{}
	}
	box := Bounds{math.MaxInt16, math.MaxInt16, math.MinInt16, math.MinInt16}
	for _, ring := range rings {
		for _, p := range ring {
			box.XMin, box.XMax = min(box.XMin, int16(p.x)), max(box.XMax, int16(p.x))
			box.YMin, box.YMax = min(box.YMin, int16(p.y)), max(box.YMax, int16(p.y))
		}
	}
	return box
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

func appendHeader(out []byte, contours int, box Bounds) []byte {
	out = binary.BigEndian.AppendUint16(out, uint16(contours))
	for _, n := range []int16{box.XMin, box.YMin, box.XMax, box.YMax} {
		out = binary.BigEndian.AppendUint16(out, uint16(n))
	}
	return out
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

func appendSimple(out []byte, rings [][]point, box Bounds, overlap bool) []byte {
	out = appendHeader(out, len(rings), box)
	end := -1
	for _, r := range rings {
		end += len(r)
		out = binary.BigEndian.AppendUint16(out, uint16(end))
	}
	out = binary.BigEndian.AppendUint16(out, 0) // no instructions
	var flags, xs, ys []byte
	var x, y int
	for _, ring := range rings {
		for _, p := range ring {
			var f byte
			if p.on {
				f = onCurve
			}
			if overlap && len(flags) == 0 {
				f |= overlapSimple
			}
			var more byte
			more, xs = appendDelta(xs, p.x-x, xShort, xSameOrPlus)
			f |= more
			more, ys = appendDelta(ys, p.y-y, yShort, ySameOrPlus)
			flags = append(flags, f|more)
			x, y = p.x, p.y
		}
	}
	for i := 0; i < len(flags); {
		run := 1
		for i+run < len(flags) && flags[i+run] == flags[i] && run < 256 {
			run++
		}
		if run > 1 {
			out = append(out, flags[i]|repeat, byte(run-1))
		} else {
			out = append(out, flags[i])
		}
		i += run
	}
	out = append(out, xs...)
	return append(out, ys...)
}

func appendDelta(out []byte, d int, short, sameOrPlus byte) (byte, []byte) {
	switch {
	case d == 0:
		return sameOrPlus, out
	case d > 0 && d < 256:
		return short | sameOrPlus, append(out, byte(d))
	case d < 0 && d > -256:
		return short, append(out, byte(-d))
	}
	return 0, binary.BigEndian.AppendUint16(out, uint16(d))
}
