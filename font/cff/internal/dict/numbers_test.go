package dict

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/sfnt"
)

// written writes an operand of a dictionary in the shortest form (TN 5176, section 4, table 3).
func written(n int) []byte {
	switch {
	case n >= -107 && n <= 107:
		return []byte{byte(n + 139)}
	case n >= 108 && n <= 1131:
		return []byte{byte((n-108)/256 + 247), byte((n - 108) % 256)}
	case n >= -1131 && n <= -108:
		return []byte{byte((-n-108)/256 + 251), byte((-n - 108) % 256)}
	case n >= -32768 && n <= 32767:
		return binary.BigEndian.AppendUint16([]byte{28}, uint16(int16(n))) //nolint:gosec // within
	}
	return binary.BigEndian.AppendUint32([]byte{29}, uint32(int32(n))) //nolint:gosec // within
}

// TestEveryFormOfANumber reads each number in each of its forms, whole and cut off.
func TestEveryFormOfANumber(t *testing.T) {
	for _, n := range []int{-2147483648, -70000, -32769, -32768, -1132, -1131, -1000, -876, -875, -620, -619, -364, -363, -109, -108, -107, -1, 0, 1, 107, 108, 109, 363, 364, 619, 620, 875, 876, 1131, 1132, 32767, 32768, 70000, 2147483647} {
		b := written(n)
		got, next, ok := Integer(sfnt.View(append(b, 0xFF)), 0)
		assert.True(t, ok, "%d", n)
		assert.Equal(t, n, got)
		assert.Equal(t, len(b), next, "%d", n)
		if len(b) > 1 {
			_, _, ok = Integer(sfnt.View(b[:len(b)-1]), 0)
			assert.False(t, ok, "%d cut off", n)
		}
	}
	for _, c := range []byte{0, 21, 22, 27, 30, 31, 255} {
		_, next, ok := Integer(sfnt.View([]byte{c, 1, 2, 3, 4}), 0)
		assert.False(t, ok, "%d begins no number", c)
		assert.Zero(t, next)
	}
}

// TestNumbersInNibbles reads numbers that are written digit by digit (table 5).
func TestNumbersInNibbles(t *testing.T) {
	for text, want := range map[string]float64{
		"\xe2\xa2\x5f": -2.25, "\x0a\x14\x05\x41\xc3\xff": 0.140541e-3, "\x1f": 1, "\x12\x3f": 123, "\xa5\xff": 0.5, "\x1b\x2f": 100, "\x1c\x2f": 0.01, "\x0f": 0,
	} {
		got, next := realNumber(sfnt.View(text), 0)
		assert.InDelta(t, want, got, 1e-12, "%x", text)
		assert.Equal(t, len(text), next, "%x", text)
	}
}
