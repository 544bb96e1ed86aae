package glyf

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/sfnt"
)

const glyphHeader = 10 // number of contours and bounding box

// ErrGlyph says that a glyph's description breaks the format; it wraps sfnt.ErrDamaged.
var ErrGlyph = sfnt.Damaged("a glyph is damaged")

// Point is a point of a TrueType contour, font units.
type Point struct {
	X, Y int
	On   bool // on the curve; else a control point of a quadratic
}

// Simple is a glyph made of contours. The last point of contour i is
// Points[Ends[i]].
type Simple struct {
	Ends         []int
	Points       []Point
	Instructions []byte
	Overlap      bool // OVERLAP_SIMPLE on the first point: contours cross
	Bounds       Bounds
}

// ContourCount returns numberOfContours: negative for a composite glyph.
func ContourCount(glyph []byte) (int, bool) {
	n, ok := sfnt.View(glyph).I16(0)
	return int(n), ok && len(glyph) >= glyphHeader
}

// BoundsOf returns the bounding box a glyph's header states.
func BoundsOf(glyph []byte) Bounds {
	c := sfnt.View(glyph).Cursor() // a glyph of no bytes has no bounds
	return Bounds{c.I16(2), c.I16(4), c.I16(6), c.I16(8)}
}

// ParseSimple reads a glyph with no or more contours. The error wraps ErrGlyph.
func ParseSimple(glyph []byte) (*Simple, error) {
	v := sfnt.View(glyph)
	count, ok := ContourCount(glyph)
	if !ok || count < 0 {
		return nil, fmt.Errorf("%w: it has no header of a simple glyph", ErrGlyph)
	}
	s := &Simple{Bounds: BoundsOf(glyph), Ends: make([]int, 0, min(count, len(glyph)/2))}
	at, last := glyphHeader, -1
	for range count {
		end, ok := v.U16(at)
		if !ok || int(end) <= last {
			return nil, fmt.Errorf("%w: its contours end in no order", ErrGlyph)
		}
		last = int(end)
		s.Ends = append(s.Ends, last)
		at += 2
	}
	length, ok := v.U16(at)
	if !ok {
		return nil, fmt.Errorf("%w: it ends before its instructions", ErrGlyph)
	}
	if s.Instructions, ok = v.Sub(at+2, int(length)); !ok {
		return nil, fmt.Errorf("%w: its instructions run past its end", ErrGlyph)
	}
	return s, s.parsePoints(v, at+2+int(length), last+1)
}

// parsePoints reads flags and coordinates from offset at on.
func (s *Simple) parsePoints(v sfnt.View, at, points int) error {
	if points > 0 && points > 256*(len(v)-at) { // a repeated flag makes at most 256 points of two bytes
		return fmt.Errorf("%w: it is too short for %d points", ErrGlyph, points)
	}
	flags := make([]byte, 0, points)
	for len(flags) < points {
		f, ok := v.U8(at)
		at++
		run := 1
		if f&repeat != 0 {
			var more uint8
			if more, ok = v.U8(at); ok {
				run += int(more)
			}
			at++
		}
		if !ok || len(flags)+run > points {
			return fmt.Errorf("%w: its flags do not fit its %d points", ErrGlyph, points)
		}
		for range run {
			flags = append(flags, f)
		}
	}
	s.Points = make([]Point, points)
	if points > 0 {
		s.Overlap = flags[0]&overlapSimple != 0
	}
	read := func(short, same byte, set func(p *Point, value int)) bool {
		value := 0
		for i, f := range flags {
			switch {
			case f&short != 0:
				d, ok := v.U8(at)
				if !ok {
					return false
				}
				at++
				if f&same != 0 {
					value += int(d)
				} else {
					value -= int(d)
				}
			case f&same == 0:
				d, ok := v.I16(at)
				if !ok {
					return false
				}
				at += 2
				value += int(d)
			}
			value = int(int16(value))
			set(&s.Points[i], value)
		}
		return true
	}
	if !read(xShort, xSameOrPlus, func(p *Point, x int) { p.X = x }) || !read(yShort, ySameOrPlus, func(p *Point, y int) { p.Y = y }) {
		return fmt.Errorf("%w: its coordinates run past its end", ErrGlyph)
	}
	for i, f := range flags {
		s.Points[i].On = f&onCurve != 0
	}
	return nil
}

