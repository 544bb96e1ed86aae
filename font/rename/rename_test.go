package rename_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/cff"
	"sparecrate/font/lint"
	"sparecrate/font/metadata"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestRecordsAreInStep renames faces and reads every record that follows.
func TestRecordsAreInStep(t *testing.T) {
	light, regular, bold := foundry.Signage()[0], foundry.Signage()[1], foundry.Signage()[2]
	for name, test := range map[string]struct {
		design *foundry.Design
		o      rename.Options
		want   map[table.NameID]string
	}{
		"a bold": {bold, rename.Options{Family: "Pier Sans"}, map[table.NameID]string{
			1: "Pier Sans", 2: "Bold", 3: "1.200;LNJW;PierSans-Bold", 4: "Pier Sans Bold", 6: "PierSans-Bold", 16: "", 17: ""}},
		"a regular": {regular, rename.Options{Family: "Pier Sans"}, map[table.NameID]string{
			1: "Pier Sans", 2: "Regular", 4: "Pier Sans Regular", 6: "PierSans-Regular"}},
		"a light, which the four-style rule splits off": {light, rename.Options{Family: "Pier Sans"}, map[table.NameID]string{
			1: "Pier Sans Light", 2: "Regular", 4: "Pier Sans Light", 6: "PierSans-Light", 16: "Pier Sans", 17: "Light"}},
		"a family of its own": {light, rename.Options{Alone: true}, map[table.NameID]string{
			1: "Skerrow Sans Light", 2: "Regular", 6: "SkerrowSansLight-Regular", 16: "", 17: ""}},
		"another style": {regular, rename.Options{Style: "SemiBold Italic"}, map[table.NameID]string{
			1: "Skerrow Sans SemiBold", 2: "Italic", 4: "Skerrow Sans SemiBold Italic", 6: "SkerrowSans-SemiBoldItalic", 16: "Skerrow Sans", 17: "SemiBold Italic"}},
		"letters with marks": {regular, rename.Options{Family: "Brødtekst Å"}, map[table.NameID]string{
			1: "Brødtekst Å", 6: "BrdtekstA-Regular"}},
		"a PostScript name of its own": {regular, rename.Options{Family: "Ὕδωρ", PostScript: "Hydor-Regular"}, map[table.NameID]string{
			1: "Ὕδωρ", 6: "Hydor-Regular"}},
	} {
		t.Run(name, func(t *testing.T) {
			f := foundrytest.Face(t, test.design, font.TTF)
			out, _, err := rename.Face(f, test.o)
			require.NoError(t, err)
			n, err := table.ParseName(out.Table(table.TagName))
			require.NoError(t, err)
			for id, want := range test.want {
				assert.Equal(t, want, n.Best(id), "name ID %d", id)
			}
			before, err := table.ParseName(f.Table(table.TagName))
			require.NoError(t, err)
			for _, id := range []table.NameID{0, 5, 8, 9, 13, 14} {
				assert.Equal(t, before.Best(id), n.Best(id), "name ID %d says whose work it is", id)
			}
			report, err := lint.Check(sfnt.Write(out))
			require.NoError(t, err)
			assert.Empty(t, report.Findings)
		})
	}
}

func TestNamesInsidePostScriptOutlines(t *testing.T) {
	out, names, err := rename.Face(foundrytest.Face(t, foundry.Display(), font.OTF), rename.Options{Family: "Night Sky"})
	require.NoError(t, err)
	assert.Equal(t, "NightSky-Regular", names.PostScript)
	c, err := cff.Parse(out.Table(table.TagCFF))
	require.NoError(t, err)
	assert.Equal(t, "NightSky-Regular", c.Name)
	assert.NotContains(t, string(out.Table(table.TagCFF)), "Umbrisk")
}

// TestInstancesFollow renames a variable face: its instances' PostScript names
// start with the new prefix.
func TestInstancesFollow(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	out, _, err := rename.Face(foundrytest.Parsed(t, b), rename.Options{Family: "Pier Sans"})
	require.NoError(t, err)
	now := metadata.One(out)
	assert.Equal(t, "PierSans", now.Names.VariationsPrefix)
	assert.Equal(t, "PierSans-Bold", now.Instances[2].PostScript)
}

func TestNamesThatCannotBeGiven(t *testing.T) {
	f := foundrytest.Face(t, foundry.Display(), font.OTF)
	for says, o := range map[string]rename.Options{
		"has none":              {Family: "Ὕδωρ"},
		"cut it after 63":       {Family: "A family with a name that goes on and on and on, well beyond what any system shows"},
		"a line end":            {Family: "Two\nLines"},
		"is no PostScript name": {PostScript: "not a name"},
	} {
		_, _, err := rename.Face(f, o)
		require.ErrorIs(t, err, rename.ErrName)
		assert.Contains(t, err.Error(), says)
	}
}
