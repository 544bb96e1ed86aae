package layout_test

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/layout"
	"sparecrate/font/table"
)

// bytesAt walks offsets of 16 bits: from a table at the place of the first, from
// that one at the place of the second, and so on.
func bytesAt(t *testing.T, b []byte, places ...int) []byte {
	t.Helper()
	for _, p := range places {
		require.LessOrEqual(t, p+2, len(b))
		at := int(binary.BigEndian.Uint16(b[p:]))
		require.NotZero(t, at, "there is a table")
		require.LessOrEqual(t, at, len(b))
		b = b[at:]
	}
	return b
}

func numbersOf(b []byte, n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = int(int16(binary.BigEndian.Uint16(b[2*i:])))
	}
	return out
}

// definitions is a GDEF table, version 1.2: 10 and 12 are bases, 11 a ligature, 13 and
// 14 marks; 10 and 11 have points to attach to, 11 three places of a cursor; the
// first set of marks is 13, the second 13 and 14.
func definitions() []byte {
	classes := u16(2, 4, 10, 10, 1, 11, 11, 2, 12, 12, 1, 13, 14, 3)
	attach := join(u16(20, 2, 8, 14), u16(2, 3, 5), u16(1, 9), []byte{0, 0}, covers(10, 11))
	device := u16(11, 14, 2, 0x1F10) // pixels to add at 11 to 14 pixels an em, four bits each
	carets := join(u16(40, 1, 6), u16(3, 8, 12, 16), u16(1, 300), u16(2, 4), u16(3, 600, 6), device, make([]byte, 4), covers(11))
	sets := join(u16(1, 2, 0, 12, 0, 18), covers(13), covers(13, 14))
	at := []int{14, 14 + len(classes), 14 + len(classes) + len(attach)}
	return join(u16(1, 2, at[0], at[1], at[2], 0, at[2]+len(carets)), classes, attach, carets, sets)
}

// TestDefinitionsAreWrittenAgain keeps a ligature and a mark, renumbered: what is said
// of them stays, to the pixel corrections, and what is said of others goes.
func TestDefinitionsAreWrittenAgain(t *testing.T) {
	d, err := layout.OpenDefinitions(definitions())
	require.NoError(t, err)
	less, err := layout.RewriteDefinitions(d, layout.Plan{Keep: set(11, 13), Number: func(g table.GlyphID) table.GlyphID { return g - 9 }, Scale: 4}, nil)
	require.NoError(t, err)
	now, err := layout.OpenDefinitions(less)
	require.NoError(t, err)
	for g, class := range []int{0, 0, layout.ClassLigature, 0, layout.ClassMark, 0} {
		assert.Equal(t, class, now.Class(table.GlyphID(g)), "glyph %d", g)
	}
	assert.True(t, now.HoldsMark(set(2, 4)))
	assert.False(t, now.HoldsMark(set(2, 3)))
	assert.Equal(t, []int{1, 1, 2}, numbersOf(bytesAt(t, less, 6, 0), 3), "points of the ligature alone")
	assert.Equal(t, []int{1, 9}, numbersOf(bytesAt(t, less, 6, 4), 2), "points are numbers, no distances")
	assert.Equal(t, []int{1, 1, 2}, numbersOf(bytesAt(t, less, 8, 0), 3))
	assert.Equal(t, 3, numbersOf(bytesAt(t, less, 8, 4), 1)[0])
	assert.Equal(t, []int{1, 1200}, numbersOf(bytesAt(t, less, 8, 4, 2), 2))
	assert.Equal(t, []int{2, 4}, numbersOf(bytesAt(t, less, 8, 4, 4), 2))
	assert.Equal(t, []int{3, 2400}, numbersOf(bytesAt(t, less, 8, 4, 6), 2))
	assert.Equal(t, []int{11, 14, 2, 0x1F10}, numbersOf(bytesAt(t, less, 8, 4, 6, 4), 4), "pixels do not grow with the grid")
	sets := bytesAt(t, less, 12)
	assert.Equal(t, []int{1, 2}, numbersOf(sets, 2), "sets keep their numbers, which lookups go by")
	for i := range 2 {
		one := sets[binary.BigEndian.Uint32(sets[4+4*i:]):]
		assert.Equal(t, []int{1, 1, 4}, numbersOf(one, 3))
	}

	store := []byte("a store of variations")
	whole, err := layout.RewriteDefinitions(d, layout.Plan{}, store)
	require.NoError(t, err)
	again, err := layout.OpenDefinitions(whole)
	require.NoError(t, err)
	assert.Equal(t, store, again.Store())
	same, err := layout.RewriteDefinitions(again, layout.Plan{}, store)
	require.NoError(t, err)
	assert.Equal(t, whole, same, "written again it is the same")
	assert.Nil(t, d.Store())
	for n := range len(definitions()) {
		cut, err := layout.OpenDefinitions(definitions()[:n])
		if err == nil && n > 0 {
			_, err = layout.RewriteDefinitions(cut, layout.Plan{}, nil)
		}
		if n > 0 {
			assert.Error(t, err, "cut at %d", n)
		}
	}
}

