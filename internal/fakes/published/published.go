// Package published is a small published site with the mistakes that sites have, and a page
// without them, to be inspected: it stands in for a client's site in the demo and in tests.
package published

import (
	"net/http"
	"strings"

	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
)

// The paths of its pages.
const (
	Home  = "/"
	Fares = "/fares"
	// Members is a page of another site, where nothing is wrong.
	Members = "/members"
)

// Server serves the site.
type Server struct {
	files map[string][]byte
	texts map[string]string
}

// rules are its stylesheet: the regular comes without compression, the bold is not where it
// is looked for, and nothing says what shows until they come.
const rules = `@font-face { font-family: "Skerrow Sans"; src: url("/fonts/skerrow-sans-regular.ttf"); }
@font-face { font-family: "Skerrow Sans"; font-weight: 700; src: url("/assets/skerrow-sans-bold.woff2") format("woff2"); }
* { box-sizing: border-box; }
body { margin: 0; font-family: "Skerrow Sans", Arial, sans-serif; font-size: 18px; line-height: 1.5; color: #13323f; background: #f3f7f6; }
header { background: #13323f; color: #fff; padding: 28px 40px; }
header a { color: #bfe3dc; margin-right: 24px; text-decoration: none; font-family: "Brackmoor Sans", Arial, sans-serif; }
h1 { font-size: 44px; line-height: 1.15; margin: 0 0 18px; }
main { padding: 32px 40px; max-width: 900px; }
table { border-collapse: collapse; width: 100%; background: #fff; }
td, th { text-align: left; padding: 10px 14px; border-bottom: 1px solid #d5e2e0; }
th { font-weight: 700; }
.note { font-family: "Skerrow-Sans", serif; border-left: 6px solid #2f8f83; padding-left: 16px; }
`

// goodRules are the stylesheet of the page without mistakes.
const goodRules = `@font-face { font-family: "Skerrow Sans"; src: url("/fonts/skerrow-sans-regular.woff2") format("woff2"); font-weight: 400; font-display: swap; }
@font-face { font-family: "Skerrow Sans"; src: url("/fonts/skerrow-sans-bold.woff2") format("woff2"); font-weight: 700; font-display: swap; }
* { box-sizing: border-box; }
body { margin: 0; font-family: "Skerrow Sans", sans-serif; font-size: 18px; line-height: 1.5; color: #13323f; background: #f3f7f6; }
main { padding: 32px 40px; max-width: 700px; }
h1 { font-size: 40px; line-height: 1.15; margin: 0 0 18px; font-weight: 700; }
`

// New draws its fonts. hosted is the URL of a stylesheet of somebody else's, which its pages
// load too; empty for none.
func New(hosted string) (*Server, error) {
	s := &Server{files: map[string][]byte{}, texts: map[string]string{"/site.css": rules, "/members.css": goodRules}}
	signage := foundry.Signage()
	for path, as := range map[string]font.Container{"/fonts/skerrow-sans-regular.ttf": font.TTF, "/fonts/skerrow-sans-regular.woff2": font.WOFF2, "/fonts/skerrow-sans-bold.woff2": font.WOFF2} {
		design := signage[1]
		if strings.Contains(path, "bold") {
			design = signage[2]
		}
		b, err := foundry.Build(design, as)
		if err != nil {
			return nil, err
		}
		s.files[path] = b
	}
	sheet := ""
	if hosted != "" {
		sheet = `<link rel="stylesheet" href="` + hosted + `">`
	}
	page := func(title, main string) string {
		return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>` + title + `</title>` +
			sheet + `<link rel="stylesheet" href="/site.css"></head><body><header><h1>` + title + `</h1><nav><a href="/">Timetable</a> <a href="/fares">Fares</a></nav></header><main>` + main + `</main></body></html>`
	}
	s.texts[Home] = page("Holmvik ferries", `<p>Next ferry to Skerry leaves quay 4 at 16:35. In winter the last boat is at 19:10.</p>
<table><tr><th>Leaves</th><th>For</th><th>Quay</th></tr><tr><td>16:35</td><td>Skerry</td><td>4</td></tr><tr><td>17:20</td><td>Orrsay</td><td>2</td></tr><tr><td>18:05</td><td>Skerry</td><td>4</td></tr><tr><td>19:10</td><td>Holm of Brae</td><td>1</td></tr></table>
<p class="note">Dogs travel free; bicycles on the car deck only.</p>`)
	s.texts[Fares] = page("Fares", `<p>A single to Skerry is 6.40, a day return 10.80. Children under twelve travel for half.</p><p>Season tickets are valid until 31 October.</p>`)
	s.texts[Members] = `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Members of the Holmvik ferries</title>
<link rel="preload" href="/fonts/skerrow-sans-regular.woff2" as="font" type="font/woff2" crossorigin><link rel="preload" href="/fonts/skerrow-sans-bold.woff2" as="font" type="font/woff2" crossorigin>
<link rel="stylesheet" href="/members.css"></head><body><main><h1>Members travel first</h1>
<p>Your card takes you aboard ten minutes before everybody else, with a seat at a window and coffee on the upper deck.</p><p>Renew it before 31 March and keep your number.</p></main></body></html>`
	return s, nil
}

// ServeHTTP answers with a page, the stylesheet or a font.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if b, has := s.files[r.URL.Path]; has {
		w.Header().Set("Content-Type", "font/"+r.URL.Path[strings.LastIndexByte(r.URL.Path, '.')+1:])
		w.Header().Set("Cache-Control", "public, max-age=31536000")
		_, _ = w.Write(b)
		return
	}
	text, has := s.texts[r.URL.Path]
	if !has {
		http.NotFound(w, r)
		return
	}
	kind := "text/html; charset=utf-8"
	if strings.HasSuffix(r.URL.Path, ".css") {
		kind = "text/css; charset=utf-8"
	}
	w.Header().Set("Content-Type", kind)
	_, _ = strings.NewReader(text).WriteTo(w)
}
