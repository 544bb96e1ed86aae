package offsets_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/table"
)

func node(values ...int) *offsets.Node {
	n := &offsets.Node{}
	n.U16(values...)
	return n
}

// TestPartsStandBehindWhatNamesThem packs a root with two equal parts, one of which is
// named twice, and one that is not there.
func TestPartsStandBehindWhatNamesThem(t *testing.T) {
	leaf := func() *offsets.Node { return node(7, 8) }
	middle := node(9)
	middle.Link(leaf())
	root := node(1)
	root.Link(leaf())
	root.Link(nil)
	root.Link(middle)
	b, ok := offsets.Pack(root)
	require.True(t, ok)
	at := func(i int) int { return int(b[i])<<8 | int(b[i+1]) }
	assert.Len(t, b, 8+4+4, "equal parts are written once")
	assert.Equal(t, 1, at(0))
	assert.Equal(t, 0, at(4), "an offset of nothing")
	first, second := at(2), at(6)
	assert.Equal(t, []int{7, 8}, []int{at(first), at(first + 2)})
	assert.Equal(t, 9, at(second))
	assert.Equal(t, first, second+at(second+2), "both name the same part")
}

// TestPartsOutOfReachAreRefused packs parts that 16-bit offsets reach and parts that
// they do not.
func TestPartsOutOfReachAreRefused(t *testing.T) {
	long := func(mark, size int) *offsets.Node { return node(append([]int{mark}, make([]int, size/2-1)...)...) }
	pack := func(sizes ...int) bool {
		root := &offsets.Node{}
		for i, size := range sizes {
			root.Link(long(i+1, size))
		}
		b, ok := offsets.Pack(root)
		if ok {
			total := 2 * len(sizes)
			for _, s := range sizes {
				total += s
			}
			assert.Len(t, b, total)
		}
		return ok
	}
	assert.True(t, pack(100, 200))
	assert.True(t, pack(0xFFFE-4, 0xFFFE), "what the last offset names may be long")
	assert.False(t, pack(0xFFFE, 0xFFFE), "the second begins at 65,538")
}

// TestDeepPartsAreOrderedByLevel packs what depth first would put out of reach.
func TestDeepPartsAreOrderedByLevel(t *testing.T) {
	root := &offsets.Node{}
	for i := range 3 {
		part := node(i + 1)
		part.Link(node(append([]int{100 + i}, make([]int, 0x5FFF)...)...))
		root.Link(part)
	}
	b, ok := offsets.Pack(root)
	require.False(t, ok, "three of 48 KiB are too many in either order")
	assert.Nil(t, b)
	root = &offsets.Node{}
	for i := range 2 {
		part := node(i + 1)
		part.Link(node(append([]int{100 + i}, make([]int, 0x7DFF)...)...))
		root.Link(part)
	}
	_, ok = offsets.Pack(root)
	assert.True(t, ok, "two of 63 KiB are reached from parts that stand before both")
}

// TestTheShorterFormIsWritten holds coverages and classes to the form that takes fewer bytes.
func TestTheShorterFormIsWritten(t *testing.T) {
	glyphs := func(list ...int) (out []table.GlyphID) {
		for _, g := range list {
			out = append(out, table.GlyphID(g))
		}
		return out
	}
	assert.Equal(t, node(1, 3, 4, 5, 6).Bytes, offsets.Coverage(glyphs(4, 5, 6)).Bytes, "six bytes each way: the list")
	assert.Equal(t, node(2, 1, 4, 7, 0).Bytes, offsets.Coverage(glyphs(4, 5, 6, 7)).Bytes)
	assert.Equal(t, node(2, 2, 4, 8, 0, 20, 24, 5).Bytes, offsets.Coverage(glyphs(4, 5, 6, 7, 8, 20, 21, 22, 23, 24)).Bytes)
	assert.Equal(t, node(1, 0).Bytes, offsets.Coverage(nil).Bytes)

	assert.Nil(t, offsets.Classes(glyphs(4, 5), []int{0, 0}), "all of class 0")
	assert.Equal(t, node(2, 1, 4, 5, 3).Bytes, offsets.Classes(glyphs(4, 5), []int{3, 3}).Bytes, "ten bytes each way: ranges")
	assert.Equal(t, node(1, 4, 3, 1, 2, 1).Bytes, offsets.Classes(glyphs(4, 5, 6), []int{1, 2, 1}).Bytes)
	assert.Equal(t, node(2, 2, 4, 4, 1, 90, 91, 2).Bytes, offsets.Classes(glyphs(4, 50, 90, 91), []int{1, 0, 2, 2}).Bytes)
	assert.Equal(t, node(1, 9, 1, 1).Bytes, offsets.Classes(glyphs(9, 3), []int{1, 1}).Bytes, "glyphs out of order are left out")
	assert.Equal(t, node(2, 0).Bytes, offsets.NoClasses().Bytes)
}

// TestNumbersAreWrittenBigEndian writes one of each kind.
func TestNumbersAreWrittenBigEndian(t *testing.T) {
	n := node(0x0102)
	n.U32(0x03040506)
	n.Glyphs([]table.GlyphID{7})
	n.Set16(0, 0x0A0B)
	assert.Equal(t, []byte{0x0A, 0x0B, 3, 4, 5, 6, 0, 7}, n.Bytes)
}
