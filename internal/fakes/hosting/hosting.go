// Package hosting is a small server of hosted fonts, as others run them: it
// serves stylesheets by address and the font files behind them, a face in two
// parts by characters. It stands in for such servers in the demo and in tests.
package hosting

import (
	"fmt"
	"net/http"
	"strings"
	"sync"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/css"
	"sparecrate/internal/demo/foundry"
)

// Family is the family that is served.
const Family = "Brackmoor Sans"

// openLicense is what its fonts say of their license.
const openLicense = "This Font Software is licensed under the SIL Open Font License, Version 1.1. This license is available at https://openfontlicense.org"

// The addresses of its stylesheets.
const (
	SheetPath  = "/sheets/brackmoor-sans.css"
	ImportPath = "/sheets/all.css" // only imports the other
	PagePath   = "/brackmoor"      // a page about the family, which is no stylesheet
)

// Server serves one family.
type Server struct {
	sheet string
	files map[string][]byte
	mu    sync.Mutex
	calls map[string]int
}

// New draws the family and makes its files.
func New() (*Server, error) {
	s := &Server{files: map[string][]byte{}, calls: map[string]int{}}
	var rules []css.Face
	for _, d := range foundry.Signage()[1:] { // regular and bold
		d.License, d.LicenseURL = openLicense, "https://openfontlicense.org"
		data, err := foundry.Build(d, font.TTF)
		if err != nil {
			return nil, err
		}
		opened, err := font.Open(data)
		if err != nil {
			return nil, err
		}
		face, _, err := rename.Face(opened.Faces[0], rename.Options{Family: Family})
		if err != nil {
			return nil, err
		}
		for _, part := range []string{"latin", "latin-ext"} {
			rule, err := s.part(face, part)
			if err != nil {
				return nil, err
			}
			rules = append(rules, *rule)
		}
	}
	s.sheet = "/* " + Family + " */\n" + css.Sheet(rules)
	return s, nil
}

// part makes the file of a face for some characters, and its rule.
func (s *Server) part(face *sfnt.Font, part string) (*css.Face, error) {
	wanted, err := coverage.Named(part)
	if err != nil {
		return nil, err
	}
	if part != "latin" {
		basic, err := coverage.Named("latin")
		if err != nil {
			return nil, err
		}
		wanted = wanted.Without(basic)
	}
	cut, _, err := subset.Face(face, subset.Options{Characters: wanted})
	if err != nil {
		return nil, err
	}
	data, err := font.Make(cut, font.WOFF2)
	if err != nil {
		return nil, err
	}
	rule := css.Of(metadata.One(face))
	rule.Range = wanted.String()
	path := fmt.Sprintf("/files/brackmoor-%s-%s.woff2", rule.Weight, part)
	s.files[path] = data
	rule.Sources = []css.Source{{URL: path, Format: "woff2"}}
	return &rule, nil
}

// Calls says how often a path was asked for.
func (s *Server) Calls(path string) int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.calls[path]
}

// ServeHTTP answers with a sheet, a file, or the page.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	s.calls[r.URL.Path]++
	s.mu.Unlock()
	w.Header().Set("Access-Control-Allow-Origin", "*")
	answer := func(kind, text string) {
		w.Header().Set("Content-Type", kind)
		_, _ = strings.NewReader(text).WriteTo(w)
	}
	switch file, ok := s.files[r.URL.Path]; {
	case ok:
		answer("font/woff2", string(file))
	case r.URL.Path == SheetPath:
		answer("text/css; charset=utf-8", s.sheet)
	case r.URL.Path == ImportPath:
		answer("text/css; charset=utf-8", `@import url("`+strings.TrimPrefix(SheetPath, "/sheets/")+`");`)
	case r.URL.Path == PagePath:
		answer("text/html; charset=utf-8", "<!doctype html><title>"+Family+"</title><p>A stand-in for a server of hosted fonts. The stylesheet is at <code>"+SheetPath+"</code>.")
	default:
		http.NotFound(w, r)
	}
}
