package table

import "sparecrate/font/sfnt"

const (
	hheaSize = 36
	maxpSize = 6
)

// Hhea is the horizontal header (`hhea`). Numbers in font units.
type Hhea struct {
	Ascent, Descent, LineGap int16 // Descent is negative below the baseline
	AdvanceMax               uint16
	MinLeft, MinRight, MaxX  int16
	CaretRise, CaretRun      int16
	LongMetrics              uint16 // numberOfHMetrics: entries in hmtx with an advance of their own
}

// ParseHhea reads the table. The error wraps ErrShort.
func ParseHhea(b []byte) (*Hhea, error) {
	if len(b) < hheaSize {
		return nil, short("hhea", len(b), hheaSize)
	}
	c := sfnt.View(b).Cursor()
	return &Hhea{
		Ascent: c.I16(4), Descent: c.I16(6), LineGap: c.I16(8), AdvanceMax: c.U16(10),
		MinLeft: c.I16(12), MinRight: c.I16(14), MaxX: c.I16(16),
		CaretRise: c.I16(18), CaretRun: c.I16(20), LongMetrics: c.U16(34),
	}, c.Err()
}

// Encode writes the table.
func (h *Hhea) Encode() []byte {
	var w writer
	w.u32(0x00010000)
	for _, n := range []int{int(h.Ascent), int(h.Descent), int(h.LineGap), int(h.AdvanceMax), int(h.MinLeft),
		int(h.MinRight), int(h.MaxX), int(h.CaretRise), int(h.CaretRun), 0, 0, 0, 0, 0, 0, int(h.LongMetrics)} {
		w.u16(n)
	}
	return w
}

// Metric is a glyph's advance width and left side bearing, font units.
type Metric struct {
	Advance uint16
	Left    int16
}

// ParseHmtx reads one metric a glyph; glyphs past the long metrics share the
// last advance. It stops where the table ends, so the result may be shorter
// than glyphs.
func ParseHmtx(b []byte, long, glyphs int) []Metric {
	v := sfnt.View(b)
	metrics := make([]Metric, 0, min(glyphs, len(b)/2))
	var advance uint16
	for i := range glyphs {
		at := 4 * i
		if i < long {
			a, ok := v.U16(at)
			if !ok {
				break
			}
			advance, at = a, at+2
		} else {
			at = 4*long + 2*(i-long)
		}
		left, ok := v.I16(at)
		if !ok {
			break
		}
		metrics = append(metrics, Metric{advance, left})
	}
	return metrics
}

// EncodeHmtx writes the table with an advance for every glyph.
func EncodeHmtx(metrics []Metric) []byte {
	var w writer
	for _, m := range metrics {
		w.u16(int(m.Advance))
		w.u16(int(m.Left))
	}
	return w
}

// Maxp is the maximum profile (`maxp`).
type Maxp struct {
	Glyphs uint16
	// The rest stands in version 1.0 only, the one for TrueType outlines.
	TrueType                           bool
	Points, Contours                   uint16 // in the largest simple glyph
	CompositePoints, CompositeContours uint16
	Instructions                       uint16 // bytes in the longest program of a glyph
	Components, Depth                  uint16 // parts of a composite, and nesting
}

// ParseMaxp reads the number of glyphs. The error wraps ErrShort.
func ParseMaxp(b []byte) (*Maxp, error) {
	if len(b) < maxpSize {
		return nil, short("maxp", len(b), maxpSize)
	}
	c := sfnt.View(b).Cursor()
	return &Maxp{
		Glyphs: c.U16(4), TrueType: c.U16(0) == 1,
		Points: c.U16(6), Contours: c.U16(8), CompositePoints: c.U16(10), CompositeContours: c.U16(12),
		Instructions: c.U16(26), Components: c.U16(28), Depth: c.U16(30),
	}, nil
}

// Encode writes version 1.0 for TrueType outlines, 0.5 otherwise.
func (m *Maxp) Encode() []byte {
	var w writer
	if !m.TrueType {
		w.u32(0x00005000)
		w.u16(int(m.Glyphs))
		return w
	}
	w.u32(0x00010000)
	for _, n := range []uint16{m.Glyphs, m.Points, m.Contours, m.CompositePoints, m.CompositeContours,
		2, 0, 0, 0, 0, 0, m.Instructions, m.Components, m.Depth} {
		w.u16(int(n))
	}
	return w
}

// EncodeMetrics writes hmtx or vmtx with as few long metrics as will do, and
// gives their number.
func EncodeMetrics(metrics []Metric) (b []byte, long int) {
	long = len(metrics)
	for long > 1 && metrics[long-1].Advance == metrics[long-2].Advance {
		long--
	}
	var w writer
	for i, m := range metrics {
		if i < long {
			w.u16(int(m.Advance))
		}
		w.u16(int(m.Left))
	}
	return w, long
}
