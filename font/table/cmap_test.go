package table_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/table"
)

// TestMapsOfCharactersComeBack writes random pairs, runs and scattered ones, on
// and beyond the basic plane.
func TestMapsOfCharactersComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	for range 100 {
		var pairs []table.Mapping
		for c := rune(r.IntN(300)); len(pairs) < 400; c += rune(1 + r.IntN(3)*r.IntN(400)) {
			pairs = append(pairs, table.Mapping{Rune: c, Glyph: table.GlyphID(1 + r.IntN(60000))})
		}
		runs, err := table.ParseCmap((&table.Cmap{Pairs: pairs}).Encode())
		require.NoError(t, err)
		var got []table.Mapping
		for _, run := range runs {
			for i := range run.Count {
				got = append(got, table.Mapping{Rune: run.First + rune(i), Glyph: run.Glyph + table.GlyphID(i)})
			}
		}
		require.Equal(t, pairs, got)
	}
	assert.True(t, table.SymbolCmap((&table.Cmap{Symbol: true, Pairs: []table.Mapping{{Rune: 0xF041, Glyph: 3}}}).Encode()))
}
