package layout_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// u16 writes 16-bit numbers.
func u16(values ...int) []byte {
	var out []byte
	for _, v := range values {
		out = append(out, byte(v>>8), byte(v))
	}
	return out
}

func join(parts ...[]byte) []byte {
	var out []byte
	for _, p := range parts {
		out = append(out, p...)
	}
	return out
}

// lookup is a lookup of a table drawn by hand.
type lookup struct {
	kind, flag int
	subtable   []byte
}

// rules writes a table with the feature `test` that calls the first lookup, for
// the script DFLT.
func rules(lookups ...lookup) []byte {
	script := join(u16(1), []byte("DFLT"), u16(8), u16(4, 0), u16(0, 0xFFFF, 1, 0))
	feature := join(u16(1), []byte("test"), u16(8), u16(0, 1, 0))
	list := u16(len(lookups))
	at := 2 + 2*len(lookups)
	for _, l := range lookups {
		list = append(list, u16(at)...)
		at += 8 + len(l.subtable)
	}
	for _, l := range lookups {
		first := 8
		if l.flag&0x10 != 0 { // the set of marks stands before the subtable
			first = 10
		}
		list = append(list, join(u16(l.kind, l.flag, 1, first), l.subtable)...)
	}
	header := u16(1, 0, 10, 10+len(script), 10+len(script)+len(feature))
	return join(header, script, feature, list)
}

func covers(glyphs ...int) []byte { return u16(append([]int{1, len(glyphs)}, glyphs...)...) }

func set(glyphs ...int) *layout.Set {
	s := &layout.Set{}
	for _, g := range glyphs {
		s.Add(table.GlyphID(g))
	}
	return s
}

func numbers(s *layout.Set) []int {
	var out []int
	for _, g := range s.Glyphs() {
		out = append(out, int(g))
	}
	return out
}

// Glyphs 10, 11, 12 are letters; 20 and on what rules make of them.
var (
	single    = join(u16(1, 6, 10), covers(10, 11))                                     // 10 and 11 become 20 and 21
	listed    = join(u16(2, 10, 2, 25, 20), covers(10, 11))                             // 10 becomes 25, 11 becomes 20
	multiple  = join(u16(1, 14, 1, 8), u16(2, 20, 21), covers(10))                      // 10 becomes 20 and 21
	alternate = join(u16(1, 14, 1, 8), u16(2, 30, 31), covers(10))                      // 10 becomes 30 or 31
	ligature  = join(u16(1, 18, 1, 8), u16(1, 4), u16(40, 2, 11), covers(10))           // 10 and 11 become 40
	reverse   = join(u16(1, 16, 0, 1, 22, 1, 50), []byte{0, 0}, covers(10), covers(12)) // 10 before 12 becomes 50
)

// chains are contextual rules, one of each format, by which 10 between 12 and 11
// becomes what lookup 1 says.
func chains() map[string][]byte {
	one := u16(1, 12, 1, 1, 11, 1, 0, 1)
	return map[string][]byte{
		"by glyphs":    join(u16(1, 8, 1, 14), covers(10), u16(1, 4), one),
		"by coverages": join(u16(3, 1, 20, 1, 26, 1, 32, 1, 0, 1), covers(12), covers(10), covers(11)),
		"by classes": join(u16(2, 16, 22, 32, 42, 2, 0, 52), covers(10),
			u16(2, 1, 12, 12, 1), u16(2, 1, 10, 10, 1), u16(2, 1, 11, 11, 1), u16(1, 4), u16(1, 1, 1, 1, 1, 1, 0, 1)),
	}
}

func openRules(t *testing.T, b []byte, tag sfnt.Tag) *layout.Table {
	t.Helper()
	l, err := layout.Open(b, tag)
	require.NoError(t, err)
	return l
}

