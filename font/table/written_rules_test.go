package table_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// set sets a line of glyphs, each 500 units wide, by the rules of a table.
func set(t *testing.T, b []byte, tag sfnt.Tag, script, language string, line ...table.GlyphID) []layout.Glyph {
	t.Helper()
	rules, err := layout.Open(b, tag)
	require.NoError(t, err)
	defs, err := layout.OpenDefinitions(nil)
	require.NoError(t, err)
	glyphs := make([]layout.Glyph, len(line))
	for i, g := range line {
		glyphs[i] = layout.Glyph{ID: g, Advance: 500}
	}
	var lang sfnt.Tag
	if language != "" {
		lang = sfnt.MakeTag(language)
	}
	yes, no := func(sfnt.Tag) bool { return true }, func(sfnt.Tag) bool { return false }
	return layout.NewSetter(rules, defs, sfnt.MakeTag(script), lang, yes, no).Set(glyphs)
}

// TestKerningIsAppliedAsWritten writes pairs of classes, some far apart and none kerned
// against another class, and sets lines by them.
func TestKerningIsAppliedAsWritten(t *testing.T) {
	k := table.Kerning{
		Left:   map[table.GlyphID]int{3: 1, 4: 1, 5: 2, 900: 3},
		Right:  map[table.GlyphID]int{3: 1, 7: 2, 8: 2, 901: 3},
		Adjust: map[[2]int]int{{1, 1}: -10, {1, 2}: -20, {2, 2}: 30, {3, 3}: -400},
	}
	b := k.Encode()
	for pair, want := range map[[2]table.GlyphID]int{
		{3, 3}: 490, {4, 3}: 490, {3, 7}: 480, {4, 8}: 480, {5, 7}: 530, {5, 8}: 530, {900, 901}: 100,
		{5, 3}: 500, {3, 901}: 500, {900, 7}: 500, {7, 3}: 500, {3, 4}: 500, {899, 901}: 500,
	} {
		for _, script := range []string{"DFLT", "latn"} {
			line := set(t, b, table.TagGPOS, script, "", pair[0], pair[1])
			require.Len(t, line, 2)
			assert.Equal(t, want, line[0].Advance, "%v in %s", pair, script)
			assert.Equal(t, 500, line[1].Advance, "%v: the second stays", pair)
		}
	}
	line := set(t, b, table.TagGPOS, "latn", "", 3, 7, 3, 3)
	assert.Equal(t, []int{480, 500, 490, 500}, []int{line[0].Advance, line[1].Advance, line[2].Advance, line[3].Advance})
}

// TestLigaturesAreAppliedAsWritten writes ligatures that begin alike, longer ones first,
// and leaves a language out.
func TestLigaturesAreAppliedAsWritten(t *testing.T) {
	b := table.EncodeLigatures([]table.Ligature{
		{From: []table.GlyphID{5, 6}, To: 20}, {From: []table.GlyphID{5, 5, 6}, To: 21}, {From: []table.GlyphID{9, 6}, To: 22}, {From: []table.GlyphID{5, 7}, To: 23},
	}, []string{"TRK "})
	ids := func(line []layout.Glyph) (out []table.GlyphID) {
		for _, g := range line {
			out = append(out, g.ID)
		}
		return out
	}
	for _, c := range []struct{ line, want []table.GlyphID }{
		{[]table.GlyphID{5, 6}, []table.GlyphID{20}},
		{[]table.GlyphID{5, 5, 6}, []table.GlyphID{21}},
		{[]table.GlyphID{5, 5, 7}, []table.GlyphID{5, 23}},
		{[]table.GlyphID{9, 6, 5, 6}, []table.GlyphID{22, 20}},
		{[]table.GlyphID{6, 5}, []table.GlyphID{6, 5}},
		{[]table.GlyphID{5, 9}, []table.GlyphID{5, 9}},
		{[]table.GlyphID{5}, []table.GlyphID{5}},
	} {
		for _, script := range []string{"DFLT", "latn"} {
			assert.Equal(t, c.want, ids(set(t, b, table.TagGSUB, script, "", c.line...)), script)
		}
		assert.Equal(t, c.line, ids(set(t, b, table.TagGSUB, "latn", "TRK ", c.line...)), "not in Turkish")
	}
}

// TestNamesOfAnyLength reads names in UTF-16 whose letters beyond ASCII stand at every
// place, as those that are read some at a time.
func TestNamesOfAnyLength(t *testing.T) {
	for _, letter := range []string{"", "å", "Ω", "字", "𝕊"} {
		for before := range 10 {
			for after := range 6 {
				want := "Skerrow-Sa"[:before] + letter + "nsbold"[:after]
				n := &table.Name{Records: []table.NameRecord{{Platform: table.PlatformWindows, Encoding: 1, Language: 0x409, ID: table.NameFamily, Value: want}}}
				read, err := table.ParseName(n.Encode())
				require.NoError(t, err)
				assert.Equal(t, want, read.Records[0].Text(), "%q", want)
			}
		}
	}
}
