package browsertest_test

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/instance"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
)

// variableLine sets one line at 200 pixels at coordinates of a variable font.
const variableLine = `<!doctype html><meta charset="utf-8"><title>Line</title><style>
@font-face { font-family: face; src: url(%s); font-weight: 1 1000; font-stretch: 1%% 1000%%; }
body { margin: 0; overflow: hidden }
span, i { position: absolute; left: 40px; top: 60px; font: 200px/1.2 face; white-space: nowrap; text-rendering: geometricPrecision;
  font-optical-sizing: none; font-synthesis: none; font-variation-settings: %s; }
</style>%s`

// shot draws a page with a line and gives its picture and the line's width.
func (s *stage) shot(t testing.TB, ctx browserContext, font []byte, settings, line string, apart bool) (image.Image, float64) {
	t.Helper()
	s.round++
	at := fmt.Sprintf("/font-%d", s.round)
	page := fmt.Sprintf("/page-%d", s.round)
	s.served.Store(at, font)
	s.served.Store(page, fmt.Appendf(nil, variableLine, at, settings, marked(line, apart)))
	defer s.served.Delete(at)
	defer s.served.Delete(page)
	browsertest.Do(t, ctx, chromedp.Navigate(s.server.URL+page),
		browsertest.Until(`document.fonts.status === "loaded" && document.fonts.check("200px face") && [...document.fonts].every(f => f.status === "loaded")`))
	width := browsertest.Eval[float64](t, ctx, `[...document.body.children].reduce((n, e) => n + e.getBoundingClientRect().width, 0)`)
	b, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	require.NoError(t, err)
	picture, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	return picture, width
}

// marked puts a line on the page as one, or its first letters apart in places of
// their own: browsers round the advances of a variable font, so letters that stand
// one behind the other say more of that than of their outlines.
func marked(line string, apart bool) string {
	if !apart {
		return "<span>" + line + "</span>"
	}
	const most, room = 7, 180
	var out strings.Builder
	letters := []rune(strings.ReplaceAll(line, " ", ""))
	for i, r := range letters[:min(most, len(letters))] {
		fmt.Fprintf(&out, `<i style="left:%dpx">%c</i>`, 20+room*i, r)
	}
	return out.String()
}

// inkShare returns the share of ink that differs between two pictures, dark on
// white.
func inkShare(a, b image.Image) (ink, share float64) {
	gray := func(img image.Image) []byte {
		out := image.NewGray(img.Bounds())
		draw.Draw(out, out.Rect, img, out.Rect.Min, draw.Src)
		return out.Pix
	}
	p, q := gray(a), gray(b)
	all, other := 0, 0
	for i := range min(len(p), len(q)) {
		all += 0xFF - int(p[i])
		other += max(int(p[i])-int(q[i]), int(q[i])-int(p[i]))
	}
	return float64(all) / 0xFF, float64(other) / float64(max(all, 1))
}

// places are coordinates to pin a font at: its instances, the ends of its axes,
// and one between.
func places(f *table.Fvar) []map[string]float64 {
	var out []map[string]float64
	add := func(at func(i int, a table.Axis) float64) {
		one := map[string]float64{}
		for i, a := range f.Axes {
			one[strings.TrimSpace(a.Tag.String())] = at(i, a)
		}
		out = append(out, one)
	}
	for i := 0; i < len(f.Instances); i += max(1, len(f.Instances)/3) {
		add(func(k int, _ table.Axis) float64 { return f.Instances[i].Coordinates[k].Float() })
	}
	add(func(_ int, a table.Axis) float64 { return a.Max.Float() })
	add(func(_ int, a table.Axis) float64 { return a.Min.Float() })
	add(func(_ int, a table.Axis) float64 { return a.Min.Float()*0.37 + a.Max.Float()*0.63 })
	return out
}

func settings(at map[string]float64) string {
	if len(at) == 0 {
		return "normal"
	}
	var words []string
	for _, tag := range sortedKeys(at) {
		words = append(words, fmt.Sprintf("%q %g", tag, at[tag]))
	}
	return strings.Join(words, ", ")
}

