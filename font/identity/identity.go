// Package identity says what two faces have in common, judged by what they draw and how
// far they move on, never by what they are called.
//
// A Print is a face measured: for each character that leads to a glyph its advance, the
// box around its outline, the area and the middle of its ink, and how much ink lies on
// five lines through it. Measures are parts of an em, taken from the curves
// themselves, so that they stay what they are in a subset, under another name, in another
// container, without hints, on another grid, with glyphs in another order, and with
// cubic outlines drawn in quadratics. A variable face is measured in its default design and
// in each of its named styles.
//
// Compare says how two faces relate, with the evidence. An Index finds, among many, the
// faces that a Print is most like. Placed finds the place in the design space of a
// variable face where a static one stands.
package identity

import (
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"math"
	"slices"

	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Grid is how many steps of a measure an em has.
const Grid = 4096

// Lines is how many lines the ink of a glyph is measured on: level ones, at equal
// distances within the height of its box.
const Lines = 5

// Shape is a character measured. Lengths are in parts of an em (Grid).
type Shape struct {
	Rune    rune
	Advance int16
	// The box around the outline; all 0 for a blank.
	Left, Bottom, Right, Top int16
	// Area is the area within the contours, those that run the other way taken off,
	// in 1/4096 of a square em.
	Area int16
	// X and Y are the middle of that area; 0 where it is none.
	X, Y int16
	// Ink is how much of each line lies within contours, where they overlap once, in
	// 1/128 of an em, from the lowest line up.
	Ink [Lines]uint8
}

// Blank reports whether nothing is drawn.
func (s *Shape) Blank() bool { return s.Left == s.Right && s.Bottom == s.Top }

// Print is the fingerprint of a face.
type Print struct {
	// Shapes are in ascending order of their characters.
	Shapes []Shape
	// Named are the named styles of a variable face, each with the characters that Probes
	// lists.
	Named []Instance
	// Axes are those of a variable face.
	Axes []Axis
	// Content is a number of what all tables hold, but for sums and signatures over the
	// whole file: files with the same number are one font, however they are wrapped.
	Content uint64
}

// Axis is an axis of a variable face, in user coordinates.
type Axis struct {
	Tag               string
	Min, Default, Max float64
}

// Instance is a named style of a variable face, measured.
type Instance struct {
	Name   string
	At     map[string]float64 // the place on each axis
	Shapes []Shape
}

// Of measures a face. The error wraps outline.ErrNone where the face has no outlines, or
// sfnt.ErrDamaged; a glyph that is damaged is left out.
func Of(f *sfnt.Font) (*Print, error) {
	m, err := open(f)
	if err != nil {
		return nil, err
	}
	out := &Print{Content: content(f)}
	glyphs := map[table.GlyphID]int{} // where the shape of a glyph was put
	for _, run := range m.runs {
		for i := range run.Count {
			if len(out.Shapes) == mostShapes || m.segments > mostSegments {
				return out, nil
			}
			r, g := run.First+rune(i), run.Glyph+table.GlyphID(i)
			if r < ' ' || r >= 0x7F && r < 0xA0 {
				continue // controls draw nothing, and tools add and drop them
			}
			if at, known := glyphs[g]; known {
				same := out.Shapes[at]
				same.Rune = r
				out.Shapes = append(out.Shapes, same)
				continue
			}
			s, ok := m.shape(int(g))
			if !ok {
				continue
			}
			s.Rune = r
			glyphs[g] = len(out.Shapes)
			out.Shapes = append(out.Shapes, s)
		}
	}
	return out, nil
}

// content hashes what the tables of a face hold.
func content(f *sfnt.Font) uint64 {
	tables := slices.Clone(f.Tables)
	slices.SortFunc(tables, func(a, b sfnt.Table) int { return cmp.Compare(a.Tag, b.Tag) })
	sum := sha256.New()
	for _, t := range tables {
		data := t.Data
		switch t.Tag {
		case sfnt.MakeTag("DSIG"):
			continue
		case table.TagHead:
			if len(data) >= 12 { // checkSumAdjustment
				data = slices.Concat(data[:8], make([]byte, 4), data[12:])
			}
		}
		_ = binary.Write(sum, binary.BigEndian, []uint32{uint32(t.Tag), uint32(len(data))}) //nolint:gosec // a table is below 4 GB
		_, _ = sum.Write(data)
	}
	return binary.BigEndian.Uint64(sum.Sum(nil))
}

// Bounds of what is measured; no real face comes near them. What is beyond is left out.
const (
	mostShapes   = 1 << 17
	mostSegments = 8 << 20
)

// measurer reads one face.
type measurer struct {
	runs     []table.Run
	outlines *outline.Reader
	metrics  []table.Metric
	scale    float64 // from font units to parts of an em
	segments int     // measured so far
}

func open(f *sfnt.Font) (*measurer, error) {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, err
	}
	m := &measurer{scale: Grid / float64(max(head.UnitsPerEm, 16))}
	if m.outlines, err = outline.Open(f); err != nil {
		return nil, err
	}
	if m.runs, err = table.ParseCmap(f.Table(table.TagCmap)); err != nil {
		return nil, err
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, err
	}
	m.metrics = table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), m.outlines.Count())
	return m, nil
}

// shape measures a glyph; false where there is none, or it is damaged.
func (m *measurer) shape(glyph int) (Shape, bool) {
	if glyph == 0 || glyph >= m.outlines.Count() || glyph >= len(m.metrics) {
		return Shape{}, false
	}
	contours, err := m.outlines.Contours(glyph)
	if err != nil {
		return Shape{}, false
	}
	for _, c := range contours {
		m.segments += len(c.Segments)
	}
	s := Shape{Advance: step(float64(m.metrics[glyph].Advance) * m.scale)}
	measure(contours, m.scale, &s)
	return s, true
}

// step rounds a measure to the grid.
func step(x float64) int16 {
	return int16(max(math.MinInt16, min(math.MaxInt16, math.Round(x)))) //nolint:gosec // within bounds
}

// Find returns the shape of a character, nil where the face has none.
func (p *Print) Find(r rune) *Shape { return find(p.Shapes, r) }

func find(shapes []Shape, r rune) *Shape {
	i, found := slices.BinarySearchFunc(shapes, r, func(s Shape, r rune) int { return int(s.Rune) - int(r) })
	if !found {
		return nil
	}
	return &shapes[i]
}