// Measure returns the box around all points, control points too.
func (s *Simple) Measure() Bounds {
	if len(s.Points) == 0 {
		return Bounds{}
	}
	first := s.Points[0]
	b := Bounds{int16(first.X), int16(first.Y), int16(first.X), int16(first.Y)}
	for _, p := range s.Points[1:] {
		b.XMin, b.XMax = min(b.XMin, int16(p.X)), max(b.XMax, int16(p.X))
		b.YMin, b.YMax = min(b.YMin, int16(p.Y)), max(b.YMax, int16(p.Y))
	}
	return b
}

// Append writes the glyph as compactly as the format allows, without padding.
func (s *Simple) Append(out []byte) []byte {
	out = appendHeader(out, len(s.Ends), s.Bounds)
	for _, end := range s.Ends {
		out = binary.BigEndian.AppendUint16(out, uint16(end))
	}
	out = binary.BigEndian.AppendUint16(out, uint16(len(s.Instructions)))
	out = append(out, s.Instructions...)
	scratch := make([]byte, 5*len(s.Points))
	flags, xs, ys := scratch[:len(s.Points)], scratch[len(s.Points):len(s.Points):3*len(s.Points)], scratch[3*len(s.Points):3*len(s.Points)]
	var x, y int
	for i, p := range s.Points {
		var f, more byte
		if p.On {
			f = onCurve
		}
		if s.Overlap && i == 0 {
			f |= overlapSimple
		}
		more, xs = appendDelta(xs, p.X-x, xShort, xSameOrPlus)
		f |= more
		more, ys = appendDelta(ys, p.Y-y, yShort, ySameOrPlus)
		flags[i] = f | more
		x, y = p.X, p.Y
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

func appendHeader(out []byte, contours int, box Bounds) []byte {
	out = binary.BigEndian.AppendUint16(out, uint16(contours))
	for _, n := range []int16{box.XMin, box.YMin, box.XMax, box.YMax} {
		out = binary.BigEndian.AppendUint16(out, uint16(n))
	}
	return out
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

// Locate returns the bytes of each glyph from the tables glyf and loca. The
// error wraps ErrGlyph.
func Locate(glyf, loca []byte, long bool) ([][]byte, error) {
	v, l := sfnt.View(glyf), sfnt.View(loca)
	size := 2
	if long {
		size = 4
	}
	count := len(loca)/size - 1
	if count < 0 {
		return nil, fmt.Errorf("%w: the list of glyphs is empty", ErrGlyph)
	}
	offset := func(i int) int {
		if long {
			n, _ := l.U32(4 * i)
			return int(n)
		}
		n, _ := l.U16(2 * i)
		return 2 * int(n)
	}
	glyphs := make([][]byte, count)
	for i := range count {
		from, to := offset(i), offset(i+1)
		b, ok := v.Sub(from, to-from)
		if !ok {
			return nil, fmt.Errorf("%w: glyph %d lies outside its table", ErrGlyph, i)
		}
		glyphs[i] = b
	}
	return glyphs, nil
}

// Index writes loca for glyphs that end at the given offsets, the first being 0.
// Short offsets need multiples of two up to 131070.
func Index(offsets []int, long bool) []byte {
	var loca []byte
	for _, at := range offsets {
		if long {
			loca = binary.BigEndian.AppendUint32(loca, uint32(at))
		} else {
			loca = binary.BigEndian.AppendUint16(loca, uint16(at/2))
		}
	}
	return loca
}
