package service_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// BenchmarkConsole opens pages of the console in a new tab, with nothing in the browser's cache,
// and reports what a visitor has to wait for: the first text, the heading, what the page is
// about, how long the page takes from a click to its next frame, its nodes, and the bytes that
// came over the wire. The family has 60 faces.
func BenchmarkConsole(b *testing.B) {
	s := open(b)
	var family int64
	for i := range 60 {
		d := foundry.Wayfinding()[i%18]
		d.Family, d.Style, d.PostScript = "Bollardine Everything", fmt.Sprintf("%s %d", d.Style, i/18+1), fmt.Sprintf("%s-%d", d.PostScript, i)
		family = s.family(d)
	}
	site := s.site("Holmvik timetable", 1, family)
	for _, one := range []struct{ name, path, ready, press string }{
		{"home", "/", "h1", `//label[normalize-space()="60 days"]`}, {"catalog", "/families", ".strip", `//button[normalize-space()="Filters"]`}, {"family of 60 faces", "/families/" + itoa(family), ".face", `//button[normalize-space()="Edit"]`},
		{"fonts and roles", "/sites/" + itoa(site) + "/roles", ".role", `//*[@aria-label="Help"]`}, {"activity", "/activity", ".line", `//*[@aria-label="Person"]/ancestor::*[contains(@class,"el-select")][1]`},
	} {
		b.Run(one.name, func(b *testing.B) {
			var text, heading, content, frame, nodes, wire float64
			for b.Loop() {
				ctx := tab(b, "")
				_, err := chromedp.Call(ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: `new MutationObserver((_, o) => {
					if (document.querySelector("h1")) { o.disconnect(); requestAnimationFrame(() => { window.headingAt = performance.now() }) }
				}).observe(document, { childList: true, subtree: true })
				window.slowest = 0
				new PerformanceObserver(l => l.getEntries().forEach(e => { window.slowest = Math.max(window.slowest, e.duration) })).observe({ type: "event", durationThreshold: 16 })`})
				require.NoError(b, err)
				signIn(b, ctx, s.Service, api.RoleEditor, "/nowhere")
				browsertest.Do(b, ctx, chromedp.Navigate(s.Address+one.path), browsertest.Visible(one.ready))
				m := browsertest.Eval[[]float64](b, ctx, `[
					performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? 0,
					window.headingAt, performance.now(), document.querySelectorAll("*").length,
					performance.getEntriesByType("resource").reduce((n, r) => n + (r.name.includes("/api/") ? 0 : r.encodedBodySize), 0)]`)
				text, heading, content, nodes, wire = text+m[0], heading+m[1], content+m[2], nodes+m[3], wire+m[4]
				browsertest.Do(b, ctx, browsertest.Click(one.press))
				frame += browsertest.Eval[float64](b, ctx, `new Promise(done => setTimeout(() => done(window.slowest), 500))`)
			}
			n := float64(b.N)
			b.ReportMetric(text/n, "ms-to-first-text")
			b.ReportMetric(heading/n, "ms-to-heading")
			b.ReportMetric(content/n, "ms-to-content")
			b.ReportMetric(frame/n, "ms-from-click-to-frame")
			b.ReportMetric(nodes/n, "nodes")
			b.ReportMetric(wire/n/1000, "kB")
		})
	}
}
