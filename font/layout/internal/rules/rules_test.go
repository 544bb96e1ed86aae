package rules_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

func u16(values ...int) []byte {
	n := &offsets.Node{}
	n.U16(values...)
	return n.Bytes
}

// head is a GSUB without lists, behind which a test puts what it reads.
var head = u16(1, 0, 0, 0, 0)

func open(t *testing.T, rest ...[]byte) *rules.Table {
	t.Helper()
	l, err := rules.Open(slices.Concat(append([][]byte{head}, rest...)...), table.TagGSUB)
	require.NoError(t, err)
	return l
}

// TestWhatIsWrittenIsRead writes coverages and classes of random glyphs and reads them.
func TestWhatIsWrittenIsRead(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 7))
	for range 200 {
		var glyphs []table.GlyphID
		var class []int
		next := r.IntN(50)
		for range 1 + r.IntN(60) {
			glyphs = append(glyphs, table.GlyphID(next))
			class = append(class, r.IntN(4))
			next += 1 + r.IntN(r.IntN(9)+1)
		}
		l := open(t, offsets.Coverage(glyphs).Bytes)
		assert.Equal(t, glyphs, l.Coverage(10))
		for i, g := range glyphs {
			at, ok := l.Covers(10, g)
			assert.True(t, ok && at == i)
		}
		_, ok := l.Covers(10, table.GlyphID(next))
		assert.False(t, ok)
		require.NoError(t, l.Err())

		n := offsets.Classes(glyphs, class)
		if n == nil {
			n = offsets.NoClasses()
		}
		l = open(t, n.Bytes)
		c := l.Classdef(4, 6)
		s := &rules.Set{}
		want := map[int]bool{0: true}
		for i, g := range glyphs {
			assert.Equal(t, class[i], c.Of(g))
			if i%2 == 0 {
				s.Add(g)
				want[class[i]] = true
			}
		}
		assert.Equal(t, want, c.Present(s))
		assert.Zero(t, c.Of(table.GlyphID(next)))
		assert.Same(t, c, l.Classdef(4, 6), "read once")
		require.NoError(t, l.Err())
	}
	assert.Zero(t, open(t).Classdef(8, 0).Of(3), "the offset of nothing has no classes")
}

// TestSetsOfGlyphs adds, joins and compares sets, at the ends of the words they lie in.
func TestSetsOfGlyphs(t *testing.T) {
	a, b := &rules.Set{}, &rules.Set{}
	for _, g := range []table.GlyphID{0, 63, 64, 0xFFFF} {
		a.Add(g)
	}
	assert.Equal(t, []table.GlyphID{0, 63, 64, 0xFFFF}, a.Glyphs())
	assert.Equal(t, 4, a.Len())
	assert.False(t, a.Has(1) || a.Has(65))
	b.Add(64)
	assert.True(t, b.Within(a))
	assert.False(t, a.Within(b))
	b.Merge(a)
	assert.True(t, a.Within(b) && b.Within(a))
}

// TestDamageIsSaid reads outside a table, classes out of order, and counts of more than
// there is.
func TestDamageIsSaid(t *testing.T) {
	for name, read := range map[string]func(l *rules.Table){
		"number":   func(l *rules.Table) { assert.Zero(t, l.U16(9)) },
		"long":     func(l *rules.Table) { assert.Zero(t, l.U32(8)) },
		"count":    func(l *rules.Table) { assert.Zero(t, l.Count(0, 2, 9)) },
		"coverage": func(l *rules.Table) { assert.Empty(t, l.Coverage(2)) },
	} {
		l := open(t)
		require.NoError(t, l.Err())
		read(l)
		require.ErrorIs(t, l.Err(), sfnt.ErrDamaged, name)
	}
	l := open(t, u16(2, 2, 4, 9, 1, 9, 12, 2))
	l.Classdef(0, 10)
	assert.ErrorContains(t, l.Err(), "lies outside it", "ranges that overlap")
	l = open(t, u16(3))
	l.Classdef(0, 10)
	require.ErrorIs(t, l.Err(), sfnt.ErrDamaged, "a format that does not exist")

	l = open(t, u16(1, 2, 4, 5))
	l.Work = 1
	l.Coverage(10)
	require.ErrorIs(t, l.Err(), rules.ErrWork)

	for _, b := range [][]byte{nil, head[:9], u16(2, 0, 0, 0, 0), u16(1, 0, 0, 10, 0), u16(1, 0, 0, 0, 10)} {
		_, err := rules.Open(b, table.TagGSUB)
		require.ErrorIs(t, err, sfnt.ErrDamaged, "%v", b)
	}
}

