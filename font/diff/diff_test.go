package diff_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/diff"
	"sparecrate/font/instance"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/unitscale"
	"sparecrate/internal/demo/foundry"
)

func face(t *testing.T, data []byte, err error) *sfnt.Font {
	t.Helper()
	require.NoError(t, err)
	f, err := font.Open(data)
	require.NoError(t, err)
	return f.Faces[0]
}

func value(c *diff.Changes, name string) [2]string {
	for _, v := range c.Values {
		if v.Name == name {
			return [2]string{v.From, v.To}
		}
	}
	return [2]string{}
}

func TestBetween(t *testing.T) {
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	regular := face(t, data, err)
	data, err = foundry.Build(foundry.Signage()[2], font.TTF)
	bold := face(t, data, err)
	data, err = foundry.Build(foundry.Display(), font.OTF)
	display := face(t, data, err)

	assert.True(t, diff.Between(regular, regular).None())

	// The same drawing on a finer grid is the same drawing.
	finer, err := unitscale.Finer(regular, 4)
	require.NoError(t, err)
	c := diff.Between(regular, finer)
	assert.Zero(t, c.Widened)
	assert.Zero(t, c.RedrawnOf)
	assert.Equal(t, [2]string{"1000", "4000"}, value(c, "units per em"))
	assert.NotEmpty(t, c.Tables)

	keep, err := coverage.ParseRange("U+0041-005A")
	require.NoError(t, err)
	few, _, err := subset.Face(regular, subset.Options{Characters: keep})
	require.NoError(t, err)
	c = diff.Between(regular, few)
	assert.Zero(t, c.Added.Count)
	assert.Positive(t, c.Gone.Count)
	assert.Contains(t, c.Gone.Text, "abc")
	assert.NotContains(t, c.Gone.Text, "A")
	assert.Zero(t, c.RedrawnOf, "what is left is drawn as before")
	back := diff.Between(few, regular)
	assert.Equal(t, c.Gone, back.Added)

	c = diff.Between(regular, bold)
	assert.Zero(t, c.Added.Count+c.Gone.Count)
	assert.Contains(t, c.Redrawn, "e")
	assert.Positive(t, c.Widened)
	assert.Equal(t, [2]string{"400", "700"}, value(c, "weight"))
	assert.Equal(t, [2]string{"SkerrowSans-Regular", "SkerrowSans-Bold"}, value(c, "PostScript name"))

	named, _, err := rename.Face(regular, rename.Options{Family: "Skerrow Two"})
	require.NoError(t, err)
	c = diff.Between(regular, named)
	assert.Zero(t, c.RedrawnOf+c.Widened)
	assert.Equal(t, [2]string{"Skerrow Sans", "Skerrow Two"}, value(c, "family"))

	c = diff.Between(regular, display)
	assert.Contains(t, c.Uncompared, "One version has TrueType outlines, the other PostScript")
	assert.Zero(t, c.RedrawnOf)

	data, err = foundry.BuildVariable(foundry.Signage(), font.TTF)
	variable := face(t, data, err)
	static, _, err := instance.Face(variable, instance.Options{Rest: true})
	require.NoError(t, err)
	assert.NotEmpty(t, value(diff.Between(variable, static), "axes"))
}

// TestDamaged compares with a font whose tables are cut off.
func TestDamaged(t *testing.T) {
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	whole := face(t, data, err)
	for n := range 40 {
		var cut sfnt.Font
		cut.Flavor = whole.Flavor
		for i, table := range whole.Tables {
			if i%5 == n%5 {
				table.Data = table.Data[:len(table.Data)*n/40]
			}
			cut.Tables = append(cut.Tables, table)
		}
		assert.NotPanics(t, func() { diff.Between(whole, &cut); diff.Between(&cut, whole) })
	}
}
