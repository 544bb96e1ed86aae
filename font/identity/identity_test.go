package identity_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/glyf"
	"sparecrate/font/identity"
	"sparecrate/font/instance"
	"sparecrate/font/outline"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/font/unitscale"
	"sparecrate/font/variation"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func opened(t testing.TB, path string) *sfnt.Font {
	t.Helper()
	b, err := os.ReadFile(path) //nolint:gosec // a font of this machine
	require.NoError(t, err)
	f, err := font.Open(b)
	require.NoError(t, err)
	return f.Faces[0]
}

func read(t testing.TB, f *sfnt.Font) *identity.Face {
	t.Helper()
	face, err := identity.Read(f)
	require.NoError(t, err)
	return face
}

// between measures two faces and says how they relate.
func between(t testing.TB, a, b *sfnt.Font) *identity.Difference {
	t.Helper()
	return identity.Between(read(t, a), read(t, b))
}

func trimmed(t testing.TB, f *sfnt.Font, text string) *sfnt.Font {
	t.Helper()
	out, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(text)})
	require.NoError(t, err)
	return out
}

func renamed(t testing.TB, f *sfnt.Font, family string) *sfnt.Font {
	t.Helper()
	out, _, err := rename.Face(f, rename.Options{Family: family})
	require.NoError(t, err)
	return out
}

const text = "Skerrow Sans goes to the pier at 16:35, by Quay 4 & back; fjord, jump, vex, zany ÅØæ."

// TestOneDesignHoweverItIsStored changes all that does not change what a face draws.
func TestOneDesignHoweverItIsStored(t *testing.T) {
	dejavu := opened(t, "/usr/share/fonts/truetype/dejavu/DejaVuSerif.ttf")
	for name, f := range map[string]*sfnt.Font{
		"truetype": foundrytest.Face(t, foundry.Signage()[1], font.TTF), "postscript": foundrytest.Face(t, foundry.Display(), font.OTF), "hinted": trimmed(t, dejavu, text+"éàñ αβγ жщ"),
	} {
		t.Run(name, func(t *testing.T) {
			packed, err := font.Make(f, font.WOFF2)
			require.NoError(t, err)
			again, err := font.Open(packed)
			require.NoError(t, err)
			assert.Equal(t, identity.Same, between(t, f, again.Faces[0]).Relation, "in another container")

			d := between(t, f, renamed(t, f, "Another Family"))
			assert.Equal(t, identity.Renamed, d.Relation)
			assert.True(t, d.OtherNames)

			d = between(t, f, trimmed(t, f, text))
			assert.Equal(t, identity.Part, d.Relation, "fewer characters, in another order")
			assert.Zero(t, d.Evidence.OnlyB.Len())
			assert.Positive(t, d.Evidence.OnlyA.Len())
			d = between(t, trimmed(t, f, text), f)
			assert.Equal(t, identity.Part, d.Relation)
			assert.Zero(t, d.Evidence.OnlyA.Len())
			d = between(t, trimmed(t, f, "abcdefghij"), trimmed(t, f, "efghijkmno"))
			assert.Equal(t, identity.Part, d.Relation, "two parts that meet")
			assert.Equal(t, "U+0061-0064", d.Evidence.OnlyA.String())
			assert.Equal(t, "U+006B, U+006D-006F", d.Evidence.OnlyB.String())

			finer, err := unitscale.Finer(f, 2)
			if f.Has(table.TagCFF) {
				finer, err = totruetype.Finer(f, 2)
			}
			require.NoError(t, err)
			assert.Equal(t, identity.Same, between(t, f, finer).Relation, "on another grid")
			assert.Equal(t, identity.Same, between(t, f, without(f, "fpgm", "prep", "cvt ", "hdmx", "gasp", "GSUB", "GPOS")).Relation, "without hints and rules")
			if f.Has(table.TagCFF) {
				quadratic, err := totruetype.Face(f)
				require.NoError(t, err)
				assert.Equal(t, identity.Same, between(t, f, quadratic).Relation, "in quadratics")
				assert.Equal(t, identity.Part, between(t, trimmed(t, quadratic, text), f).Relation)
			}
		})
	}
}

// without returns a face without some tables.
func without(f *sfnt.Font, tags ...string) *sfnt.Font {
	out := &sfnt.Font{Flavor: f.Flavor}
	gone := map[string]bool{}
	for _, tag := range tags {
		gone[tag] = true
	}
	for _, table := range f.Tables {
		if !gone[table.Tag.String()] {
			out.Tables = append(out.Tables, table)
		}
	}
	return out
}

