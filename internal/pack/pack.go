// Package pack turns what a site uses into what a receiver wants uploaded:
// fonts under their final names, a stylesheet, a sample page, the upload slip,
// a license note and a manifest, as a zip. It is pure, and the same input gives
// the same bytes: nothing in a pack speaks of when it was built.
package pack

import (
	"archive/zip"
	"bytes"
	"cmp"
	"compress/flate"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font"
	"sparecrate/font/facts"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
)

// Folder holds the fonts within a pack.
const Folder = "fonts"

// Containers are those a pack holds, in the order a browser tries them.
var Containers = []font.Container{font.WOFF2, font.WOFF}

// Input is what a pack is made of.
type Input struct {
	Site, Client string
	Domains      []string
	Builder      Builder
	Families     []Family
}

// Family is one family of the site.
type Family struct {
	Name     string
	Faces    []Face
	Verdict  license.Verdict
	Licenses []string // as people know them
	SignOff  *SignOff // nil where none was needed
}

// Face is one face with its bytes in each of Containers.
type Face struct {
	Facts facts.Face
	Style string
	Files map[font.Container][]byte
	// Parts are the files where the face is split by characters; Files is empty then.
	Parts []Part
	// Changed says what was done to the face for this pack, empty for nothing.
	Changed string
	// StandIns are the rules of local fonts that hold its place until it arrives;
	// where they are wanted and cannot be, NoStandIn says why.
	StandIns  []css.Face
	NoStandIn string
}

// Part is some of a face's characters, with the bytes in each of Containers.
type Part struct {
	Name  string
	Range string // unicode-range
	Files map[font.Container][]byte
}

// SignOff is the responsibility a person took.
type SignOff struct {
	By     string `json:"by"`
	At     string `json:"at"`              // RFC 3339
	Until  string `json:"until,omitempty"` // last day, as 2026-12-31
	Reason string `json:"reason"`
}

// Entry is one file of a pack.
type Entry struct {
	Path string
	Why  string // what it is there for
	Data []byte
}

// fontEntry ties a font file to its face.
type fontEntry struct {
	Entry
	container font.Container
	family    *Family
	face      *Face
	part      *Part // nil for the whole face
}

// Assemble gives the files of a pack, in order: fonts first, then what speaks of them.
func Assemble(in Input) ([]Entry, error) {
	fonts := in.fonts()
	sheet := in.stylesheet(fonts)
	entries := make([]Entry, 0, len(fonts)+5)
	for _, f := range fonts {
		entries = append(entries, f.Entry)
	}
	sample, err := in.page("sample.html", fonts)
	if err != nil {
		return nil, err
	}
	slip, err := in.page("slip.html", fonts)
	if err != nil {
		return nil, err
	}
	entries = append(entries,
		Entry{"fonts.css", "the stylesheet that loads the fonts", []byte(sheet)},
		Entry{"sample.html", "a page that shows every face; open it to see that all is well", sample},
		Entry{"upload-slip.html", "what to upload, type and choose, in order", slip},
		Entry{"license-note.txt", "what the fonts may be used for, and why", []byte(in.note())},
	)
	manifest, err := in.manifest(fonts, entries)
	if err != nil {
		return nil, err
	}
	return append(entries, Entry{"manifest.json", "every file with its SHA-256, for programs", manifest}), nil
}

// fonts gives the font files under their final names, by family, width, weight
// and slope. Names that would meet are told apart by a number.
func (in *Input) fonts() []fontEntry {
	var out []fontEntry
	taken := map[string]bool{}
	for fi := range in.Families {
		family := &in.Families[fi]
		slices.SortStableFunc(family.Faces, func(a, b Face) int {
			x, y := a.Facts.Style, b.Facts.Style
			return cmp.Or(cmp.Compare(x.WidthPercent, y.WidthPercent), cmp.Compare(x.Weight, y.Weight), cmp.Compare(y.Slope, x.Slope))
		})
		for i := range family.Faces {
			face := &family.Faces[i]
			base := in.Builder.FileBase(family.Name, face.Style, face.Facts.Names.Full)
			for n := 2; taken[strings.ToLower(base)]; n++ {
				base = fmt.Sprintf("%s-%d", in.Builder.FileBase(family.Name, face.Style, face.Facts.Names.Full), n)
			}
			taken[strings.ToLower(base)] = true
			add := func(base, why string, files map[font.Container][]byte, part *Part) {
				for _, c := range Containers {
					out = append(out, fontEntry{
						Entry:     Entry{Folder + "/" + base + "." + string(c), because(c, face) + why, files[c]},
						container: c, family: family, face: face, part: part,
					})
				}
			}
			for k := range face.Parts {
				p := &face.Parts[k]
				add(base+"-"+Plain(p.Name), "; characters: "+p.Name, p.Files, p)
			}
			if len(face.Parts) == 0 {
				add(base, "", face.Files, nil)
			}
		}
	}
	return out
}

