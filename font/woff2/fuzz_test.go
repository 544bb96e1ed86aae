package woff2

import (
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/font/glyf"
)

// FuzzRestore goes past Brotli, which a fuzzer hardly gets through, straight to
// the transformed tables. What is restored is transformed again and restored
// to the same.
func FuzzRestore(f *testing.F) {
	s := &glyf.Simple{Ends: []int{2}, Points: []glyf.Point{{X: 0, Y: 0, On: true}, {X: 300, Y: -40}, {X: -1000, Y: 2000, On: true}}, Instructions: []byte{1, 2}, Overlap: true}
	s.Bounds = s.Measure()
	composite := []byte{0xFF, 0xFF, 0, 0, 0, 0, 0, 9, 0, 9, 0x01, 0x00 | 0x02, 0, 0, 1, 2, 0, 1, 0x2D}
	first := s.Append(nil)
	for len(first)%2 != 0 {
		first = append(first, 0)
	}
	both := append(append([]byte{}, first...), composite...)
	for len(both)%2 != 0 {
		both = append(both, 0)
	}
	packed, err := transformGlyf(both, glyf.Index([]int{0, len(first), len(first), len(both)}, true), true)
	require.NoError(f, err)
	f.Add(packed, []byte{1, 0, 10, 0, 20}, uint16(2))
	f.Fuzz(func(t *testing.T, b, metrics []byte, long uint16) {
		if len(b) > 1<<15 {
			return
		}
		o, err := restoreGlyf(b)
		if err != nil {
			return
		}
		require.LessOrEqual(t, len(o.glyf), 16*len(b)+1<<10, "memory is bounded by the input")
		_, _ = restoreHmtx(metrics, int(long), o.left)
		packed, err := transformGlyf(o.glyf, o.loca, len(o.loca) == 4*(len(o.left)+1))
		if err != nil {
			return
		}
		again, err := restoreGlyf(packed)
		require.NoError(t, err)
		require.Equal(t, o.glyf, again.glyf)
	})
}
