// Package inspect says what a published page really loads and shows, and what is wrong
// with that. A Visit is what a browser saw on a machine without fonts of its own; Judge
// finds the faults in it, each with its place, its evidence and its fix. The package is
// pure: package browse does the visiting.
package inspect

import (
	"slices"
	"time"

	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
)

// Visit is what was seen of one page.
type Visit struct {
	URL   string // as asked for
	Final string // after redirects
	Title string
	// Status is the HTTP status of the page; 0 where there was no answer.
	Status int
	// Trouble is what kept the page from being seen whole: codes of findings and their
	// sentences.
	Trouble []Trouble
	// Requests are those for fonts and stylesheets, in the order in which they began.
	Requests []Request
	Sheets   []Sheet
	// Faces is document.fonts when all was loaded: of rules and of scripts.
	Faces []Face
	Runs  []Run
	// Canvas are the font values that scripts drew text with on canvases.
	Canvas []string
	Links  []string // URLs of other pages, each once
	// Preloads are the hrefs of link rel=preload as=font.
	Preloads []Preload
	Losing   []Losing
	Roles    []ShownRole
	Packs    []Pack   // that were built for the site, newest first
	Domains  []string // of the site, where it is known
	Moments  Moments
	Swaps    []Swap
	Picture  []byte // PNG of the page at the widest width; nil where none could be taken
	// PictureHeight and PictureWidth are in pixels of the page.
	PictureWidth, PictureHeight int
}

// Trouble is something that ended a visit early.
type Trouble struct {
	Code    string
	Message string
}

// Request is one for a font or a stylesheet.
type Request struct {
	ID        string // the browser's
	URL       string
	Kind      Kind
	Initiator string // URL of the stylesheet or page that asked for it
	Line      int    // in it, from 1; 0 where it is not known
	Preload   bool
	// Through are the URLs that passed the request on, in order.
	Through  []string
	Status   int
	Failed   string // the browser's error, empty for none
	Blocked  string // why it was blocked: mixed-content, csp, cors, address
	Type     string // the Content-Type header
	Cache    string // the Cache-Control header
	Expires  string
	Modified string // the Last-Modified header
	Encoding string // the Content-Encoding header
	CORS     string // the Access-Control-Allow-Origin header
	Protocol string
	Wire     int64         // bytes that came over the network
	Size     int64         // bytes unpacked
	Began    time.Duration // since the page was asked for
	Took     time.Duration
	Body     []byte // of fonts, and of what answered in place of a font
	// Found are other places where the file is, looked for after the answer that it is not here.
	Found []string
	// Font is what the body is; nil where it is no font.
	Font *Font
}

// Kind is what a request is for.
type Kind string

// The kinds of requests that matter here.
const (
	FontKind  Kind = "font"
	SheetKind Kind = "stylesheet"
)

// Font is a font file that a page loaded.
type Font struct {
	SHA256   string
	Face     *sfnt.Font
	Metadata metadata.Face
	// Format is what it came in.
	Format string
	// Compressed is the size of the same font as WOFF2, bytes; 0 where that was not made.
	Compressed int64
	// Trimmed is the size of a subset for the characters that are shown, as WOFF2; 0 where
	// it was not made.
	Trimmed int64
	// Known is what the catalog knows of it; nil without a catalog.
	Known *Known
}

// Sheet is a stylesheet of a page.
type Sheet struct {
	ID     string // the browser's
	URL    string // of the file, or of the page that it stands in
	Inline bool
	Built  bool // by a script
	Line   int  // of the page where it stands, from 1, for inline ones
	Text   string
	Off    bool // it is for other media than this
	Frame  bool // of a page within the page
}

// Face is an entry of document.fonts.
type Face struct {
	Family  string `json:"family"`
	Weight  string `json:"weight"`
	Style   string `json:"style"`
	Stretch string `json:"stretch"`
	Range   string `json:"range"`
	Display string `json:"display"`
	Status  string `json:"status"` // unloaded, loading, loaded, error
	// Scripted says that a script made it, from Source.
	Scripted bool   `json:"scripted"`
	Source   string `json:"source"`
}

