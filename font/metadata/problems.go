package metadata

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"unicode"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// The codes of problems; they stay the same.
const (
	ProblemTable        = "table-unreadable"
	ProblemTableOrder   = "table-order"
	ProblemTableOverlap = "table-overlap"
	ProblemTableEmpty   = "table-empty"
	ProblemChecksum     = "checksum-wrong"
	ProblemNoName       = "no-name-table"
	ProblemNameText     = "name-text-missing"
	ProblemNameSpaces   = "name-stray-characters"
	ProblemPostScript   = "postscript-name-broken"
	ProblemFileName     = "file-name-differs"
	ProblemNoLicense    = "no-license-text"
	ProblemStyleLink    = "style-link-broken"
	ProblemWeight       = "weight-contradicts-name"
	ProblemUsageBits    = "usage-bits-several"
	ProblemLines        = "line-metrics-differ"
	ProblemNoGlyphs     = "no-glyphs"
	ProblemBitmapOnly   = "bitmap-only"
	ProblemNoCharacters = "no-characters"
	ProblemNoMetrics    = "no-line-metrics"
	ProblemNoKerning    = "no-kerning"
	ProblemNoSigns      = "common-signs-missing"
)

func (r *reading) problem(code, message string) {
	r.out.Problems = append(r.out.Problems, Problem{code, message})
}

func (r *reading) unreadable(err error) {
	r.problem(ProblemTable, "A part of the font cannot be read: "+err.Error()+".")
}

// verify fills the state of the checksums from the tables whose sum is wrong.
func (f *Face) verify(wrong []sfnt.Tag) {
	if f.Container == font.WOFF2 {
		f.Checksums.State = ChecksumsUnstated
		return
	}
	f.Checksums.State = ChecksumsRight
	for _, tag := range wrong {
		f.Checksums.State = ChecksumsWrong
		f.Checksums.Wrong = append(f.Checksums.Wrong, tag.String())
	}
	if f.Checksums.State == ChecksumsWrong {
		f.Problems = append(f.Problems, Problem{ProblemChecksum, fmt.Sprintf(
			"The checksum of %s is wrong: the file was changed or damaged after it was made. What is written from it here has right ones; ask where it came from.",
			quoted(f.Checksums.Wrong))})
	}
}

// quoted lists names between backquotes: `a`, `b` and `c`.
func quoted(names []string) string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = "`" + n + "`"
	}
	return listed(out)
}

func listed(out []string) string {
	if n := len(out); n > 1 {
		return strings.Join(out[:n-1], ", ") + " and " + out[n-1]
	}
	return strings.Join(out, "")
}

func (r *reading) judgeFrame() {
	var empty []string
	for _, t := range r.font.Tables {
		if len(t.Data) == 0 {
			empty = append(empty, t.Tag.String())
		}
	}
	if len(empty) > 0 {
		r.problem(ProblemTableEmpty, fmt.Sprintf("The font holds an empty %s, and browsers refuse a file with an empty table. Convert it to any format to fix that.", quoted(empty)))
	}
	for _, pair := range r.font.Overlapping() {
		r.problem(ProblemTableOverlap, fmt.Sprintf("The tables `%s` and `%s` share bytes of the file; a strict reader refuses it. Convert it to any format.", pair[0], pair[1]))
	}
	// Of a compressed file the order is that of its packing, and readers restore another.
	if tag, bad := r.font.Unordered(); bad && r.font.Tables[0].Offset != 0 {
		r.problem(ProblemTableOrder, fmt.Sprintf("The file's directory is out of order at `%s`; some readers will not find the tables behind it. Convert it to any format.", tag))
	}
}

// shortNames are the names that systems compare letter by letter.
var shortNames = [...]string{
	1: "family", 2: "subfamily", 3: "unique identifier", 4: "full name", 6: "PostScript name", 16: "typographic family", 17: "typographic subfamily",
	18: "compatible full name", 21: "WWS family", 22: "WWS subfamily", 25: "PostScript prefix for variations",
}

func (r *reading) judgeNames() {
	n := &r.out.Names
	var stray []string
	for _, rec := range r.out.Records {
		if rec.ID >= len(shortNames) || shortNames[rec.ID] == "" {
			continue
		}
		if name := shortNames[rec.ID]; messy(rec.Value) && !slices.Contains(stray, name) {
			stray = append(stray, name)
		}
	}
	if len(stray) > 0 {
		r.problem(ProblemNameSpaces, fmt.Sprintf("The %s has stray spaces or control characters, so what is typed will not match it; copy it from here, never type it.", listed(stray)))
	}
	switch bad := strings.IndexFunc(n.PostScript, func(c rune) bool { return c < 33 || c > 126 || strings.ContainsRune("[](){}<>/%", c) }); {
	case n.PostScript == "":
		r.problem(ProblemPostScript, "The font has no PostScript name; apps cannot call it by one.")
	case bad >= 0:
		c := []rune(n.PostScript[bad:])[0]
		r.problem(ProblemPostScript, fmt.Sprintf("The PostScript name %q holds %q, which such names must not; some apps will not find the font.", n.PostScript, c))
	case len(n.PostScript) > maxPostScriptName:
		r.problem(ProblemPostScript, fmt.Sprintf("The PostScript name has %d characters and may have %d; some apps will not find the font.", len(n.PostScript), maxPostScriptName))
	}
	if n.License == "" && n.LicenseURL == "" {
		r.problem(ProblemNoLicense, "The font says nothing of its license; keep what it was bought or got with.")
	}
}

// maxPostScriptName is the longest PostScript name (OpenType, `name`, ID 6).
const maxPostScriptName = 63

