// Package pack turns what a site uses into what a platform wants uploaded:
// fonts under their final names, styles in the form it takes, a sample page,
// the upload slip, license notes and a manifest, as a zip. It is pure, and the
// same input gives the same bytes: nothing in a pack speaks of when it was
// built. Fonts are read only while the zip is written, one after the other.
package pack

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"slices"
	"strings"

	"github.com/dustin/go-humanize"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack/scripts"
)

// Input is what a pack is made of.
type Input struct {
	Site, Client    string
	Domains         []string
	Environment     string // which of the site's, empty where it has but one
	Rules           *builder.Rules
	Prefix          string // where the files will be, empty for what the rules say
	Families        []Family
	RoleAssignments []RoleAssignment
	Replacements    []Replacement
	Pages           []Page              // of the site
	FileURLs        map[string]FileURLs // what went up before, by path in the pack
	LeftOut         []LeftOut           // families that may not go along, said in the slip
	Words           string              // shown in the sample, the client's own
	Call            builder.Load        // how the stylesheet is called; what the rules like best when empty
}

// LeftOut is a family that a pack has not, and why.
type LeftOut struct{ Family, Why string }

// Family is one family of the site.
type Family struct {
	Name     string
	Faces    []Face
	Left     []string // faces left at home, by style
	Generic  string   // sans-serif, serif, monospace ...
	Verdict  license.Verdict
	Licenses []License
	SignOff  *SignOff // nil where none was needed
	// Elsewhere are the stylesheets it is served from, where it has no files here; its
	// faces are what those say of it then.
	Elsewhere []Sheet
}

// License is a license as the notes of a pack name it.
type License struct {
	Name string // as people know it
	SPDX string // identifier of an open license
	// Text is the license in full, where it asks to go along with the font or is not of the
	// SPDX License List; Source the document that it was found in, empty for the standard
	// text. Reserved are the font names that it keeps for the unchanged font.
	Text, Source string
	Reserved     []string
	// Unconfirmed says that the font's own words point to it and nobody has confirmed that.
	Unconfirmed bool
}

// open reports whether it lets everybody pass the font on.
func (l *License) open() bool { return l.SPDX != "" }

// Face is one face with its files.
type Face struct {
	ID       int64 // a number of who asks, handed on to entries
	Metadata metadata.Face
	Style    string
	Came     string // the file's name as it came in
	// Files are those of the formats that are sent, in the order of the rules.
	Files []File
	// Parts are the files where the face is split by characters; Files is empty then.
	Parts []Part
	// Changed says what was done to the face for this pack and why, empty for nothing.
	Changed string
	// Range are the characters it was trimmed to, as a unicode-range; empty for all.
	Range string
	Why   string // what it is needed for: "body text, heading 1"
	// LocalFonts are the rules of local fonts that hold its place until it arrives;
	// where they are wanted and cannot be, NoReplacement says why.
	LocalFonts    []css.Face
	NoReplacement string
}

// File is a face in one format. One that is pending is not made yet: nothing is known
// of its content.
type File struct {
	Format   font.Container
	Pending  bool
	Supplied bool   // these are the bytes that its supplier delivered
	Changed  string // what was done to the face for this format alone, and why
	Blob
}

// Part is some of a face's characters.
type Part struct {
	Name  string
	Range string // unicode-range
	Files []File
}

// Blob is content that is read when it is wanted.
type Blob struct {
	SHA256 string
	Bytes  int64
	Open   func() (io.ReadCloser, error)
}

// BlobOf holds content in memory.
func BlobOf(data []byte) Blob {
	sum := sha256.Sum256(data)
	return Blob{hex.EncodeToString(sum[:]), int64(len(data)), func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(data)), nil }}
}

// Page is a page of the site.
type Page struct{ Title, Address string }

// FileURLs is where a file went up.
type FileURLs struct {
	Address string
	SHA256  string // of the file that did
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
	Blob
	// Of a font file; empty for others.
	Family, Style string
	Face          int64 // its ID
	Format        font.Container
	Place         int  // of the face among all of the pack
	Changed       bool // went up in other bytes before: to be replaced
	Address       string
	Pending       bool   // not made yet
	Supplied      bool   // the bytes that its supplier delivered
	Reshaped      string // what was done to the font, and why
}

// Paste is a text to put into the platform by hand.
type Paste struct {
	Name, Where, Text string
}

// Packed is a laid out pack.
type Packed struct {
	Entries  []Entry // fonts first, then what speaks of them
	Styles   string  // in the form the platform takes; empty where it takes none
	Pastes   []Paste
	Awaits   []string // fonts whose addresses are not known yet, by path
	Sheets   []string // stylesheets that are called by URLs of their own, by path
	Sheet    bool     // URLs of these are awaited
	Slip     []byte   // the upload slip, HTML
	Warnings []Warning
	Pending  int // fonts that are not made yet

	layout    *layout
	styleFile string
}

// Assemble lays a pack out and renders it.
func Assemble(in Input) (*Packed, error) {
	p := LayOut(in)
	return p, p.Render()
}

