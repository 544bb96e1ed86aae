package inspect

// Severity is how much a finding matters.
type Severity string

// The severities, the worst first.
const (
	Error   Severity = "error"   // text is not shown as it should be, or may not be
	Warning Severity = "warning" // visitors notice, or the next change breaks it
	Note    Severity = "note"    // it costs something that could be had for less
)

// Code is a kind of fault; it keeps its name.
type Code struct {
	Code     string   `json:"code"`
	Severity Severity `json:"severity"`
	Title    string   `json:"title"`
}

// Codes are all kinds of faults that Judge and visits find, and those that a survey or the
// catalog adds.
var Codes = []Code{
	// The page itself.
	{"page-unreachable", Error, "The page cannot be looked at"},
	{"page-error", Error, "The server answers with an error in place of the page"},
	{"redirect-circle", Error, "The page passes on without end"},
	{"page-never-ends", Warning, "The page never stops loading"},
	{"page-hangs", Error, "A script of the page runs without end"},
	{"page-too-heavy", Error, "The page takes too much memory or loads too much"},
	{"page-too-long", Note, "The page is too long to be inspected completely"},
	// Import.
	{"font-404", Error, "A font file is missing"},
	{"font-error", Error, "A font's server answers with an error, or not at all"},
	{"font-is-html", Error, "A web page is served instead of a font"},
	{"font-damaged", Error, "A font file is damaged or no font"},
	{"font-wrong-type", Warning, "A font is served with a wrong content type"},
	{"font-cors", Error, "The font's server does not allow this page to use it"},
	{"mixed-content", Error, "A font of an https page is loaded over http"},
	{"font-csp", Error, "The page's own security policy forbids the font"},
	{"font-redirected", Note, "A font URL redirects"},
	{"sheet-missing", Error, "A stylesheet is not there"},
	{"sheet-is-html", Error, "A web page is served instead of a stylesheet"},
	{"tag-in-address", Error, "A whole tag is used where only a URL belongs"},
	{"third-party", Warning, "Fonts are loaded from a third-party server"},
	{"short-cache", Note, "Browsers are not allowed to cache a font"},
	{"import-chain", Note, "A stylesheet with fonts waits for another stylesheet"},
	// Rules.
	{"rule-dropped", Error, "Browsers ignore a font rule"},
	{"rule-overridden", Error, "Another rule overrides the one that sets the font"},
	{"rule-duplicate", Warning, "Two rules declare the same face"},
	{"family-not-declared", Error, "A family is used that no rule declares"},
	{"local-only", Warning, "Text shows its font only where that is installed"},
	{"weight-mislabeled", Warning, "A rule says another weight than the file has"},
	{"style-mislabeled", Warning, "A rule says another slope than the file has"},
	{"range-wrong", Warning, "A rule promises characters that the file does not have"},
	{"declared-unused", Note, "A face is declared and never used"},
	{"no-font-display", Note, "A rule does not say what is shown until the font is there"},
	{"no-fallback", Note, "A list of families ends without a general one"},
	{"legacy-format", Note, "A rule lists formats that no current browser reads"},
	// What is shown.
	{"faux-bold", Warning, "The browser makes up a bold"},
	{"faux-italic", Warning, "The browser makes up an italic"},
	{"missing-characters", Warning, "Characters fall to another font"},
	{"icon-read-aloud", Warning, "Screen readers read icons as letters"},
	{"text-invisible", Warning, "Text is invisible while its font loads"},
	{"fallback-shift", Warning, "The page moves when its fonts load"},
	// Weight.
	{"loaded-unused", Warning, "A font is loaded but not used"},
	{"uncompressed", Warning, "A font is sent without compression"},
	{"woff2-missing", Note, "A font is served in an outdated format"},
	{"subset-would-save", Note, "Most of a font is never shown"},
	{"variable-for-one", Note, "A variable font is sent for one weight"},
	{"preload-unused", Warning, "A font is asked for early and not used"},
	{"preload-twice", Warning, "A font is loaded twice: its preload does not say crossorigin"},
	{"font-embedded", Note, "A font is embedded in the stylesheet"},
	{"font-twice", Note, "The same file comes from two addresses"},
	{"several-versions", Warning, "Several versions of one face are loaded"},
	{"too-heavy", Warning, "The fonts of the page are heavy"},
	// What may be there.
	{"embedding-restricted", Warning, "The font file says that it may not be embedded"},
	{"trial-font", Error, "The font file says that it is a trial, or for personal use"},
	{"subset-forbidden", Note, "A font that says it may not be subset is one"},
	{"license-blocked", Error, "The font may not be on this page"},
	{"license-review", Warning, "Nobody has finished whether the font may be on this page"},
	{"unknown-font", Warning, "The catalog does not know a font of the page"},
	{"other-client", Error, "The font was bought for another client"},
	// Of several pages.
	{"pages-differ", Warning, "Some pages of the site are set in other fonts"},
	// Against the plan.
	{"role-differs", Error, "A role is set in another font than assigned"},
	{"domain-not-recorded", Note, "The page is on a domain that the site does not have"},
	{"pack-outdated", Warning, "The page loads an older font than the newest pack or the catalog has"},
	{"pack-changed", Warning, "A file of the pack was changed on its way to the page"},
	{"pack-missing", Warning, "A family of the newest pack is on no page"},
	{"file-url-gone", Error, "A file URL of the site does not answer any more"},
	{"file-url-changed", Warning, "Another file answers at a file URL of the site"},
}

// SeverityOf returns the severity of a code, a note for one that is not in the list.
func SeverityOf(code string) Severity {
	for _, c := range Codes {
		if c.Code == code {
			return c.Severity
		}
	}
	return Note
}

// Finding is a fault of a page.
type Finding struct {
	Code     string   `json:"code"`
	Severity Severity `json:"severity"`
	Message  string   `json:"message"` // a sentence, or two
	Fix      string   `json:"fix"`     // code or the step to take
	Selector string   `json:"selector,omitempty"`
	URL      string   `json:"url,omitempty"`
	Line     int      `json:"line,omitempty"` // of the stylesheet or page at URL, from 1
	Evidence string   `json:"evidence,omitempty"`
	Width    int      `json:"width,omitempty"` // of the window it was seen in, where that matters
}
