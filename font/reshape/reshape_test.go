package reshape_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/specimen"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestAllAtOnce pins, trims, retypes and renames in one go.
func TestAllAtOnce(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.OTF)
	require.NoError(t, err)
	r := reshape.Recipe{
		Instance: &reshape.Instance{Named: "bold"}, Subset: &reshape.Subset{Text: "Quay 4, жук", Features: []string{"basic"}},
		ToTrueType: true, Rename: &reshape.Rename{Family: "Pier Sans"},
	}
	out, outcome, err := r.Apply(foundrytest.Parsed(t, b))
	require.NoError(t, err)
	now := metadata.One(out)
	assert.Equal(t, metadata.TrueType, now.Outlines)
	assert.Equal(t, "Pier Sans Bold", now.Names.Full)
	assert.Equal(t, 700, now.Style.Weight)
	assert.Equal(t, "жук", string([]rune{outcome.Missing[0], outcome.Missing[2], outcome.Missing[1]}))
	assert.Less(t, now.Glyphs, 12)
	assert.Equal(t, []string{"subset", "outlines", "name"}, r.Changes())
	assert.Equal(t, "fixed at bold; subset to a text; converted to TrueType outlines; renamed Pier Sans", r.Words())
	var same reshape.Recipe
	require.NoError(t, json.Unmarshal([]byte(r.Key()), &same))
	assert.Equal(t, r, same, "a recipe comes back from its key")
}

// TestSplit makes files by set: no character is in two, and none is lost.
func TestSplit(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	parts, err := reshape.Split(f, []string{"latin", "cyrillic", "rest"}, nil)
	require.NoError(t, err)
	require.Len(t, parts, 2, "there is nothing of Cyrillic in it")
	all, err := subset.Has(f)
	require.NoError(t, err)
	total := 0
	for _, p := range parts {
		have, err := subset.Has(p.Font)
		require.NoError(t, err)
		total += have.And(p.Characters).Len()
	}
	assert.Equal(t, all.Len(), total)
	_, err = reshape.Split(f, []string{"cyrillic"}, nil)
	assert.ErrorIs(t, err, subset.ErrNothing)
}

// TestParts makes the same files one by one, as packs do.
func TestParts(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	sets := []string{"latin", "rest"}
	whole, err := reshape.Split(f, sets, nil)
	require.NoError(t, err)
	for _, p := range whole {
		r := reshape.Recipe{Split: sets, Part: p.Name, Fallback: &reshape.Fallback{Against: []string{"arial"}}}
		out, _, err := r.Apply(f)
		require.NoError(t, err)
		assert.Equal(t, sfnt.Write(p.Font), sfnt.Write(out), p.Name)
		assert.Equal(t, []string{"subset"}, r.Changes())
		assert.Nil(t, r.Made().Fallback)
	}
}

// TestPinnedAsFineAsItTakes goes to a finer grid by itself only where TrueType
// outlines end between units.
func TestPinnedAsFineAsItTakes(t *testing.T) {
	for as, between := range map[font.Container]int{font.TTF: 4000, font.OTF: 1000} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		require.NoError(t, err)
		f := foundrytest.Parsed(t, b)
		for at, want := range map[string]int{"400": 1000, "700": 1000, "552": between, "400:700": 1000, "400:552": between} {
			r := reshape.Recipe{Instance: &reshape.Instance{At: map[string]string{"wght": at}}}
			out, _, err := r.Apply(f)
			require.NoError(t, err)
			assert.Equal(t, want, metadata.One(out).UnitsPerEm, "%s %s", as, r.Words())
			r.Whole = true
			out, _, err = r.Apply(f)
			require.NoError(t, err)
			assert.Equal(t, 1000, metadata.One(out).UnitsPerEm, "%s %s", as, r.Words())
			r.Fine = true
			require.ErrorIs(t, r.Check(), reshape.ErrRecipe)
		}
	}
}

