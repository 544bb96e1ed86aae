package outline_test

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	xsfnt "golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"sparecrate/font"
	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo"
)

// box is the outline's control box and signed area: what two readers of the
// same glyph must agree on however they cut it into segments.
func box(contours []curve.Contour) (x0, y0, x1, y1, area float64) {
	x0, y0, x1, y1 = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, c := range contours {
		area += c.Area()
		for _, s := range append([]curve.Segment{{To: c.From, Line: true}}, c.Segments...) {
			points := []curve.Point{s.To}
			if !s.Line {
				points = append(points, s.C1)
			}
			if !s.Line && !s.Quadratic {
				points = append(points, s.C2)
			}
			for _, p := range points {
				x0, y0, x1, y1 = min(x0, p.X), min(y0, p.Y), max(x1, p.X), max(y1, p.Y)
			}
		}
	}
	return x0, y0, x1, y1, area
}

// theirs reads the glyph with another library.
func theirs(t *testing.T, f *xsfnt.Font, glyph, units int) []curve.Contour {
	t.Helper()
	var buf xsfnt.Buffer
	segments, err := f.LoadGlyph(&buf, xsfnt.GlyphIndex(glyph), fixed.I(units), nil)
	require.NoError(t, err)
	at := func(p fixed.Point26_6) curve.Point { return curve.Point{X: float64(p.X) / 64, Y: -float64(p.Y) / 64} }
	var out []curve.Contour
	for _, s := range segments {
		switch s.Op {
		case xsfnt.SegmentOpMoveTo:
			out = append(out, curve.Contour{From: at(s.Args[0])})
			continue
		case xsfnt.SegmentOpLineTo:
			out[len(out)-1].Segments = append(out[len(out)-1].Segments, curve.Segment{To: at(s.Args[0]), Line: true})
		case xsfnt.SegmentOpQuadTo:
			out[len(out)-1].Segments = append(out[len(out)-1].Segments, curve.Segment{C1: at(s.Args[0]), To: at(s.Args[1]), Quadratic: true})
		case xsfnt.SegmentOpCubeTo:
			out[len(out)-1].Segments = append(out[len(out)-1].Segments, curve.Segment{C1: at(s.Args[0]), C2: at(s.Args[1]), To: at(s.Args[2])})
		}
	}
	// Contours of a single point, which some makers anchor things by, draw nothing.
	return slices.DeleteFunc(out, func(c curve.Contour) bool {
		x0, y0, x1, y1, _ := box([]curve.Contour{c})
		return x0 == x1 && y0 == y1
	})
}

// TestOutlinesAreThoseAnotherLibraryReads compares every glyph of real and of
// demo fonts: TrueType, composites, PostScript.
func TestOutlinesAreThoseAnotherLibraryReads(t *testing.T) {
	files := map[string][]byte{}
	for _, name := range []string{"dejavu/DejaVuSans.ttf", "liberation2/LiberationSerif-Italic.ttf"} {
		b, err := os.ReadFile("/usr/share/fonts/truetype/" + name)
		require.NoError(t, err)
		files[filepath.Base(name)] = b
	}
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	for _, f := range fonts {
		files[f.Name] = f.Data
	}
	for name, b := range files {
		t.Run(name, func(t *testing.T) {
			opened, err := font.Open(b)
			require.NoError(t, err)
			r, err := outline.Open(opened.Faces[0])
			require.NoError(t, err)
			other, err := xsfnt.Parse(b)
			require.NoError(t, err)
			require.Equal(t, other.NumGlyphs(), r.Count())
			for g := range r.Count() {
				ours, err := r.Contours(g)
				require.NoError(t, err)
				want := theirs(t, other, g, int(other.UnitsPerEm()))
				if len(want) == 0 && len(ours) == 0 {
					continue
				}
				ax0, ay0, ax1, ay1, aArea := box(ours)
				bx0, by0, bx1, by1, bArea := box(want)
				// The other library counts in 64ths and rounds the matrices of composites.
				const slack = 1.1
				message := fmt.Sprintf("glyph %d", g)
				require.InDeltaSlice(t, []float64{bx0, by0, bx1, by1}, []float64{ax0, ay0, ax1, ay1}, slack, message)
				require.InDelta(t, bArea, aArea, 40+0.002*math.Abs(bArea), message)
			}
		})
	}
}

