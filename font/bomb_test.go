package font_test

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"runtime"
	"runtime/debug"
	"testing"

	"github.com/andybalholm/brotli"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/svgfont"
	"sparecrate/font/table"
	"sparecrate/font/woff"
	"sparecrate/font/woff2"
)

// zeros are as many zeros, packed.
func deflated(n int) []byte {
	var b bytes.Buffer
	w := zlib.NewWriter(&b)
	_, _ = w.Write(make([]byte, n))
	_ = w.Close()
	return b.Bytes()
}

func brotlied(n int) []byte {
	var b bytes.Buffer
	w := brotli.NewWriterLevel(&b, 5)
	_, _ = w.Write(make([]byte, n))
	_ = w.Close()
	return b.Bytes()
}

// woffOf writes a WOFF file of one table that claims a size.
func woffOf(packed []byte, claims uint32) []byte {
	b := make([]byte, 44)
	copy(b, "wOFF\x00\x01\x00\x00")
	b[13] = 1
	b = append(b, "bomb"...)
	for _, n := range []uint32{64, uint32(len(packed)), claims, 0} {
		b = binary.BigEndian.AppendUint32(b, n)
	}
	b = append(b, packed...)
	binary.BigEndian.PutUint32(b[8:], uint32(len(b)))
	return b
}

// woff2Of writes a WOFF2 file of one table that claims a size.
func woff2Of(packed []byte, claims uint32) []byte {
	b := make([]byte, 48)
	copy(b, "wOF2\x00\x01\x00\x00")
	b[13] = 1
	b = append(b, 63, 'b', 'o', 'm', 'b')
	for shift := 28; shift >= 0; shift -= 7 {
		if c := byte(claims >> shift & 0x7F); shift == 0 {
			b = append(b, c)
		} else if claims>>shift != 0 {
			b = append(b, c|0x80)
		}
	}
	binary.BigEndian.PutUint32(b[20:], uint32(len(packed)))
	b = append(b, packed...)
	binary.BigEndian.PutUint32(b[8:], uint32(len(b)))
	return b
}

// TestBombs sends files that unpack to far more than they are. Each must be
// refused, and the memory it took stays near what the file is or may claim.
func TestBombs(t *testing.T) {
	const much = 150 << 20 // beyond the hard limit
	for _, test := range []struct {
		name string
		file []byte
		is   error
		most uint64 // bytes on the way
	}{
		{"WOFF that says it is too much", woffOf(deflated(1<<20), much), woff.ErrTooLarge, 1 << 20},
		{"WOFF2 that says it is too much", woff2Of(brotlied(1<<20), much), woff2.ErrTooLarge, 1 << 20},
		{"WOFF that says it is all there can be", woffOf(deflated(1<<20), 0xFFFFFFFF), woff.ErrTooLarge, 1 << 20},
		{"WOFF2 that says it is all there can be", woff2Of(brotlied(1<<20), 0xFFFFFFFF), woff2.ErrTooLarge, 1 << 20},
		{"WOFF that unpacks to more than it says", woffOf(deflated(much), 1<<20), sfnt.ErrDamaged, 8 << 20},
		{"WOFF2 that unpacks to more than it says", woff2Of(brotlied(much), 1<<20), sfnt.ErrDamaged, 40 << 20}, // Brotli's window is 16 MB
		{"WOFF that says more than it unpacks to", woffOf(deflated(1<<10), 4<<20), sfnt.ErrDamaged, 1 << 20},
		{"WOFF2 that says more than it unpacks to", woff2Of(brotlied(1<<10), 4<<20), sfnt.ErrDamaged, 1 << 20},
		{"small WOFF that unpacks to much", woffOf(deflated(30<<20), 30<<20), woff.ErrTooLarge, 1 << 20},
		{"small WOFF2 that unpacks to much", woff2Of(brotlied(30<<20), 30<<20), woff2.ErrTooLarge, 1 << 20},
	} {
		t.Run(test.name, func(t *testing.T) {
			var err error
			took := allocated(func() { _, err = font.Open(test.file) })
			require.ErrorIs(t, err, test.is)
			assert.LessOrEqual(t, took, test.most)
		})
	}
}

// allocated returns the bytes that do asks for, garbage or not.
func allocated(do func()) uint64 {
	defer debug.SetGCPercent(debug.SetGCPercent(-1))
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	do()
	runtime.ReadMemStats(&after)
	return after.TotalAlloc - before.TotalAlloc
}

// TestRepetitionIsBounded gives tables in which a few bytes say a great deal:
// names that all share one text, characters that all share one glyph, glyphs
// whose points are one repeated flag.
func TestRepetitionIsBounded(t *testing.T) {
	demo := demoFont(t).Faces[0]
	with := func(tag sfnt.Tag, data []byte) *sfnt.Font {
		f := &sfnt.Font{Flavor: demo.Flavor}
		for _, part := range demo.Tables {
			if part.Tag == tag {
				part.Data = data
			}
			f.Tables = append(f.Tables, part)
		}
		return f
	}
	const records = 4000
	names := []byte{0, 0, records >> 8, records & 0xFF, 0xBB, 0x86} // storage behind 4000 records
	for i := range records {
		names = append(names, 0, 3, 0, 1, 4, 9, byte(i>>8), byte(i), 0x44, 0, 0, 0)
	}
	names = append(names, make([]byte, 0x4400)...)
	b := sfnt.Write(with(table.TagName, names))
	took := allocated(func() { _, _ = metadata.Read(b) })
	assert.Less(t, took, uint64(60*len(b)), "70 MB of names out of 66 kB")

	everything := []byte{0, 0, 0, 1, 0, 3, 0, 10, 0, 0, 0, 12, 0, 12, 0, 0, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0x20, 0, 0, 0xFF, 0xFF, 0, 0, 0, 1}
	_, err := svgfont.Encode(with(table.TagCmap, everything))
	assert.NoError(t, err, "glyphs that are not there draw nothing")

	// One glyph of 65,000 points that are two bytes for each 256 of them.
	glyph := []byte{0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0xFD, 0xE7, 0, 0}
	for range 254 {
		glyph = append(glyph, 0x39, 255) // on the curve, where the one before was, again and again
	}
	var outlines []byte
	loca := []byte{0, 0, 0, 0}
	for range 2000 {
		outlines = append(outlines, glyph...)
		loca = binary.BigEndian.AppendUint32(loca, uint32(len(outlines)))
	}
	head := bytes.Clone(demo.Table(table.TagHead))
	head[51] = 1
	bomb := with(table.TagGlyf, outlines)
	for i := range bomb.Tables {
		switch bomb.Tables[i].Tag {
		case table.TagLoca:
			bomb.Tables[i].Data = loca
		case table.TagHead:
			bomb.Tables[i].Data = head
		}
	}
	made, err := font.Make(bomb, font.WOFF2)
	require.NoError(t, err, "outlines that would grow a hundredfold are stored as they are")
	back, err := font.Open(made)
	require.NoError(t, err)
	assert.Equal(t, outlines, back.Faces[0].Table(table.TagGlyf))
}
