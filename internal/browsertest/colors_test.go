package browsertest_test

import (
	"encoding/binary"
	"image"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/instance"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/variation"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// numbers writes numbers of one to four bytes: a size, then a value.
func numbers(pairs ...int) (out []byte) {
	for i := 0; i < len(pairs); i += 2 {
		b := binary.BigEndian.AppendUint32(nil, uint32(pairs[i+1]))
		out = append(out, b[4-pairs[i]:]...)
	}
	return out
}

// colored returns a variable face three letters that are pictures in colors: moved
// and faded, with a gradient, and turned, each by its weight.
func colored(t *testing.T, mapped bool) *sfnt.Font {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	opened, err := font.Open(b)
	require.NoError(t, err)
	f := opened.Faces[0]
	letters, err := shape.Open(f)
	require.NoError(t, err)
	glyph := func(r rune) int { return int(letters.Glyph(r)) }
	const one = 1 << 14
	// Indices of rows: moved 0 and 1, faded 2, gradient 3 to 8, its stops 9 to 12, turned 13 to 15, boxes 16 to 19.
	rows := []int32{120, -90, -8000, 0, 200, 300, -100, 0, 150, 3000, -4000, 0, -6000, 3000, 40, -60, -50, -60, 70, 80}
	store := &variation.Store{
		Axes: 1, Regions: []variation.Region{{{Start: 0, Peak: 1, End: 1}}},
		Sets: []variation.Set{{Regions: []int{0}}},
	}
	for _, d := range rows {
		store.Sets[0].Rows = append(store.Sets[0].Rows, []int32{d})
	}
	var table []byte
	glyphs := []struct {
		letter rune
		paint  []byte
	}{
		{'H', slices.Concat(numbers(1, 15, 3, 12, 2, 30, 2, 20, 4, 0), // translate
			numbers(1, 10, 3, 6, 2, glyph('H')), // glyph
			numbers(1, 3, 2, 0, 2, one, 4, 2))}, // solid
		{'o', slices.Concat(numbers(1, 10, 3, 6, 2, glyph('o')),
			numbers(1, 5, 3, 20, 2, 0, 2, 0, 2, 500, 2, 400, 2, 0, 2, 300, 4, 3), // linear gradient
			numbers(1, 0, 2, 2, 2, 1000, 2, 1, 2, one, 4, 9, 2, 14000, 2, 2, 2, one, 4, 11))},
		{'A', slices.Concat(numbers(1, 27, 3, 14, 2, 500, 2, 300, 2, 350, 4, 13), // rotate around a center
			numbers(1, 10, 3, 6, 2, glyph('A')), numbers(1, 2, 2, 1, 2, one))},
	}
	slices.SortFunc(glyphs, func(a, b struct {
		letter rune
		paint  []byte
	}) int {
		return glyph(a.letter) - glyph(b.letter)
	})
	list, paints := numbers(4, len(glyphs)), []byte(nil)
	for _, g := range glyphs {
		list = append(list, numbers(2, glyph(g.letter), 4, 4+6*len(glyphs)+len(paints))...)
		paints = append(paints, g.paint...)
	}
	list = append(list, paints...)
	clips := numbers(1, 1, 4, 1, 2, 0, 2, 0xFFFF, 3, 12, 1, 2, 2, -300, 2, -400, 2, 1200, 2, 1100, 4, 16)
	var places []byte
	if mapped { // the index goes through a map: each row by itself
		indices := make([]uint32, len(rows))
		for i := range indices {
			indices[i] = uint32(i)
		}
		places = variation.EncodeMap(indices)
	}
	const header = 34
	at := func(present bool, n int) int {
		if !present {
			return 0
		}
		return n
	}
	clipsAt := header + len(list)
	mapAt := clipsAt + len(clips)
	table = numbers(2, 1, 2, 0, 4, 0, 4, 0, 2, 0, 4, header, 4, 0, 4, clipsAt, 4, at(mapped, mapAt), 4, mapAt+len(places))
	table = slices.Concat(table, list, clips, places, store.Encode())
	palette := numbers(2, 0, 2, 3, 2, 1, 2, 3, 4, 14, 2, 0, 4, 0x2060C0FF, 4, 0x20A040FF, 4, 0xC03020FF)
	f.Tables = append(f.Tables, sfnt.Table{Tag: sfnt.MakeTag("COLR"), Data: table}, sfnt.Table{Tag: sfnt.MakeTag("CPAL"), Data: palette})
	return f
}

// hues counts pixels that are not gray.
func hues(img image.Image) (n int) {
	for y := img.Bounds().Min.Y; y < img.Bounds().Max.Y; y++ {
		for x := img.Bounds().Min.X; x < img.Bounds().Max.X; x++ {
			r, g, b, _ := img.At(x, y).RGBA()
			if max(r, g, b)-min(r, g, b) > 0x4000 {
				n++
			}
		}
	}
	return n
}

// TestPinnedColorsLookTheSame pins, whole and in part, a font whose letters are
// pictures in colors that vary.
func TestPinnedColorsLookTheSame(t *testing.T) {
	s := newStage(t)
	ctx := browsertest.New(t, "")
	browsertest.Do(t, ctx, chromedp.EmulateViewport(1280, 360, chromedp.EmulateScale(2)))
	for _, mapped := range []bool{false, true} {
		f := colored(t, mapped)
		before := sfnt.Write(f)
		at := map[string]float64{"wght": 552}
		want, _ := s.shot(t, ctx, before, settings(at), "HoA", false)
		usual, _ := s.shot(t, ctx, before, "normal", "HoA", false)
		_, differs := inkShare(want, usual)
		require.Greater(t, differs, 0.05, "the browser varies the colors")
		require.Greater(t, hues(want), 3000, "the letters are in colors")
		pinned, _, err := instance.Face(f, instance.Options{At: ranges(at)})
		require.NoError(t, err)
		got, _ := s.shot(t, ctx, sfnt.Write(pinned), "normal", "HoA", false)
		_, share := inkShare(want, got)
		assert.LessOrEqual(t, share, 0.01, "pinned: %.3f %% of the ink differs", 100*share)
		assert.Less(t, len(pinned.Table(sfnt.MakeTag("COLR"))), len(f.Table(sfnt.MakeTag("COLR"))), "what varied is gone")
		part, _, err := instance.Face(f, instance.Options{At: map[string]instance.Range{"wght": {Min: 400, Max: 650}}})
		require.NoError(t, err)
		got, _ = s.shot(t, ctx, sfnt.Write(part), settings(at), "HoA", false)
		_, share = inkShare(want, got)
		assert.LessOrEqual(t, share, 0.02, "in part: %.3f %% of the ink differs", 100*share)
		t.Logf("mapped %t: colors vary by %.1f %%", mapped, 100*differs)
	}
}
