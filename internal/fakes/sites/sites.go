// Package sites is a set of published pages for tests of inspections: pages with planted
// faults, alone and mixed, and faultless ones. All of them are served by one server, each
// under a path of its own, with a second server that stands for somebody else's. Names,
// texts and fonts are made up.
package sites

import (
	"encoding/base64"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"time"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/css"
	"sparecrate/internal/demo/foundry"
)

// Site is a published page with the files that it loads.
type Site struct {
	Name    string
	Files   map[string]File // by path within the site; the page is index.html
	Planted []string        // codes of its faults, in no order; none for a faultless page
	HTTPS   bool            // it can only be had at its name, over TLS
}

// File is a file that a server sends.
type File struct {
	Type    string
	Body    string
	Status  int               // 0 is 200
	Headers map[string]string // beside those that all files have
	Delay   time.Duration
	Serve   http.HandlerFunc // in place of all that
}

// Servers serve the sites.
type Servers struct {
	Page, Other, Secure *httptest.Server
}

// Start serves sites. Close the servers.
func Start(all []Site) *Servers {
	s := &Servers{}
	byName := map[string]Site{}
	for _, one := range all {
		byName[one.Name] = one
	}
	serve := func(w http.ResponseWriter, r *http.Request) {
		name, path, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/"), "/")
		if path == "" {
			path = "index.html"
		}
		f, has := byName[name].Files[path]
		if !has {
			http.NotFound(w, r)
			return
		}
		s.send(w, r, f)
	}
	s.Page = httptest.NewServer(http.HandlerFunc(serve))
	s.Secure = httptest.NewTLSServer(http.HandlerFunc(serve))
	s.Other = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Access-Control-Allow-Origin", "*")
		if strings.HasPrefix(r.URL.Path, "/closed/") {
			w.Header().Del("Access-Control-Allow-Origin")
		}
		switch {
		case strings.HasSuffix(r.URL.Path, ".css"):
			s.send(w, r, File{Type: "text/css", Body: Rule("Skerrow Sans", 400, "regular.woff2") + Rule("Skerrow Sans", 700, "bold.woff2")})
		default:
			s.send(w, r, File{Type: "font/woff2", Body: Fonts()[r.URL.Path[strings.LastIndexByte(r.URL.Path, '/')+1:]]})
		}
	}))
	return s
}

// Close ends the servers.
func (s *Servers) Close() {
	s.Page.Close()
	s.Other.Close()
	s.Secure.Close()
}

// URL returns where a site is.
func (s *Servers) URL(one Site) string {
	if one.HTTPS {
		return "https://www.harbour.example/" + one.Name + "/"
	}
	return s.Page.URL + "/" + one.Name + "/"
}

// Elsewhere says where the names of sites are reached.
func (s *Servers) Elsewhere() map[string]string {
	return map[string]string{"www.harbour.example:443": s.Secure.Listener.Addr().String(), "plain.harbour.example:80": s.Page.Listener.Addr().String()}
}

