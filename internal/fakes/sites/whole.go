package sites

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
)

// Whole is a published site of several pages, with a robots.txt and a sitemap, and what
// was asked of it.
type Whole struct {
	*httptest.Server
	mu    sync.Mutex
	asked []string
}

// Asked returns the paths that were asked for, in order.
func (w *Whole) Asked() []string {
	w.mu.Lock()
	defer w.mu.Unlock()
	return slices.Clone(w.asked)
}

// StartWhole serves a site of eight pages: one is named by the sitemap alone, one may not
// be read, one is set in another family, one leads to itself without end, and one is gone.
func StartWhole() *Whole {
	w := &Whole{}
	menu := `<nav><a href="/">Home</a> <a href="/fares">Fares</a> <a href="/news/">News</a> <a href="/staff/rota">Staff</a> <a href="/timetable.pdf">Timetable</a> <a href="https://elsewhere.example/">Elsewhere</a></nav>`
	page := func(title string) string {
		return html(`<link rel="stylesheet" href="/site.css">`, menu+"<h1>"+title+"</h1><p>The first ferry leaves at six.</p>").Body
	}
	pages := map[string]string{
		"/": page("Harbour"), "/fares": page("Fares"), "/news/": strings.ReplaceAll(page("News"), "</p>", `</p><a href="one">First</a> <a href="/gone">Gone</a> <a href="/again?n=1">Again</a>`), "/news/one": page("News one"),
		"/hidden": page("Hidden"), "/staff/rota": page("Rota"),
		"/old": html("<style>h1 { font-family: Georgia, serif }</style><link rel=\"stylesheet\" href=\"/site.css\">", menu+"<h1 style=\"font-family: Georgia, serif\">Old</h1><p>The first ferry left at seven.</p>").Body,
	}
	w.Server = httptest.NewServer(http.HandlerFunc(func(out http.ResponseWriter, r *http.Request) {
		w.mu.Lock()
		w.asked = append(w.asked, r.URL.Path)
		w.mu.Unlock()
		answer := func(kind, body string) {
			out.Header().Set("Content-Type", kind)
			out.Header().Set("Cache-Control", "public, max-age=31536000")
			_, _ = out.Write([]byte(body))
		}
		switch path := r.URL.Path; {
		case path == "/robots.txt":
			answer("text/plain", "User-agent: *\nDisallow: /staff/\nSitemap: "+w.URL+"/maps.xml\n")
		case path == "/maps.xml":
			answer("application/xml", `<?xml version="1.0"?><sitemapindex xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><sitemap><loc>`+w.URL+`/map.xml</loc></sitemap></sitemapindex>`)
		case path == "/map.xml":
			answer("application/xml", `<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>`+w.URL+`/hidden</loc></url><url><loc>`+w.URL+`/old</loc></url><url><loc>https://elsewhere.example/</loc></url></urlset>`)
		case path == "/site.css":
			answer("text/css", strings.ReplaceAll(regular+bold, "fonts/", "/fonts/")+fallbackRule+use)
		case strings.HasPrefix(path, "/fonts/"):
			answer(woff2, Fonts()[strings.TrimPrefix(path, "/fonts/")])
		case path == "/again":
			answer("text/html", html("", fmt.Sprintf(`<p>Again</p><a href="/again?n=%sx">more</a>`, r.URL.Query().Get("n"))).Body)
		case pages[path] != "":
			answer("text/html; charset=utf-8", pages[path])
		default:
			http.NotFound(out, r)
		}
	}))
	return w
}