// Run is text of one look: of elements that one selector names.
type Run struct {
	Selector string
	Width    int      // of the window, CSS pixels
	Asked    []string // families as asked for, in order
	Weight   int
	Style    string // normal, italic or oblique
	Stretch  string
	Size     float64 // CSS pixels
	Synthesis
	Text string // characters as they are drawn, without spaces, each once, in order
	// Characters counts all of them.
	Characters int
	Fonts      []Used
	Invisible  bool // for now: its fonts come all the same
	Hidden     bool // from screen readers: aria-hidden, or generated
	Box        Box  // of the first of them, in the picture; empty where it is not seen there
}

// Synthesis says what the browser may make up (font-synthesis).
type Synthesis struct{ MayBold, MaySlant bool }

// Used is a font that the browser set text in.
type Used struct {
	Family, PostScript string
	Sent               bool // sent by the page, not of the machine
	Characters         int
}

// Box is a place on the page, CSS pixels.
type Box struct{ X, Y, Width, Height float64 }

// Preload is a link that asks for a font early.
type Preload struct {
	URL   string `json:"url"`
	CORS  bool   `json:"cors"` // it says crossorigin
	As    string `json:"as"`
	MIME  string `json:"mime"`
	Media string `json:"media"`
}

// Role is what a site's plan says of some text: the family that a selector is set in.
type Role struct {
	Title, Selector, Family string
}

// ShownRole is a role as the page shows it.
type ShownRole struct {
	Role
	Elements int    // with text of their own that the selector finds
	Fonts    []Used // of the first of them
	Bad      bool   // the selector cannot be read
}

// Losing is a rule that asks for a family the page loads, and never gets it: another rule
// wins wherever it applies.
type Losing struct {
	Selector, Family string
	Sheet            string
	Line             int
	By               string // selector of the rule that wins
	BySheet          string
	ByLine           int
	ByFamily         string
	Important        bool // the winner says !important
	Inline           bool // the winner is a style attribute
}

// Moments are times since the page was asked for; 0 where it did not come to that.
type Moments struct {
	FirstText time.Duration // the first text was painted
	FinalText time.Duration // the last font that text waited for had come
	Shifts    []Shift
}

// Shift is how far a page moved (Layout Instability, section 4.5).
type Shift struct {
	At    time.Duration
	Score float64
	Font  bool // a font had just come
}

// Swap is how much of a page changes in height when a family comes, measured by laying its
// text out in both.
type Swap struct {
	Family   string
	Fallback string
	Before   float64 // sum of the changes of height, CSS pixels
	After    float64 // the same where the fallback is made as wide and high as the family
	Height   float64 // of the text that was measured
	Adjusted bool    // the page has such a fallback already
	Rule     string  // of the fallback
}

// Sent returns the fonts that the page loaded.
func (v *Visit) Sent() []*Request {
	var out []*Request
	for i := range v.Requests {
		if r := &v.Requests[i]; r.Kind == FontKind && r.Font != nil && r.Failed == "" {
			out = append(out, r)
		}
	}
	return out
}

// UsedIn returns the runs that are set in a font, by its PostScript name.
func (v *Visit) UsedIn(f *Font) []*Run {
	var out []*Run
	for i := range v.Runs {
		r := &v.Runs[i]
		if slices.ContainsFunc(r.Fonts, func(u Used) bool { return u.Sent && f.Is(u) }) {
			out = append(out, r)
		}
	}
	return out
}

// Is reports whether a font that text is set in is this one, by what the browser calls it.
func (f *Font) Is(u Used) bool {
	n := f.Metadata.Names
	if u.PostScript != "" && n.PostScript != "" {
		// Of a variable font the browser names the style that it made.
		return u.PostScript == n.PostScript || len(f.Metadata.Axes) > 0 && (u.Family == n.Family || u.Family == n.TypographicFamily)
	}
	return u.Family == n.Family || u.Family == n.TypographicFamily
}
