// Package totruetype turns PostScript outlines into TrueType ones: the tables `CFF `
// and `CFF2` of a static face into `glyf` and `loca` of the OpenType
// specification 1.9.1, with all that must agree with them.
//
// Each cubic becomes quadratics that stay within Tolerance of it, on whole font
// units. Points at the ends of curves stay where they are, and the control
// points next to them on their tangents, so that extremes stay extremes and
// smooth joins smooth. Contours run the way TrueType asks for. Layout, names
// and metrics stay; hints, which the two formats express in different ways, go.
package totruetype

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/unitscale"
)

// Tolerance is how far a curve may stray from the one it stands for, in
// thousandths of an em; FineTolerance is how far on a finer grid.
const (
	Tolerance     = 0.3
	FineTolerance = 0.12
)

// What a caller may want to tell apart.
var (
	// ErrTrueType says that the face has TrueType outlines already.
	ErrTrueType = errors.New("the outlines are TrueType already")
	// ErrVariable says that the outlines vary.
	ErrVariable = errors.New("variable outlines cannot be converted; make a static instance first")
)

// maxPoints is what `maxp` can announce of one glyph.
const maxPoints = math.MaxUint16

// Face retypes a face, which is not changed. The same face gives the same
// tables. The error wraps ErrTrueType, ErrVariable or sfnt.ErrDamaged.
func Face(f *sfnt.Font) (*sfnt.Font, error) { return Finer(f, 1) }

// Finer is Face on a grid so many times finer, for outlines whose rounding to
// whole units would be seen: thin ones, and such as lie between units. The error
// may wrap those of package grid, too.
func Finer(f *sfnt.Font, times int) (*sfnt.Font, error) {
	if len(f.Table(table.TagGlyf)) > 0 {
		return nil, ErrTrueType
	}
	tag := table.TagCFF
	if !f.Has(tag) {
		tag = table.TagCFF2
	}
	if f.Has(table.TagFvar) {
		return nil, ErrVariable
	}
	t, err := cff.Parse(f.Table(tag))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	if times > 1 {
		if f, err = unitscale.Finer(f, times); err != nil {
			return nil, err
		}
	}
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	r := &retyper{font: f, cff: t, times: float64(times), tolerance: Tolerance * float64(head.UnitsPerEm) / 1000}
	if times > 1 {
		r.tolerance *= FineTolerance / Tolerance
	}
	if err := r.glyphs(); err != nil {
		return nil, sfnt.Damage(err)
	}
	return r.face()
}

type retyper struct {
	font      *sfnt.Font
	cff       *cff.Table
	times     float64 // how much finer the grid is than that of the outlines
	tolerance float64

	glyf    []byte
	offsets []int
	bounds  []glyf.Bounds
	profile table.Maxp
}

// glyphs draws every glyph anew.
func (r *retyper) glyphs() error {
	n := r.cff.Glyphs()
	r.profile = table.Maxp{TrueType: true, Glyphs: uint16(n)}
	r.offsets = []int{0}
	for g := range n {
		contours, _, err := r.cff.Glyph(g)
		if err != nil {
			return err
		}
		for i := range contours {
			contours[i] = contours[i].Map(func(p curve.Point) curve.Point {
				return curve.Point{X: cff.Whole(p.X) * r.times, Y: cff.Whole(p.Y) * r.times}
			})
		}
		s := Outline(contours, r.tolerance)
		if len(s.Points) > maxPoints {
			return fmt.Errorf("glyph %d: its outline has more than %d points", g, maxPoints)
		}
		r.bounds = append(r.bounds, s.Bounds)
		r.profile.Points = max(r.profile.Points, uint16(len(s.Points)))
		r.profile.Contours = max(r.profile.Contours, uint16(len(s.Ends)))
		if len(s.Ends) > 0 {
			r.glyf = s.Append(r.glyf)
		}
		for len(r.glyf)%4 != 0 {
			r.glyf = append(r.glyf, 0)
		}
		r.offsets = append(r.offsets, len(r.glyf))
	}
	return nil
}

// Outline draws contours of lines and cubics as one TrueType glyph, straying at
// most by the tolerance, font units. Outer contours run clockwise.
func Outline(contours []curve.Contour, tolerance float64) *glyf.Simple {
	area := 0.0
	for _, c := range contours {
		area += c.Area()
	}
	s := &glyf.Simple{}
	for _, c := range contours {
		if area > 0 {
			c = c.Reverse()
		}
		if ring := ringOf(c, tolerance); len(ring) > 2 {
			s.Points = append(s.Points, ring...)
			s.Ends = append(s.Ends, len(s.Points)-1)
		}
	}
	s.Bounds = s.Measure()
	return s
}

// ringOf returns the points of one contour.
func ringOf(c curve.Contour, tolerance float64) []glyf.Point {
	var ring []glyf.Point
	add := func(p curve.Point, on bool) {
		q := glyf.Point{X: whole(p.X), Y: whole(p.Y), On: on}
		if n := len(ring); n > 0 && on && ring[n-1] == q {
			return
		}
		ring = append(ring, q)
	}
	add(c.From, true)
	last := c.From
	for _, s := range c.Segments {
		switch {
		case s.Line || straight(last, s):
		case s.Quadratic:
			add(s.C1, false)
		default:
			for _, p := range curve.Spline(last, s, tolerance) {
				add(p, false)
			}
		}
		add(s.To, true)
		last = s.To
	}
	if n := len(ring); n > 1 && ring[n-1] == ring[0] {
		ring = ring[:n-1]
	}
	return ring
}

