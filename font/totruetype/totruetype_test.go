package totruetype_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/curve/curvetest"
	"sparecrate/font/lint"
	"sparecrate/font/metadata"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// sampled returns points along a contour, dense ones.
func sampled(c curve.Contour, steps int) []curve.Point {
	var out []curve.Point
	last := c.From
	for _, s := range c.Segments {
		for i := range steps {
			t := float64(i) / float64(steps)
			u := 1 - t
			switch {
			case s.Line:
				out = append(out, last.Mul(u).Add(s.To.Mul(t)))
			default:
				k := s.Cubic(last)
				out = append(out, last.Mul(u*u*u).Add(k.C1.Mul(3*u*u*t)).Add(k.C2.Mul(3*u*t*t)).Add(k.To.Mul(t*t*t)))
			}
		}
		last = s.To
	}
	return append(out, last, c.From)
}

type measured struct {
	off, ratio   float64
	faces        int
	cubic, quads int
	worst, most  string
}

func (m *measured) face(t *testing.T, name string, f *sfnt.Font, every int) {
	made, err := totruetype.Face(f)
	if !assert.NoError(t, err, name) {
		return
	}
	tag := table.TagCFF
	if !f.Has(tag) {
		tag = table.TagCFF2
	}
	c, err := cff.Parse(f.Table(tag))
	require.NoError(t, err)
	head, err := table.ParseHead(f.Table(table.TagHead))
	require.NoError(t, err)
	o, err := outline.Open(made)
	require.NoError(t, err, name)
	m.faces++
	cubic, quads := 0, 0
	for g := 0; g < c.Glyphs(); g++ {
		before, _, err := c.Glyph(g)
		require.NoError(t, err)
		for i := range before { // as readers draw it
			before[i] = before[i].Map(func(p curve.Point) curve.Point { return curve.Point{X: cff.Whole(p.X), Y: cff.Whole(p.Y)} })
		}
		for _, k := range before {
			for _, s := range k.Segments {
				if s.Line {
					cubic++
				} else {
					cubic += 3
				}
			}
		}
		simple := totruetype.Outline(before, totruetype.Tolerance*float64(head.UnitsPerEm)/1000)
		quads += len(simple.Points)
		if g%every != 0 {
			continue
		}
		after, err := o.Contours(g)
		require.NoError(t, err, name)
		var old, now []curve.Point
		for _, k := range before {
			if len(k.Segments) > 1 {
				old = append(old, sampled(k, 8)...)
			}
		}
		for _, k := range after {
			now = append(now, sampled(k, 16)...)
		}
		if len(after) == 0 || len(after) != len(before) {
			continue // a contour without area is gone
		}
		var area float64
		for _, k := range after {
			area += k.Area()
		}
		assert.LessOrEqual(t, area, 0.0, "%s, glyph %d runs the wrong way", name, g)
		if off := 1000 / float64(head.UnitsPerEm) * curvetest.Away(old, now); off > 0.5 {
			t.Logf("%s glyph %d: %.2f", name, g, off)
		}
		if off := 1000 / float64(head.UnitsPerEm) * curvetest.Away(old, now); off > m.off {
			m.off, m.worst = off, name
		}
	}
	m.cubic += cubic
	m.quads += quads
	if ratio := float64(quads) / float64(max(cubic, 1)); ratio > m.ratio {
		m.ratio, m.most = ratio, name
	}
}

// TestCorpus retypes every static PostScript face under SPARECRATE_FONTS.
func TestCorpus(t *testing.T) {
	root := os.Getenv("SPARECRATE_FONTS")
	if root == "" {
		t.Skip("SPARECRATE_FONTS names no folder of fonts")
	}
	m := &measured{}
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() || !strings.HasSuffix(path, ".otf") {
			return err
		}
		b, err := os.ReadFile(path) //nolint:gosec // the tester's own folder
		require.NoError(t, err)
		opened, err := font.Open(b)
		if err != nil || opened.Faces[0].Has(table.TagGlyf) || opened.Faces[0].Has(table.TagFvar) || !opened.Faces[0].Has(table.TagCFF) {
			return nil //nolint:nilerr // what is no font is tested elsewhere
		}
		m.face(t, filepath.Base(path), opened.Faces[0], 300)
		made, err := totruetype.Face(opened.Faces[0])
		require.NoError(t, err)
		before, err := lint.Check(b)
		require.NoError(t, err)
		after, err := lint.Check(sfnt.Write(made))
		require.NoError(t, err)
		known := map[string]bool{}
		for _, f := range before.Findings {
			known[f.Code] = true
		}
		for _, f := range after.Findings {
			assert.True(t, known[f.Code], "%s: new: %s: %s", path, f.Table, f.Message)
		}
		return nil
	}))
	t.Logf("%d faces; at most %.2f thousandths of an em off (%s); %d points for %d, %.2f times, at most %.2f times in one face (%s)",
		m.faces, m.off, m.worst, m.quads, m.cubic, float64(m.quads)/float64(m.cubic), m.ratio, m.most)
}

// TestTheDemoIsRetyped draws a PostScript face anew: close to what it was, not
// bloated, with metrics, names and layout as before.
func TestTheDemoIsRetyped(t *testing.T) {
	f := foundrytest.Face(t, foundry.Display(), font.OTF)
	m := &measured{}
	m.face(t, "demo", f, 3)
	assert.LessOrEqual(t, m.off, 0.75, "thousandths of an em, half a unit of rounding among them")
	assert.LessOrEqual(t, m.ratio, 1.7)
	made, err := totruetype.Face(f)
	require.NoError(t, err)
	before, after := metadata.One(f), metadata.One(made)
	assert.Equal(t, metadata.TrueType, after.Outlines)
	assert.Equal(t, before.Names, after.Names)
	assert.Equal(t, before.Features, after.Features)
	assert.Equal(t, before.Coverage, after.Coverage)
	assert.Equal(t, before.Glyphs, after.Glyphs)
	report, err := lint.Check(sfnt.Write(made))
	require.NoError(t, err)
	assert.Empty(t, report.Findings)
	_, err = totruetype.Face(made)
	require.ErrorIs(t, err, totruetype.ErrTrueType)
	b, err := foundry.BuildVariable(foundry.Signage(), font.OTF)
	require.NoError(t, err)
	_, err = totruetype.Face(foundrytest.Parsed(t, b))
	assert.ErrorIs(t, err, totruetype.ErrVariable)
}

// TestKerningThatWasPassedOverGoes gives a PostScript face a `kern` table, which
// readers pass over beside such outlines: retyped, text is to be set as before.
func TestKerningThatWasPassedOverGoes(t *testing.T) {
	f := foundrytest.Face(t, foundry.Display(), font.OTF)
	kern := sfnt.MakeTag("kern")
	f.Tables = append(f.Tables, sfnt.Table{Tag: kern, Data: []byte{0, 0, 0, 1, 0, 0, 0, 20, 0, 1, 0, 1, 0, 6, 0, 0, 0, 0, 0, 3, 0, 4, 0xFF, 0x38}})
	made, err := totruetype.Face(f)
	require.NoError(t, err)
	assert.False(t, made.Has(kern))
	assert.Equal(t, f.Table(sfnt.MakeTag("GPOS")), made.Table(sfnt.MakeTag("GPOS")), "the kerning that is read stays")
}
