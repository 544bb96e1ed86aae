package svgfont_test

import (
	"encoding/xml"
	"math"
	"os"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	xsfnt "golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"sparecrate/font"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/svgfont"
	"sparecrate/internal/demo/foundry"
)

// document is what a reader of SVG fonts takes from one.
type document struct {
	Metadata string `xml:"metadata"`
	Font     struct {
		ID      string `xml:"id,attr"`
		Advance int    `xml:"horiz-adv-x,attr"`
		Face    struct {
			Family string `xml:"font-family,attr"`
			Weight int    `xml:"font-weight,attr"`
			Units  int    `xml:"units-per-em,attr"`
			Ascent int    `xml:"ascent,attr"`
		} `xml:"font-face"`
		Missing glyph   `xml:"missing-glyph"`
		Glyphs  []glyph `xml:"glyph"`
	} `xml:"defs>font"`
}

type glyph struct {
	Unicode string `xml:"unicode,attr"`
	Advance int    `xml:"horiz-adv-x,attr"`
	Path    string `xml:"d,attr"`
}

func read(t *testing.T, b []byte) document {
	t.Helper()
	var d document
	require.NoError(t, xml.Unmarshal(b, &d))
	return d
}

var tokens = regexp.MustCompile(`[A-Za-z]|-?[0-9]*\.?[0-9]+`)

// ends follows a path and gives the end of every step.
func ends(t *testing.T, path string) [][2]float64 {
	t.Helper()
	var out [][2]float64
	var x, y, startX, startY float64
	command := ""
	var numbers []float64
	step := func() {
		n := map[string]int{"M": 2, "l": 2, "h": 1, "v": 1, "q": 4, "c": 6}[command]
		if n == 0 || len(numbers) < n {
			return
		}
		switch last := numbers[n-1]; command {
		case "M":
			x, y = numbers[0], numbers[1]
			startX, startY = x, y
		case "h":
			x += last
		case "v":
			y += last
		default:
			x, y = x+numbers[n-2], y+last
		}
		numbers = numbers[:0]
		out = append(out, [2]float64{x, y})
	}
	for _, token := range tokens.FindAllString(path, -1) {
		n, err := strconv.ParseFloat(token, 64)
		if err == nil {
			numbers = append(numbers, n)
			step()
			continue
		}
		require.Empty(t, numbers, "numbers left over in %s", path)
		if command = token; command == "z" {
			x, y = startX, startY
		}
	}
	return out
}

// theirs returns the same of another library's reading of the original font.
func theirs(t *testing.T, f *xsfnt.Font, r rune, units int) [][2]float64 {
	t.Helper()
	var buf xsfnt.Buffer
	g, err := f.GlyphIndex(&buf, r)
	require.NoError(t, err)
	segments, err := f.LoadGlyph(&buf, g, fixed.I(units), nil)
	require.NoError(t, err)
	var out [][2]float64
	for _, s := range segments {
		last := s.Args[map[xsfnt.SegmentOp]int{xsfnt.SegmentOpMoveTo: 0, xsfnt.SegmentOpLineTo: 0, xsfnt.SegmentOpQuadTo: 1, xsfnt.SegmentOpCubeTo: 2}[s.Op]]
		out = append(out, [2]float64{float64(last.X) / 64, -float64(last.Y) / 64})
	}
	return out
}

func TestOutlinesAreTheFonts(t *testing.T) {
	ttf, err := foundry.Build(foundry.Signage()[1], font.TTF)
	require.NoError(t, err)
	otf, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(t, err)
	real, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	for name, b := range map[string][]byte{"TrueType": ttf, "PostScript": otf, "real": real} {
		t.Run(name, func(t *testing.T) {
			faces, err := sfnt.Parse(b)
			require.NoError(t, err)
			made, err := svgfont.Encode(faces[0])
			require.NoError(t, err)
			d := read(t, made)
			other, err := xsfnt.Parse(b)
			require.NoError(t, err)
			byLetter := map[string]glyph{}
			for _, g := range d.Font.Glyphs {
				byLetter[g.Unicode] = g
			}
			var buf xsfnt.Buffer
			for _, r := range "ABCQRSabegkosty0123456789&@ß" {
				g, ok := byLetter[string(r)]
				require.True(t, ok, "no glyph for %q", r)
				want, got := theirs(t, other, r, d.Font.Face.Units), ends(t, g.Path)
				// A reader may close contours with lines of its own, and cut off half
				// units; all our ends are among theirs in order.
				at := 0
				for _, end := range want {
					if at < len(got) && math.Abs(got[at][0]-end[0]) < 1 && math.Abs(got[at][1]-end[1]) < 1 {
						at++
					}
				}
				assert.Equal(t, len(got), at, "%q: %v is not within %v", r, got, want)
				assert.GreaterOrEqual(t, 2*len(got), len(want))
				index, err := other.GlyphIndex(&buf, r)
				require.NoError(t, err)
				advance, err := other.GlyphAdvance(&buf, index, fixed.I(d.Font.Face.Units), 0)
				require.NoError(t, err)
				ours := g.Advance
				if ours == 0 {
					ours = d.Font.Advance
				}
				assert.Equal(t, advance.Round(), ours, "%q", r)
			}
		})
	}
}

func TestWhatTheFontSaysIsKept(t *testing.T) {
	b, err := foundry.Build(foundry.Signage()[2], font.TTF)
	require.NoError(t, err)
	faces, err := sfnt.Parse(b)
	require.NoError(t, err)
	made, err := svgfont.Encode(faces[0])
	require.NoError(t, err)
	again, err := svgfont.Encode(faces[0])
	require.NoError(t, err)
	assert.Equal(t, made, again)
	d := read(t, made)
	assert.Equal(t, "SkerrowSans-Bold", d.Font.ID)
	assert.Equal(t, "Skerrow Sans", d.Font.Face.Family)
	assert.Equal(t, 700, d.Font.Face.Weight)
	assert.Contains(t, d.Metadata, "Licensed to Holmvik Ferries")
	assert.NotEmpty(t, d.Font.Missing.Path)
	letters := ""
	for _, g := range d.Font.Glyphs {
		letters += g.Unicode
	}
	assert.Contains(t, letters, `"#$%&'()`, "signs that XML escapes come back")
	_, err = svgfont.Encode(&sfnt.Font{})
	require.ErrorIs(t, err, outline.ErrNone)
}

// FuzzEncode draws whatever outlines and characters a font claims to have.
func FuzzEncode(f *testing.F) {
	for d, as := range map[*foundry.Design]font.Container{foundry.Signage()[1]: font.TTF, foundry.Display(): font.OTF} {
		b, err := foundry.Build(d, as)
		require.NoError(f, err)
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		faces, err := sfnt.Parse(b)
		if err != nil || len(b) > 1<<16 {
			return
		}
		made, err := svgfont.Encode(faces[0])
		if err == nil {
			var d document
			require.NoError(t, xml.Unmarshal(made, &d), "it is XML whatever the font holds")
		}
	})
}
