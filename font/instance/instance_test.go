package instance_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/curve"
	"sparecrate/font/instance"
	"sparecrate/font/lint"
	"sparecrate/font/metadata"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// edges returns the lowest and highest places of the points on a contour.
func edges(c curve.Contour) [4]float64 {
	out := [4]float64{c.From.X, c.From.Y, c.From.X, c.From.Y}
	for _, s := range c.Segments {
		out = [4]float64{min(out[0], s.To.X), min(out[1], s.To.Y), max(out[2], s.To.X), max(out[3], s.To.Y)}
	}
	return out
}

func variable(t testing.TB, as font.Container) *sfnt.Font {
	t.Helper()
	b, err := foundry.BuildVariable(foundry.Signage(), as)
	require.NoError(t, err)
	return foundrytest.Parsed(t, b)
}

func at(tag string, low, high float64) instance.Options {
	return instance.Options{At: map[string]instance.Range{tag: {Min: low, Max: high}}}
}

// TestPinnedAtADesignItIsThatDesign pins where a face was drawn and compares it
// with the face drawn there.
func TestPinnedAtADesignItIsThatDesign(t *testing.T) {
	for i, d := range foundry.Signage() {
		for _, as := range []font.Container{font.TTF, font.OTF} {
			out, result, err := instance.Face(variable(t, as), at("wght", float64(d.Weight), float64(d.Weight)))
			require.NoError(t, err)
			assert.Equal(t, d.Style, result.Style)
			drawn := foundrytest.Face(t, foundry.Signage()[i], as)
			a, err := outline.Open(out)
			require.NoError(t, err)
			b, err := outline.Open(drawn)
			require.NoError(t, err)
			require.Equal(t, b.Count(), a.Count())
			for g := range a.Count() {
				x, err := a.Contours(g)
				require.NoError(t, err)
				y, err := b.Contours(g)
				require.NoError(t, err)
				require.Equal(t, len(y), len(x), "glyph %d", g)
				for k := range x {
					for i, edge := range edges(y[k]) {
						assert.InDelta(t, edge, edges(x[k])[i], 1.5, "%s, glyph %d", d.Style, g)
					}
				}
			}
			now, want := metadata.One(out), metadata.One(drawn)
			assert.Equal(t, want.Style, now.Style)
			assert.Empty(t, now.Axes)
			assert.Equal(t, "Skerrow Sans Variable", now.Names.FamilyName())
			assert.Equal(t, d.Style, now.Names.StyleName())
			assert.Equal(t, "SkerrowSans-"+d.Style, now.Names.PostScript)
			for _, p := range now.Problems {
				assert.NotContains(t, []string{"style-link", "weight-contradicts"}, p.Code)
			}
			report, err := lint.Check(sfnt.Write(out))
			require.NoError(t, err)
			assert.Empty(t, report.Findings)
		}
	}
}

// TestAnAxisIsLimited leaves a part of the axis; what is left draws the same.
func TestAnAxisIsLimited(t *testing.T) {
	for _, as := range []font.Container{font.TTF, font.OTF} {
		f := variable(t, as)
		out, result, err := instance.Face(f, at("wght", 450, 650))
		require.NoError(t, err)
		assert.Equal(t, "limited, 450 to 650", result.Axes["wght"])
		fvar, err := table.ParseFvar(out.Table(table.TagFvar))
		require.NoError(t, err)
		assert.Equal(t, []table.Fixed{table.MakeFixed(450), table.MakeFixed(450), table.MakeFixed(650)}, []table.Fixed{fvar.Axes[0].Min, fvar.Axes[0].Default, fvar.Axes[0].Max})
		assert.Empty(t, fvar.Instances, "none of the named ones lies within")
		for _, weight := range []float64{450, 500, 650} {
			direct, _, err := instance.Face(f, at("wght", weight, weight))
			require.NoError(t, err)
			later, _, err := instance.Face(out, at("wght", weight, weight))
			require.NoError(t, err)
			a, err := outline.Open(direct)
			require.NoError(t, err)
			b, err := outline.Open(later)
			require.NoError(t, err)
			for g := range a.Count() {
				x, err := a.Contours(g)
				require.NoError(t, err)
				y, err := b.Contours(g)
				require.NoError(t, err)
				require.Equal(t, len(x), len(y))
				for k := range x {
					assert.InDelta(t, x[k].From.X, y[k].From.X, 2.01, "glyph %d at %g", g, weight)
					assert.InDelta(t, x[k].From.Y, y[k].From.Y, 2.01, "glyph %d at %g", g, weight)
				}
			}
		}
	}
}

func TestWhatCannotBePinned(t *testing.T) {
	f := variable(t, font.TTF)
	for name, test := range map[string]struct {
		options instance.Options
		says    string
	}{
		"another axis":        {at("wdth", 75, 75), "no axis `wdth`; it has the axis `wght` from 300 to 700 and the instances Light, Regular, Bold"},
		"beyond the axis":     {at("wght", 900, 900), "goes from 300 to 700; 900 lies outside"},
		"a range upside down": {at("wght", 600, 400), "write the lower end first"},
		"another instance":    {instance.Options{Instance: "Black"}, "no instance \"Black\""},
		"nothing":             {instance.Options{}, "say where"},
	} {
		_, _, err := instance.Face(f, test.options)
		require.ErrorIs(t, err, instance.ErrAsked, name)
		assert.Contains(t, err.Error(), test.says, name)
	}
	_, _, err := instance.Face(foundrytest.Face(t, foundry.Signage()[0], font.TTF), at("wght", 400, 400))
	assert.ErrorIs(t, err, instance.ErrStatic)
}

func TestNamesOfPlacesBetween(t *testing.T) {
	for weight, style := range map[float64]string{600: "SemiBold", 500: "Medium", 555: "Weight555"} {
		out, _, err := instance.Face(variable(t, font.TTF), at("wght", weight, weight))
		require.NoError(t, err)
		now := metadata.One(out)
		assert.Equal(t, style, now.Names.StyleName())
		assert.Equal(t, "Skerrow Sans Variable "+style, now.Names.Full)
		assert.Equal(t, int(weight), now.Style.Weight)
	}
}
