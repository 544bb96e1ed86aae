package service_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// BenchmarkConsole opens pages of the console in a new tab, with nothing in the browser's cache,
// and reports what a visitor has to wait for: the first text, the heading, the nodes of the page,
// and the bytes that came over the wire. The family has 60 faces.
func BenchmarkConsole(b *testing.B) {
	s := open(b)
	var family int64
	for i := range 60 {
		d := foundry.Wayfinding()[i%18]
		d.Family, d.Style, d.PostScript = "Bollardine Everything", fmt.Sprintf("%s %d", d.Style, i/18+1), fmt.Sprintf("%s-%d", d.PostScript, i)
		family = s.family(d)
	}
	site := s.site("Holmvik timetable", 1, family)
	for _, page := range []struct{ name, path, ready string }{
		{"home", "/", "h1"}, {"catalog", "/families", ".strip"}, {"family of 60 faces", "/families/" + itoa(family), ".face"},
		{"fonts and roles", "/sites/" + itoa(site) + "/roles", ".role"}, {"activity", "/activity", ".line"},
	} {
		b.Run(page.name, func(b *testing.B) {
			var text, heading, nodes, wire float64
			for b.Loop() {
				ctx := tab(b, "")
				signIn(b, ctx, s.Service, api.RoleEditor, "/nowhere")
				browsertest.Do(b, ctx, chromedp.Navigate(s.Address+page.path), browsertest.Visible(page.ready))
				m := browsertest.Eval[[]float64](b, ctx, `[
					performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? 0,
					performance.now(), document.querySelectorAll("*").length,
					performance.getEntriesByType("resource").reduce((n, r) => n + (r.name.includes("/api/") ? 0 : r.encodedBodySize), 0)]`)
				text, heading, nodes, wire = text+m[0], heading+m[1], nodes+m[2], wire+m[3]
			}
			n := float64(b.N)
			b.ReportMetric(text/n, "ms-to-first-text")
			b.ReportMetric(heading/n, "ms-to-content")
			b.ReportMetric(nodes/n, "nodes")
			b.ReportMetric(wire/n/1000, "kB")
		})
	}
}