func because(c font.Container, f *Face) string {
	if f.Changed != "" {
		return why(c) + "; " + f.Changed
	}
	return why(c)
}

func why(c font.Container) string {
	if c == font.WOFF2 {
		return "for every current browser"
	}
	return "for browsers from before 2018"
}

// Rules gives the @font-face rules for the fonts of a pack.
func (in *Input) rules(fonts []fontEntry) []css.Face {
	var rules []css.Face
	for i := 0; i < len(fonts); i += len(Containers) {
		f := fonts[i]
		rule := css.Of(f.face.Facts)
		rule.Family = f.family.Name
		if f.part != nil {
			rule.Range = f.part.Range
		}
		for _, one := range fonts[i : i+len(Containers)] {
			rule.Sources = append(rule.Sources, css.Source{URL: urlPath(one.Path), Format: string(one.container)})
		}
		rules = append(rules, rule)
	}
	return rules
}

// urlPath writes a path of the pack as a relative address.
func urlPath(path string) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		var s strings.Builder
		for _, c := range []byte(p) {
			if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.IndexByte("-._~", c) >= 0 {
				s.WriteByte(c)
			} else {
				fmt.Fprintf(&s, "%%%02X", c)
			}
		}
		parts[i] = s.String()
	}
	return strings.Join(parts, "/")
}

func (in *Input) stylesheet(fonts []fontEntry) string {
	return "/* Fonts of " + comment(in.Site) + " for " + comment(in.Client) + ".\n" +
		"   Keep this file beside the folder " + Folder + "; the addresses below are relative to it.\n" +
		"   Load it before any rule that names one of the families. */\n\n" + css.Sheet(in.rules(fonts)) + in.standIns()
}

// fallbackName is the family of the stand-ins of a family, empty where it has
// none.
func (f *Family) fallbackName() string {
	for _, face := range f.Faces {
		if len(face.StandIns) > 0 {
			return f.Name + " Fallback"
		}
	}
	return ""
}

// standIns writes the rules of local fonts that hold a place.
func (in *Input) standIns() string {
	var s strings.Builder
	for i := range in.Families {
		f := &in.Families[i]
		name := f.fallbackName()
		if name != "" {
			fmt.Fprintf(&s, "\n/* Local fonts made to the measure of %s, so that text stays where it is when\n   the font arrives. Name them behind it: font-family: %s, %s; */\n",
				comment(f.Name), comment(css.Quote(f.Name)), comment(css.Quote(name)))
		}
		for _, face := range f.Faces {
			if face.NoStandIn != "" {
				fmt.Fprintf(&s, "\n/* No local font stands in for %s %s: %s */\n", comment(f.Name), comment(face.Style), comment(face.NoStandIn))
			}
			for _, rule := range face.StandIns {
				rule.Family = name
				s.WriteString("\n" + rule.String())
			}
		}
	}
	return s.String()
}

// comment makes text safe inside a CSS comment.
func comment(s string) string { return strings.ReplaceAll(s, "*/", "* /") }

// note is the license note.
func (in *Input) note() string {
	var s strings.Builder
	fmt.Fprintf(&s, "Fonts in this pack: for %s, %s", in.Client, in.Site)
	if len(in.Domains) > 0 {
		fmt.Fprintf(&s, " (%s)", strings.Join(in.Domains, ", "))
	}
	s.WriteString(".\nThey are for this use only. Passing them on is not allowed unless a license says so.\n")
	for _, f := range in.Families {
		fmt.Fprintf(&s, "\n%s\n", f.Name)
		for _, l := range f.Licenses {
			fmt.Fprintf(&s, "  License: %s\n", l)
		}
		if len(f.Licenses) == 0 {
			s.WriteString("  License: none recorded\n")
		}
		for _, r := range f.Verdict.Reasons {
			fmt.Fprintf(&s, "  %s: %s [%s]\n", r.State, r.Message, r.Evidence)
		}
		if f.SignOff != nil {
			until := ""
			if f.SignOff.Until != "" {
				until = " until " + f.SignOff.Until
			}
			fmt.Fprintf(&s, "  Signed off by %s on %s%s: %s\n", f.SignOff.By, f.SignOff.At, until, f.SignOff.Reason)
		}
		if owner := f.Faces[0].Facts.Names.Copyright; owner != "" {
			fmt.Fprintf(&s, "  %s\n", owner)
		}
	}
	return s.String()
}