// TestSiblingsAreToldApart compares weights of one family, families that share signs, and
// every two of Debian's.
func TestSiblingsAreToldApart(t *testing.T) {
	signage := foundry.Signage()
	for i := range signage {
		for j := range i {
			d := between(t, foundrytest.Face(t, signage[i], font.TTF), foundrytest.Face(t, signage[j], font.TTF))
			assert.Equal(t, identity.Different, d.Relation, "%s and %s", signage[i].Style, signage[j].Style)
			assert.False(t, d.Mislabeled)
		}
	}
	paths, err := filepath.Glob("/usr/share/fonts/truetype/*/*.ttf")
	require.NoError(t, err)
	require.Greater(t, len(paths), 20)
	var all []*identity.Print
	for _, path := range paths {
		p, err := identity.Of(opened(t, path))
		require.NoError(t, err, path)
		all = append(all, p)
	}
	for i := range all {
		for j := range i {
			assert.Equal(t, identity.Different, identity.Compare(all[i], all[j]).Relation, "%s and %s", paths[i], paths[j])
		}
	}
}

// TestVersionsGoOn changes some letters of a design, or its spacing, or its names.
func TestVersionsGoOn(t *testing.T) {
	was := *foundry.Signage()[1]
	wider := was
	wider.Version, wider.Side = "1.200", was.Side+6
	d := between(t, foundrytest.Face(t, &was, font.TTF), foundrytest.Face(t, &wider, font.TTF))
	assert.Equal(t, identity.Version, d.Relation, "set wider")
	assert.Greater(t, d.Evidence.Common, d.Evidence.Alike)

	taller := was
	taller.Version, taller.X = "1.300", was.X+8
	d = between(t, foundrytest.Face(t, &was, font.TTF), foundrytest.Face(t, &taller, font.TTF))
	assert.Equal(t, identity.Version, d.Relation, "small letters drawn anew")
	require.NotEmpty(t, d.Evidence.Redrawn)
	assert.InDelta(t, 0.008, d.Evidence.Redrawn[len(d.Evidence.Redrawn)/2].Apart, 0.006)
	taller.Family = "Other Sans"
	assert.Equal(t, identity.Different, between(t, foundrytest.Face(t, &was, font.TTF), foundrytest.Face(t, &taller, font.TTF)).Relation, "a fork is another family")

	bold := *foundry.Signage()[2]
	require.Equal(t, "Bold", bold.Style)
	bold.Family, bold.Style, bold.PostScript = was.Family, was.Style, was.PostScript
	d = between(t, foundrytest.Face(t, &was, font.TTF), foundrytest.Face(t, &bold, font.TTF))
	assert.Equal(t, identity.Different, d.Relation)
	assert.True(t, d.Mislabeled, "a bold under the regular's name")
	assert.Greater(t, d.Evidence.Stems, 1.3)
}

// TestInstancesAreFound pins a variable face at named and other places, subsets and
// renames what comes of it, and asks where it stands.
func TestInstancesAreFound(t *testing.T) {
	for _, as := range []font.Container{font.TTF, font.OTF} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		require.NoError(t, err)
		variable := foundrytest.Parsed(t, b)
		of := read(t, variable)
		require.Len(t, of.Print.Axes, 1)
		require.NotEmpty(t, of.Print.Named)
		for _, at := range []float64{300, 333, 400, 512, 650, 700} {
			static, _, err := instance.Face(variable, instance.Options{At: map[string]instance.Range{"wght": {Min: at, Max: at}}})
			require.NoError(t, err)
			static = renamed(t, trimmed(t, static, text), "Elsewhere")
			d := identity.Between(read(t, static), of)
			require.Equal(t, identity.InstanceOf, d.Relation, "%s at %v", as, at)
			assert.Equal(t, 1, d.Of)
			assert.InDelta(t, at, d.Place.At["wght"], 0.5)
			assert.Equal(t, at == 700, d.Place.Style == "Bold", "%q", d.Place.Style)
			assert.Equal(t, 0, identity.Between(of, read(t, static)).Of)
		}
		d := identity.Between(read(t, foundrytest.Face(t, foundry.Display(), font.TTF)), of)
		assert.Equal(t, identity.Different, d.Relation)
	}
}