// TestPosed draws in a variable face at places as a stylesheet would ask for them.
func TestPosed(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	f := foundrytest.Parsed(t, b)
	wide := func(places, text string) int {
		at, err := reshape.Places(places)
		require.NoError(t, err)
		posed, err := reshape.Posed(f, at, text)
		require.NoError(t, err)
		p, err := specimen.Draw(posed, specimen.Options{Lines: []specimen.Line{{Text: "Hamburg", Size: 200}}})
		require.NoError(t, err)
		return p.Width
	}
	regular, bold := wide("", "Hamburg"), wide("wght=700", "Hamburg")
	assert.Greater(t, bold, regular+5)
	assert.Equal(t, bold, wide("wght=700", ""), "with all characters")
	assert.Equal(t, bold, wide(" wght = 9000, wdth=80", "Hamburg"), "as far as the axis goes; others are passed over")
	assert.Equal(t, regular, wide("wght=400", "Hamburg"))
	at, err := reshape.Places("wght=700")
	require.NoError(t, err)
	_, err = reshape.Posed(f, at, "\u4e2d")
	require.NoError(t, err, "a blank can be drawn")
	static := foundrytest.Face(t, foundry.Signage()[0], font.TTF)
	same, err := reshape.Posed(static, at, "Hamburg")
	require.NoError(t, err)
	assert.Same(t, static, same)
	for _, bad := range []string{"wght", "=700", "weight=700", "wght=x", "wght=NaN"} {
		_, err := reshape.Places(bad)
		require.ErrorIs(t, err, reshape.ErrRecipe, bad)
	}
}

// TestFine pins and retypes on a grid on which rounding is not seen.
func TestFine(t *testing.T) {
	for _, as := range []font.Container{font.TTF, font.OTF} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		require.NoError(t, err)
		f := foundrytest.Parsed(t, b)
		for want, r := range map[int]reshape.Recipe{
			1000: {Instance: &reshape.Instance{Rest: true}, ToTrueType: true},
			4000: {Instance: &reshape.Instance{Rest: true}, ToTrueType: true, Fine: true},
		} {
			out, _, err := r.Apply(f)
			require.NoError(t, err)
			assert.Equal(t, want, metadata.One(out).UnitsPerEm, r.Words())
		}
	}
}

// TestChecksBeforeAFaceIsAtHand says what is wrong with a recipe by itself.
func TestChecksBeforeAFaceIsAtHand(t *testing.T) {
	for says, r := range map[string]reshape.Recipe{
		"":                               {Split: []string{"latin", "rest"}, Fallback: &reshape.Fallback{Against: []string{"arial", "Times New Roman"}, Groups: 24}},
		"no set of characters is called": {Split: []string{"nosuch"}},
		"a face is split into 40":        {Split: make([]string, 41)},
		"name a fallback font":           {Fallback: &reshape.Fallback{}},
		"metrics of \"nosuch\"":          {Fallback: &reshape.Fallback{Against: []string{"nosuch"}}},
		"how often letters come up":      {Fallback: &reshape.Fallback{Against: []string{"arial"}, Language: "tlh"}},
		"0 to 24 groups":                 {Fallback: &reshape.Fallback{Against: []string{"arial"}, Groups: 25}},
		"at most 6 fallback fonts":       {Fallback: &reshape.Fallback{Against: make([]string, 7)}},
	} {
		err := r.Check()
		if says == "" {
			require.NoError(t, err)
			continue
		}
		require.ErrorIs(t, err, reshape.ErrRecipe)
		assert.Contains(t, err.Error(), says)
	}
}

func TestRecipesThatCannotBeRead(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	for says, r := range map[string]reshape.Recipe{
		"no set of characters is called": {Subset: &reshape.Subset{Keep: []string{"nosuch"}}},
		"is no range of characters":      {Subset: &reshape.Subset{Ranges: []string{"20AC"}}},
		"say what to keep":               {Subset: &reshape.Subset{}},
		"four letters":                   {Subset: &reshape.Subset{Keep: []string{"latin"}, Features: []string{"kerning"}}},
		"say which part":                 {Split: []string{"latin", "rest"}},
		"nothing of the part cyrillic":   {Split: []string{"latin", "cyrillic"}, Part: "cyrillic"},
		"is no place on the axis":        {Instance: &reshape.Instance{At: map[string]string{"wght": "bold"}}},
	} {
		_, _, err := r.Apply(f)
		require.ErrorIs(t, err, reshape.ErrRecipe)
		assert.Contains(t, err.Error(), says)
	}
}
