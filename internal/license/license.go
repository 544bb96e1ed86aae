// Package license judges whether a family may go out: it weighs the licenses
// that are recorded against what the font says of itself and gives a verdict
// with reasons, each pointing at its evidence. It also reads license texts
// (Read, Propose) and says when a count will reach its cap (Outlook). It is pure.
//
// The rules, in the order they are tried, for each face:
//
//  1. A license in force that covers the face, the client or the site's domains
//     and the use, is within its limits and has a document kept: clear, whatever
//     the font's fsType says, which becomes a note. Without a document, or where it
//     names domains and the site has none: query. Ending within WarnDays, or above
//     WarnShare of a limit: clear, with a note.
//  2. Licenses that cover all but the day (expired, or not yet begun) or that are
//     over a limit: blocked, naming the day or the count.
//  3. No license: restricted or preview-and-print fonts, and fonts that speak of
//     personal or trial use, are blocked for web and apps; everything else is a query,
//     and so is an open license that nobody has confirmed.
//  4. A font that lets only its bitmaps be embedded and has none: blocked.
//  5. A subset of a font that forbids subsetting (fsType bit 8), where no license
//     in force allows it: blocked. A change that the license in force forbids:
//     blocked; one it does not speak of: query. Another format is a query only where
//     the supplier delivered a web font: else who licenses a font for the web means that
//     it is made into one. A change of a font with a reserved name that keeps the name:
//     query.
//
// The worst reason is the verdict.
package license

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"time"

	"sparecrate/font/metadata"
)

const (
	// WarnDays is how long before its end a license is spoken of.
	WarnDays = 30
	// WarnShare is the share of a limit from which it is spoken of.
	WarnShare = 0.8
)

// State is a verdict's or a reason's weight.
type State string

// The states, from the lightest.
const (
	Cleared State = "cleared"
	Review  State = "review"
	Blocked State = "blocked"
)

// Is says the state of something after its name: "needs review", "is blocked".
func (s State) Is() string {
	if s == Review {
		return "needs review"
	}
	return "is " + string(s)
}

// Words is the state in words: "needs review", "blocked".
func (s State) Words() string {
	if s == Review {
		return "needs review"
	}
	return string(s)
}

// Worse reports whether a state weighs more than another.
func (s State) Worse(than State) bool { return s.weight() > than.weight() }

func (s State) weight() int { return slices.Index([]State{Cleared, Review, Blocked}, s) }

// Use is what is to be done with a family.
type Use string

// The uses a license can grant.
const (
	Web       Use = "web" // served by the site itself
	WebHosted Use = "web-hosted"
	Desktop   Use = "desktop"
	App       Use = "app"
	Document  Use = "document"
	Server    Use = "server"
)

// Uses lists all uses.
var Uses = []Use{Web, WebHosted, Desktop, App, Document, Server}

// goesOut reports whether the use sends the font itself to others, which a font's
// own words can bar.
func (u Use) goesOut() bool { return u == Web || u == WebHosted || u == App }

// Change is something done to a font on its way out.
type Change string

// The changes a license speaks of.
const (
	Subset   Change = "subset"   // fewer characters
	Outlines Change = "outlines" // pinned axes, other curves
	Name     Change = "name"     // another family name
	Format   Change = "format"   // another format, without loss
)

// Changes lists all changes.
var Changes = []Change{Subset, Outlines, Name, Format}

// Consent is what a license says of a change.
type Consent string

// What a license may say.
const (
	Yes     Consent = "yes"
	No      Consent = "no"
	NotSaid Consent = "not-said"
)

// Measure is what a license limits.
type Measure string

// The measures.
const (
	PageViews Measure = "page-views" // a month
	Seats     Measure = "seats"
	Apps      Measure = "apps"
)

// counts returns the uses that a measure limits.
func (m Measure) counts(u Use) bool {
	switch m {
	case PageViews:
		return u == Web || u == WebHosted
	case Seats:
		return u == Desktop
	case Apps:
		return u == App
	}
	return false
}

// Limit is a cap and what has been counted against it.
type Limit struct {
	Measure   Measure
	Cap, Used int64
	When      string // the month of page views, as 2026-10
	// Live is how many visitors live stylesheets had in LiveWhen. Anybody can read those, so
	// they are told of and never count against the cap.
	Live     int64
	LiveWhen string
}

// Share is the part of the cap that is used.
func (l Limit) Share() float64 {
	if l.Cap == 0 {
		return 1
	}
	return float64(l.Used) / float64(l.Cap)
}