// wider returns a variable face of a text with a second axis, along which all becomes a
// quarter wider or narrower.
func wider(t *testing.T, text string) *sfnt.Font {
	t.Helper()
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	f := without(trimmed(t, foundrytest.Parsed(t, b), text), "HVAR", "avar", "STAT", "MVAR")
	fvar, err := table.ParseFvar(f.Table(table.TagFvar))
	require.NoError(t, err)
	fvar.Axes = append(fvar.Axes, table.Axis{Tag: sfnt.MakeTag("wdth"), Min: table.MakeFixed(75), Default: table.MakeFixed(100), Max: table.MakeFixed(125), Name: fvar.Axes[0].Name})
	fvar.Instances = nil
	gvar, err := variation.ParseGvar(f.Table(variation.TagGvar))
	require.NoError(t, err)
	head, err := table.ParseHead(f.Table(table.TagHead))
	require.NoError(t, err)
	glyphs, err := glyf.Locate(f.Table(table.TagGlyf), f.Table(table.TagLoca), head.LongLoca)
	require.NoError(t, err)
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	require.NoError(t, err)
	metrics := table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), len(glyphs))
	made, err := variation.EncodeGvar(len(glyphs), 2, func(g int) ([]variation.Tuple, error) {
		var at []float64 // of each point, or part, from the left
		if s, err := glyf.ParseSimple(glyphs[g]); err == nil {
			for _, p := range s.Points {
				at = append(at, float64(p.X))
			}
		} else if parts, err := glyf.ParseParts(glyphs[g]); err == nil {
			for _, p := range parts {
				at = append(at, p.DX)
			}
		}
		at = append(at, 0, float64(metrics[g].Advance), 0, 0)
		tuples, err := gvar.Tuples(table.GlyphID(g), len(at))
		if err != nil {
			return nil, err
		}
		for i := range tuples {
			tuples[i].Region = append(tuples[i].Region, variation.Tent{})
		}
		for _, way := range []float64{1, -1} {
			one := variation.Tuple{Region: variation.Region{{}, {Start: min(way, 0), Peak: way, End: max(way, 0)}}, Y: make([]float64, len(at))}
			for _, x := range at {
				one.X = append(one.X, way*x/4)
			}
			tuples = append(tuples, one)
		}
		return tuples, nil
	})
	require.NoError(t, err)
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, one := range f.Tables {
		switch one.Tag {
		case table.TagFvar:
			one.Data = fvar.Encode()
		case variation.TagGvar:
			one.Data = made
		}
		out.Tables = append(out.Tables, one)
	}
	return out
}

// TestInstancesOfTwoAxesAreFound pins both axes of a face, and asks where it stands.
func TestInstancesOfTwoAxesAreFound(t *testing.T) {
	f := wider(t, text)
	of := read(t, f)
	require.Len(t, of.Print.Axes, 2)
	for _, at := range [][2]float64{{400, 100}, {300, 75}, {700, 125}, {520, 90}, {650, 111}, {400, 120}} {
		static, _, err := instance.Face(f, instance.Options{At: map[string]instance.Range{"wght": {Min: at[0], Max: at[0]}, "wdth": {Min: at[1], Max: at[1]}}})
		require.NoError(t, err)
		d := identity.Between(read(t, static), of)
		require.Equal(t, identity.InstanceOf, d.Relation, "%v", at)
		assert.InDelta(t, at[0], d.Place.At["wght"], 1)
		assert.InDelta(t, at[1], d.Place.At["wdth"], 0.2)
	}
	bolder, _, err := instance.Face(f, instance.Options{At: map[string]instance.Range{"wght": {Min: 700, Max: 700}, "wdth": {Min: 100, Max: 100}}})
	require.NoError(t, err)
	poster := read(t, foundrytest.Face(t, foundry.Poster(), font.TTF))
	assert.Equal(t, identity.Different, identity.Between(poster, of).Relation)
	assert.NotEqual(t, identity.Same, identity.Between(read(t, bolder), read(t, f)).Relation)
}

// TestTooLittleIsNotJudged compares faces that share next to nothing.
func TestTooLittleIsNotJudged(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	d := between(t, trimmed(t, f, "abc"), trimmed(t, f, "cde"))
	assert.Equal(t, identity.Different, d.Relation)
	assert.False(t, d.Evidence.Sure())
	assert.False(t, d.Mislabeled, "nothing is said of what cannot be told")
	_, err := identity.Read(without(f, "glyf"))
	require.ErrorIs(t, err, outline.ErrNone)
	_, err = identity.Read(without(f, "head"))
	assert.ErrorIs(t, err, sfnt.ErrDamaged)
}

// TestContentIsToldFromTheFileAroundIt wraps a face anew, signs it, and changes a name.
func TestContentIsToldFromTheFileAroundIt(t *testing.T) {
	f := opened(t, "/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf")
	content := func(f *sfnt.Font) uint64 {
		p, err := identity.Measure(f)
		require.NoError(t, err)
		return p.Content
	}
	was := content(f)
	assert.NotZero(t, was)
	again, err := font.Open(sfnt.Write(f))
	require.NoError(t, err)
	assert.Equal(t, was, content(again.Faces[0]), "written anew")
	signed := &sfnt.Font{Flavor: f.Flavor, Tables: append([]sfnt.Table{{Tag: sfnt.MakeTag("DSIG"), Data: []byte{0, 0, 0, 1, 0, 0, 0, 0}}}, f.Tables...)}
	assert.Equal(t, was, content(signed), "signed")
	assert.NotEqual(t, was, content(without(f, "gasp")))
	assert.NotEqual(t, was, content(renamed(t, f, "Elsewhere")))
}
