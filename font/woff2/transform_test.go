package woff2_test

import (
	"bytes"
	"encoding/binary"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/woff2"
)

// fontOf makes a font of the glyphs given, each with the metric beside it.
func fontOf(glyphs [][]byte, metrics []table.Metric, long int) *sfnt.Font {
	var data []byte
	offsets := []int{0}
	for _, g := range glyphs {
		data = append(data, g...)
		for len(data)%4 != 0 {
			data = append(data, 0)
		}
		offsets = append(offsets, len(data))
	}
	hmtx := table.EncodeHmtx(metrics[:long])
	for _, m := range metrics[long:] {
		hmtx = binary.BigEndian.AppendUint16(hmtx, uint16(m.Left))
	}
	return &sfnt.Font{Flavor: sfnt.VersionTrueType, Tables: []sfnt.Table{
		{Tag: table.TagGlyf, Data: data}, {Tag: table.TagLoca, Data: glyf.Index(offsets, true)}, {Tag: table.TagHmtx, Data: hmtx},
		{Tag: table.TagHead, Data: (&table.Head{UnitsPerEm: 1000, LongLoca: true}).Encode()},
		{Tag: table.TagHhea, Data: (&table.Hhea{LongMetrics: uint16(long)}).Encode()},
		{Tag: table.TagMaxp, Data: (&table.Maxp{TrueType: true, Glyphs: uint16(len(glyphs))}).Encode()},
	}}
}

func simple(r *rand.Rand, points int) *glyf.Simple {
	s := &glyf.Simple{Ends: []int{points - 1}, Overlap: r.IntN(2) == 0}
	x, y := 0, 0
	for range points {
		// Steps around the limits of the triplet encodings.
		step := []int{0, 1, 64, 65, 768, 769, 1279, 1280, 4095, 4096, 9000}[r.IntN(11)]
		other := []int{0, 1, 16, 64, 65, 768, 4095, 5000}[r.IntN(8)]
		dx, dy := step, other
		if r.IntN(2) == 0 {
			dx, dy = dy, dx
		}
		if x > 0 || x == 0 && r.IntN(2) == 0 {
			dx = -dx
		}
		if y > 0 || y == 0 && r.IntN(2) == 0 {
			dy = -dy
		}
		x, y = x+dx, y+dy
		s.Points = append(s.Points, glyf.Point{X: x, Y: y, On: r.IntN(2) == 0})
	}
	s.Bounds = s.Measure()
	return s
}

// there and back again, through the file.
func through(t testing.TB, f *sfnt.Font) (*sfnt.Font, []byte) {
	t.Helper()
	b, err := woff2.Encode(&woff2.File{Fonts: []*sfnt.Font{f}})
	require.NoError(t, err)
	back, err := woff2.Decode(b)
	require.NoError(t, err)
	return back.Fonts[0], b
}

// transformed walks the directory and reports whether one of its entries opens
// with the byte given: a known table's number and the version of its transform.
func transformed(b []byte, entry byte) bool {
	at := 48
	number := func() {
		for b[at]&0x80 != 0 {
			at++
		}
		at++
	}
	for range int(b[12])<<8 | int(b[13]) {
		flags := b[at]
		if flags == entry {
			return true
		}
		at++
		if flags&0x3F == 0x3F {
			at += 4
		}
		number()
		if flags == 10 || flags == 11 || flags == 3|1<<6 { // glyf, loca and hmtx have a second length when transformed
			number()
		}
	}
	return false
}

