package service_test

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// large is a font that draws nearly every character of the first plane, each as one of a few
// letters.
func large(t testing.TB) []byte {
	t.Helper()
	plain := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	var pairs []table.Mapping
	for r := rune(0x20); r <= 0xFFFD; r++ {
		if r < 0xD800 || r > 0xF8FF {
			pairs = append(pairs, table.Mapping{Rune: r, Glyph: table.GlyphID(3 + r%60)})
		}
	}
	f := &sfnt.Font{Flavor: plain.Flavor, Tables: slices.Clone(plain.Tables)}
	for i := range f.Tables {
		if f.Tables[i].Tag == table.TagCmap {
			f.Tables[i].Data = table.EncodeCmap(pairs)
		}
	}
	b, err := font.Make(f, font.TTF)
	require.NoError(t, err)
	return b
}

// openLarge opens the characters of the large font.
func openLarge(t testing.TB) (context.Context, int) {
	t.Helper()
	s := open(t)
	added := s.add("large.ttf", large(t))
	require.NotNil(t, added.JSON200, "%s", added.Body)
	family, err := s.admin.GetFamilyWithResponse(t.Context(), added.JSON200.Family.Id)
	require.NoError(t, err)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor, "/nowhere")
	browsertest.Do(t, ctx, chromedp.Navigate(fmt.Sprintf("%s/families/%d/faces/%d?tab=characters", s.Address, family.JSON200.Id, family.JSON200.Faces[0].Id)), browsertest.Visible(".map .grid button"))
	return ctx, family.JSON200.Faces[0].Metadata.Coverage.Codepoints
}

// TestManyCharactersScroll goes anywhere among 57,000 characters at once: only what is in view
// is rendered, and it is there.
func TestManyCharactersScroll(t *testing.T) {
	ctx, n := openLarge(t)
	require.Greater(t, n, 56000)
	titled := func(first string) browsertest.Step {
		return browsertest.Until(`[...document.querySelectorAll(".map .grid button")].some(b => b.title.startsWith("` + first + `"))`)
	}
	scroll := func(share float64) browsertest.Step {
		return browsertest.Until(fmt.Sprintf(`(p => { p.scrollTop = p.scrollHeight * %g; return true })(document.querySelector(".map .port"))`, share))
	}
	browsertest.Do(t, ctx, titled("U+0041 "), scroll(0.5), titled("U+6F"), scroll(1), titled("U+FFFD "), scroll(0), titled("U+0041 "))
	assert.Less(t, browsertest.Eval[int](t, ctx, `document.querySelectorAll(".map .grid > *").length`), 1000, "only what is in view, and a little more")
	browsertest.Do(t, ctx, fill("Find a character", "snowman"), titled("U+2603 "), browsertest.Until(`document.querySelectorAll(".map .grid button").length === 3`),
		refill("Find a character", "no such name"), says("No characters found."))
}

// BenchmarkCharacters scrolls through 57,000 characters, 300 pixels a frame, and reports how
// many frames came late (after more than 34 ms, two at 60 a second) in 100, and the longest.
func BenchmarkCharacters(b *testing.B) {
	ctx, _ := openLarge(b)
	var late, longest float64
	for b.Loop() {
		m := browsertest.Eval[[]float64](b, ctx, `new Promise(done => {
			const port = document.querySelector(".map .port")
			port.scrollTop = 0
			const times = []
			const step = now => {
				times.push(now)
				port.scrollTop += 300
				if (times.length < 240) return requestAnimationFrame(step)
				const gaps = times.slice(1).map((t, i) => t - times[i])
				done([100 * gaps.filter(g => g > 34).length / gaps.length, Math.max(...gaps)])
			}
			requestAnimationFrame(step)
		})`)
		late, longest = late+m[0], max(longest, m[1])
	}
	b.ReportMetric(late/float64(b.N), "%late")
	b.ReportMetric(longest, "ms-longest")
}