// LayOut says what a pack holds, as far as that is known: fonts under their final names
// with their sizes and addresses, styles, what to paste, what to look out for. Nothing is
// read. Fonts may be pending.
func LayOut(in Input) *Packed {
	l := in.layOut()
	out := &Packed{Warnings: l.warnings(), layout: l}
	for _, f := range l.fonts {
		out.Entries = append(out.Entries, f.Entry)
		if f.Pending {
			out.Pending++
		}
		if in.Rules.URLs.After && f.Address == "" {
			out.Awaits = append(out.Awaits, f.Path)
		}
	}
	finished, css := len(out.Awaits) == 0, sheets{l}
	if finished {
		out.Styles = css.styles()
	}
	for _, s := range css.styleFiles(out.Styles, finished) {
		out.add(s.path, s.why, []byte(s.text))
		out.styleFile = s.path
	}
	if finished {
		out.Pastes = css.pastes(out.Styles)
		if in.Rules.Styles.Form == builder.StylesLinked {
			for _, s := range css.calledSheets() {
				out.Sheets = append(out.Sheets, s.path)
				out.Sheet = out.Sheet || in.FileURLs[s.path].Address == ""
			}
		}
	}
	return out
}

func (p *Packed) add(path, why string, data []byte) {
	p.Entries = append(p.Entries, Entry{Path: path, Why: why, Blob: BlobOf(data), Place: -1})
}

// ErrPending says that fonts of a pack are not made yet.
var ErrPending = errors.New("fonts of the pack are not made yet")

// Render adds what speaks of the fonts: sample page, slip, license notes, manifest. It
// reads each font once, for its checksum; no font may be pending.
func (p *Packed) Render() error {
	if p.Pending > 0 {
		return ErrPending
	}
	l, out, add, styleFile := p.layout, p, p.add, p.styleFile
	in, pages, texts := l.Input, samples{l}, terms{l}.licenseTexts()
	if in.Rules.For != "desktop" {
		sample, err := pages.page("sample.html", out, styleFile)
		if err != nil {
			return err
		}
		if in.Rules.Styles.Form != builder.StylesStylesheet {
			add("sample.css", "the styles of the sample page; they are not uploaded", []byte(sheets{l}.sampleSheet()))
		}
		add("sample.html", "a page that shows every role and face; open it to see that all is well", sample)
	}
	if in.Rules.Files.Upload == builder.UploadHand && len(l.fonts) > 0 {
		for _, t := range scripts.Of(l.toInstall()) {
			add(t.Path, t.Why, []byte(t.Text))
		}
	}
	slip, err := pages.page("slip.html", out, styleFile)
	if err != nil {
		return err
	}
	out.Slip = slip
	add("upload-slip.html", "what to upload, type and choose, in order", slip)
	for _, t := range texts {
		add(t.path, t.why, []byte(t.text))
	}
	add("license-note.txt", "what the fonts may be used for, and why", []byte(terms{l}.note()))
	spdx, err := terms{l}.spdx()
	if err != nil {
		return err
	}
	add("licenses.spdx.json", "the same for programs, as an SPDX 2.3 document", spdx)
	manifest, err := l.manifest(out.Entries)
	if err != nil {
		return err
	}
	add("manifest.json", "every file with its SHA-256, recipe and verdict, for programs", manifest)
	return nil
}

// toInstall is what the scripts of a desktop pack install.
func (l *layout) toInstall() scripts.Pack {
	of := l.Site
	if l.Client != "" && l.Client != l.Site {
		of = l.Client + " " + l.Site
	}
	p := scripts.Pack{Of: l.Site, Own: builder.Plain(of), Folder: l.Rules.Files.Folder}
	if strings.ReplaceAll(p.Own, "-", " ") != strings.ToLower(of) { // letters of its name are lost, and another's may be as well
		sum := sha256.Sum256([]byte(of))
		p.Own += "-" + hex.EncodeToString(sum[:4])
	}
	for _, f := range l.fonts {
		p.Fonts = append(p.Fonts, scripts.Font{File: f.name(), Full: f.face.Metadata.Names.Full})
	}
	return p
}

// Delivered is what a current browser downloads when every face is used, bytes: of each
// face, or part of one, the best format that it takes.
func (p *Packed) Delivered() int64 {
	order := []font.Container{font.WOFF2, font.WOFF, font.TTF, font.OTF}
	best := map[string]int{} // by path without the format
	var n int64
	bytes := map[string]int64{}
	for _, e := range p.Entries {
		rank := slices.Index(order, e.Format)
		if e.Place < 0 || rank < 0 {
			continue
		}
		stem := e.Path[:len(e.Path)-len(e.Format)]
		if was, had := best[stem]; !had || rank < was {
			best[stem] = rank
			n += e.Bytes - bytes[stem]
			bytes[stem] = e.Bytes
		}
	}
	return n
}

// SlowSeconds is how long bytes take on a link of 1.6 Mbit/s, the customary
// picture of a slow mobile one.
func SlowSeconds(bytes int64) float64 { return float64(bytes) * 8 / 1.6e6 }

// FileName returns the name of a site's pack.
func FileName(site, environment string) string {
	name := builder.Plain(site)
	if environment != "" {
		name += "-" + builder.Plain(environment)
	}
	return name + "-fonts.zip"
}

func (e Entry) name() string {
	return e.Path[lastSlash(e.Path)+1:]
}

func lastSlash(path string) int {
	for i := len(path) - 1; i >= 0; i-- {
		if path[i] == '/' {
			return i
		}
	}
	return -1
}

func kilobytes(n int64) string { return humanize.SIWithDigits(float64(n), 1, "B") }
