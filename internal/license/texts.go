package license

import (
	"embed"
	"slices"
	"strings"
	"sync"

	"github.com/github/go-spdx/v2/spdxexp"

	"sparecrate/font/metadata"
)

//go:embed texts/*.txt
var textFiles embed.FS

// FullText returns the standard text of an open license by its SPDX identifier; empty for
// one whose text is not known. An exception stands before the license that it changes.
func FullText(id string) string {
	base, exception, with := strings.Cut(id, " WITH ")
	if text := standardText(id); text != "" {
		return text
	}
	text := standardText(strings.TrimSuffix(strings.TrimSuffix(base, "-only"), "-or-later"))
	if !with || text == "" {
		return text
	}
	before := standardText(exception)
	if before == "" {
		return ""
	}
	return before + "\n" + text
}

func standardText(name string) string {
	b, err := textFiles.ReadFile("texts/" + name + ".txt")
	if err != nil {
		return ""
	}
	return string(b)
}

// TextFor returns the text of an open license: the longest of some texts that is that
// license in full, as its makers give it with their notices, else the standard text. Its
// source is empty for the standard text.
func TextFor(id string, candidates []Text) Text {
	standard := FullText(id)
	best := Text{Body: standard}
	// A text that only speaks of the license is shorter than the license.
	least := len(squeezed(standard)) * 4 / 5
	for _, t := range candidates {
		if standard == "" || len(t.Body) > maxText || len(squeezed(t.Body)) < least || !isText(id, t.Body) {
			continue
		}
		if best.Source == "" || len(t.Body) > len(best.Body) {
			best = t
		}
	}
	if best.Source != "" {
		best.Body = strings.TrimSpace(strings.ReplaceAll(strings.ReplaceAll(best.Body, "\r\n", "\n"), "\r", "\n")) + "\n"
	}
	return best
}

// isText reports whether a text points to a license before all others, and holds the
// sentences in which its standard text ends.
func isText(id, body string) bool {
	p := plain(body)
	if _, ok := p.licenses()[id]; !ok {
		return false
	}
	squeezedBody, standard := squeezed(body), squeezed(FullText(id))
	// Three places of the standard text, each of 60 characters.
	found := 0
	for _, at := range []int{len(standard) / 4, len(standard) / 2, len(standard) * 3 / 4} {
		if strings.Contains(squeezedBody, standard[at:min(at+60, len(standard))]) {
			found++
		}
	}
	return found >= 2
}

// squeezed is a text as its letters and digits alone, in lower case.
func squeezed(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			return r
		}
		return -1
	}, s)
}

var listed sync.Map // whether an identifier is listed, by identifier

// Listed reports whether an identifier, or an expression of some, is of the SPDX License
// List.
func Listed(id string) bool {
	if known, ok := listed.Load(id); ok {
		return known.(bool)
	}
	ok := id != "" && len(id) <= 80
	if ok {
		ok, _ = spdxexp.ValidateLicenses([]string{id})
	}
	listed.Store(id, ok)
	return ok
}

// Notices are what the license of a font asks to be kept with it.
type Notices struct {
	Copyright  []string // and trademarks, as the fonts say them
	Reserved   []string // font names that only the unchanged font may have
	LicenseURL string
}

// NoticesOf returns the notices of some faces, each once, in their order.
func NoticesOf(faces []*metadata.Face) Notices {
	var n Notices
	add := func(to *[]string, text string) {
		if text = strings.TrimSpace(text); text != "" && !slices.Contains(*to, text) {
			*to = append(*to, text)
		}
	}
	for _, f := range faces {
		add(&n.Copyright, f.Names.Copyright)
		add(&n.Copyright, f.Names.Trademark)
		if n.LicenseURL == "" {
			n.LicenseURL = strings.TrimSpace(f.Names.LicenseURL)
		}
		for _, found := range inNames(f) {
			for _, name := range found.Reserved {
				add(&n.Reserved, name)
			}
		}
	}
	return n
}
