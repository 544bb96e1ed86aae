package foundry_test

import (
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/sfnt"

	"sparecrate/font"
	"sparecrate/font/appearance"
	"sparecrate/font/metadata"
	"sparecrate/internal/demo/foundry"
)

// letters are all that the demo families promise to write.
const letters = " !\"#$%&'()*+,-./0123456789:;<=>?@ABCDEFGHIJKLMNOPQRSTUVWXYZ[\\]^_`abcdefghijklmnopqrstuvwxyz{|}~" +
	"¡¢£¤¥¦§¨©ª«¬®¯°±²³´µ¶·¸¹º»¼½¾¿ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÐÑÒÓÔÕÖ×ØÙÚÛÜÝÞßàáâãäåæçèéêëìíîïðñòóôõö÷øùúûüýþÿ" +
	"ĄąĆćĘęŁłŃńÓóŚśŹźŻżČčĎďĚěŇňŘřŠšŤťŮůŽžĞğİıŞşŒœĐđ–—‘’‚“”„…•‹›€™†"

func designs() map[*foundry.Design]font.Container {
	all := map[*foundry.Design]font.Container{foundry.Display(): font.OTF, foundry.Poster(): font.TTF}
	wayfinding := foundry.Wayfinding()
	for _, d := range slices.Concat(foundry.Signage(), foundry.Timetable(), []*foundry.Design{foundry.Script(), wayfinding[0], wayfinding[17]}) {
		all[d] = font.TTF
	}
	for _, d := range foundry.Text() {
		all[d] = font.OTF
	}
	return all
}

// TestAnIndependentReaderAccepts loads every face with another font library
// and asks it for the outline of every letter.
func TestAnIndependentReaderAccepts(t *testing.T) {
	for d, as := range designs() {
		t.Run(d.PostScript, func(t *testing.T) {
			b, err := foundry.Build(d, as)
			require.NoError(t, err)
			f, err := sfnt.Parse(b)
			require.NoError(t, err)
			var buf sfnt.Buffer
			for _, r := range letters {
				g, err := f.GlyphIndex(&buf, r)
				require.NoError(t, err)
				require.NotZero(t, g, "no glyph for %q", r)
				segments, err := f.LoadGlyph(&buf, g, 64<<6, nil)
				require.NoError(t, err, "outline of %q", r)
				if r != ' ' {
					assert.NotEmpty(t, segments, "nothing drawn for %q", r)
				}
			}
			name, err := f.Name(&buf, sfnt.NameIDPostScript)
			require.NoError(t, err)
			assert.Equal(t, d.PostScript, name)
		})
	}
}

func TestFacesSayWhatTheDesignSays(t *testing.T) {
	for d, as := range designs() {
		b, err := foundry.Build(d, as)
		require.NoError(t, err)
		faces, err := metadata.Read(b)
		require.NoError(t, err)
		f := faces[0]
		assert.Equal(t, d.Family, f.Names.FamilyName())
		assert.Equal(t, d.Style, f.Names.StyleName())
		assert.Equal(t, d.Weight, f.Style.Weight)
		assert.Equal(t, d.FsType, f.Embedding.FsType)
		assert.Equal(t, as, f.Container)
		if d.Pitch > 0 {
			assert.Empty(t, f.Features)
		} else {
			assert.Equal(t, []string{"kern", "liga"}, f.Features)
		}
		assert.Equal(t, strings.HasSuffix(d.Style, "Italic"), f.Style.Slope == metadata.Italic)
		assert.GreaterOrEqual(t, f.Coverage.Codepoints, utf8.RuneCountInString(letters))
		assert.Empty(t, f.Problems)
	}
}

// TestTheFamiliesAreWhatTheyAreCalled measures each as the service does: what is drawn as a
// serif, a monospaced face or a script is found as one.
func TestTheFamiliesAreWhatTheyAreCalled(t *testing.T) {
	for d, kind := range map[*foundry.Design]appearance.Kind{
		foundry.Text()[0]: appearance.Serif, foundry.Text()[2]: appearance.Serif, foundry.Timetable()[0]: appearance.Mono,
		foundry.Wayfinding()[3]: appearance.Sans, foundry.Wayfinding()[12]: appearance.Sans, foundry.Signage()[1]: appearance.Sans,
	} {
		b, err := foundry.Build(d, font.TTF)
		require.NoError(t, err)
		f, err := font.Open(b)
		require.NoError(t, err)
		a, err := appearance.Of(f.Faces[0])
		require.NoError(t, err)
		assert.Equal(t, kind, a.Kind, "%s: %+v", d.PostScript, a)
	}
}

// TestColumnsLineUp reads the advances of the monospaced face.
func TestColumnsLineUp(t *testing.T) {
	for _, d := range foundry.Timetable() {
		b, err := foundry.Build(d, font.TTF)
		require.NoError(t, err)
		f, err := sfnt.Parse(b)
		require.NoError(t, err)
		var buf sfnt.Buffer
		for _, r := range letters {
			g, err := f.GlyphIndex(&buf, r)
			require.NoError(t, err)
			advance, err := f.GlyphAdvance(&buf, g, 1000<<6, 0)
			require.NoError(t, err)
			require.Equal(t, 600, advance.Round(), "%q", r)
		}
	}
}

func TestSameBytesEveryTime(t *testing.T) {
	for d, as := range designs() {
		a, err := foundry.Build(d, as)
		require.NoError(t, err)
		b, err := foundry.Build(d, as)
		require.NoError(t, err)
		assert.Equal(t, a, b, d.PostScript)
	}
}

// TestWeightsAreDistinct measures the ink of a stem: each weight must be
// clearly heavier than the one before.
func TestWeightsAreDistinct(t *testing.T) {
	last := 0
	for _, d := range foundry.Signage() {
		b, err := foundry.Build(d, font.TTF)
		require.NoError(t, err)
		f, err := sfnt.Parse(b)
		require.NoError(t, err)
		var buf sfnt.Buffer
		g, err := f.GlyphIndex(&buf, 'l')
		require.NoError(t, err)
		bounds, _, err := f.GlyphBounds(&buf, g, 1000<<6, 0)
		require.NoError(t, err)
		stem := (bounds.Max.X - bounds.Min.X).Round()
		assert.Greater(t, stem, last*3/2, "%s is hardly heavier than the weight before", d.Style)
		last = stem
	}
}
