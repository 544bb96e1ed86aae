// Package diff says what a new version of a face changed: characters, widths,
// drawings, measures, names, layout features, and the bytes of its tables.
//
// Lengths are in thousandths of an em, so that versions on different grids can be
// compared. Drawings are compared where both versions have the same kind of
// outlines, at the default place of a variable font; glyphs that no character
// leads to are only counted.
package diff

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/curve"
	"sparecrate/font/metadata"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Most is how many characters a list holds; counts are of all.
const Most = 300

// near is how far two lengths may be apart and still be the same, in thousandths
// of an em: less than rounding to a grid of 1000 units does.
const near = 0.51

// Changes is what changed.
type Changes struct {
	Added     Characters `json:"added"`
	Gone      Characters `json:"gone"`
	Widths    []Width    `json:"widths"` // of characters that are in both
	Widened   int        `json:"widened"`
	Redrawn   []string   `json:"redrawn"` // characters whose outlines changed
	RedrawnOf int        `json:"redrawnOf"`
	// Uncompared says why drawings are not compared; empty where they are.
	Uncompared string  `json:"uncompared"`
	Values     []Value `json:"values"` // measures, names, style, permission
	Tables     []Table `json:"tables"` // those whose bytes differ
}

// Characters are characters as ranges, and how many.
type Characters struct {
	Count  int    `json:"count"`
	Ranges string `json:"ranges"` // as unicode-range writes them
	Text   string `json:"text"`   // those that can be shown, at most Most
}

// Width is a character's advance before and after, in thousandths of an em.
type Width struct {
	Character string  `json:"character"`
	From      float64 `json:"from"`
	To        float64 `json:"to"`
}