// messy reports spaces at the ends, two in a row, or what cannot be seen.
func messy(s string) bool {
	if strings.TrimSpace(s) != s || strings.Contains(s, "  ") {
		return true
	}
	return strings.ContainsFunc(s, func(c rune) bool {
		return unicode.IsControl(c) || c == 0x00A0 || c == 0xFEFF || c == 0x200B
	})
}

// judgeStyle compares the three places that say bold and italic, and the weight
// with the word for it.
func (r *reading) judgeStyle() {
	n := &r.out.Names
	if r.os2 == nil {
		return
	}
	stated := int(r.os2.WeightClass)
	if stated > 0 && stated < 10 {
		stated *= 100
	}
	if words, ok := WeightOf(r.styleWords()); ok && !r.font.Has(table.TagFvar) && abs(words-stated) >= 100 {
		r.problem(ProblemWeight, fmt.Sprintf("The weight is stated as %d, but the style is called %s, which is %d. A program that goes by the number picks another face than one that goes by the name.",
			stated, r.style, words))
	}
	if r.head == nil || n.Subfamily == "" {
		return
	}
	style := strings.ToLower(n.Subfamily)
	for _, link := range []struct {
		word           string
		named, os, mac bool
	}{
		{"bold", strings.Contains(style, "bold") && !strings.Contains(style, "semi") && !strings.Contains(style, "demi"),
			r.os2.Selection&table.SelectBold != 0, r.head.MacStyle&table.MacBold != 0},
		{"italic", strings.Contains(style, "italic") || strings.Contains(style, "oblique"),
			r.os2.Selection&table.SelectItalic != 0, r.head.MacStyle&table.MacItalic != 0},
	} {
		if link.named == link.os && link.os == link.mac {
			continue
		}
		says := func(yes bool) string {
			if yes {
				return "says"
			}
			return "does not say"
		}
		r.problem(ProblemStyleLink, fmt.Sprintf("The style's name (%s) %s %s, OS/2 %s it and head %s it; a system may draw a false %s on top, or take this face for another.",
			n.Subfamily, says(link.named), link.word, says(link.os), says(link.mac), link.word))
	}
}

// commonSigns are what a page in a Latin script is bound to hold sooner or later.
const commonSigns = "€£©®™•…–—‘’“”«»°×&@"

// sign is one of them, and its place among them.
type sign struct {
	char  rune
	place int
}

// signsInOrder are they in the order of their code points.
var signsInOrder = func() []sign {
	var out []sign
	for i, c := range []rune(commonSigns) {
		out = append(out, sign{c, i})
	}
	slices.SortFunc(out, func(a, b sign) int { return int(a.char) - int(b.char) })
	return out
}()

func (r *reading) judgeCoverage() {
	i := 0
	has := func(c rune) bool { // asked in the order of the code points
		for i < len(r.runs) && int(r.runs[i].First)+r.runs[i].Count <= int(c) {
			i++
		}
		return i < len(r.runs) && r.runs[i].First <= c
	}
	for _, c := range "AZaehnoz" {
		if !has(c) {
			return // not a font for text in a Latin script
		}
	}
	i = 0
	gaps := uint64(0) // a bit a sign
	for _, s := range signsInOrder {
		if !has(s.char) {
			gaps |= 1 << s.place
		}
	}
	if gaps != 0 {
		var missing strings.Builder
		missing.Grow(4 * len(signsInOrder))
		place := 0
		for _, c := range commonSigns {
			if gaps&(1<<place) != 0 {
				missing.WriteByte(' ')
				missing.WriteRune(c)
			}
			place++
		}
		r.problem(ProblemNoSigns, "Common signs are missing:"+missing.String()+". A page that uses them will show them in another font.")
	}
	if slices.Contains(r.out.Features, "kern") || r.monospaced() {
		return
	}
	const wide = "pairs like AV and To will stand too wide, most of all in headings."
	switch {
	case !r.font.Has(tagKern):
		r.problem(ProblemNoKerning, "The font has no kerning; "+wide)
	case r.out.Outlines == CFF || r.out.Outlines == CFF2:
		r.problem(ProblemNoKerning, "Its kerning is in the table kern alone, which readers pass over beside PostScript outlines; "+wide)
	}
}

// monospaced reports whether all letters are as wide as each other.
func (r *reading) monospaced() bool {
	return r.post != nil && r.post.Monospaced || r.hhea != nil && r.hhea.LongMetrics <= 4
}

// NameDiffers compares a file's name on disk with the names the face goes by,
// without regard to case, spaces and signs. Where it is none of them, the
// problem says so, and ok is true.
func (f *Face) NameDiffers(file string) (p Problem, ok bool) {
	plain := func(s string) string {
		return strings.Map(func(c rune) rune {
			if unicode.IsLetter(c) || unicode.IsDigit(c) {
				return unicode.ToLower(c)
			}
			return -1
		}, s)
	}
	n := &f.Names
	stem := plain(strings.TrimSuffix(filepath.Base(file), filepath.Ext(file)))
	own := []string{n.Full, n.PostScript, n.FamilyName() + n.StyleName(), n.Family + n.Subfamily, n.CompatibleFull}
	if len(f.Axes) > 0 || n.StyleName() == "Regular" {
		own = append(own, n.FamilyName(), n.Family)
	}
	if f.Container == font.TTC {
		return Problem{}, false // a collection's name stands for several faces
	}
	for _, name := range own {
		if name = plain(name); name != "" && (stem == name || len(f.Axes) > 0 && strings.HasPrefix(stem, name)) {
			return Problem{}, false
		}
	}
	full := n.Full
	if full == "" {
		full = strings.TrimSpace(n.FamilyName() + " " + n.StyleName())
	}
	return Problem{ProblemFileName, fmt.Sprintf("The file name is %q and the font's full name is %q. Upload forms that require them to match will refuse the file.", filepath.Base(file), full)}, true
}
