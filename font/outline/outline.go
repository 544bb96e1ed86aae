// Package outline gives the outlines of a face's glyphs, whichever table holds
// them: `glyf` with its composites put together, `CFF ` or `CFF2`. A variable
// face is read in its default design. Coordinates are font units, y upwards;
// TrueType outlines come as lines and quadratics, PostScript ones as lines and
// cubics.
package outline

import (
	"errors"
	"fmt"
	"math"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// ErrNone says that a face has no outlines.
var ErrNone = errors.New("the font holds no outlines")

// Limits on composite glyphs.
const (
	// maxDepth is twice what the specification's own profile asks readers for.
	maxDepth = 16
	// workPerByte bounds how many points and parts all glyphs together may come
	// to, by the size of the table.
	workPerByte = 200
	// maxPoints is as many as `maxp` can announce for one glyph.
	maxPoints = math.MaxUint16
)

// Reader reads the glyphs of one face. It is for one goroutine.
type Reader struct {
	glyphs [][]byte
	cff    *cff.Table
	work   int
}

// Open finds the outlines of a face. The error wraps ErrNone, or says what is
// damaged.
func Open(f *sfnt.Font) (*Reader, error) {
	if b := f.Table(table.TagGlyf); len(b) > 0 {
		head, err := table.ParseHead(f.Table(table.TagHead))
		if err != nil {
			return nil, err
		}
		glyphs, err := glyf.Locate(b, f.Table(table.TagLoca), head.LongLoca)
		if err != nil {
			return nil, err
		}
		return &Reader{glyphs: glyphs, work: workPerByte*len(b) + 1<<16}, nil
	}
	for _, tag := range []sfnt.Tag{table.TagCFF, table.TagCFF2} {
		if f.Has(tag) {
			t, err := cff.Parse(f.Table(tag))
			if err != nil {
				return nil, err
			}
			return &Reader{cff: t}, nil
		}
	}
	return nil, ErrNone
}

// Count is how many glyphs there are.
func (r *Reader) Count() int {
	if r.cff != nil {
		return r.cff.Glyphs()
	}
	return len(r.glyphs)
}

// PostScript returns the opened table of PostScript outlines, nil for others.
func (r *Reader) PostScript() *cff.Table { return r.cff }

// Contours returns a glyph's outline, none for a blank. The error says what is
// damaged.
func (r *Reader) Contours(glyph int) ([]curve.Contour, error) {
	if r.cff != nil {
		contours, _, err := r.cff.Glyph(glyph)
		return contours, err
	}
	s := &shape{}
	if err := r.add(s, glyph, 0); err != nil {
		return nil, fmt.Errorf("glyph %d: %w", glyph, err)
	}
	return s.contours(), nil
}

// point is a point of a TrueType contour after the matrices of composites.
type point struct {
	curve.Point
	on bool
}

// shape is a glyph as a list of points and the ends of its contours.
type shape struct {
	points []point
	ends   []int // the last point of each contour
}

// add puts a glyph's points behind those of s.
func (r *Reader) add(s *shape, glyph, depth int) error {
	if glyph >= len(r.glyphs) {
		return fmt.Errorf("%w: it is made of glyph %d, which is not there", glyf.ErrGlyph, glyph)
	}
	b := r.glyphs[glyph]
	if len(b) == 0 {
		return nil
	}
	count, ok := glyf.ContourCount(b)
	if !ok {
		return fmt.Errorf("%w: it ends inside its header", glyf.ErrGlyph)
	}
	if count >= 0 {
		simple, err := glyf.ParseSimple(b)
		if err != nil {
			return err
		}
		if r.work -= 1 + len(simple.Points); r.work < 0 || len(s.points)+len(simple.Points) > maxPoints {
			return errWork
		}
		base := len(s.points)
		for _, p := range simple.Points {
			s.points = append(s.points, point{curve.Point{X: float64(p.X), Y: float64(p.Y)}, p.On})
		}
		for _, end := range simple.Ends {
			s.ends = append(s.ends, base+end)
		}
		return nil
	}
	if depth++; depth > maxDepth {
		return fmt.Errorf("%w: its parts are made of parts too deeply", glyf.ErrGlyph)
	}
	parts, err := glyf.ParseParts(b)
	if err != nil {
		return err
	}
	for _, part := range parts {
		if r.work--; r.work < 0 {
			return errWork
		}
		base := len(s.points)
		if err := r.add(s, int(part.Glyph), depth); err != nil {
			return err
		}
		if err := place(s, base, part); err != nil {
			return err
		}
		if r.work -= len(s.points) - base; r.work < 0 {
			return errWork
		}
	}
	return nil
}

var errWork = fmt.Errorf("%w: the glyphs made of parts ask for too much work", glyf.ErrGlyph)

// place moves the points from base on as the part asks for.
func place(s *shape, base int, c glyf.Component) error {
	shift := curve.Point{X: c.DX, Y: c.DY}
	if c.Scaled && !c.Match {
		shift = curve.Point{X: c.XX*c.DX + c.YX*c.DY, Y: c.XY*c.DX + c.YY*c.DY}
	}
	for i := base; i < len(s.points); i++ {
		p := &s.points[i]
		p.Point = curve.Point{X: c.XX*p.X + c.YX*p.Y, Y: c.XY*p.X + c.YY*p.Y}
	}
	if c.Match {
		a, b := int(c.DX), base+int(c.DY)
		if a >= base || b >= len(s.points) {
			return fmt.Errorf("%w: its parts are joined at points that are not there", glyf.ErrGlyph)
		}
		shift = s.points[a].Sub(s.points[b].Point)
	}
	for i := base; i < len(s.points); i++ {
		s.points[i].Point = s.points[i].Add(shift)
	}
	return nil
}

// contours turns rings of points into curves. Between two control points lies a
// point on the curve that is not written down.
func (s *shape) contours() []curve.Contour {
	var out []curve.Contour
	first := 0
	for _, end := range s.ends {
		ring := s.points[first : end+1]
		first = end + 1
		if len(ring) < 2 {
			continue
		}
		out = append(out, ringContour(ring))
	}
	return out
}

func ringContour(ring []point) curve.Contour {
	middle := func(a, b point) curve.Point { return a.Add(b.Point).Mul(0.5) }
	n := len(ring)
	start := 0
	for start < n && !ring[start].on {
		start++
	}
	c := curve.Contour{}
	if start == n { // no point on the curve at all
		start = 0
		c.From = middle(ring[n-1], ring[0])
	} else {
		c.From = ring[start].Point
		start++
		n--
	}
	at := func(i int) point { return ring[(start+i)%len(ring)] }
	for i := 0; i < n; i++ {
		p := at(i)
		if p.on {
			c.Segments = append(c.Segments, curve.Segment{To: p.Point, Line: true})
			continue
		}
		to := c.From
		if i < n-1 {
			if next := at(i + 1); next.on {
				to = next.Point
				i++
			} else {
				to = middle(p, next)
			}
		}
		c.Segments = append(c.Segments, curve.Segment{C1: p.Point, To: to, Quadratic: true})
	}
	return c
}

// Bounds returns the box around all points of a TrueType glyph, control points
// too, rounded outwards to font units; false for a blank. The error says what is
// damaged.
func (r *Reader) Bounds(glyph int) (glyf.Bounds, bool, error) {
	s := &shape{}
	if err := r.add(s, glyph, 0); err != nil {
		return glyf.Bounds{}, false, fmt.Errorf("glyph %d: %w", glyph, err)
	}
	if len(s.points) == 0 {
		return glyf.Bounds{}, false, nil
	}
	low, high := s.points[0].Point, s.points[0].Point
	for _, p := range s.points[1:] {
		low = curve.Point{X: min(low.X, p.X), Y: min(low.Y, p.Y)}
		high = curve.Point{X: max(high.X, p.X), Y: max(high.Y, p.Y)}
	}
	return glyf.Bounds{XMin: int16(math.Floor(low.X)), YMin: int16(math.Floor(low.Y)), XMax: int16(math.Ceil(high.X)), YMax: int16(math.Ceil(high.Y))}, true, nil
}