// TestPinnedTextLooksTheSame pins each variable font at places all over its
// space, and limits and pins some axes only; the browser draws the outcome as
// it draws the variable font there. Trimmed, it still varies.
func TestPinnedTextLooksTheSame(t *testing.T) {
	s := newStage(t)
	// What is pinned between whole units is on a finer grid; next to nothing differs
	// at any place. On its own grid a font says whole units where the variable font
	// says parts of them: edges of stems move by up to half a unit, which of a stem of
	// a hundred units is one part in a hundred, and letters behind others by what
	// their advances add up to.
	most := map[string]float64{"pinned": 0.002, "in part": 0.002, "whole": 0.01, "whole in part": 0.02, "trimmed": 0}
	byRecipe := func(at map[string]instance.Range, p proof, face *sfnt.Font) []byte {
		recipe := reshape.Recipe{Instance: &reshape.Instance{At: map[string]string{}}}
		for tag, r := range at {
			recipe.Instance.At[tag] = r.String()
		}
		out, _, err := recipe.Apply(face)
		require.NoError(t, err, p.name)
		return sfnt.Write(out)
	}
	shares := map[string]inkShares{}
	groups := proofFonts(t)
	for _, group := range sortedKeys(groups) {
		t.Run(group, func(t *testing.T) {
			var ctx browserContext
			for _, p := range groups[group] {
				face := opened(p)
				if face == nil || !face.Has(table.TagFvar) {
					continue
				}
				if ctx == nil {
					ctx = browsertest.New(t, "")
					// On a screen this dense glyphs are drawn where they stand, not at quarters of a pixel.
					browsertest.Do(t, ctx, chromedp.EmulateViewport(1280, 360, chromedp.EmulateScale(2)))
				}
				fvar, err := table.ParseFvar(face.Table(table.TagFvar))
				require.NoError(t, err)
				lines := linesFor(t, face)
				lines = lines[:1] // each takes a page of its own
				before := sfnt.Write(face)
				compare := func(what string, after []byte, at, left map[string]float64) {
					for _, line := range lines {
						apart := strings.HasSuffix(what, "in part")
						a, wide := s.shot(t, ctx, before, settings(at), line, apart)
						b, width := s.shot(t, ctx, after, settings(left), line, apart)
						ink, share := inkShare(a, b)
						require.Greater(t, ink, 500.0, "%s: nothing is drawn", p.name)
						assert.LessOrEqual(t, share, most[what], "%s, %s at %s: %q differs in %.3f %% of its ink", p.name, what, settings(at), line, 100*share)
						assert.InDelta(t, wide, width, 0.2*float64(len([]rune(line))), "%s, %s: width", p.name, what)
						one := shares[what]
						shares[what] = inkShares{one.lines + 1, one.sum + share, max(one.worst, share)}
					}
				}
				for _, at := range places(fvar) {
					pinned, _, err := instance.Face(face, instance.Options{At: ranges(at)})
					require.NoError(t, err, p.name)
					require.False(t, pinned.Has(table.TagFvar))
					compare("whole", sfnt.Write(pinned), at, nil)
					compare("pinned", byRecipe(ranges(at), p, face), at, nil)
				}
				some := partial(fvar)
				for _, part := range some {
					out, _, err := instance.Face(face, instance.Options{At: part.at})
					require.NoError(t, err, p.name)
					compare("whole in part", sfnt.Write(out), part.whole, part.left)
					compare("in part", byRecipe(part.at, p, face), part.whole, part.left)
				}
				small, _, err := subset.Face(face, subset.Options{Characters: textSet(lines)})
				require.NoError(t, err)
				at := places(fvar)[len(places(fvar))-1]
				compare("trimmed", sfnt.Write(small), at, at)
			}
		})
	}
	for _, what := range sortedKeys(shares) {
		one := shares[what]
		t.Logf("%s: %d lines; %.3f %% of the ink differs, at most %.3f %%", what, one.lines, 100*one.sum/float64(one.lines), 100*one.worst)
	}
	require.NotZero(t, shares["pinned"].lines)
	assert.LessOrEqual(t, shares["pinned"].sum/float64(shares["pinned"].lines), 0.002)
}

// inkShares gathers shares of ink that differ.
type inkShares struct {
	lines      int
	sum, worst float64
}

type partPinned struct {
	at          map[string]instance.Range
	whole, left map[string]float64
}

// partial are ways to take some freedom: each axis limited to its middle, and
// where there are several, the first pinned.
func partial(f *table.Fvar) []partPinned {
	var out []partPinned
	for i, a := range f.Axes {
		tag := strings.TrimSpace(a.Tag.String())
		low, high := a.Min.Float()*0.8+a.Max.Float()*0.2, a.Min.Float()*0.1+a.Max.Float()*0.9
		whole := map[string]float64{}
		for _, b := range f.Axes {
			whole[strings.TrimSpace(b.Tag.String())] = b.Min.Float()*0.3 + b.Max.Float()*0.7
		}
		out = append(out, partPinned{map[string]instance.Range{tag: {Min: low, Max: high}}, whole, whole})
		if len(f.Axes) > 1 && i == 0 {
			left := map[string]float64{}
			for k, v := range whole {
				if k != tag {
					left[k] = v
				}
			}
			out = append(out, partPinned{map[string]instance.Range{tag: {Min: whole[tag], Max: whole[tag]}}, whole, left})
		}
	}
	return out
}

func ranges(at map[string]float64) map[string]instance.Range {
	out := map[string]instance.Range{}
	for tag, x := range at {
		out[tag] = instance.Range{Min: x, Max: x}
	}
	return out
}