// straight reports whether a curve is a line: its handles lie on it, within a
// tenth of a unit.
func straight(p curve.Point, s curve.Segment) bool {
	if s.Quadratic {
		return false
	}
	d := s.To.Sub(p)
	length := d.Len()
	for _, c := range []curve.Point{s.C1, s.C2} {
		v := c.Sub(p)
		if length == 0 {
			if v.Len() > 0.1 {
				return false
			}
			continue
		}
		along := (v.X*d.X + v.Y*d.Y) / length
		if math.Abs(v.X*d.Y-v.Y*d.X)/length > 0.1 || along < -0.1 || along > length+0.1 {
			return false
		}
	}
	return true
}

func whole(x float64) int { return int(math.Round(max(math.MinInt16, min(x, math.MaxInt16)))) }

var (
	tagVORG = sfnt.MakeTag("VORG")
	tagDSIG = sfnt.MakeTag("DSIG")
	tagKern = sfnt.MakeTag("kern")
	tagGasp = sfnt.MakeTag("gasp")
	tagVhea = sfnt.MakeTag("vhea")
	tagVmtx = sfnt.MakeTag("vmtx")
)

// smooth is a `gasp` table that asks for smoothing at every size, in both
// directions, and for no fitting to the grid, as there are no instructions.
var smooth = []byte{0, 1, 0, 1, 0xFF, 0xFF, 0, 0x0A}

// face puts the tables together.
func (r *retyper) face() (*sfnt.Font, error) {
	out := &sfnt.Font{Flavor: sfnt.VersionTrueType}
	add := func(tag sfnt.Tag, b []byte) { out.Tables = append(out.Tables, sfnt.Table{Tag: tag, Data: b}) }
	long := len(r.glyf) > 2*math.MaxUint16
	if len(r.glyf) == 0 {
		r.glyf = []byte{0} // readers want the table even where all glyphs are blank
	}
	for _, t := range r.font.Tables {
		b := t.Data
		switch t.Tag {
		case table.TagCFF, table.TagCFF2, tagVORG, tagDSIG, tagGasp:
			continue
		case tagKern:
			// Readers pass it over beside PostScript outlines, as the specification asks;
			// beside TrueType ones text would be kerned that was not.
			continue
		case table.TagHead:
			b = r.head(b, long)
		case table.TagMaxp:
			b = r.profile.Encode()
		case table.TagPost:
			b = r.post(b)
		case table.TagHhea:
			b = r.lineHeader(b)
		case table.TagHmtx:
			b = r.bearings(r.font.Table(table.TagHhea), b, func(g int, _ table.Metric) int16 { return r.bounds[g].XMin })
		case tagVhea:
			b = r.lineHeader(b)
		case tagVmtx:
			b = r.bearings(r.font.Table(tagVhea), b, r.topBearing())
		}
		add(t.Tag, b)
	}
	add(table.TagGlyf, r.glyf)
	add(table.TagLoca, glyf.Index(r.offsets, long))
	add(tagGasp, smooth)
	return out, nil
}

func (r *retyper) head(b []byte, long bool) []byte {
	b = slices.Clone(b)
	box := glyf.Bounds{}
	first := true
	for _, g := range r.bounds {
		if g == (glyf.Bounds{}) {
			continue
		}
		if first {
			box, first = g, false
		}
		box.XMin, box.XMax = min(box.XMin, g.XMin), max(box.XMax, g.XMax)
		box.YMin, box.YMax = min(box.YMin, g.YMin), max(box.YMax, g.YMax)
	}
	for i, n := range []int16{box.XMin, box.YMin, box.XMax, box.YMax} {
		binary.BigEndian.PutUint16(b[36+2*i:], uint16(n))
	}
	format := uint16(0)
	if long {
		format = 1
	}
	binary.BigEndian.PutUint16(b[50:], format)
	return b
}

// lineHeader says that every glyph has an advance of its own.
func (r *retyper) lineHeader(b []byte) []byte {
	if len(b) < 36 {
		return b
	}
	b = slices.Clone(b)
	binary.BigEndian.PutUint16(b[34:], r.profile.Glyphs)
	return b
}

// bearings writes hmtx or vmtx with advances as they are and new bearings:
// TrueType readers place an outline so that it starts at its bearing.
func (r *retyper) bearings(header, b []byte, bearing func(g int, old table.Metric) int16) []byte {
	if len(header) < 36 {
		return b
	}
	old := table.ParseHmtx(b, int(binary.BigEndian.Uint16(header[34:])), int(r.profile.Glyphs))
	metrics := make([]table.Metric, r.profile.Glyphs)
	for g := range metrics {
		if g < len(old) {
			metrics[g] = old[g]
		}
		metrics[g].Left = bearing(g, metrics[g])
	}
	return table.EncodeHmtx(metrics)
}

// topBearing returns the bearing that puts each vertical origin where VORG had
// it, or where the old bearing did.
func (r *retyper) topBearing() func(int, table.Metric) int16 {
	v := sfnt.View(r.font.Table(tagVORG))
	usual, ok := v.I16(4)
	if !ok {
		return func(_ int, old table.Metric) int16 { return old.Left }
	}
	own := map[int]int16{}
	n, _ := v.U16(6)
	for i := range int(n) {
		g, _ := v.U16(8 + 4*i)
		if y, ok := v.I16(10 + 4*i); ok {
			own[int(g)] = y
		}
	}
	return func(g int, _ table.Metric) int16 {
		y, ok := own[g]
		if !ok {
			y = usual
		}
		return y - r.bounds[g].YMax
	}
}

// post takes over the names of the glyphs.
func (r *retyper) post(b []byte) []byte {
	p, err := table.ParsePost(b)
	if err != nil || p.Version != 0x00030000 {
		return b
	}
	return p.Encode(r.cff.Names())
}