// TestACursorThatVariesIsSettled pins the place of a cursor within a ligature.
func TestACursorThatVariesIsSettled(t *testing.T) {
	varies := join(u16(22, 1, 6), u16(1, 4), u16(3, 600, 6), u16(1, 7, 0x8000), covers(11))
	d, err := layout.OpenDefinitions(join(u16(1, 0, 0, 0, 12, 0), varies))
	require.NoError(t, err)
	settled, err := layout.RewriteDefinitions(d, layout.Plan{Vary: func(outer, inner int) (int, int, int, bool) {
		assert.Equal(t, [2]int{1, 7}, [2]int{outer, inner})
		return 25, 0, 0, false
	}}, nil)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 625}, numbersOf(bytesAt(t, settled, 8, 4, 2), 2))
	still, err := layout.RewriteDefinitions(d, layout.Plan{Vary: func(int, int) (int, int, int, bool) { return 25, 0, 3, true }}, nil)
	require.NoError(t, err)
	assert.Equal(t, []int{3, 625}, numbersOf(bytesAt(t, still, 8, 4, 2), 2))
	assert.Equal(t, []int{0, 3, -0x8000}, numbersOf(bytesAt(t, still, 8, 4, 2, 4), 3))
}

// TestAttachmentIsWrittenAgain keeps letters that are joined by where they enter and
// leave, and marks on ligatures and on marks.
func TestAttachmentIsWrittenAgain(t *testing.T) {
	anchor := func(x, y int) []byte { return u16(1, x, y) }
	subtable := func(t *testing.T, b []byte) []byte { return bytesAt(t, b, 8, 2, 6) }
	plan := func(glyphs ...int) layout.Plan {
		return layout.Plan{Keep: set(glyphs...), Number: func(g table.GlyphID) table.GlyphID { return g - 9 }, Scale: 2}
	}

	// 10 is left at (500, 20); 11 is entered at (0, 30) and left at a point of its outline; 12 has neither.
	cursive := join(u16(1, 44, 3, 0, 18, 24, 30, 0, 0), anchor(500, 20), anchor(0, 30), u16(2, 400, 10, 6), make([]byte, 6), covers(10, 11, 12))
	b, err := layout.Rewrite(openRules(t, rules(lookup{3, 0, cursive}), table.TagGPOS), plan(11, 12))
	require.NoError(t, err)
	s := subtable(t, b)
	assert.Equal(t, []int{1, 1, 2}, numbersOf(bytesAt(t, s, 2), 3), "one without anchors is not listed")
	assert.Equal(t, []int{1, 0, 60}, numbersOf(bytesAt(t, s, 6), 3))
	assert.Equal(t, []int{2, 800, 20, 6}, numbersOf(bytesAt(t, s, 8), 4))
	none, err := layout.Rewrite(openRules(t, rules(lookup{3, 0, cursive}), table.TagGPOS), plan(12))
	require.NoError(t, err)
	assert.Empty(t, none)

	// A mark, 13, on the two parts of a ligature, 11.
	onLigature := join(u16(1, 12, 18, 1, 24, 36), covers(13), covers(11), u16(1, 0, 6), anchor(50, 0), u16(1, 4), u16(2, 6, 12), anchor(200, 700), anchor(600, 720))
	b, err = layout.Rewrite(openRules(t, rules(lookup{5, 0, onLigature}), table.TagGPOS), plan(11, 13))
	require.NoError(t, err)
	s = subtable(t, b)
	assert.Equal(t, []int{1, 1, 4}, numbersOf(bytesAt(t, s, 2), 3))
	assert.Equal(t, []int{1, 1, 2}, numbersOf(bytesAt(t, s, 4), 3))
	assert.Equal(t, []int{1, 100, 0}, numbersOf(bytesAt(t, s, 8, 4), 3))
	assert.Equal(t, []int{1, 400, 1400}, numbersOf(bytesAt(t, s, 10, 2, 2), 3))
	assert.Equal(t, []int{1, 1200, 1440}, numbersOf(bytesAt(t, s, 10, 2, 4), 3))

	// A mark on a mark, at a place that varies.
	onMark := join(u16(1, 12, 18, 1, 24, 36), covers(14), covers(13), u16(1, 0, 6), anchor(50, 0), u16(1, 4), u16(3, 50, 200, 0, 10), u16(0, 2, 0x8000))
	settling := plan(13, 14)
	settling.Vary = func(int, int) (int, int, int, bool) { return 15, 0, 0, false }
	b, err = layout.Rewrite(openRules(t, rules(lookup{6, 0, onMark}), table.TagGPOS), settling)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 100, 430}, numbersOf(bytesAt(t, subtable(t, b), 10, 2), 3))
	gone, err := layout.Rewrite(openRules(t, rules(lookup{6, 0, onMark}), table.TagGPOS), plan(13))
	require.NoError(t, err)
	assert.Empty(t, gone, "nothing to put on it")
}

