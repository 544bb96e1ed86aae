package fallback_test

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/fallback"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestAFontMadeToTheSameWidths compares a font with the system font it is made
// to the widths of: nothing is to be adjusted.
func TestAFontMadeToTheSameWidths(t *testing.T) {
	for system, path := range map[string]string{"arial": "LiberationSans-Regular", "times-new-roman": "LiberationSerif-Regular", "courier-new": "LiberationMono-Regular"} {
		b, err := os.ReadFile("/usr/share/fonts/truetype/liberation2/" + path + ".ttf")
		require.NoError(t, err)
		web, err := fallback.Face(foundrytest.Parsed(t, b))
		require.NoError(t, err)
		local, err := fallback.System(system, false)
		require.NoError(t, err)
		for _, language := range fallback.Languages() {
			o, err := fallback.Of(web, local, language)
			require.NoError(t, err, language)
			assert.InDelta(t, 100, o.SizeAdjust, 0.2, "%s in %s", system, language)
			assert.InDelta(t, 100*local.Ascent, o.Ascent, 0.2)
			assert.InDelta(t, 100*local.Descent, o.Descent, 0.2)
		}
	}
}

func TestOverridesUndoTheSize(t *testing.T) {
	web, err := fallback.Face(foundrytest.Face(t, foundry.Poster(), font.TTF))
	require.NoError(t, err)
	for _, system := range fallback.Systems() {
		local, err := fallback.System(system, false)
		require.NoError(t, err)
		o, err := fallback.Of(web, local, "en")
		require.NoError(t, err)
		assert.InDelta(t, web.Ascent, o.SizeAdjust/100*o.Ascent/100, 0.001, "the adjusted font is as high as the web font")
		assert.Greater(t, o.SizeAdjust, 80.0)
	}
}

// TestGroupsComeNearer compares the widths of words in the web font with those
// that the stand-in has with all letters at one size, and by groups.
func TestGroupsComeNearer(t *testing.T) {
	f := foundrytest.Face(t, foundry.Poster(), font.TTF)
	web, err := fallback.Face(f)
	require.NoError(t, err)
	b, err := os.ReadFile("/usr/share/fonts/truetype/liberation2/LiberationSans-Regular.ttf")
	require.NoError(t, err)
	local := foundrytest.Parsed(t, b)
	replacement, err := fallback.Face(local)
	require.NoError(t, err)
	theirs, err := shape.Open(local)
	require.NoError(t, err)
	ours, err := shape.Open(f)
	require.NoError(t, err)
	off := func(groups int) (most float64) {
		found, err := fallback.Groups(web, replacement, "en", groups)
		require.NoError(t, err)
		assert.LessOrEqual(t, len(found), groups+2)
		for _, word := range strings.Fields("almanac harbour saloon bicycle islands window evening company minute") {
			wide := 0.0
			for _, r := range word {
				size := found[0].SizeAdjust
				for _, g := range found[1:] {
					if g.Characters.Has(r) {
						size = g.SizeAdjust
					}
				}
				wide += size / 100 * float64(theirs.Advance(theirs.Glyph(r))) / float64(theirs.UnitsPerEm)
			}
			want := float64(ours.Set(word, shape.Options{}).Advance) / float64(ours.UnitsPerEm)
			most = max(most, math.Abs(wide-want)/want)
		}
		return most
	}
	assert.Less(t, off(fallback.MaxGroups), 0.01)
	assert.Less(t, 4*off(fallback.MaxGroups), off(0))
}

