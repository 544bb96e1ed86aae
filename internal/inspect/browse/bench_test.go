package browse

import (
	"context"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"sparecrate/internal/fakes/sites"
)

// BenchmarkInspection times an inspection beside bare loading of the same page in the same
// browser, with a clean profile each: to reach is one and a half times that, and a second.
func BenchmarkInspection(b *testing.B) {
	one := sites.Faultless()[0]
	servers := sites.Start([]sites.Site{one})
	b.Cleanup(servers.Close)
	browser, err := Start(b.Context(), Options{Private: true})
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(browser.Close)
	var bare, whole time.Duration
	for b.Loop() {
		at := time.Now()
		if _, err := browser.Inspect(b.Context(), servers.URL(one), Plan{}); err != nil {
			b.Fatal(err)
		}
		whole += time.Since(at)
		at = time.Now()
		if err := load(browser.ctx, servers.URL(one)); err != nil {
			b.Fatal(err)
		}
		bare += time.Since(at)
	}
	n := time.Duration(b.N)
	b.ReportMetric(float64((whole/n-time.Second).Milliseconds())/float64((bare/n).Milliseconds()), "times-bare-beside-a-second")
	b.ReportMetric(float64((bare / n).Milliseconds()), "ms-bare")
	b.ReportMetric(float64((whole / n).Milliseconds()), "ms-inspection")
}

// load loads a page, with its fonts.
func load(ctx context.Context, url string) error {
	ctx, cancel := chromedp.NewContext(ctx, chromedp.WithNewBrowserContext())
	defer cancel()
	if err := chromedp.Do(ctx, chromedp.Navigate(url)); err != nil {
		return err
	}
	_, err := chromedp.Run(ctx, chromedp.Evaluate[bool]("document.fonts.ready.then(() => true)", chromedp.EvalAwaitPromise))
	return err
}
