package specimen_test

import (
	"fmt"
	"regexp"
	"slices"
	"testing"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/specimen"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// placed is where code stands in memory, which says nothing of a picture.
var placed = regexp.MustCompile(` stop:0x[0-9a-f]+`)

// TestPicturesAsApproved draws texts at sizes, broken and unbroken, with charts, light and
// dark, and colored.
func TestPicturesAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	draw := func(what string, f *sfnt.Font, o specimen.Options) {
		p, err := specimen.Draw(f, o)
		if err != nil {
			lines = append(lines, fmt.Sprintf("%s: %v", what, err))
			return
		}
		lines = append(lines, fmt.Sprintf("%s: %s", what, fonttest.Digest(placed.ReplaceAllString(fmt.Sprintf("%+v", *p), ""))))
	}
	upright, sharp := foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Display(), font.OTF)
	for name, f := range map[string]*sfnt.Font{"truetype": upright, "postscript": sharp, "colored": tinted(t, 1)} {
		for _, size := range []float64{9, 24, 61.5, 200} {
			for _, width := range []int{0, 200, 640} {
				for _, chart := range []int{0, 7, 40} {
					draw(fmt.Sprintf("%s at %g, %d wide, chart of %d", name, size, width, chart), f, specimen.Options{Lines: []specimen.Line{{Text: "The last ferry, fish & AVA 16:35", Size: size}, {Text: "Åre → ☃", Size: size / 2}}, Width: width, Glyphs: chart, Dark: width == 200})
				}
			}
		}
	}
	slices.Sort(lines)
	fonttest.Lines(t, "pictures", lines...)
}
