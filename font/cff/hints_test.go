package cff_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/cff"
	"sparecrate/font/sfnt"
	"sparecrate/font/variation"
)

// longer is a glyph with a line of 30 to the right, 70 at the end of the axis.
var longer = code(10, 20, byte(21), 30, 40, 1, byte(16), byte(6))

// varying writes a table of version 2 with one axis, whose glyph 1 and whose private
// dictionary are given.
func varying(glyph, private []byte) []byte {
	charstrings := list(true, []byte{}, glyph)
	store := []byte{0, 1, 0, 0, 0, 12, 0, 1, 0, 0, 0, 22, 0, 1, 0, 1, 0, 0, 0x40, 0, 0x40, 0, 0, 0, 0, 0, 0, 1, 0, 0}
	store = append([]byte{0, byte(len(store))}, store...)
	const header = 5
	top := func(charstringsAt, storeAt, arrayAt int) []byte {
		d := append(offset(charstringsAt), 17)
		d = append(append(d, offset(storeAt)...), 24)
		return append(append(d, offset(arrayAt)...), 12, 36)
	}
	size := len(top(0, 0, 0))
	globals := list(true)
	at := header + size + len(globals)
	charstringsAt, storeAt := at, at+len(charstrings)
	arrayAt := storeAt + len(store)
	array := func(privateAt int) []byte {
		return list(true, append(append([]byte{num(len(private))}, offset(privateAt)...), 18))
	}
	b := append([]byte{2, 0, header, 0, byte(size)}, top(charstringsAt, storeAt, arrayAt)...)
	b = append(append(append(append(b, globals...), charstrings...), store...), array(arrayAt+len(array(0)))...)
	return append(b, private...)
}

// TestHintsThatVaryArePinned takes zones, a scale in parts and stems that vary, and
// one that does not: pinned they are what readers would blend, in part they go on
// varying over what is left.
func TestHintsThatVaryArePinned(t *testing.T) {
	private := code(
		-10, 10, 60, 10, 0, 0, 20, 0, 4, byte(23), byte(6), // zones: the third grows by 20
		[]byte{30, 0x0A, 0x04, 0xFF}, []byte{30, 0x0A, 0x02, 0xFF}, 1, byte(23), byte(12), byte(9), // scale .04, .06 at the end
		50, 40, 1, byte(23), byte(10), // stems
		80, byte(11), // the other stems stay
		7, 30, 30, 1, byte(23), byte(12), byte(12), // a number that stays before one that varies
	)
	table, err := cff.Parse(varying(longer, private))
	require.NoError(t, err)
	require.Equal(t, 2, table.Version)

	static := &cff.Static{PostScript: "Example-Bold", Full: "Example Bold", Family: "Example", Names: []string{".notdef", "A"}, Advances: []int{500, 600}}
	for _, test := range []struct {
		at      float64
		line    string
		private []byte
	}{
		{0, "M10,20 L40,20", code(-10, 10, 60, 10, byte(6), []byte{30, 0x0A, 0x04, 0xFF}, byte(12), byte(9), 50, byte(10), 80, byte(11), 7, 30, byte(12), byte(12))},
		{0.5, "M10,20 L60,20", code(-10, 10, 70, 10, byte(6), []byte{30, 0x0A, 0x05, 0xFF}, byte(12), byte(9), 70, byte(10), 80, byte(11), 7, 45, byte(12), byte(12))},
		{1, "M10,20 L80,20", code(-10, 10, 80, 10, byte(6), []byte{30, 0x0A, 0x06, 0xFF}, byte(12), byte(9), 90, byte(10), 80, byte(11), 7, 60, byte(12), byte(12))},
	} {
		made, err := table.Pin(variation.Change{{Pinned: true, At: test.at}}, static, false)
		require.NoError(t, err)
		assert.True(t, bytes.Contains(made, test.private), "at %v: % d", test.at, made[len(made)-40:])
		pinned, err := cff.Parse(made)
		require.NoError(t, err)
		assert.Equal(t, 1, pinned.Version)
		contours, _, err := pinned.Glyph(1)
		require.NoError(t, err)
		assert.Equal(t, test.line, drawn(contours))
	}

	half := variation.Change{{Limited: true, Min: 0, Default: 0, Max: 0.5}}
	made, err := table.Pin(half, nil, false)
	require.NoError(t, err)
	left, err := cff.Parse(made)
	require.NoError(t, err)
	assert.Equal(t, 2, left.Version)
	assert.True(t, bytes.Contains(made, code([]byte{30, 0x0A, 0x04, 0xFF}, []byte{30, 0x0A, 0x01, 0xFF}, 1, byte(23), byte(12), byte(9))), "half of what the scale grew by")
	end, err := left.Pin(variation.Change{{Pinned: true, At: 1}}, static, false)
	require.NoError(t, err)
	assert.True(t, bytes.Contains(end, code(-10, 10, 70, 10, byte(6))), "the end of what is left is the middle of what there was")
	pinned, err := cff.Parse(end)
	require.NoError(t, err)
	contours, _, err := pinned.Glyph(1)
	require.NoError(t, err)
	assert.Equal(t, "M10,20 L60,20", drawn(contours))
}

// TestHintsThatCannotBeRead are blends without their numbers.
func TestHintsThatCannotBeRead(t *testing.T) {
	for name, private := range map[string][]byte{
		"a blend of nothing":         code(byte(23), byte(6)),
		"a blend of more than there": code(5, 9, byte(23), byte(6)),
		"a blend of less than none":  code(5, 5, -1, byte(23), byte(6)),
	} {
		table, err := cff.Parse(varying(longer, private))
		require.NoError(t, err, name)
		_, err = table.Pin(variation.Change{{Pinned: true, At: 1}}, &cff.Static{Names: []string{".notdef", "A"}, Advances: []int{0, 0}}, false)
		assert.ErrorIs(t, err, sfnt.ErrDamaged, name)
	}
}