// Said says the count against the cap in words.
func (l Limit) Said() string {
	what := map[Measure]string{PageViews: "page views", Seats: "seats", Apps: "apps"}[l.Measure]
	s := fmt.Sprintf("%s of %s %s", Grouped(l.Used), Grouped(l.Cap), what)
	if l.When != "" {
		s += " in " + l.When
	}
	return s
}

// Grouped writes a number with a comma between thousands.
func Grouped(n int64) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Terms is what the verdict needs of a license that covers the family.
type Terms struct {
	ID        int64
	Name      string // as people know it: number, licensor and reference
	GrantedTo string // name of the client
	Anyone    bool   // an open license: granted to everybody
	Uses      []Use
	Begins    *time.Time // first day; nil is always
	Ends      *time.Time // last day; nil is perpetual
	Documents int        // pieces of evidence kept
	Faces     []int64    // numbers of the faces it covers; nil for all
	Domains   []string   // that it is granted for, with those below them; nil for any
	Limits    []Limit
	Changes   map[Change]Consent
	// Unapproved says that no admin recorded or approved it. What the font itself
	// forbids, such a license does not allow.
	Unapproved bool
	// Continued says that another license goes on from this one when it ends.
	Continued bool
}

func (t Terms) says(c Change) Consent {
	if said := t.Changes[c]; said != "" {
		return said
	}
	return NotSaid
}

// Face is what the verdict needs of a face.
type Face struct {
	ID           int64          `json:"-"`
	Name         string         `json:"-"` // full
	Level        metadata.Level `json:"level"`
	Permission   string         `json:"permission"` // in words
	NoSubsetting bool           `json:"noSubsetting,omitempty"`
	BitmapOnly   bool           `json:"bitmapOnly,omitempty"`
	Strikes      bool           `json:"strikes,omitempty"`    // it holds bitmaps
	PostScript   bool           `json:"postScript,omitempty"` // its outlines are
	Webfont      bool           `json:"-"`                    // its supplier delivered a web font
	Findings     []Finding      `json:"findings,omitempty"`   // in its name records
}

// FaceOf takes what the verdict needs out of a face's metadata.
func FaceOf(f *metadata.Face) Face {
	out := Face{Name: f.Names.Full, Level: f.Embedding.Level, Permission: f.Embedding.Words(), NoSubsetting: f.Embedding.NoSubsetting, BitmapOnly: f.Embedding.BitmapOnly}
	out.Strikes = slices.ContainsFunc(f.Tables, func(t metadata.Table) bool { return slices.Contains([]string{"EBDT", "CBDT", "sbix", "bdat"}, t.Tag) })
	out.PostScript = f.Outlines == metadata.CFF || f.Outlines == metadata.CFF2
	out.Findings = inNames(f)
	return out
}

// Says returns what the face's name records say, each with the face's name before its place.
func (f Face) Says() []Finding {
	out := slices.Clone(f.Findings)
	for i := range out {
		out[i].Source = f.Name + ", " + out[i].Source
	}
	return out
}

// Question is one family, one use, one client or site, one day.
type Question struct {
	Family    string
	Faces     []Face
	Documents []Finding // in the documents that came with the family
	Client    string
	Site      string // empty where the question is not about one
	// Domains are the site's.
	Domains []string
	Use     Use
	Day     time.Time
	Terms   []Terms
	// Changes are those asked for.
	Changes []Change
}

// Reason is one thing that speaks for or against.
type Reason struct {
	State    State
	Code     string // stable
	Message  string // a sentence
	Evidence string // where it stands
	License  int64  // the license it points at; 0 for none
	ground   string // stands for Evidence among the grounds, where that holds a count
}

// Verdict is the answer to a question.
type Verdict struct {
	State   State
	Reasons []Reason
}

// mark stands for a state in Grounds. It never changes, so that sign-offs hold when a
// state gets another name.
var mark = map[State]string{Review: "query", Blocked: "barred"}

// Grounds is a hash of the reasons that are not clear: a sign-off holds while
// it stays the same.
func (v Verdict) Grounds() string {
	h := sha256.New()
	for _, r := range v.Reasons {
		if r.State != Cleared {
			ground := r.ground
			if ground == "" {
				ground = r.Evidence
			}
			_, _ = fmt.Fprintf(h, "%s\x00%s\x00%s\x00", mark[r.State], r.Code, ground)
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Worst is the first of the heaviest reasons.
func (v Verdict) Worst() Reason {
	for _, r := range v.Reasons {
		if r.State == v.State {
			return r
		}
	}
	return Reason{State: v.State}
}