func (s *Servers) send(w http.ResponseWriter, r *http.Request, f File) {
	if f.Serve != nil {
		f.Serve(w, r)
		return
	}
	time.Sleep(f.Delay)
	w.Header().Set("Content-Type", f.Type)
	if !strings.HasPrefix(f.Type, "text/html") {
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	for name, value := range f.Headers {
		if w.Header().Set(name, strings.ReplaceAll(value, "{other}", s.Other.URL)); value == "" {
			w.Header().Del(name)
		}
	}
	if f.Status != 0 {
		w.WriteHeader(f.Status)
	}
	_, _ = w.Write([]byte(strings.NewReplacer("{other}", s.Other.URL, "{page}", s.Page.URL).Replace(f.Body)))
}

// Rule writes an @font-face rule as it should be.
func Rule(family string, weight int, file string) string {
	return fmt.Sprintf("@font-face { font-family: \"%s\"; src: url(\"%s\") format(\"woff2\"); font-weight: %d; font-style: normal; font-display: swap; }\n", family, file, weight)
}

// Fonts are the font files of the sites, by name.
var Fonts = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	put := func(name string, b []byte, err error) {
		if err != nil {
			panic(fmt.Sprintf("%s: %v", name, err))
		}
		out[name] = string(b)
	}
	signage := foundry.Signage()
	by := map[int]*foundry.Design{}
	for _, d := range signage {
		if !strings.Contains(d.Style, "Italic") && d.WidthClass == 5 {
			by[d.Weight] = d
		}
	}
	for name, d := range map[string]*foundry.Design{"regular": by[400], "bold": by[700], "display": foundry.Display(), "poster": foundry.Poster()} {
		for ending, format := range map[string]font.Container{".woff2": font.WOFF2, ".woff": font.WOFF, ".ttf": font.TTF} {
			b, err := foundry.Build(d, format)
			put(name+ending, b, err)
		}
	}
	old := *by[400]
	old.Version = "Version 0.900"
	b, err := foundry.Build(&old, font.WOFF2)
	put("old.woff2", b, err)
	old.Dot += 14
	b, err = foundry.Build(&old, font.WOFF2)
	put("redrawn.woff2", b, err)
	italic := *by[400]
	italic.Style, italic.PostScript = "Italic", "SkerrowSans-Italic"
	b, err = foundry.Build(&italic, font.TTF)
	put("italic.woff2", must(marked(b)), err)
	trial := *by[400]
	trial.Family, trial.PostScript, trial.License = "Brackwater Text", "BrackwaterText-Regular", "This is a trial version. Free for personal use only."
	b, err = foundry.Build(&trial, font.WOFF2)
	put("trial.woff2", b, err)
	b, err = foundry.BuildVariable(signage, font.WOFF2)
	put("variable.woff2", b, err)
	b, err = foundry.Build(by[400], font.TTF)
	put("icons.woff2", must(icons(b)), err)
	put("large.woff2", must(large(b)), err)
	put("few.woff2", must(kept(b, coverage.OfText("Ferry times"))), err)
	for name, set := range map[string]string{"latin": "latin", "more": "latin-ext"} {
		characters, err := coverage.Named(set)
		put(name+".woff2", must(kept(b, characters)), err)
	}
	return out
})

// dataURL writes a font as a URL that holds it.
func dataURL(name string) string {
	return "data:font/woff2;base64," + base64.StdEncoding.EncodeToString([]byte(Fonts()[name]))
}

// fallbackRule is a stand-in for Skerrow Sans, made to its measure.
var fallbackRule = func() string {
	f := opened("regular.ttf")
	web, err := fallback.Face(f)
	if err != nil {
		panic(err)
	}
	arial, err := fallback.System("arial", false)
	if err != nil {
		panic(err)
	}
	o, err := fallback.Of(web, arial, "")
	if err != nil {
		panic(err)
	}
	return css.Fallback(metadata.One(f), "Arial", *o).String() + "\n"
}()

func opened(name string) *sfnt.Font {
	f, err := font.Open([]byte(Fonts()[name]))
	if err != nil {
		panic(err)
	}
	return f.Faces[0]
}

func must(b []byte, err error) []byte {
	if err != nil {
		panic(err)
	}
	return b
}

// kept makes a subset.
func kept(b []byte, characters coverage.Characters) ([]byte, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	small, _, err := subset.Face(f.Faces[0], subset.Options{Characters: characters})
	if err != nil {
		return nil, err
	}
	return font.Make(small, font.WOFF2)
}

// withTable returns a font with a table put in its place, or added.
func withTable(f *sfnt.Font, tag sfnt.Tag, data []byte) *sfnt.Font {
	out := &sfnt.Font{Flavor: f.Flavor}
	done := false
	for _, t := range f.Tables {
		if t.Tag == tag {
			t.Data, done = data, true
		}
		out.Tables = append(out.Tables, t)
	}
	if !done {
		out.Tables = append(out.Tables, sfnt.Table{Tag: tag, Data: data})
	}
	return sfnt.Settle(out)
}