// build frames glyphs as a face.
func build(glyphs ...[]byte) *sfnt.Font {
	var body []byte
	offsets := []int{0}
	for _, g := range glyphs {
		body = append(body, g...)
		offsets = append(offsets, len(body))
	}
	return &sfnt.Font{Flavor: sfnt.VersionTrueType, Tables: []sfnt.Table{
		{Tag: table.TagHead, Data: (&table.Head{UnitsPerEm: 1000, LongLoca: true}).Encode()},
		{Tag: table.TagGlyf, Data: body}, {Tag: table.TagLoca, Data: glyf.Index(offsets, true)},
	}}
}

func square(size int, on bool) []byte {
	return (&glyf.Simple{Ends: []int{3}, Points: []glyf.Point{{On: on}, {Y: size, On: on}, {X: size, Y: size, On: on}, {X: size, On: on}}}).Append(nil)
}

// composite writes a glyph of one part with the flags and bytes given.
func composite(b ...byte) []byte { return append([]byte{0xFF, 0xFF, 0, 0, 0, 0, 0, 0, 0, 0}, b...) }

func TestComposites(t *testing.T) {
	for _, test := range []struct {
		name string
		part []byte
		want [4]float64
	}{
		{"shifted by bytes", composite(0, 0x02, 0, 0, 10, 0xF6), [4]float64{10, -10, 110, 90}},
		{"shifted by words", composite(0, 0x03, 0, 0, 1, 0, 0xFF, 0), [4]float64{256, -256, 356, -156}},
		{"half the size", composite(0, 0x0A, 0, 0, 10, 0, 0x20, 0), [4]float64{10, 0, 60, 50}},
		{"shift scaled too", composite(0x08, 0x0A, 0, 0, 10, 0, 0x20, 0), [4]float64{5, 0, 55, 50}},
		{"wider than high", composite(0, 0x42, 0, 0, 0, 0, 0x60, 0, 0x20, 0), [4]float64{0, 0, 150, 50}},
		{"turned a quarter", composite(0, 0x82, 0, 0, 0, 0, 0, 0, 0x40, 0, 0xC0, 0, 0, 0), [4]float64{-100, 0, 0, 100}},
		{"joined at points", composite(0, 0x22, 0, 0, 0, 0, 0, 0x00, 0, 0, 2, 0), [4]float64{0, 0, 200, 200}},
	} {
		t.Run(test.name, func(t *testing.T) {
			r, err := outline.Open(build(square(100, true), test.part))
			require.NoError(t, err)
			contours, err := r.Contours(1)
			require.NoError(t, err)
			x0, y0, x1, y1, _ := box(contours)
			assert.InDeltaSlice(t, test.want[:], []float64{x0, y0, x1, y1}, 0.01)
		})
	}
}

func TestRingsOfControlPoints(t *testing.T) {
	r, err := outline.Open(build(square(100, false)))
	require.NoError(t, err)
	contours, err := r.Contours(0)
	require.NoError(t, err)
	require.Len(t, contours, 1)
	assert.Equal(t, curve.Point{X: 50, Y: 0}, contours[0].From)
	assert.Len(t, contours[0].Segments, 4)
	assert.Equal(t, contours[0].From, contours[0].Segments[3].To)
}

// TestHostileComposites must end at once, with an error.
func TestHostileComposites(t *testing.T) {
	// Glyph i is made of glyph i+1 twice: without a limit, two to the power of the depth.
	var bomb [][]byte
	for i := range 15 {
		next := byte(i + 1)
		bomb = append(bomb, composite(0, 0x22, 0, next, 0, 0, 0, 0x02, 0, next, 0, 0))
	}
	for name, f := range map[string]*sfnt.Font{
		"made of itself":         build(composite(0, 2, 0, 0, 0, 0)),
		"made of a missing one":  build(composite(0, 2, 0, 9, 0, 0)),
		"cut off":                build(composite(0, 2, 0)),
		"joined at no points":    build(square(10, true), composite(0, 0, 0, 0, 0, 0)),
		"twice itself, 16 times": build(append(bomb, square(1, true))...),
	} {
		t.Run(name, func(t *testing.T) {
			r, err := outline.Open(f)
			require.NoError(t, err)
			failed := false
			for range 40 { // the work of all glyphs is bounded together
				for g := range r.Count() {
					_, err := r.Contours(g)
					failed = failed || err != nil
				}
			}
			assert.True(t, failed)
		})
	}
	_, err := outline.Open(&sfnt.Font{})
	require.ErrorIs(t, err, outline.ErrNone)
}
