package unitscale_test

import (
	"encoding/binary"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/curve"
	"sparecrate/font/instance"
	"sparecrate/font/lint"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/table"
	"sparecrate/font/unitscale"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

const times = 4

// scaled asserts that a text set in one face is that of the other so many times
// larger, outlines too.
func scaled(t *testing.T, before, after *sfnt.Font, text string) {
	t.Helper()
	a, err := shape.Open(before)
	require.NoError(t, err)
	b, err := shape.Open(after)
	require.NoError(t, err)
	assert.Equal(t, times*a.UnitsPerEm, b.UnitsPerEm)
	assert.Equal(t, times*a.Ascent, b.Ascent)
	x, y := a.Set(text, shape.Options{}), b.Set(text, shape.Options{})
	require.Len(t, y.Glyphs, len(x.Glyphs))
	assert.Equal(t, times*x.Advance, y.Advance)
	p, err := outline.Open(before)
	require.NoError(t, err)
	q, err := outline.Open(after)
	require.NoError(t, err)
	for i, g := range x.Glyphs {
		assert.Equal(t, shape.Glyph{ID: g.ID, X: times * g.X, Y: times * g.Y}, y.Glyphs[i])
		want, err := p.Contours(int(g.ID))
		require.NoError(t, err)
		got, err := q.Contours(int(g.ID))
		require.NoError(t, err)
		require.Len(t, got, len(want))
		for k, c := range want {
			assert.Equal(t, c.Map(func(p curve.Point) curve.Point { return p.Mul(times) }), got[k], "glyph %d", g.ID)
		}
	}
}

// TestNothingLooksDifferent puts faces with kerning, marks, parts and hints on a
// finer grid.
func TestNothingLooksDifferent(t *testing.T) {
	faces := map[string]*sfnt.Font{"drawn": foundrytest.Face(t, foundry.Signage()[1], font.TTF)}
	for _, name := range []string{"dejavu/DejaVuSerif-Bold.ttf", "liberation2/LiberationSerif-Italic.ttf"} {
		b, err := os.ReadFile("/usr/share/fonts/truetype/" + name)
		require.NoError(t, err)
		faces[name] = foundrytest.Parsed(t, b)
	}
	for name, f := range faces {
		out, err := unitscale.Finer(f, times)
		require.NoError(t, err, name)
		scaled(t, f, out, "AVATo Ṽégétal fjord ﬁ 16:35")
		report, err := lint.Check(sfnt.Write(out))
		require.NoError(t, err)
		known, err := lint.Check(sfnt.Write(f))
		require.NoError(t, err)
		assert.Len(t, report.Findings, len(known.Findings), "%s: %v", name, report.Findings)
		assert.Equal(t, f.Table(table.TagGSUB), out.Table(table.TagGSUB))
	}
}

// TestWhatVariesVariesAsMuch pins a face on both grids: places differ by the
// rounding of the coarse one.
func TestWhatVariesVariesAsMuch(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	f := foundrytest.Parsed(t, b)
	fine, err := unitscale.Finer(f, times)
	require.NoError(t, err)
	for _, at := range []float64{300, 552, 700} {
		o := instance.Options{At: map[string]instance.Range{"wght": {Min: at, Max: at}}, Step: times}
		finely, _, err := instance.Face(fine, o)
		require.NoError(t, err)
		o.Step = 1
		coarse, _, err := instance.Face(f, o)
		require.NoError(t, err)
		x, err := outline.Open(coarse)
		require.NoError(t, err)
		y, err := outline.Open(finely)
		require.NoError(t, err)
		for g := range x.Count() {
			want, err := x.Contours(g)
			require.NoError(t, err)
			got, err := y.Contours(g)
			require.NoError(t, err)
			for i, c := range want {
				for k, s := range c.Segments {
					// Parts are rounded and so is where they are put.
					assert.InDelta(t, s.To.X, got[i].Segments[k].To.X/times, 1+1.0/times)
					assert.InDelta(t, s.To.Y, got[i].Segments[k].To.Y/times, 1+1.0/times)
				}
			}
		}
		a, err := shape.Open(coarse)
		require.NoError(t, err)
		c, err := shape.Open(finely)
		require.NoError(t, err)
		for g := range x.Count() {
			assert.Equal(t, times*a.Advance(table.GlyphID(g)), c.Advance(table.GlyphID(g)), "advances are those that readers have of the variable font")
		}
	}
}

// words16 writes 16-bit numbers.
func words16(n ...int) []byte {
	var b []byte
	for _, x := range n {
		b = binary.BigEndian.AppendUint16(b, uint16(x))
	}
	return b
}

// with returns a face with another table.
func with(f *sfnt.Font, tag string, b []byte) *sfnt.Font {
	return &sfnt.Font{Flavor: f.Flavor, Tables: append([]sfnt.Table{{Tag: sfnt.MakeTag(tag), Data: b}}, f.Tables...)}
}

// TestTreesOfOffsets scales tables in which numbers stand between offsets and
// counts, each number once.
func TestTreesOfOffsets(t *testing.T) {
	f := foundrytest.Face(t, foundry.Poster(), font.TTF)
	constants := []int{70, 50, 1500, 1600}
	scaledConstants := []int{70, 50, 6000, 6400}
	for i := range 51 {
		constants, scaledConstants = append(constants, i-20, 0), append(scaledConstants, times*(i-20), 0)
	}
	constants, scaledConstants = append(constants, 60), append(scaledConstants, 60)
	size := 2 * len(constants)
	math := func(constants []int, n func(int) int) []byte {
		b := words16(1, 0, 10, 10+size, 10+size+40)
		b = append(b, words16(constants...)...)
		b = append(b, words16( // glyph info
			8, 8, 0, 20, // slants and accents share a list; kerns
			0, 1, n(30), 0, 0, 0, // one value; no coverage is read
			0, 1, 0, 12, 0, 0, // one glyph with one of four kerns
			1, n(5), 0, n(-7), // one height, two kerns
		)...)
		return append(b, words16( // variants
			n(25), 0, 0, 1, 0, 12,
			10, 1, 7, n(900), 0, // assembly, one variant
			n(3), 0, 1, 8, n(11), n(12), n(13), 1,
		)...)
	}
	base := func(n func(int) int) []byte {
		return words16(1, 0, 8, 8, // both axes are one
			0, 4, // no tags; scripts
			1, 0, 0, 8, // one script
			8, 20, 0, 0, // values and extremes; no languages
			0, 1, 6, // one value
			1, n(-120), // a coordinate
			0, // between
			6, 0, 0,
			1, n(700))
	}
	kern := func(n int) []byte {
		return words16(0, 1, 0, 20, 1, 1, 6, 0, 0, 3, 4, n)
	}
	one := func(n int) int { return n }
	many := func(n int) int { return times * n }
	for tag, tables := range map[string][2][]byte{
		"MATH": {math(constants, one), math(scaledConstants, many)},
		"BASE": {base(one), base(many)},
		"kern": {kern(-40), kern(-40 * times)},
		"VORG": {words16(1, 0, 880, 1, 7, 900), words16(1, 0, times*880, 1, 7, times*900)},
		"cvt ": {words16(70, -210), words16(times*70, -times*210)},
	} {
		out, err := unitscale.Finer(with(f, tag, tables[0]), times)
		require.NoError(t, err, tag)
		assert.Equal(t, tables[1], out.Table(sfnt.MakeTag(tag)), tag)
	}
}

func TestWhatCannotBeFiner(t *testing.T) {
	f := foundrytest.Face(t, foundry.Poster(), font.TTF)
	for _, one := range []struct {
		face  *sfnt.Font
		times int
		want  error
	}{
		{with(f, "SVG ", []byte{0, 0}), times, unitscale.ErrUnits},
		{with(f, "COLR", words16(1, 0)), times, unitscale.ErrUnits},
		{with(f, "kern", words16(1, 0, 0, 0)), times, unitscale.ErrUnits},
		{f, 1 << 9, unitscale.ErrSize},
		{f, 0, unitscale.ErrSize},
		{with(f, "GPOS", []byte{0, 1}), times, sfnt.ErrDamaged},
		{&sfnt.Font{}, times, sfnt.ErrDamaged},
	} {
		_, err := unitscale.Finer(one.face, one.times)
		assert.ErrorIs(t, err, one.want)
	}
	assert.Equal(t, []int{4, 2, 1, 1, 256}, []int{unitscale.Factor(1000), unitscale.Factor(2048), unitscale.Factor(4096), unitscale.Factor(0), unitscale.Factor(16)})
}

// FuzzFiner damages tables of a face: what comes out can be read.
func FuzzFiner(f *testing.F) {
	variable, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(f, err)
	f.Add(variable)
	still, err := foundry.Build(foundry.Poster(), font.TTF)
	require.NoError(f, err)
	f.Add(still)
	f.Fuzz(func(t *testing.T, b []byte) {
		fonts, err := sfnt.Parse(b)
		if err != nil {
			return
		}
		out, err := unitscale.Finer(fonts[0], times)
		if err != nil {
			return
		}
		back, err := sfnt.Parse(sfnt.Write(out))
		require.NoError(t, err)
		require.NotEmpty(t, back[0].Tables)
	})
}
