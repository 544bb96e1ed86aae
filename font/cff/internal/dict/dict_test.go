package dict

import (
	"bytes"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
)

// TestListsAreReadAsWritten writes an INDEX of items whose offsets take one, two and
// three bytes, reads it, and cuts it off.
func TestListsAreReadAsWritten(t *testing.T) {
	for size, bytesEach := range map[int]int{10: 1, 254: 2, 300: 2, 70000: 3} {
		items := [][]byte{bytes.Repeat([]byte{7}, size), {}, []byte("end")}
		b := EncodeIndex(items)
		assert.Equal(t, bytesEach, int(b[2]), "%d", size)
		x, next, err := ReadIndex(append(sfnt.View(b), 9, 9), 0, false)
		require.NoError(t, err)
		assert.Equal(t, len(b), next)
		assert.Equal(t, len(items), x.Count)
		for i, it := range items {
			got, ok := x.At(i)
			assert.True(t, ok)
			assert.Equal(t, it, got)
		}
		for _, i := range []int{-1, len(items)} {
			_, ok := x.At(i)
			assert.False(t, ok, "%d", i)
		}
		for _, cut := range []int{0, 1, 2, 3, len(b) - 1} {
			if cut == 0 || cut > 1 {
				_, _, err = ReadIndex(sfnt.View(b[:cut]), 0, false)
				require.ErrorIs(t, err, sfnt.ErrDamaged, "cut at %d", cut)
			}
		}
	}
	assert.Equal(t, 1, int(EncodeIndex([][]byte{make([]byte, 254-1)})[2]), "the last offset is 254")
	empty := EncodeIndex(nil)
	assert.Equal(t, []byte{0, 0}, empty)
	x, next, err := ReadIndex(sfnt.View(empty), 0, false)
	require.NoError(t, err)
	assert.Equal(t, 2, next)
	assert.Zero(t, x.Count)
	wide := append([]byte{0, 0, 0, 1, 1, 1, 3}, 'a', 'b')
	x, next, err = ReadIndex(sfnt.View(wide), 0, true)
	require.NoError(t, err)
	assert.Equal(t, len(wide), next)
	got, _ := x.At(0)
	assert.Equal(t, "ab", string(got))
	for _, size := range []byte{0, 5} {
		_, _, err = ReadIndex(sfnt.View{0, 1, size, 1, 1, 1, 1, 1, 1, 1, 1, 1}, 0, false)
		require.ErrorIs(t, err, sfnt.ErrDamaged, "offsets of %d bytes", size)
	}
}

// TestDictionariesAreReadAsWritten writes operands of every form behind operators of one and
// two bytes, reads them, takes them apart and joins them with another place.
func TestDictionariesAreReadAsWritten(t *testing.T) {
	numbers := []float64{0, -107, 107, 108, 1131, 1132, -108, -1131, -1132, 32767, 32768, -32768, -32769, 0.5, -2.25, 1e-3, math.MaxInt32}
	var b []byte
	for _, n := range numbers {
		b = AppendNumber(b, n)
	}
	b = AppendOperator(b, 5)
	b = AppendOperator(AppendInt32(b, 1000), 12<<8|7)
	b = AppendOperator(b, 9)
	d, err := Read(b)
	require.NoError(t, err)
	assert.Equal(t, numbers, d[5])
	assert.InDelta(t, 1000, d.Number(12<<8|7, 1), 0)
	assert.Equal(t, 1000, d.Offset(12<<8|7))
	assert.InDelta(t, 3, d.Number(9, 3), 0, "an operator without operands")
	assert.InDelta(t, 4, d.Number(10, 4), 0, "an operator that is not there")

	entries, err := Split(b)
	require.NoError(t, err)
	require.Len(t, entries, 3)
	assert.Equal(t, b, Join(entries, nil))
	entries[1].Placed = true
	moved, err := Read(Join(entries, func(op int) []byte {
		assert.Equal(t, 12<<8|7, op)
		return AppendInt(nil, 77)
	}))
	require.NoError(t, err)
	assert.Equal(t, 77, moved.Offset(12<<8|7))
	assert.Equal(t, numbers, moved[5])

	for _, bad := range [][]byte{{12}, {139, 12}, {28, 1}, {29, 0, 0, 0}, {255}, {31}} {
		_, err := Read(bad)
		require.ErrorIs(t, err, sfnt.ErrDamaged, "%v", bad)
	}
	_, err = Split(bytes.Repeat([]byte{139, 5}, maxDictEntries))
	require.NoError(t, err)
	_, err = Split(bytes.Repeat([]byte{139, 5}, maxDictEntries+1))
	assert.ErrorIs(t, err, sfnt.ErrDamaged, "too many entries")
}