// varied is a table whose feature calls other rules in two parts of the design space:
// 10 becomes 20 as a rule, 30 where axis 0 is between 0.5 and 1, 40 where axis 1 is above
// 0.25.
func varied() []byte {
	one := func(to int) []byte { return join(u16(1, 6, to-10), covers(10)) }
	base := rules(lookup{1, 0, one(20)}, lookup{1, 0, one(30)}, lookup{1, 0, one(40)})
	// Offsets of 32 bits: a record's set of conditions, and its substitution of features.
	variations := func() []byte {
		set1, sub1, set2, sub2 := join(u16(1), u32(6), u16(1, 0, 0x2000, 0x4000)), join(u16(1, 0, 1), u16(0), u32(12), u16(0, 1, 1)), join(u16(1), u32(6), u16(1, 1, 0x1000, 0x4000)), join(u16(1, 0, 1), u16(0), u32(12), u16(0, 1, 2))
		at := 24
		head := join(u16(1, 0), u32(2))
		var body []byte
		for _, p := range [][]byte{set1, sub1, set2, sub2} {
			head = append(head, u32(at+len(body))...)
			body = append(body, p...)
		}
		return join(head, body)
	}()
	whole := join(u16(1, 1), base[4:10], u32(len(base)+4), base[10:], variations)
	for i := 4; i < 10; i += 2 { // what stood behind the header is four bytes on
		binary.BigEndian.PutUint16(whole[i:], binary.BigEndian.Uint16(whole[i:])+4)
	}
	return whole
}

// TestConditionsOfVariationsAreSettled takes freedom from a table whose feature calls
// other rules in a part of the design space.
func TestConditionsOfVariationsAreSettled(t *testing.T) {
	l := openRules(t, varied(), table.TagGSUB)
	assert.Equal(t, []int{20}, applied(t, l, []int{10}))
	assert.Equal(t, "test", l.FeatureTags()[0].String())
	keep := set(10)
	require.NoError(t, layout.Close(l, keep, nil))
	assert.Equal(t, []int{10, 20, 30, 40}, numbers(keep), "what comes up somewhere stays")

	settle := func(holds map[int]layout.Holds) *layout.Table {
		b, err := layout.Rewrite(l, layout.Plan{Conditions: func(c layout.Condition) (layout.Condition, layout.Holds) { return c, holds[c.Axis] }})
		require.NoError(t, err)
		return openRules(t, b, table.TagGSUB)
	}
	here, all, no := layout.Somewhere, layout.Everywhere, layout.Nowhere
	for _, test := range []struct {
		first, second layout.Holds
		becomes       int
		varies        bool
	}{
		{here, here, 20, true}, {no, no, 20, false}, {all, here, 30, false}, {all, no, 30, false}, {no, all, 40, false},
		{here, no, 20, true}, {no, here, 20, true}, {here, all, 40, true},
	} {
		made := settle(map[int]layout.Holds{0: test.first, 1: test.second})
		assert.Equal(t, []int{test.becomes}, applied(t, made, []int{10}), "%v", test)
		again := set(10)
		require.NoError(t, layout.Close(made, again, nil))
		assert.Equal(t, test.varies, len(numbers(again)) > 2, "%v", test)
	}
}

func u32(n int) []byte { return u16(n>>16, n&0xFFFF) }