// Value is something that is said in words or numbers.
type Value struct {
	Name string `json:"name"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Table is a table's length before and after, in bytes; 0 for none.
type Table struct {
	Tag  string `json:"tag"`
	From int    `json:"from"`
	To   int    `json:"to"`
}

// None reports whether nothing changed.
func (c *Changes) None() bool {
	return c.Added.Count+c.Gone.Count+c.Widened+c.RedrawnOf+len(c.Values)+len(c.Tables) == 0
}

// Between compares two versions of a face. It never fails: what cannot be read of
// one is as if it had none.
func Between(from, to *sfnt.Font) *Changes {
	a, b := open(from), open(to)
	out := &Changes{Widths: []Width{}, Redrawn: []string{}, Values: []Value{}, Tables: []Table{}}
	out.Added = characters(b.characters.Without(a.characters))
	out.Gone = characters(a.characters.Without(b.characters))
	out.glyphs(a, b)
	out.values(metadata.One(from), metadata.One(to))
	out.tables(from, to)
	return out
}

// version is one of the two, opened.
type version struct {
	characters coverage.Characters
	runs       []table.Run
	scale      float64 // from font units to thousandths of an em
	metrics    []table.Metric
	outlines   *outline.Reader // nil where they cannot be read
	kind       string
}

func open(f *sfnt.Font) *version {
	v := &version{scale: 1}
	v.runs, _ = table.ParseCmap(f.Table(table.TagCmap))
	v.characters = coverage.NewCharacters(v.runs)
	if head, err := table.ParseHead(f.Table(table.TagHead)); err == nil && head.UnitsPerEm > 0 {
		v.scale = 1000 / float64(head.UnitsPerEm)
	}
	if hhea, err := table.ParseHhea(f.Table(table.TagHhea)); err == nil {
		v.metrics = table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), math.MaxUint16)
	}
	if r, err := outline.Open(f); err == nil {
		v.outlines, v.kind = r, "TrueType"
		if r.PostScript() != nil {
			v.kind = "PostScript"
		}
	}
	return v
}

// glyph finds the glyph of a character.
func (v *version) glyph(r rune) int {
	i, found := slices.BinarySearchFunc(v.runs, r, func(run table.Run, r rune) int {
		switch {
		case run.First+rune(run.Count) <= r:
			return -1
		case run.First > r:
			return 1
		}
		return 0
	})
	if !found {
		return 0
	}
	return int(v.runs[i].Glyph) + int(r-v.runs[i].First)
}

func characters(c coverage.Characters) Characters {
	out := Characters{Count: c.Len(), Ranges: c.String()}
	var text strings.Builder
	n := 0
	for _, run := range c {
		for i := 0; i < run.Count && n < Most; i++ {
			if r := run.First + rune(i); strconv.IsPrint(r) {
				text.WriteRune(r)
				n++
			}
		}
	}
	out.Text = text.String()
	return out
}

// glyphs compares widths and drawings of the characters that both have.
func (c *Changes) glyphs(a, b *version) {
	draws := a.outlines != nil && b.outlines != nil && a.kind == b.kind
	switch {
	case a.outlines == nil || b.outlines == nil:
		c.Uncompared = "Outlines of one version cannot be read, so drawings are not compared."
	case a.kind != b.kind:
		c.Uncompared = fmt.Sprintf("One version has %s outlines, the other %s, so drawings are not compared.", a.kind, b.kind)
	}
	alike := map[[2]int]bool{} // characters that share both glyphs are compared once
	for _, run := range a.characters.And(b.characters) {
		for i := range run.Count {
			r := run.First + rune(i)
			was, is := a.glyph(r), b.glyph(r)
			c.width(r, a.advance(was), b.advance(is))
			pair := [2]int{was, is}
			if !draws {
				continue
			}
			if _, known := alike[pair]; !known {
				alike[pair] = same(a.drawing(was), b.drawing(is))
			}
			if !alike[pair] {
				c.RedrawnOf++
				if len(c.Redrawn) < Most {
					c.Redrawn = append(c.Redrawn, string(r))
				}
			}
		}
	}
}

func (v *version) advance(glyph int) float64 {
	if glyph < len(v.metrics) {
		return float64(v.metrics[glyph].Advance) * v.scale
	}
	return 0
}

func (c *Changes) width(r rune, from, to float64) {
	if math.Abs(from-to) < near {
		return
	}
	c.Widened++
	if len(c.Widths) < Most {
		c.Widths = append(c.Widths, Width{string(r), round(from), round(to)})
	}
}

func round(n float64) float64 { return math.Round(n*10) / 10 }

// drawing returns a glyph's outline in thousandths of an em, nil where it cannot be
// read.
func (v *version) drawing(glyph int) []curve.Contour {
	contours, err := v.outlines.Contours(glyph)
	if err != nil {
		return nil
	}
	out := make([]curve.Contour, len(contours))
	for i, c := range contours {
		out[i] = c.Map(func(p curve.Point) curve.Point { return p.Mul(v.scale) })
	}
	return out
}

// same reports whether two drawings have the same points.
func same(a, b []curve.Contour) bool {
	if len(a) != len(b) {
		return false
	}
	at := func(p, q curve.Point) bool { return math.Abs(p.X-q.X) < near && math.Abs(p.Y-q.Y) < near }
	for i := range a {
		if len(a[i].Segments) != len(b[i].Segments) || !at(a[i].From, b[i].From) {
			return false
		}
		for j, s := range a[i].Segments {
			t := b[i].Segments[j]
			if s.Line != t.Line || s.Quadratic != t.Quadratic || !at(s.To, t.To) || !s.Line && !at(s.C1, t.C1) || !s.Line && !s.Quadratic && !at(s.C2, t.C2) {
				return false
			}
		}
	}
	return true
}

// values compares what the two say of themselves.
func (c *Changes) values(a, b metadata.Face) {
	value := func(name, from, to string) {
		if from != to {
			c.Values = append(c.Values, Value{name, from, to})
		}
	}
	number := func(name string, from, to float64) {
		value(name, strconv.FormatFloat(from, 'g', 6, 64), strconv.FormatFloat(to, 'g', 6, 64))
	}
	n, m := &a.Names, &b.Names
	value("version", n.Version, m.Version)
	value("family", n.FamilyName(), m.FamilyName())
	value("style", n.StyleName(), m.StyleName())
	value("full name", n.Full, m.Full)
	value("PostScript name", n.PostScript, m.PostScript)
	value("designer", n.Designer, m.Designer)
	value("copyright", n.Copyright, m.Copyright)
	value("license", n.License, m.License)
	value("license address", n.LicenseURL, m.LicenseURL)
	number("weight", float64(a.Style.Weight), float64(b.Style.Weight))
	number("width, percent", a.Style.WidthPercent, b.Style.WidthPercent)
	value("slope", string(a.Style.Slope), string(b.Style.Slope))
	value("embedding permission", a.Embedding.Words(), b.Embedding.Words())
	number("units per em", float64(a.UnitsPerEm), float64(b.UnitsPerEm))
	number("glyphs", float64(a.Glyphs), float64(b.Glyphs))
	em := func(n, units int) float64 { return round(float64(n) * 1000 / float64(max(units, 1))) }
	for _, l := range []struct {
		name     string
		from, to int
	}{
		{"ascent", a.Metrics.Ascent, b.Metrics.Ascent}, {"descent", a.Metrics.Descent, b.Metrics.Descent}, {"line gap", a.Metrics.LineGap, b.Metrics.LineGap},
		{"x-height", a.Metrics.XHeight, b.Metrics.XHeight}, {"cap height", a.Metrics.CapHeight, b.Metrics.CapHeight},
	} {
		number(l.name+", thousandths of an em", em(l.from, a.UnitsPerEm), em(l.to, b.UnitsPerEm))
	}
	value("outlines", string(a.Outlines), string(b.Outlines))
	value("hinting", string(a.Hinting), string(b.Hinting))
	value("axes", axes(a.Axes), axes(b.Axes))
	value("layout features", strings.Join(a.Features, " "), strings.Join(b.Features, " "))
	value("languages", strconv.Itoa(len(a.Coverage.Languages)), strconv.Itoa(len(b.Coverage.Languages)))
}

func axes(all []metadata.Axis) string {
	out := make([]string, len(all))
	for i, a := range all {
		out[i] = fmt.Sprintf("%s %g to %g, from %g", a.Tag, a.Min, a.Max, a.Default)
	}
	return strings.Join(out, "; ")
}

// tables compares the bytes of tables.
func (c *Changes) tables(from, to *sfnt.Font) {
	var tags []sfnt.Tag
	for _, f := range []*sfnt.Font{from, to} {
		for _, t := range f.Tables {
			tags = append(tags, t.Tag)
		}
	}
	slices.Sort(tags)
	for _, tag := range slices.Compact(tags) {
		a, b := from.Table(tag), to.Table(tag)
		if !bytes.Equal(a, b) {
			c.Tables = append(c.Tables, Table{tag.String(), len(a), len(b)})
		}
	}
}
