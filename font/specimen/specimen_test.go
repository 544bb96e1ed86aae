package specimen_test

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"image"
	"image/png"
	"io"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/specimen"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func drawn(t *testing.T, f *sfnt.Font, o specimen.Options) (*specimen.Picture, image.Image) {
	t.Helper()
	p, err := specimen.Draw(f, o)
	require.NoError(t, err)
	b, err := p.PNG()
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, p.Width, p.Height), img.Bounds())
	return p, img
}

// inkOf returns the share of pixels that are not background.
func inkOf(img image.Image) float64 {
	n, all := 0, 0
	background := img.At(0, 0)
	for y := img.Bounds().Min.Y; y < img.Bounds().Max.Y; y++ {
		for x := img.Bounds().Min.X; x < img.Bounds().Max.X; x++ {
			all++
			if img.At(x, y) != background {
				n++
			}
		}
	}
	return float64(n) / float64(all)
}

func TestTextIsDrawn(t *testing.T) {
	for name, f := range map[string]*sfnt.Font{"TrueType": foundrytest.Face(t, foundry.Signage()[1], font.TTF), "PostScript": foundrytest.Face(t, foundry.Display(), font.OTF)} {
		line := []specimen.Line{{Text: "Hamburg 16:35", Size: 80}}
		p, img := drawn(t, f, specimen.Options{Lines: line})
		ink := inkOf(img)
		assert.Greater(t, ink, 0.05, name)
		assert.Less(t, ink, 0.5, name)
		assert.Empty(t, p.Missing)
		_, dark := drawn(t, f, specimen.Options{Lines: line, Dark: true})
		assert.InDelta(t, ink, inkOf(dark), 0.001, "light on dark covers the same")
		assert.NotEqual(t, img.At(0, 0), dark.At(0, 0))
		again, err := specimen.Draw(f, specimen.Options{Lines: line})
		require.NoError(t, err)
		assert.Equal(t, p.SVG(), again.SVG(), "the same every time")
		d := xml.NewDecoder(bytes.NewReader(p.SVG()))
		for {
			if _, err := d.Token(); errors.Is(err, io.EOF) {
				break
			} else {
				require.NoError(t, err)
			}
		}
	}
}

func TestKerningAndLigaturesAreTheFonts(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	face, err := shape.Open(f)
	require.NoError(t, err)
	off := func(tag string) shape.Options { return shape.Options{Features: map[string]bool{tag: false}} }
	assert.Less(t, face.Set("AVATo.", shape.Options{}).Advance, face.Set("AVATo.", off("kern")).Advance)
	assert.Len(t, face.Set("fi", shape.Options{}).Glyphs, 1)
	assert.Len(t, face.Set("fi", off("liga")).Glyphs, 2)
	assert.Len(t, face.Set("fi", shape.Options{Language: sfnt.MakeTag("TRK ")}).Glyphs, 2, "Turkish has none")
	assert.Equal(t, []rune{'ж'}, face.Set("жaж", shape.Options{}).Missing)
}

// TestArabicIsJoined sets a word: each letter takes the form of its place, right
// to left, and a mark stands on its letter without room of its own.
func TestArabicIsJoined(t *testing.T) {
	b, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	face, err := shape.Open(foundrytest.Parsed(t, b))
	require.NoError(t, err)
	line := face.Set("بيت", shape.Options{})
	require.Len(t, line.Glyphs, 3)
	assert.Greater(t, line.Glyphs[0].X, line.Glyphs[2].X, "the first letter stands at the right")
	for i, r := range []rune{0xFE91, 0xFEF4, 0xFE96} { // initial, medial and final forms, by their code points
		assert.Equal(t, face.Glyph(r), line.Glyphs[i].ID, "letter %d", i)
	}
	marked := face.Set("x̌", shape.Options{})
	require.Len(t, marked.Glyphs, 2)
	assert.Equal(t, face.Set("x", shape.Options{}).Advance, marked.Advance)
	mixed := face.Set("abc שלום def", shape.Options{})
	assert.Equal(t, face.Glyph('a'), mixed.Glyphs[0].ID)
}

func TestLinesAreBrokenAndGlyphsCharted(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	text := strings.Repeat("Next departure from quay four. ", 6)
	p, _ := drawn(t, f, specimen.Options{Lines: []specimen.Line{{Text: text, Size: 40}}, Width: 600})
	assert.Equal(t, 600, p.Width)
	assert.Greater(t, p.Height, 300)
	chart, img := drawn(t, f, specimen.Options{Glyphs: 60})
	assert.Greater(t, chart.Height, 200)
	assert.Greater(t, inkOf(img), 0.01)
}

func TestPicturesThatAreNotDrawn(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	for want, o := range map[error]specimen.Options{
		specimen.ErrNothing:  {},
		specimen.ErrTooLarge: {Lines: []specimen.Line{{Text: strings.Repeat("wide ", 500), Size: 200}}},
	} {
		_, err := specimen.Draw(f, o)
		assert.ErrorIs(t, err, want)
	}
	_, err := specimen.Draw(f, specimen.Options{Lines: []specimen.Line{{Text: "x", Size: -1}}})
	assert.ErrorIs(t, err, specimen.ErrTooLarge)
}

// TestGlyphsAsLargeAsThePicture draws a face whose every glyph covers everything,
// which is given up.
func TestGlyphsAsLargeAsThePicture(t *testing.T) {
	f := foundrytest.Face(t, foundry.Poster(), font.TTF)
	head := slices.Clone(f.Table(table.TagHead))
	binary.BigEndian.PutUint16(head[18:], 16) // units in an em: glyphs are sixty times as large as they should be
	for i := range f.Tables {
		if f.Tables[i].Tag == table.TagHead {
			f.Tables[i].Data = head
		}
	}
	p, err := specimen.Draw(f, specimen.Options{Glyphs: 250})
	require.NoError(t, err)
	_, err = p.PNG()
	assert.ErrorIs(t, err, sfnt.ErrDamaged)
}

// TestOutlinesStayWithinThePicture reads the coordinates of every outline of a picture: all
// are within its box, and use most of its width.
func TestOutlinesStayWithinThePicture(t *testing.T) {
	for name, f := range map[string]*sfnt.Font{"TrueType": foundrytest.Face(t, foundry.Signage()[1], font.TTF), "PostScript": foundrytest.Face(t, foundry.Display(), font.OTF)} {
		p, _ := drawn(t, f, specimen.Options{Lines: []specimen.Line{{Text: "Hamburg 16:35", Size: 80}}})
		furthest := 0.0
		for _, path := range regexp.MustCompile(` d="([^"]+)"`).FindAllStringSubmatch(string(p.SVG()), -1) {
			for _, number := range regexp.MustCompile(`-?[0-9.]+`).FindAllString(path[1], -1) {
				v, err := strconv.ParseFloat(number, 64)
				require.NoError(t, err)
				require.LessOrEqual(t, v, float64(p.Width), name)
				require.GreaterOrEqual(t, v, -float64(p.Width), name)
				furthest = max(furthest, v)
			}
		}
		assert.Greater(t, furthest, 0.3*float64(p.Height), name)
	}
}