// TestContextualRulesOfEveryFormat reads the same rule (glyph 5, then 6) in the three
// formats, without and with what stands around it.
func TestContextualRulesOfEveryFormat(t *testing.T) {
	glyph := func(n int) rules.Match { return rules.Match{Kind: rules.MatchGlyph, Value: n} }
	chain := slices.Concat(
		u16(1, 8, 1, 14), u16(1, 1, 5), // format, coverage, one set; the coverage
		u16(1, 4),                         // the set of one rule
		u16(2, 3, 4, 2, 6, 1, 7, 1, 1, 9), // behind it 3 and 4, the input 5 6, ahead 7; lookup 9 at 1
	)
	var got []rules.Rule
	l := open(t, chain)
	l.EachRule(10, true, func(coverage int, first rules.Match) bool {
		assert.Equal(t, 18, coverage)
		assert.Equal(t, glyph(5), first)
		return true
	}, func(_ int, r rules.Rule) bool { got = append(got, r); return true })
	require.NoError(t, l.Err())
	require.Len(t, got, 1)
	assert.Equal(t, rules.Rule{Back: []rules.Match{glyph(3), glyph(4)}, Input: []rules.Match{glyph(5), glyph(6)}, Ahead: []rules.Match{glyph(7)},
		Records: []rules.Record{{At: 1, Lookup: 9}}}, got[0])

	plain := slices.Concat(u16(1, 8, 1, 14), u16(1, 1, 5), u16(1, 4), u16(2, 1, 6, 0, 9))
	l, got = open(t, plain), nil
	l.EachRule(10, false, func(int, rules.Match) bool { return true }, func(_ int, r rules.Rule) bool { got = append(got, r); return true })
	require.NoError(t, l.Err())
	require.Len(t, got, 1)
	assert.Equal(t, []rules.Match{glyph(5), glyph(6)}, got[0].Input)
	assert.Equal(t, []rules.Record{{At: 0, Lookup: 9}}, got[0].Records)

	classes := slices.Concat(u16(2, 12, 18, 2, 0, 28), u16(1, 1, 5), u16(1, 5, 2, 1, 2), u16(1, 4), u16(2, 1, 2, 0, 9))
	l, got = open(t, classes), nil
	l.EachRule(10, false, func(_ int, m rules.Match) bool { return l.Fits(m, 5) }, func(_ int, r rules.Rule) bool { got = append(got, r); return true })
	require.NoError(t, l.Err())
	require.Len(t, got, 1)
	assert.True(t, l.Fits(got[0].Input[0], 5) && l.Fits(got[0].Input[1], 6))
	assert.False(t, l.Fits(got[0].Input[0], 6) || l.Fits(got[0].Input[1], 5))

	coverages := slices.Concat(u16(3, 2, 1, 14, 20, 0, 9), u16(1, 1, 5), u16(1, 1, 6))
	l, got = open(t, coverages), nil
	l.EachRule(10, false, func(int, rules.Match) bool { return true }, func(at int, r rules.Rule) bool {
		assert.Equal(t, 24, at)
		got = append(got, r)
		return true
	})
	require.NoError(t, l.Err())
	require.Len(t, got, 1)
	assert.True(t, l.Fits(got[0].Input[0], 5) && l.Fits(got[0].Input[1], 6))
	assert.Equal(t, []rules.Record{{At: 0, Lookup: 9}}, got[0].Records)

	l, got = open(t, plain), nil
	l.EachRule(10, false, func(int, rules.Match) bool { return false }, func(_ int, r rules.Rule) bool { got = append(got, r); return true })
	assert.Empty(t, got, "what is not wanted is not read")
}

// TestLookupTypesOfBothTables tells contextual lookups apart by the table.
func TestLookupTypesOfBothTables(t *testing.T) {
	gsub := open(t)
	gpos, err := rules.Open(head, table.TagGPOS)
	require.NoError(t, err)
	for kind := range 10 {
		context, chain := gsub.IsContext(kind)
		assert.Equal(t, []bool{kind == 5 || kind == 6, kind == 6}, []bool{context, chain}, kind)
		context, chain = gpos.IsContext(kind)
		assert.Equal(t, []bool{kind == 7 || kind == 8, kind == 8}, []bool{context, chain}, kind)
	}
	assert.Equal(t, 8, rules.ValueSize(0x0F))
	assert.Equal(t, 4, rules.ValueSize(0x14))
}
