package inspect

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/trim"
)

// Shown is a font of a page with the characters that the page shows in it.
type Shown struct {
	URL, SHA256 string
	Face        *sfnt.Font
	Text        string // characters
	Size        int64  // of what comes, or of its WOFF2 where that is smaller
	NoSubset    bool   // the file says that it may not be subset
	Name        string
	Style       string
	Version     string
	Variable    bool
}

// mostTogether bounds the fonts that are held until all pages were seen.
const mostTogether = 60

// Together is what several pages of a site load and show. It holds each font once, and no
// pages.
type Together struct {
	pages int
	fonts []*Shown
	byKey map[string]*Shown
}

// Add takes what a page shows, and lets the page go of it.
func (t *Together) Add(p *Page) {
	t.pages++
	if t.byKey == nil {
		t.byKey = map[string]*Shown{}
	}
	for _, s := range p.Shown {
		one := t.byKey[s.SHA256]
		if one == nil {
			if len(t.fonts) >= mostTogether {
				continue
			}
			one = &s
			t.byKey[s.SHA256] = one
			t.fonts = append(t.fonts, one)
			continue
		}
		one.Text = once(one.Text, s.Text)
	}
	p.Shown = nil
}

// once adds the characters of a text to those there are.
func once(have, text string) string {
	for _, c := range text {
		if !strings.ContainsRune(have, c) {
			have += string(c)
		}
	}
	return have
}

// Findings returns what only several pages together show: what subsets of the characters that
// all of them show would save, and versions of one face. What single pages say of subsets is
// taken off them, since another page may need what they do not.
func (t *Together) Findings(pages []*Page) []Finding {
	if t.pages < 2 {
		return nil
	}
	for _, p := range pages {
		p.Findings = slices.DeleteFunc(p.Findings, func(f Finding) bool { return f.Code == "subset-would-save" })
	}
	var out []Finding
	for _, s := range t.fonts {
		trimmed := subset(s.Face, s.Text)
		if trimmed > 0 && worthwhile(s.Size, trimmed) {
			f := saving(s.URL, s.Size, trimmed, fmt.Sprintf("none of the %d pages shows", t.pages), s.NoSubset)
			f.Severity = severityOf(f.Code)
			out = append(out, f)
		}
	}
	said := map[string]bool{}
	for i, s := range t.fonts {
		for _, o := range t.fonts[:i] {
			key := s.Name + "\x00" + s.Style
			if s.Name != o.Name || s.Style != o.Style || s.Variable != o.Variable || s.Version == o.Version || said[key] {
				continue
			}
			said[key] = true
			f := Finding{Code: "several-versions", URL: s.URL, Message: fmt.Sprintf("The pages load %s in two versions: %s and %s.", strings.TrimSpace(s.Name+" "+s.Style), o.Version, s.Version), Evidence: o.URL, Fix: "Have all pages load the same file: put one up, and write its URL into every stylesheet."}
			f.Severity = severityOf(f.Code)
			out = append(out, f)
		}
	}
	return out
}

// subset returns the size of a font with some characters as WOFF2; 0 where it is not made.
func subset(face *sfnt.Font, text string) int64 {
	if face == nil || text == "" {
		return 0
	}
	small, _, err := trim.Face(face, trim.Options{Characters: coverage.OfText(text + " ")})
	if err != nil {
		return 0
	}
	b, err := font.Make(small, font.WOFF2)
	if err != nil {
		return 0
	}
	return int64(len(b))
}

// worthwhile reports whether a subset saves enough to be told.
func worthwhile(now, trimmed int64) bool {
	saves := now - trimmed
	return trimmed > 0 && saves >= worthTrimming && float64(saves) >= worthPart*float64(now)
}

// saving says what a subset saves.
func saving(address string, now, trimmed int64, unshown string, mayNot bool) Finding {
	f := Finding{Code: "subset-would-save", URL: address, Message: fmt.Sprintf("Of %s, %s are for characters that %s: a subset of those that show is %s instead of %s.", lastPart(address), kB(now-trimmed), unshown, kB(trimmed), kB(now)),
		Evidence: "measured by making it", Fix: "sparecrate file trim --keep latin --out small.woff2 " + lastPart(address) + ", with the characters that the whole site uses."}
	if mayNot {
		f.Fix = "The file says that it may not be subset; ask its maker, or for a smaller edition."
	}
	return f
}

// shownFonts gathers the fonts of a visit that are large enough to be subset, or may come in
// another version elsewhere.
func (v *Visit) shownFonts() []Shown {
	var out []Shown
	for _, r := range v.Sent() {
		if slices.ContainsFunc(out, func(s Shown) bool { return s.SHA256 == r.Font.SHA256 }) {
			continue
		}
		n := r.Font.Facts.Names
		s := Shown{URL: r.URL, SHA256: r.Font.SHA256, Size: cmp.Or(min(int64(len(r.Body)), r.Font.Compressed), int64(len(r.Body))), NoSubset: r.Font.Facts.Embedding.NoSubsetting,
			Name: n.FamilyName(), Style: n.StyleName(), Version: n.Version, Variable: len(r.Font.Facts.Axes) > 0}
		if len(r.Body) >= leastShrunk {
			s.Face = r.Font.Face
			for _, run := range v.UsedIn(r.Font) {
				s.Text = once(s.Text, run.Text)
			}
		}
		out = append(out, s)
	}
	return out
}