type manifestFile struct {
	Path       string  `json:"path"`
	SHA256     string  `json:"sha256"`
	Bytes      int     `json:"bytes"`
	Family     string  `json:"family,omitempty"`
	Style      string  `json:"style,omitempty"`
	PostScript string  `json:"postscript,omitempty"`
	Weight     int     `json:"weight,omitempty"`
	Slope      string  `json:"slope,omitempty"`
	Width      float64 `json:"widthPercent,omitempty"`
	Reshaped   string  `json:"reshaped,omitempty"`   // what was done to the font
	Characters string  `json:"characters,omitempty"` // of a part, as a unicode-range
}

type manifestFamily struct {
	Name     string           `json:"name"`
	Verdict  license.State    `json:"verdict"`
	Reasons  []manifestReason `json:"reasons"`
	Licenses []string         `json:"licenses"`
	SignOff  *SignOff         `json:"signOff,omitempty"`
}

type manifestReason struct {
	State    license.State `json:"state"`
	Code     string        `json:"code"`
	Message  string        `json:"message"`
	Evidence string        `json:"evidence"`
}

func (in *Input) manifest(fonts []fontEntry, entries []Entry) ([]byte, error) {
	m := struct {
		Site     string           `json:"site"`
		Client   string           `json:"client"`
		Domains  []string         `json:"domains"`
		Builder  string           `json:"builder"`
		Families []manifestFamily `json:"families"`
		Files    []manifestFile   `json:"files"`
	}{Site: in.Site, Client: in.Client, Domains: append([]string{}, in.Domains...), Builder: in.Builder.Kind}
	for _, f := range in.Families {
		mf := manifestFamily{Name: f.Name, Verdict: f.Verdict.State, Licenses: append([]string{}, f.Licenses...), SignOff: f.SignOff}
		for _, r := range f.Verdict.Reasons {
			mf.Reasons = append(mf.Reasons, manifestReason{r.State, r.Code, r.Message, r.Evidence})
		}
		m.Families = append(m.Families, mf)
	}
	for i, e := range entries {
		sum := sha256.Sum256(e.Data)
		mf := manifestFile{Path: e.Path, SHA256: hex.EncodeToString(sum[:]), Bytes: len(e.Data)}
		if i < len(fonts) {
			f := fonts[i]
			s := f.face.Facts.Style
			mf.Family, mf.Style, mf.PostScript = f.family.Name, f.face.Style, f.face.Facts.Names.PostScript
			mf.Weight, mf.Slope, mf.Width = s.Weight, string(s.Slope), s.WidthPercent
			mf.Reshaped = f.face.Changed
			if f.part != nil {
				mf.Characters = f.part.Range
			}
		}
		m.Files = append(m.Files, mf)
	}
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err := enc.Encode(m)
	return out.Bytes(), err
}

// noTime is the first day a zip can name.
var noTime = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// Zip writes entries as a zip, all of the same day, so that equal entries make
// equal bytes. Fonts are stored as they are: they are compressed already.
func Zip(w io.Writer, entries []Entry) error {
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestCompression) })
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.Path, Method: zip.Deflate, Modified: noTime}
		if strings.HasPrefix(e.Path, Folder+"/") {
			h.Method = zip.Store
		}
		h.SetMode(0o644)
		f, err := z.CreateHeader(h)
		if err != nil {
			return err
		}
		if _, err := f.Write(e.Data); err != nil {
			return err
		}
	}
	return z.Close()
}

// FileName gives the name of a site's zip.
func FileName(site string) string { return Plain(site) + "-fonts.zip" }

// undecomposed are Latin letters that Unicode does not take apart into a plain
// letter and a mark.
var undecomposed = strings.NewReplacer("Ł", "L", "ł", "l", "Ø", "O", "ø", "o", "Đ", "D", "đ", "d", "ß", "ss", "ẞ", "SS", "Æ", "AE", "æ", "ae",
	"Œ", "OE", "œ", "oe", "Þ", "Th", "þ", "th", "Ð", "D", "ð", "d", "ı", "i")

// Plain writes a name in lower case with letters and digits only, joined by
// hyphens; accents go. What has no such letter becomes "font".
func Plain(name string) string {
	var s strings.Builder
	for _, r := range norm.NFKD.String(undecomposed.Replace(name)) {
		switch {
		case r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			s.WriteRune(unicode.ToLower(r))
		case unicode.Is(unicode.Mn, r):
		case s.Len() > 0 && !strings.HasSuffix(s.String(), "-"):
			s.WriteByte('-')
		}
	}
	if out := strings.Trim(s.String(), "-"); out != "" {
		return out
	}
	return "font"
}
