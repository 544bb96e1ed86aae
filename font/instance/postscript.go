package instance

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// postScript pins CFF2. A static face gets a `CFF ` table, which every reader of
// PostScript outlines takes.
func (p *pinner) postScript() error {
	t, err := cff.Parse(p.font.Table(table.TagCFF2))
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	var static *cff.Static
	if p.static {
		if static, err = p.versionOne(t.Glyphs()); err != nil {
			return err
		}
	}
	b, err := t.Pin(p.change, static, p.fine)
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	if !p.static {
		p.put(table.TagCFF2, b)
		return nil
	}
	p.put(table.TagCFF2, nil)
	p.put(table.TagCFF, b)
	p.flavor = uint32(sfnt.VersionCFF)
	return p.drawnMetrics(b)
}

// versionOne gathers what version 1 of CFF says and version 2 does not. Advances
// are those after HVAR.
func (p *pinner) versionOne(glyphs int) (*cff.Static, error) {
	header := p.font.Table(table.TagHhea)
	if len(header) < 36 {
		return nil, damaged("its metrics cannot be read", table.ErrShort)
	}
	metrics := table.ParseHmtx(p.font.Table(table.TagHmtx), int(binary.BigEndian.Uint16(header[34:])), p.glyphs)
	gain := make([]float64, p.glyphs)
	if b := p.font.Table(variation.TagHVAR); len(b) > 0 {
		m, err := variation.ParseMetrics(b, variation.TagHVAR)
		if err != nil {
			return nil, damaged("its metrics cannot be read", err)
		}
		_, gain = m.Change(p.change, p.glyphs)
	}
	s := &cff.Static{Advances: make([]int, glyphs), Names: p.glyphNames(glyphs)}
	for g := range s.Advances {
		if g < len(metrics) {
			s.Advances[g] = int(p.advance(float64(metrics[g].Advance) + gain[g]))
		}
	}
	return s, nil
}

// glyphNames names glyphs by what they are mapped from, or by number; names must
// be there and all different.
func (p *pinner) glyphNames(glyphs int) []string {
	names := make([]string, glyphs)
	names[0] = ".notdef"
	taken := map[string]bool{".notdef": true}
	runs, _ := table.ParseCmap(p.font.Table(table.TagCmap))
	for _, run := range runs {
		for i := range run.Count {
			g, r := int(run.Glyph)+i, run.First+rune(i)
			name := fmt.Sprintf("uni%04X", r)
			if r > 0xFFFF {
				name = fmt.Sprintf("u%05X", r)
			}
			if g < glyphs && names[g] == "" && !taken[name] {
				names[g] = name
				taken[name] = true
			}
		}
	}
	for g, name := range names {
		if name == "" {
			names[g] = fmt.Sprintf("glyph%05d", g)
		}
	}
	return names
}

// drawnMetrics sets the bounding box and the bearings that follow from outlines.
func (p *pinner) drawnMetrics(b []byte) error {
	reader, err := outline.Open(&sfnt.Font{Tables: []sfnt.Table{{Tag: table.TagCFF, Data: b}}})
	if err != nil {
		return damaged("its outlines cannot be read", err)
	}
	header, head := p.editable(table.TagHhea, 36), p.editable(table.TagHead, 54)
	if header == nil || head == nil {
		return damaged("the head of its metrics cannot be read", sfnt.ErrDamaged)
	}
	metrics := table.ParseHmtx(p.font.Table(table.TagHmtx), int(binary.BigEndian.Uint16(header[34:])), p.glyphs)
	whole := box{}
	for g := range min(reader.Count(), len(metrics)) {
		contours, err := reader.Contours(g)
		if err != nil {
			return damaged("its outlines cannot be read", err)
		}
		if b, drawn := around(contours); drawn {
			metrics[g].Left = b.XMin
			whole = whole.with(b)
		}
	}
	list, long := table.EncodeMetrics(metrics)
	binary.BigEndian.PutUint16(header[34:], uint16(long))
	p.put(table.TagHmtx, list)
	for i, n := range []int16{whole.XMin, whole.YMin, whole.XMax, whole.YMax} {
		binary.BigEndian.PutUint16(head[36+2*i:], uint16(n))
	}
	return nil
}

// around returns the box of the points on contours; extremes of curves are points
// in well-made fonts.
func around(contours []curve.Contour) (glyf.Bounds, bool) {
	out := box{}
	for _, c := range contours {
		for _, q := range append([]curve.Point{c.From}, ends(c)...) {
			x, y := int16(math.Round(q.X)), int16(math.Round(q.Y))
			out = out.with(glyf.Bounds{XMin: x, YMin: y, XMax: x, YMax: y})
		}
	}
	return out.Bounds, out.drawn
}

func ends(c curve.Contour) []curve.Point {
	out := make([]curve.Point, len(c.Segments))
	for i, s := range c.Segments {
		out[i] = s.To
	}
	return out
}
