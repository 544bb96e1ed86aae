package inspect

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
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

// Once adds the characters of a text to those there are.
func Once(have, text string) string {
	for _, c := range text {
		if !strings.ContainsRune(have, c) {
			have += string(c)
		}
	}
	return have
}

// Subset returns the size of a font with some characters as WOFF2; 0 where it is not made.
func Subset(face *sfnt.Font, text string) int64 {
	if face == nil || text == "" {
		return 0
	}
	small, _, err := subset.Face(face, subset.Options{Characters: coverage.OfText(text + " ")})
	if err != nil {
		return 0
	}
	b, err := font.Make(small, font.WOFF2)
	if err != nil {
		return 0
	}
	return int64(len(b))
}

// Worthwhile reports whether a subset saves enough to be told.
func Worthwhile(now, trimmed int64) bool {
	saves := now - trimmed
	return trimmed > 0 && saves >= worthTrimming && float64(saves) >= worthPart*float64(now)
}

// Saving says what a subset saves.
func Saving(address string, now, trimmed int64, unshown string, mayNot bool) Finding {
	f := Finding{Code: "subset-would-save", URL: address, Message: fmt.Sprintf("Of %s, %s are for characters that %s: a subset of those that show is %s instead of %s.", lastPart(address), kB(now-trimmed), unshown, kB(trimmed), kB(now)),
		Evidence: "measured by making it", Fix: "sparecrate file subset --keep latin --out small.woff2 " + lastPart(address) + ", with the characters that the whole site uses."}
	if mayNot {
		f.Fix = "The font does not permit subsetting. Ask the foundry for permission or a smaller edition."
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
		n := r.Font.Metadata.Names
		s := Shown{URL: r.URL, SHA256: r.Font.SHA256, Size: cmp.Or(min(int64(len(r.Body)), r.Font.Compressed), int64(len(r.Body))), NoSubset: r.Font.Metadata.Embedding.NoSubsetting,
			Name: n.FamilyName(), Style: n.StyleName(), Version: n.Version, Variable: len(r.Font.Metadata.Axes) > 0}
		if len(r.Body) >= leastShrunk {
			s.Face = r.Font.Face
			for _, run := range v.UsedIn(r.Font) {
				s.Text = Once(s.Text, run.Text)
			}
		}
		out = append(out, s)
	}
	return out
}