// TestEveryKindOfSubstitution closes over glyphs, writes the rules for what is
// left, and applies them before and after: the same comes out.
func TestEveryKindOfSubstitution(t *testing.T) {
	type test struct {
		name    string
		lookups []lookup
		from    []int // the glyphs of a text
		closed  []int // and all that can be made of them
		line    []int // the line that is set
		becomes []int
	}
	tests := []test{
		{"one for one, by a difference", []lookup{{1, 0, single}}, []int{10, 12}, []int{10, 12, 20}, []int{10, 12}, []int{20, 12}},
		{"one for one, by a list", []lookup{{1, 0, listed}}, []int{10, 11}, []int{10, 11, 20, 25}, []int{11, 10}, []int{20, 25}},
		{"one for many", []lookup{{2, 0, multiple}}, []int{10}, []int{10, 20, 21}, []int{10, 10}, []int{20, 21, 20, 21}},
		{"one of several", []lookup{{3, 0, alternate}}, []int{10, 11}, []int{10, 11, 30, 31}, []int{10, 11}, []int{30, 11}},
		{"a ligature", []lookup{{4, 0, ligature}}, []int{10, 11}, []int{10, 11, 40}, []int{10, 11, 10}, []int{40, 10}},
		{"half of a ligature", []lookup{{4, 0, ligature}}, []int{10, 12}, []int{10, 12}, []int{10, 12}, []int{10, 12}},
		{"from the end", []lookup{{8, 0, reverse}}, []int{10, 12}, []int{10, 12, 50}, []int{10, 12, 10}, []int{50, 12, 10}},
	}
	for name, chain := range chains() {
		both := []lookup{{6, 0, chain}, {1, 0, single}}
		tests = append(tests,
			test{"a chain " + name, both, []int{10, 11, 12}, []int{10, 11, 12, 20}, []int{12, 10, 11, 10}, []int{12, 20, 11, 10}},
			test{"a chain that cannot come up " + name, both, []int{10, 11}, []int{10, 11}, []int{11, 10, 11}, []int{11, 10, 11}})
	}
	for _, test := range tests {
		t.Run(test.name, func(t *testing.T) {
			before := openRules(t, rules(test.lookups...), table.TagGSUB)
			keep := set(test.from...)
			require.NoError(t, layout.Close(before, keep, nil))
			assert.Equal(t, test.closed, numbers(keep))
			assert.Equal(t, test.becomes, applied(t, before, test.line))

			// Renumbered from 1 on in their order.
			to := map[table.GlyphID]table.GlyphID{}
			for i, g := range keep.Glyphs() {
				to[g] = table.GlyphID(i + 1)
			}
			renumbered := func(line []int) []int {
				out := make([]int, len(line))
				for i, g := range line {
					out[i] = int(to[table.GlyphID(g)])
				}
				return out
			}
			b, err := layout.Rewrite(before, layout.Plan{Keep: keep, Number: func(g table.GlyphID) table.GlyphID { return to[g] }})
			require.NoError(t, err)
			if len(test.closed) == len(test.from) {
				assert.Empty(t, b, "no rule can come up any more")
				return
			}
			after := openRules(t, b, table.TagGSUB)
			assert.Equal(t, renumbered(test.becomes), applied(t, after, renumbered(test.line)))
			again, err := layout.Rewrite(after, layout.Plan{})
			require.NoError(t, err)
			assert.Equal(t, b, again, "written again it is the same")
		})
	}
}

func everything(sfnt.Tag) bool { return true }
func nothing(sfnt.Tag) bool    { return false }

func applied(t *testing.T, l *layout.Table, line []int) []int {
	t.Helper()
	d, err := layout.OpenDefinitions(nil)
	require.NoError(t, err)
	var glyphs []layout.Glyph
	for _, g := range line {
		glyphs = append(glyphs, layout.Glyph{ID: table.GlyphID(g)})
	}
	var out []int
	for _, g := range layout.NewSetter(l, d, sfnt.MakeTag("DFLT"), 0, everything, nothing).Set(glyphs) {
		out = append(out, int(g.ID))
	}
	return out
}

// TestPairsAndMarks positions glyphs by pairs of glyphs and of classes, and marks
// on bases, before and after rules are written again for some of the glyphs.
func TestPairsAndMarks(t *testing.T) {
	anchor := func(x, y int) []byte { return u16(1, x, y) }
	for name, test := range map[string]struct {
		lookup lookup
		line   []int
		want   []int // the advance of the first, and where the second stands
	}{
		"pairs of glyphs":  {lookup{2, 0, join(u16(1, 18, 4, 0, 1, 12), u16(1, 11, 0xFFD8), covers(10))}, []int{10, 11}, []int{460, 0, 0}},
		"pairs of classes": {lookup{2, 0, join(u16(2, 32, 4, 0, 38, 48, 2, 2), u16(0, 0, 0, 0xFFD8), u16(0, 0, 0, 0), covers(10), u16(2, 1, 10, 10, 1), u16(2, 1, 11, 11, 1))}, []int{10, 11}, []int{460, 0, 0}},
		"one alone":        {lookup{1, 0, join(u16(1, 8, 4, 25), covers(10))}, []int{10, 11}, []int{525, 0, 0}},
		"a mark on a base": {lookup{4, 0, join(u16(1, 34, 40, 1, 12, 24), u16(1, 0, 6), anchor(100, 0), u16(1, 4), anchor(250, 600), covers(13), covers(10))}, []int{10, 13}, []int{500, 150, 600}},
	} {
		t.Run(name, func(t *testing.T) {
			defs, err := layout.OpenDefinitions(join(u16(1, 0, 12, 0, 0, 0), u16(2, 2, 10, 12, 1, 13, 13, 3)))
			require.NoError(t, err)
			place := func(l *layout.Table, d *layout.Definitions, line []int) []int {
				var glyphs []layout.Glyph
				for _, g := range line {
					glyphs = append(glyphs, layout.Glyph{ID: table.GlyphID(g), Advance: 500})
				}
				out := layout.NewSetter(l, d, sfnt.MakeTag("DFLT"), 0, everything, nothing).Set(glyphs)
				return []int{out[0].Advance, out[1].X, out[1].Y}
			}
			before := openRules(t, rules(test.lookup), table.TagGPOS)
			assert.Equal(t, test.want, place(before, defs, test.line))
			keep := set(test.line...)
			plan := layout.Plan{Keep: keep, Number: func(g table.GlyphID) table.GlyphID { return g - 9 }}
			b, err := layout.Rewrite(before, plan)
			require.NoError(t, err)
			d, err := layout.RewriteDefinitions(defs, plan, nil)
			require.NoError(t, err)
			now, err := layout.OpenDefinitions(d)
			require.NoError(t, err)
			assert.Equal(t, test.want, place(openRules(t, b, table.TagGPOS), now, []int{test.line[0] - 9, test.line[1] - 9}))
			gone, err := layout.Rewrite(before, layout.Plan{Keep: set(12)})
			require.NoError(t, err)
			assert.Empty(t, gone)
		})
	}
}