// TestKerningCountsAsOftenAsPairsComeUp sets running text in kerned faces: the
// stand-in's groups of letters make it as wide in all, which they would not
// without what kerning adds.
func TestKerningCountsAsOftenAsPairsComeUp(t *testing.T) {
	text := "The ferry calls at three islands before it is dark. Travellers with a bicycle go on board first and leave last, " +
		"and dogs are welcome on the open deck, where the wind keeps the company small. Forty years ago the harbour master wrote that down."
	for _, path := range []string{"dejavu/DejaVuSerif-Bold.ttf", "dejavu/DejaVuSans.ttf", "liberation2/LiberationSerif-Italic.ttf"} {
		b, err := os.ReadFile("/usr/share/fonts/truetype/" + path)
		require.NoError(t, err)
		f := foundrytest.Parsed(t, b)
		web, err := fallback.Face(f)
		require.NoError(t, err)
		found, err := fallback.Groups(web, web, "en", fallback.MaxGroups)
		require.NoError(t, err)
		set, err := shape.Open(f)
		require.NoError(t, err)
		want := float64(set.Set(text, shape.Options{}).Advance)
		plain, grouped := 0.0, 0.0
		for _, r := range text {
			size := found[0].SizeAdjust
			for _, g := range found[1:] {
				if g.Characters.Has(r) {
					size = g.SizeAdjust
				}
			}
			wide := float64(set.Advance(set.Glyph(r)))
			plain += wide
			grouped += wide * size / 100
		}
		require.Greater(t, math.Abs(plain-want)/want, 0.001, "%s is kerned", path)
		assert.Less(t, math.Abs(grouped-want), 0.7*math.Abs(plain-want), path)
		assert.InEpsilon(t, want, grouped, 0.0015, path)
	}
}

func TestABoldIsMeasuredAgainstABold(t *testing.T) {
	m, err := fallback.System("Times New Roman", true)
	require.NoError(t, err)
	assert.Equal(t, "Times New Roman Bold", m.Name)
}

func TestWhatIsNotKnown(t *testing.T) {
	_, err := fallback.System("nosuch", false)
	require.ErrorIs(t, err, fallback.ErrUnknown)
	assert.Contains(t, err.Error(), "arial")
	web, err := fallback.Face(foundrytest.Face(t, foundry.Poster(), font.TTF))
	require.NoError(t, err)
	local, err := fallback.System("arial", false)
	require.NoError(t, err)
	_, err = fallback.Of(web, local, "tlh")
	require.ErrorIs(t, err, fallback.ErrUnknown)
	_, err = fallback.Of(web, local, "ru")
	assert.ErrorIs(t, err, fallback.ErrText)
}

// TestLinesAreAsHighAsBrowsersMakeThem takes the height of lines from where browsers take it:
// from hhea, from OS/2 where its bit says so, and from OS/2 where hhea has none.
func TestLinesAreAsHighAsBrowsersMakeThem(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	put := func(b []byte, at, value int) { binary.BigEndian.PutUint16(b[at:], uint16(int16(value))) } //nolint:gosec // small numbers
	for name, one := range map[string]struct {
		ascender, descender int // in hhea
		useTypo             bool
		ascent, descent     float64
	}{
		"hhea":                   {700, -200, false, 0.7, 0.2},
		"OS/2 by its bit":        {700, -200, true, 0.8, 0.3},
		"OS/2 for want of hhea":  {0, 0, false, 0.8, 0.3},
		"hhea without descender": {700, 0, false, 0.7, 0},
		"hhea without ascender":  {0, -200, false, 0, 0.2},
	} {
		of := &sfnt.Font{Flavor: f.Flavor}
		for _, tab := range f.Tables {
			b := bytes.Clone(tab.Data)
			switch tab.Tag {
			case table.TagHead:
				put(b, 18, 1000)
			case table.TagHhea:
				put(b, 4, one.ascender)
				put(b, 6, one.descender)
			case table.TagOS2:
				put(b, 68, 800)
				put(b, 70, -300)
				selection := int(binary.BigEndian.Uint16(b[62:])) &^ table.SelectUseTypo
				if one.useTypo {
					selection |= table.SelectUseTypo
				}
				put(b, 62, selection)
			}
			of.Tables = append(of.Tables, sfnt.Table{Tag: tab.Tag, Data: b})
		}
		m, err := fallback.Face(of)
		require.NoError(t, err, name)
		assert.InDelta(t, one.ascent, m.Ascent, 0.0001, name)
		assert.InDelta(t, one.descent, m.Descent, 0.0001, name)
	}
}
