package browsertest_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/css"
)

// paragraph is set once in the font and once in its fallback.
const paragraph = `The ferry leaves quay four at sixteen thirty-five and calls at three islands before it is dark. Whoever travels with a bicycle
goes on board first and leaves last; dogs are welcome on the open deck, where the wind keeps the company small. In the saloon there is soup
until the second bell, and a table by the window for those who would rather look than eat. The almanac says that the tide will turn a little
after nine, and the harbour master, who has read the almanac for forty years, says that it may be earlier than that. Nobody has ever missed
the boat for want of a clock: the horn can be heard as far as the lighthouse, and on still evenings well beyond it.`

// breaks gives the first word of each line of both paragraphs, and their heights.
const breaks = `["web", "local"].map(id => {
	const p = document.getElementById(id), text = p.firstChild, lines = [];
	let last = -1;
	for (const m of text.data.matchAll(/\S+/g)) {
		const range = new Range();
		range.setStart(text, m.index);
		range.setEnd(text, m.index + 1);
		const top = Math.round(range.getBoundingClientRect().top);
		if (top > last + 4) { lines.push(m[0] + "@" + m.index); last = top; }
	}
	return {lines, height: p.getBoundingClientRect().height};
})`

// TestTextStaysWhileTheFontArrives sets a long paragraph in a font and in the
// local font made to its measure, at several widths: lines that start at the same
// word end at the same word, and the paragraphs are as high. What no rule can say
// is how two letters are kerned, so that now and then a word falls over the edge.
func TestTextStaysWhileTheFontArrives(t *testing.T) {
	s := newStage(t)
	ctx := browsertest.New(t, "")
	// By the number of groups of letters.
	tries := []int{0, fallback.MaxGroups}
	same, lines, whole, pages, high := map[int]int{}, map[int]int{}, map[int]int{}, map[int]int{}, map[int][2]float64{}
	for _, group := range proofFonts(t) {
		for _, p := range group {
			f := opened(p)
			if f == nil {
				continue
			}
			face := metadata.One(f)
			web, err := fallback.Face(f)
			require.NoError(t, err)
			local, err := fallback.System("liberation-sans", false)
			require.NoError(t, err)
			at := fmt.Sprintf("/font-%d", s.round)
			s.round++
			s.served.Store(at, sfnt.Write(f))
			rule := css.Of(face)
			rule.Family, rule.Sources = "web", []css.Source{{URL: at, Format: "truetype"}}
			for _, width := range []int{380, 560, 720} {
				for _, groups := range tries {
					found, err := fallback.Groups(web, local, "en", groups)
					require.NoError(t, err)
					replacement := css.Fallbacks(face, []string{"Liberation Sans"}, found)
					for i := range replacement {
						replacement[i].Family = "local"
					}
					page := fmt.Sprintf("%s-%d-%d.html", at, width, groups)
					s.served.Store(page, fmt.Appendf(nil, `<!doctype html><html lang="en"><meta charset="utf-8"><title>Paragraphs</title><style>%s%s p{width:%dpx;font-size:18px;font-weight:%s;margin:0;text-rendering:geometricPrecision}
					#web{font-family:web,monospace} #local{font-family:local,monospace}</style><p id="web">%s</p><p id="local">%s</p>`,
						rule, css.Sheet(replacement), width, rule.Weight, strings.ReplaceAll(paragraph, "\n", " "), strings.ReplaceAll(paragraph, "\n", " ")))
					browsertest.Do(t, ctx, chromedp.Navigate(s.server.URL+page), browsertest.Until(`document.fonts.status === "loaded" && [...document.fonts].every(f => f.status === "loaded")`))
					got := browsertest.Eval[[]struct {
						Lines  []string `json:"lines"`
						Height float64  `json:"height"`
					}](t, ctx, breaks)
					high[groups] = [2]float64{high[groups][0] + got[0].Height, high[groups][1] + got[1].Height}
					on, of := alike(got[0].Lines, got[1].Lines)
					t.Logf("%s at %d: %d of %d lines, %.0f and %.0f high, %d groups", p.name, width, on, of, got[0].Height, got[1].Height, groups)
					same[groups] += on
					lines[groups] += of
					pages[groups]++
					if on == of {
						whole[groups]++
					}
				}
			}
		}
	}
	for _, groups := range tries {
		t.Logf("%d groups: %d of %d lines break at the same word, %d of %d paragraphs are the same in all", groups, same[groups], lines[groups], whole[groups], pages[groups])
		require.NotZero(t, lines[groups])
		assert.InEpsilon(t, high[groups][0], high[groups][1], 0.01, "all paragraphs together are as high")
	}
	share := func(groups int) float64 { return float64(same[groups]) / float64(lines[groups]) }
	assert.Greater(t, share(0), 0.75)
	assert.Greater(t, share(fallback.MaxGroups), 0.98)
	assert.Greater(t, float64(whole[fallback.MaxGroups])/float64(pages[fallback.MaxGroups]), 0.85)
}

// alike counts the lines that start at the same word in both lists, and those of
// them that end at the same word.
func alike(a, b []string) (same, of int) {
	for i := range a {
		place := slices.Index(b, a[i])
		if place < 0 {
			continue
		}
		of++
		last, end := i+1 == len(a), place+1 == len(b)
		if last && end || !last && !end && a[i+1] == b[place+1] {
			same++
		}
	}
	return same, of
}
