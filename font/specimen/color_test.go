package specimen_test

import (
	"encoding/binary"
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/specimen"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// tinted returns a face whose A is drawn as an H in a palette's first color and an o in
// another entry (OpenType 1.9.1, `COLR` version 0 and `CPAL`).
func tinted(t *testing.T, entry uint16) *sfnt.Font {
	t.Helper()
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a, err := shape.Open(f)
	require.NoError(t, err)
	colr := []byte{0, 0, 0, 1, 0, 0, 0, 14, 0, 0, 0, 20, 0, 2}
	for _, n := range []uint16{uint16(a.Glyph('A')), 0, 2, uint16(a.Glyph('H')), 0, uint16(a.Glyph('o')), entry} {
		colr = binary.BigEndian.AppendUint16(colr, n)
	}
	cpal := []byte{0, 0, 0, 2, 0, 1, 0, 2, 0, 0, 0, 14, 0, 0, 0x20, 0x40, 0xE0, 0xFF, 0xC0, 0x80, 0x10, 0xFF} // blue, green, red, how opaque
	f.Tables = append(f.Tables, sfnt.Table{Tag: sfnt.MakeTag("COLR"), Data: colr}, sfnt.Table{Tag: sfnt.MakeTag("CPAL"), Data: cpal})
	return f
}

// shades counts the pixels of some colors.
func shades(img image.Image) map[color.NRGBA]int {
	out := map[color.NRGBA]int{}
	for y := img.Bounds().Min.Y; y < img.Bounds().Max.Y; y++ {
		for x := img.Bounds().Min.X; x < img.Bounds().Max.X; x++ {
			out[color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)]++
		}
	}
	return out
}

func TestColoredLayersAreDrawn(t *testing.T) {
	red, blue := color.NRGBA{0xE0, 0x40, 0x20, 0xFF}, color.NRGBA{0x10, 0x80, 0xC0, 0xFF}
	line := []specimen.Line{{Text: "A", Size: 120}}
	p, img := drawn(t, tinted(t, 1), specimen.Options{Lines: line})
	found := shades(img)
	assert.Greater(t, found[red], 300)
	assert.Greater(t, found[blue], 300)
	assert.Contains(t, string(p.SVG()), `fill="#e04020"`)

	plain := color.NRGBA{0x1B, 0x1D, 0x22, 0xFF} // the color of text
	for name, entry := range map[string]uint16{"the text's own color": 0xFFFF, "an entry the palette has not": 7} {
		_, img := drawn(t, tinted(t, entry), specimen.Options{Lines: line})
		found := shades(img)
		assert.Greater(t, found[red], 300, name)
		assert.Greater(t, found[plain], 300, name)
		assert.Zero(t, found[blue], name)
	}
	_, img = drawn(t, tinted(t, 0xFFFF), specimen.Options{Lines: line, Dark: true})
	found = shades(img)
	assert.Greater(t, found[red], 300, "colors stay in the dark")
	assert.Greater(t, found[color.NRGBA{0xFF, 0xFF, 0xFF, 0xFF}], 300, "text turns light")

	_, img = drawn(t, tinted(t, 1), specimen.Options{Lines: []specimen.Line{{Text: "Ho", Size: 120}}})
	found = shades(img)
	assert.Zero(t, found[red]+found[blue], "only the letter with layers has colors")
}

// TestBrokenLayersAreTheLetter cuts the tables of colors off anywhere: some letter is
// drawn.
func TestBrokenLayersAreTheLetter(t *testing.T) {
	for _, tag := range []string{"COLR", "CPAL"} {
		f := tinted(t, 1)
		for i, one := range f.Tables {
			if one.Tag != sfnt.MakeTag(tag) {
				continue
			}
			for n := range len(one.Data) {
				f.Tables[i].Data = one.Data[:n]
				_, img := drawn(t, f, specimen.Options{Lines: []specimen.Line{{Text: "A", Size: 40}}})
				assert.Positive(t, inkOf(img), "%s of %d bytes", tag, n)
			}
		}
	}
}