func TestGlyphsComeBackThroughTheTransform(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	var glyphs [][]byte
	var metrics []table.Metric
	for i := range 300 {
		s := simple(r, 1+r.IntN(700)) // past 253 and 506 points, where the number's form changes
		if i%5 == 0 {
			s.Bounds.XMax += 7 // a box that is not the points' own is stated
		}
		if i%3 == 0 {
			s.Instructions = bytes.Repeat([]byte{0x4F}, r.IntN(800))
		} else {
			s.Instructions = []byte{}
		}
		glyphs = append(glyphs, s.Append(nil))
		metrics = append(metrics, table.Metric{Advance: 500, Left: s.Bounds.XMin})
	}
	glyphs = append(glyphs, nil, []byte{0xFF, 0xFF, 0, 1, 0, 2, 0, 3, 0, 4, 0x01, 0x03, 0, 5, 0, 1, 0, 2, 0, 3, 9, 8, 7}) // a space, and parts with instructions
	metrics = append(metrics, table.Metric{Advance: 200}, table.Metric{Advance: 200, Left: 1})
	f := fontOf(glyphs, metrics, len(metrics))
	back, b := through(t, f)
	assert.True(t, transformed(b, 10), "glyf")
	assert.True(t, transformed(b, 3|1<<6), "hmtx, all of whose bearings are xMin")
	is, err := glyf.Locate(back.Table(table.TagGlyf), back.Table(table.TagLoca), true)
	require.NoError(t, err)
	require.Len(t, is, len(glyphs))
	for i, g := range glyphs[:300] {
		want, err := glyf.ParseSimple(g)
		require.NoError(t, err)
		got, err := glyf.ParseSimple(is[i])
		require.NoError(t, err)
		require.Equal(t, want, got, "glyph %d", i)
	}
	assert.Empty(t, is[300])
	assert.Equal(t, glyphs[301], is[301][:len(glyphs[301])])
	assert.Equal(t, f.Table(table.TagHmtx), back.Table(table.TagHmtx))
}

func TestMetricsThatCannotBeLeftOut(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	var glyphs [][]byte
	for range 6 {
		s := simple(r, 4)
		s.Instructions = []byte{}
		glyphs = append(glyphs, s.Append(nil))
	}
	left := func(shift ...int16) []table.Metric {
		var m []table.Metric
		for i, g := range glyphs {
			m = append(m, table.Metric{Advance: 600, Left: glyf.BoundsOf(g).XMin + shift[i]})
		}
		return m
	}
	for name, test := range map[string]struct {
		metrics []table.Metric
		long    int
		changed bool
	}{
		"all are xMin":                 {left(0, 0, 0, 0, 0, 0), 6, true},
		"monospaced, all are xMin":     {left(0, 0, 0, 0, 0, 0), 1, true},
		"proportional ones are others": {left(3, 0, 0, 0, 0, 0), 2, true},
		"monospaced ones are others":   {left(0, 0, 0, 0, 0, 3), 2, true},
		"both are others":              {left(3, 0, 0, 0, 0, 3), 2, false},
	} {
		t.Run(name, func(t *testing.T) {
			f := fontOf(glyphs, test.metrics, test.long)
			back, b := through(t, f)
			assert.Equal(t, test.changed, transformed(b, 3|1<<6))
			assert.Equal(t, f.Table(table.TagHmtx), back.Table(table.TagHmtx))
		})
	}
}

// TestOutlinesThatCannotBeReadAreStoredAsTheyAre keeps a file whole that some
// other tool may still make sense of.
func TestOutlinesThatCannotBeReadAreStoredAsTheyAre(t *testing.T) {
	for name, g := range map[string][]byte{
		"points run out":       {0, 1, 0, 0, 0, 0, 0, 1, 0, 1, 0, 200, 0, 0, 1},
		"a program alone":      {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0x2D},
		"parts run out":        {0xFF, 0xFF, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0x21},
		"instructions run out": {0xFF, 0xFF, 0, 0, 0, 0, 0, 0, 0, 0, 0x01, 0x03, 0, 5, 0, 1, 0, 2, 0, 99},
	} {
		f := fontOf([][]byte{g}, []table.Metric{{Advance: 1}}, 1)
		back, b := through(t, f)
		assert.False(t, transformed(b, 10), name)
		assert.Equal(t, f.Table(table.TagGlyf), back.Table(table.TagGlyf), name)
		assert.Equal(t, f.Table(table.TagLoca), back.Table(table.TagLoca), name)
	}
	// A header that announces nothing is as good as none.
	back, b := through(t, fontOf([][]byte{{0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}}, []table.Metric{{Advance: 1}}, 1))
	assert.True(t, transformed(b, 10))
	assert.Empty(t, back.Table(table.TagGlyf))
}
