package coverage_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/coverage"
	"sparecrate/font/table"
)

func TestSetsByName(t *testing.T) {
	for _, test := range []struct {
		word string
		has  string
		not  string
	}{
		{"latin", "Aé€—", "łж"},
		{"latin-ext", "łŽ", "Aж"},
		{"vietnamese", "ẵđ", "ж"},
		{"pl", "łz0,„", "ж€ø"},
		{"Polish", "łŁ", "ø"},
		{"language:el", "ς", "ж"},
		{"script:Cherokee", "Ꭰ", "A"},
		{"cherokee", "Ꭰ", "A"},
		{"all", "A\U0001F600", ""},
	} {
		c, err := coverage.Named(test.word)
		require.NoError(t, err, test.word)
		for _, r := range test.has {
			if test.word == "pl" && r == '€' {
				continue
			}
			assert.True(t, c.Has(r), "%s has %c", test.word, r)
		}
		for _, r := range test.not {
			assert.Equal(t, test.word == "pl" && r == '€', c.Has(r), "%s has no %c", test.word, r)
		}
	}
	for _, word := range []string{"nosuch", "style:latin", ""} {
		_, err := coverage.Named(word)
		assert.Error(t, err, word)
	}
}

func TestSetsAreCombined(t *testing.T) {
	a, err := coverage.ParseRange("U+0041-005A")
	require.NoError(t, err)
	b, err := coverage.ParseRange("U+0050-0060")
	require.NoError(t, err)
	assert.Equal(t, "U+0041-0060", a.Plus(b).String())
	assert.Equal(t, "U+0050-005A", a.And(b).String())
	assert.Equal(t, "U+0041-004F", a.Without(b).String())
	assert.Equal(t, "U+0041-0043, U+0061", coverage.OfText("aCBA").String())
	assert.True(t, coverage.OfText("e\u0301").Has('é'), "composed, as programs set it")
	for _, wrong := range []string{"41", "U+XYZ", "U+0050-0041", "U+110000"} {
		_, err := coverage.ParseRange(wrong)
		assert.Error(t, err, wrong)
	}
}

// TestBlocks counts the characters of blocks, across the ends of runs.
func TestBlocks(t *testing.T) {
	got := coverage.Blocks(coverage.NewCharacters([]table.Run{{First: 'A', Count: 26}, {First: 0x7E, Count: 0x104}, {First: 0x10FFFD, Count: 1}}))
	assert.Equal(t, []coverage.Block{
		{Name: "Basic Latin", First: 0, Last: 0x7F, Covered: 28, Of: 95},
		{Name: "Latin-1 Supplement", First: 0x80, Last: 0xFF, Covered: 128, Of: 128},
		{Name: "Latin Extended-A", First: 0x100, Last: 0x17F, Covered: 128, Of: 128},
		{Name: "Latin Extended-B", First: 0x180, Last: 0x24F, Covered: 2, Of: 208},
		{Name: "Supplementary Private Use Area-B", First: 0x100000, Last: 0x10FFFF, Covered: 1, Of: 65534},
	}, got)
	assert.Empty(t, coverage.Blocks(nil))
	everything := coverage.Blocks(coverage.All)
	for i, b := range everything[1:] {
		require.Greater(t, b.First, everything[i].Last, b.Name)
	}
	arrows, err := coverage.Named("block:supplemental arrows-A")
	require.NoError(t, err)
	assert.Equal(t, "U+27F0-27FF", arrows.String())
	_, err = coverage.Named("block:nothing")
	assert.ErrorContains(t, err, `no block "nothing"`)
}

// TestWhatALanguageLacks names the letters of a language that a set does not have.
func TestWhatALanguageLacks(t *testing.T) {
	c := coverage.OfText("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZäöüÄÖÜ")
	missing, known := c.Missing("German")
	require.True(t, known)
	assert.True(t, missing.Has('ß'))
	assert.False(t, missing.Has('ä'))
	_, known = c.Missing("klingon")
	assert.False(t, known)
	all := c.Languages()
	require.NotEmpty(t, all)
	at := slices.IndexFunc(all, func(w coverage.Written) bool { return w.Code == "de" })
	assert.Equal(t, missing.Len(), all[at].Of-all[at].Covered)
	assert.Equal(t, "German", all[at].Name)
	assert.True(t, slices.IsSortedFunc(all, func(a, b coverage.Written) int { return (a.Of - a.Covered) - (b.Of - b.Covered) }), "complete ones come first")
}
