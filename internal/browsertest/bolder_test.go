package browsertest_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"sparecrate/internal/browsertest"
	"sparecrate/internal/pack"
)

// TestBolderIsWhatTheBrowserAsksFor reads the weight that bold words are set in within text
// of every weight.
func TestBolderIsWhatTheBrowserAsksFor(t *testing.T) {
	ctx := browsertest.New(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate("about:blank"))
	asked := browsertest.Eval[[]int](t, ctx, `(() => {
		const out = []
		for (let w = 1; w <= 1000; w++) {
			document.body.innerHTML = "<p style='font-weight:" + w + "'><b>x</b></p>"
			out.push(Number(getComputedStyle(document.querySelector("b")).fontWeight))
		}
		return out
	})()`)
	for i, want := range asked {
		assert.Equal(t, want, pack.Bolder(i+1), fmt.Sprint(i+1))
	}
	assert.Len(t, asked, 1000)
}
