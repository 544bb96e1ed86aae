package woff2

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
)

// transformedHeader returns the header of a transformed glyf table: glyphs, and
// the sizes of its seven streams.
func transformedHeader(options, glyphs, format int, sizes ...int) []byte {
	var b []byte
	for _, n := range []int{0, options, glyphs, format} {
		b = binary.BigEndian.AppendUint16(b, uint16(n))
	}
	for i := range glyfStreams {
		n := 0
		if i < len(sizes) {
			n = sizes[i]
		}
		b = binary.BigEndian.AppendUint32(b, uint32(n))
	}
	return b
}

// TestHostileOutlines sends what only an attacker or a broken tool writes. Each
// must be refused without reserving memory for what it claims.
func TestHostileOutlines(t *testing.T) {
	with := func(header []byte, streams ...byte) []byte { return append(header, streams...) }
	for name, b := range map[string][]byte{
		"no header":                  make([]byte, 35),
		"streams of four gigabytes":  transformedHeader(0, 1, 0, -1, -1),
		"many glyphs, no streams":    transformedHeader(0, 65535, 0),
		"no room for the box bitmap": with(transformedHeader(0, 1, 0, 2, 0, 0, 0, 0, 0, 0), 0, 0),
		"an empty glyph with a box":  with(transformedHeader(0, 1, 0, 2, 0, 0, 0, 0, 12, 0), 0, 0, 0x80, 0, 0, 0, 0, 1, 0, 1, 0, 1, 0, 1),
		"parts without a box":        with(transformedHeader(0, 1, 0, 2, 0, 0, 0, 6, 4, 0), 0xFF, 0xFF, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0),
		"parts that never end":       with(transformedHeader(0, 1, 0, 2, 0, 0, 0, 6, 12, 0), 0xFF, 0xFF, 0, 0x22, 0, 0, 0, 0, 0x80, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 1),
		"more points than flags":     with(transformedHeader(0, 1, 0, 2, 3, 1, 1, 0, 4, 0), 0, 1, 253, 0xFF, 0xFF, 0, 0, 0, 0, 0, 0),
		"a contour of no points":     with(transformedHeader(0, 1, 0, 2, 1, 1, 1, 0, 4, 0), 0, 1, 0, 0, 0, 0, 0, 0, 0),
		"coordinates run out":        with(transformedHeader(0, 1, 0, 2, 1, 1, 0, 0, 4, 0), 0, 1, 1, 127, 0, 0, 0, 0),
		"instructions run out":       with(transformedHeader(0, 1, 0, 2, 1, 1, 2, 0, 4, 0), 0, 1, 1, 0, 5, 9, 0, 0, 0, 0),
		"no overlap bitmap":          with(transformedHeader(1, 9, 0, 18, 0, 0, 0, 0, 4, 0), make([]byte, 22)...),
	} {
		t.Run(name, func(t *testing.T) {
			_, err := restoreGlyf(b)
			require.ErrorIs(t, err, sfnt.ErrDamaged)
			if allocated := testing.AllocsPerRun(1, func() { _, _ = restoreGlyf(b) }); allocated > 100 {
				assert.Fail(t, "it reserves memory for what is not there", allocated)
			}
		})
	}
}

func TestHostileMetrics(t *testing.T) {
	left := []int16{1, 2, 3}
	for name, test := range map[string]struct {
		data []byte
		long int
	}{
		"empty": {nil, 1}, "no flag set": {[]byte{0, 1, 2}, 1}, "unknown flag": {[]byte{4, 1, 2}, 1}, "too short": {[]byte{1, 1, 2}, 2},
		"no metrics": {[]byte{1}, 0}, "more metrics than glyphs": {make([]byte, 99), 4},
	} {
		_, err := restoreHmtx(test.data, test.long, left)
		assert.ErrorIs(t, err, sfnt.ErrDamaged, name)
	}
	got, err := restoreHmtx([]byte{3, 0, 9}, 1, left)
	require.NoError(t, err)
	assert.Equal(t, []byte{0, 9, 0, 1, 0, 2, 0, 3}, got)
}

func TestNumbersOfEveryLength(t *testing.T) {
	for n := range 1 << 16 {
		s := &stream{v: append255(nil, n), ok: true}
		require.Equal(t, n, s.u255())
		require.True(t, s.ok)
		require.Len(t, s.v, s.at, "nothing is left over")
	}
	for _, n := range []uint32{0, 127, 128, 16383, 16384, 1<<28 - 1, 1 << 28, 1<<32 - 1} {
		b := appendBase128(nil, n)
		got, next, ok := base128(b, 0)
		require.True(t, ok)
		require.Equal(t, int(n), got)
		require.Equal(t, len(b), next)
	}
	for name, b := range map[string][]byte{"leading zeros": {0x80, 1}, "too long": {0x8F, 0xFF, 0xFF, 0xFF, 0xFF, 1}, "over 32 bits": {0x9F, 0xFF, 0xFF, 0xFF, 0x7F}, "cut": {0x81}, "nothing": nil} {
		_, _, ok := base128(b, 0)
		assert.False(t, ok, name)
	}
}

// TestTripletsOfEveryStep writes and reads steps around every limit of the
// encodings, in all directions.
func TestTripletsOfEveryStep(t *testing.T) {
	sizes := []int{0, 1, 15, 16, 17, 63, 64, 65, 66, 255, 256, 767, 768, 769, 770, 1278, 1279, 1280, 1281, 4094, 4095, 4096, 32767, 65535}
	for _, ax := range sizes {
		for _, ay := range sizes {
			for _, sign := range [][2]int{{1, 1}, {1, -1}, {-1, 1}, {-1, -1}} {
				dx, dy := ax*sign[0], ay*sign[1]
				for _, on := range []bool{true, false} {
					flags, coordinates := appendTriplet(nil, nil, dx, dy, on)
					require.Equal(t, on, flags[0]&0x80 == 0)
					s := &stream{v: sfnt.View(coordinates), ok: true}
					x, y := triplet(int(flags[0]&0x7F), s)
					require.Equal(t, [2]int{dx, dy}, [2]int{x, y})
					require.True(t, s.ok)
					require.Len(t, coordinates, s.at)
				}
			}
		}
	}
}
