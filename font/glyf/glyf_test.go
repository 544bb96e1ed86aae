package glyf_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
)

// random returns a glyph with points all over the range, in steps small and large.
func random(r *rand.Rand) *glyf.Simple {
	s := &glyf.Simple{Overlap: r.IntN(2) == 0, Instructions: make([]byte, r.IntN(5))}
	x, y := 0, 0
	for range 1 + r.IntN(6) {
		for range 1 + r.IntN(30) {
			step := []int{0, 1, 255, 256, 5000}[r.IntN(5)]
			if step > 0 {
				x += r.IntN(2*step+1) - step
				y += r.IntN(2*step+1) - step
			}
			x, y = max(-16000, min(16000, x)), max(-16000, min(16000, y))
			s.Points = append(s.Points, glyf.Point{X: x, Y: y, On: r.IntN(3) > 0})
		}
		s.Ends = append(s.Ends, len(s.Points)-1)
	}
	s.Bounds = s.Measure()
	return s
}

func TestSimpleGlyphsComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		s := random(r)
		got, err := glyf.ParseSimple(s.Append(nil))
		require.NoError(t, err)
		require.Equal(t, s, got)
	}
}

func TestEveryCutOfAGlyphIsRefused(t *testing.T) {
	whole := random(rand.New(rand.NewPCG(3, 4))).Append(nil)
	for n := range whole {
		_, err := glyf.ParseSimple(whole[:n])
		require.ErrorIs(t, err, glyf.ErrGlyph, "cut to %d of %d bytes", n, len(whole))
	}
}

func TestDamagedGlyphs(t *testing.T) {
	header := []byte{0, 1, 0, 0, 0, 0, 0, 9, 0, 9}
	for name, data := range map[string][]byte{
		"nothing":                  nil,
		"made of parts":            {0xFF, 0xFF, 0, 0, 0, 0, 0, 0, 0, 0},
		"ends in no order":         {0, 2, 0, 0, 0, 0, 0, 9, 0, 9, 0, 3, 0, 3, 0, 0},
		"instructions too long":    append(append([]byte{}, header...), 0, 3, 0xFF, 0xFF),
		"more points than bytes":   append(append([]byte{}, header...), 0xFF, 0xFE, 0, 0, 1, 1, 1),
		"repeat past the last one": append(append([]byte{}, header...), 0, 1, 0, 0, 0x39, 9, 1, 1),
	} {
		_, err := glyf.ParseSimple(data)
		assert.ErrorIs(t, err, glyf.ErrGlyph, name)
	}
}

func square(x, y, side float64) curve.Contour {
	line := func(x, y float64) curve.Segment { return curve.Segment{To: curve.Point{X: x, Y: y}, Line: true} }
	return curve.Contour{From: curve.Point{X: x, Y: y}, Segments: []curve.Segment{line(x, y+side), line(x+side, y+side), line(x+side, y), line(x, y)}}
}

func TestEncode(t *testing.T) {
	circle := curve.Contour{From: curve.Point{X: 100, Y: 0}, Segments: []curve.Segment{
		{C1: curve.Point{X: 100, Y: 55}, C2: curve.Point{X: 55, Y: 100}, To: curve.Point{X: 0, Y: 100}},
		{To: curve.Point{X: 0, Y: 0}, Line: true},
	}}
	tables := glyf.Encode([]glyf.Outline{
		{Contours: []curve.Contour{square(10, 20, 100)}},
		{}, // a space
		{Parts: []glyf.Part{{Glyph: 0, X: 0, Y: 0}, {Glyph: 3, X: -50, Y: 300}}},
		{Contours: []curve.Contour{circle}, Overlap: true},
	})
	glyphs, err := glyf.Locate(tables.Glyf, tables.Loca, tables.LongLoca)
	require.NoError(t, err)
	require.Len(t, glyphs, 4)
	assert.Empty(t, glyphs[1])
	s, err := glyf.ParseSimple(glyphs[0])
	require.NoError(t, err)
	assert.Len(t, s.Points, 4, "the way back to the start needs no point")
	assert.Equal(t, glyf.Bounds{XMin: 10, YMin: 20, XMax: 110, YMax: 120}, s.Bounds)
	n, ok := glyf.ContourCount(glyphs[2])
	require.True(t, ok)
	assert.Equal(t, -1, n)
	assert.Equal(t, glyf.Bounds{XMin: -50, YMin: 20, XMax: 110, YMax: 400}, glyf.BoundsOf(glyphs[2]), "around all parts, where they stand")
	end, instructed, err := glyf.Components(sfnt.View(glyphs[2]), 10)
	require.NoError(t, err)
	assert.False(t, instructed)
	assert.Equal(t, 10+2*8, end)
	assert.EqualValues(t, 2, tables.Profile.Components)
	assert.EqualValues(t, 1, tables.Profile.Depth)
	assert.EqualValues(t, 2, tables.Profile.CompositeContours)
	c, err := glyf.ParseSimple(glyphs[3])
	require.NoError(t, err)
	assert.True(t, c.Overlap)
	curves := 0
	for _, p := range c.Points {
		if !p.On {
			curves++
		}
	}
	assert.Positive(t, curves)
}

func TestLocateRefusesWhatLiesOutside(t *testing.T) {
	_, err := glyf.Locate(make([]byte, 10), []byte{0, 0, 0, 9}, false)
	require.ErrorIs(t, err, glyf.ErrGlyph)
	_, err = glyf.Locate(make([]byte, 10), []byte{0, 4, 0, 2}, false)
	require.ErrorIs(t, err, glyf.ErrGlyph, "a glyph that ends before it starts")
	_, err = glyf.Locate(nil, nil, true)
	require.ErrorIs(t, err, glyf.ErrGlyph)
	glyphs, err := glyf.Locate([]byte{1, 2, 3, 4}, glyf.Index([]int{0, 2, 2, 4}, true), true)
	require.NoError(t, err)
	assert.Equal(t, [][]byte{{1, 2}, {}, {3, 4}}, glyphs)
}

func TestComponentsOfEverySize(t *testing.T) {
	for name, test := range map[string]struct {
		flags byte
		high  byte
		rest  int
	}{
		"bytes": {0x02, 0, 2}, "words": {0x03, 0, 4}, "scale": {0x0A, 0, 4}, "two scales": {0x42, 0, 6}, "two by two": {0x82, 0, 10}, "instructions": {0x02, 0x01, 2},
	} {
		data := append([]byte{test.high, test.flags, 0, 7}, make([]byte, test.rest)...)
		end, instructed, err := glyf.Components(data, 0)
		require.NoError(t, err, name)
		assert.Equal(t, len(data), end, name)
		assert.Equal(t, test.high == 1, instructed, name)
		_, _, err = glyf.Components(data[:len(data)-1], 0)
		require.ErrorIs(t, err, glyf.ErrGlyph, name)
	}
	endless := []byte{0, 0x22, 0, 0, 0, 0, 0, 0x22, 0, 0, 0, 0}
	_, _, err := glyf.Components(endless, 0)
	require.ErrorIs(t, err, glyf.ErrGlyph, "more parts are announced than there are")
}

func FuzzParseSimple(f *testing.F) {
	f.Add(random(rand.New(rand.NewPCG(5, 6))).Append(nil))
	f.Fuzz(func(t *testing.T, b []byte) {
		s, err := glyf.ParseSimple(b)
		if err != nil {
			return
		}
		again, err := glyf.ParseSimple(s.Append(nil))
		require.NoError(t, err)
		require.Equal(t, s.Points, again.Points)
		require.Equal(t, s.Ends, again.Ends)
	})
}