// TestSettledVariations has a value vary: what holds for good is added, and the
// device goes or names its new row.
func TestSettledVariations(t *testing.T) {
	value := join(u16(1, 16, 0x44, 30, 10), u16(2, 7, 0x8000), covers(10)) // advance 30, varying by row 7 of set 2
	l := openRules(t, rules(lookup{1, 0, value}), table.TagGPOS)
	settled, err := layout.Rewrite(l, layout.Plan{Vary: func(outer, inner int) (int, int, int, bool) {
		assert.Equal(t, [2]int{2, 7}, [2]int{outer, inner})
		return 12, 0, 0, false
	}})
	require.NoError(t, err)
	assert.Contains(t, string(settled), string(u16(1, 8, 4, 42)), "only the advance is left, and it is larger")
	renamed, err := layout.Rewrite(l, layout.Plan{Vary: func(int, int) (int, int, int, bool) { return 0, 0, 3, true }})
	require.NoError(t, err)
	assert.Contains(t, string(renamed), string(u16(0, 3, 0x8000)))
}

// TestFarTablesUseExtensions has more rules than 16-bit offsets reach, behind
// extension lookups; written again they still are, and mean the same.
func TestFarTablesUseExtensions(t *testing.T) {
	const count, size = 40, 700
	var heads, extensions, data []byte
	lookupsAt := 2 + 2*count
	heads = u16(count)
	for k := range count {
		heads = append(heads, u16(lookupsAt+16*k)...)
		list := u16(2, 6+2*size, size)
		glyphs := make([]int, size)
		for i := range glyphs {
			glyphs[i] = 10 + 3*i
			list = append(list, u16(10+3*((i*7+k*13)%size))...)
		}
		far := 16*(count-k) - 8 + len(data)
		extensions = append(extensions, join(u16(7, 0, 1, 8), u16(1, 1, far>>16, far))...)
		data = append(data, join(list, covers(glyphs...))...)
	}
	small := rules(lookup{1, 0, single})
	at := int(small[8])<<8 | int(small[9])
	feature := u16(0, count)
	for k := range count {
		feature = append(feature, u16(k)...)
	}
	// The same script list; a feature list that calls every lookup.
	features := join(u16(1), []byte("test"), u16(8), feature)
	head := u16(1, 0, 10, at-14, at-14+len(features))
	b := join(head, small[10:at-14], features, heads, extensions, data)
	l := openRules(t, b, table.TagGSUB)
	want := applied(t, l, []int{10, 100, 1000, 2002})
	made, err := layout.Rewrite(l, layout.Plan{})
	require.NoError(t, err)
	assert.Greater(t, len(made), 1<<16)
	assert.Equal(t, want, applied(t, openRules(t, made, table.TagGSUB), []int{10, 100, 1000, 2002}))
	less, err := layout.Rewrite(l, layout.Plan{Keep: set(10, 13, 16, 19, 100)})
	require.NoError(t, err)
	assert.Less(t, len(less), 1<<13)
}

func TestDamagedRulesAreTold(t *testing.T) {
	whole := rules(lookup{4, 0, ligature})
	for n := range len(whole) {
		l, err := layout.Open(whole[:n], table.TagGSUB)
		if err != nil {
			continue
		}
		keep := set(10, 11)
		if layout.Close(l, keep, nil) == nil {
			_, err = layout.Rewrite(l, layout.Plan{Keep: keep})
			assert.Error(t, err, "cut at %d", n)
		}
	}
	_, err := layout.Open(nil, table.TagGSUB)
	assert.ErrorIs(t, err, sfnt.ErrDamaged)
}
