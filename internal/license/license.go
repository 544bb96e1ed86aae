// Package license judges whether a family may go out: it weighs the licenses
// that are recorded against what the font says of itself and gives a verdict
// with reasons, each pointing at its evidence. It is pure.
//
// The rules, in the order they are tried:
//
//  1. A license in force that covers the family, the client and the use, with a
//     document kept: clear, whatever the font's fsType says, which becomes a
//     note. Without a document: query. Ending within WarnDays: clear, with a note.
//  2. Licenses that cover all but the day (expired, or not yet begun): barred.
//  3. No license: restricted or preview-and-print fonts and fonts that speak of
//     personal or trial use are barred; everything else is a query.
//  4. A font that lets only its bitmaps be embedded: barred, license or not.
//  5. A subset of a font that forbids subsetting (fsType bit 8), where no license
//     in force allows it: barred. A change that the license in force forbids:
//     barred; one it does not speak of: query. A change of a font with a reserved
//     name that keeps the name: query.
//
// The worst reason is the verdict.
package license

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"sparecrate/font/facts"
)

// WarnDays is how long before its end a license is spoken of.
const WarnDays = 30

// State is a verdict's or a reason's weight.
type State string

// The states, from the lightest.
const (
	Clear  State = "clear"
	Query  State = "query"
	Barred State = "barred"
)

func (s State) weight() int { return slices.Index([]State{Clear, Query, Barred}, s) }

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

// Change is something done to a font on its way out.
type Change string

// The changes a license speaks of; writing another container without loss is
// none of them.
const (
	Subset   Change = "subset"   // fewer characters
	Outlines Change = "outlines" // pinned axes, other curves
	Name     Change = "name"     // another family name
)

// Changes lists all changes.
var Changes = []Change{Subset, Outlines, Name}

// Consent is what a license says of a change.
type Consent string

// What a license may say.
const (
	Yes     Consent = "yes"
	No      Consent = "no"
	NotSaid Consent = "not-said"
)

// Uses lists all uses.
var Uses = []Use{Web, WebHosted, Desktop, App, Document, Server}

// Terms is what the verdict needs of a license that covers the family.
type Terms struct {
	Name      string // as people know it: number, licensor and reference
	GrantedTo string // name of the client
	Uses      []Use
	Begins    *time.Time // first day; nil is always
	Ends      *time.Time // last day; nil is perpetual
	Documents int        // pieces of evidence kept
	Changes   map[Change]Consent
}

func (t Terms) says(c Change) Consent {
	if said := t.Changes[c]; said != "" {
		return said
	}
	return NotSaid
}

// Question is one family, one use, one client, one day.
type Question struct {
	Family string
	Faces  []facts.Face
	Client string
	Use    Use
	Day    time.Time
	Terms  []Terms
	// Changes are those asked for.
	Changes []Change
}

// Reason is one thing that speaks for or against.
type Reason struct {
	State    State
	Code     string // stable
	Message  string // a sentence
	Evidence string // where it stands
}

// Verdict is the answer to a question.
type Verdict struct {
	State   State
	Reasons []Reason
}

// Grounds is a hash of the reasons that are not clear: a sign-off holds while
// it stays the same.
func (v Verdict) Grounds() string {
	h := sha256.New()
	for _, r := range v.Reasons {
		if r.State != Clear {
			_, _ = fmt.Fprintf(h, "%s\x00%s\x00%s\x00", r.State, r.Code, r.Evidence)
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Judge answers a question.
func Judge(q Question) Verdict {
	var v Verdict
	inForce, dated := q.covering()
	switch {
	case len(inForce) > 0:
		v.licensed(q, inForce)
	case len(dated) > 0:
		v.outOfTerm(q, dated)
	default:
		v.unlicensed(q)
	}
	for _, f := range q.Faces {
		if f.Embedding.BitmapOnly {
			v.add(Barred, "bitmap-only", "Only the bitmaps of this font may be embedded, and web pages use outlines. Ask the maker for another license or another file.",
				evidence(f, f.Embedding.Words()))
			break
		}
	}
	v.changed(q, inForce)
	return v
}

// JudgeChanges answers for the changes alone, whatever the use: what stands
// against making them, and not against sending the font out.
func JudgeChanges(q Question) Verdict {
	v := Verdict{State: Clear}
	inForce, _ := q.covering()
	v.changed(q, inForce)
	return v
}

// changed weighs the changes asked for. Of several licenses in force, the one
// that says most in favor counts.
func (v *Verdict) changed(q Question, inForce []Terms) {
	for _, c := range q.Changes {
		said, name := NotSaid, ""
		for _, t := range inForce {
			one := t.says(c)
			if name == "" || one == Yes || one == No && said == NotSaid {
				if said != Yes {
					said, name = one, t.Name
				}
			}
		}
		if c == Subset && said != Yes {
			if f, ok := q.noSubsetting(); ok {
				v.add(Barred, "no-subsetting", "The font forbids subsetting, and no license in force allows it. Send the whole font, or record the license that allows it.", evidence(f, "OS/2.fsType, bit 8"))
				continue
			}
		}
		switch {
		case said == No:
			v.add(Barred, "change-forbidden", fmt.Sprintf("The license forbids a change that is asked for: %s. Leave it out.", changeWords[c]), name)
		case said == NotSaid && name != "":
			v.add(Query, "change-not-said", fmt.Sprintf("The license does not say whether this may be changed: %s. Ask the maker, and record the answer.", changeWords[c]), name)
		}
	}
	if slices.Contains(q.Changes, Subset) || slices.Contains(q.Changes, Outlines) {
		if f, reserved, ok := q.reserved(); ok && !slices.Contains(q.Changes, Name) {
			v.add(Query, "reserved-name", fmt.Sprintf("The name “%s” is reserved for the unchanged font. Rename the changed one.", reserved), evidence(f, "name record 0 or 13"))
		}
	}
}

var changeWords = map[Change]string{Subset: "fewer characters", Outlines: "other outlines", Name: "another name"}

// noSubsetting gives a face whose font forbids subsetting.
func (q Question) noSubsetting() (facts.Face, bool) {
	for _, f := range q.Faces {
		if f.Embedding.NoSubsetting {
			return f, true
		}
	}
	return facts.Face{}, false
}

// reservedName matches the phrase by which a font's license keeps its name.
var reservedName = regexp.MustCompile(`(?i)with\s+(?:the\s+)?reserved\s+font\s+names?\s*:?\s*["“'‘]?([^"”'’\n.,;()]+)`)

// reserved gives a face with a reserved name, and the name.
func (q Question) reserved() (facts.Face, string, bool) {
	for _, f := range q.Faces {
		for _, text := range []string{f.Names.Copyright, f.Names.License} {
			if m := reservedName.FindStringSubmatch(text); m != nil {
				return f, strings.TrimSpace(m[1]), true
			}
		}
	}
	return facts.Face{}, "", false
}

func (v *Verdict) add(s State, code, message, evidence string) {
	v.Reasons = append(v.Reasons, Reason{s, code, message, evidence})
	if v.State == "" || s.weight() > v.State.weight() {
		v.State = s
	}
}

// covering gives the licenses for this client and use: those in force, and
// those that fail by their dates alone.
func (q Question) covering() (inForce, dated []Terms) {
	day := q.Day.UTC().Truncate(24 * time.Hour)
	for _, t := range q.Terms {
		if t.GrantedTo != q.Client || !slices.Contains(t.Uses, q.Use) {
			continue
		}
		if t.Begins != nil && day.Before(*t.Begins) || t.Ends != nil && day.After(*t.Ends) {
			dated = append(dated, t)
			continue
		}
		inForce = append(inForce, t)
	}
	return inForce, dated
}

// licensed takes the best of the licenses in force: with evidence before
// without, the longest first.
func (v *Verdict) licensed(q Question, inForce []Terms) {
	best := slices.MaxFunc(inForce, func(a, b Terms) int {
		if (a.Documents > 0) != (b.Documents > 0) {
			return map[bool]int{true: 1, false: -1}[a.Documents > 0]
		}
		switch {
		case a.Ends == nil && b.Ends == nil:
			return 0
		case a.Ends == nil:
			return 1
		case b.Ends == nil:
			return -1
		}
		return a.Ends.Compare(*b.Ends)
	})
	if best.Documents > 0 {
		v.add(Clear, "licensed", fmt.Sprintf("A license granted to %s covers this use.", best.GrantedTo), best.Name)
	} else {
		v.add(Query, "no-evidence", "A license is recorded, but no document proves it. Add the order, the license text or the maker's letter.", best.Name)
	}
	if best.Ends != nil && best.Ends.Sub(q.Day) < WarnDays*24*time.Hour {
		v.add(Clear, "ends-soon", fmt.Sprintf("The license ends on %s. Renew it or plan the replacement.", best.Ends.Format(time.DateOnly)), best.Name)
	}
	if f, ok := q.narrowest(); ok {
		v.add(Clear, "permission-note", "The font itself asks for more care than the license: "+f.Embedding.Words(), evidence(f, "OS/2.fsType"))
	}
}

func (v *Verdict) outOfTerm(q Question, dated []Terms) {
	for _, t := range dated {
		if t.Ends != nil && q.Day.After(*t.Ends) {
			v.add(Barred, "expired", fmt.Sprintf("The license ended on %s. Renew it, or take the family off.", t.Ends.Format(time.DateOnly)), t.Name)
			continue
		}
		v.add(Barred, "not-begun", fmt.Sprintf("The license begins on %s.", t.Begins.Format(time.DateOnly)), t.Name)
	}
}

func (v *Verdict) unlicensed(q Question) {
	for _, t := range q.Terms {
		switch {
		case t.GrantedTo != q.Client:
			v.add(Query, "other-client", fmt.Sprintf("The license recorded is granted to %s, not to %s.", t.GrantedTo, q.Client), t.Name)
		default:
			v.add(Query, "other-use", fmt.Sprintf("The license recorded does not grant the use %q.", q.Use), t.Name)
		}
	}
	if f, ok := q.narrowest(); ok && (f.Embedding.Level == facts.Restricted || f.Embedding.Level == facts.PreviewPrint) {
		v.add(Barred, "permission-"+string(f.Embedding.Level), "No license covers this use, and the font forbids it: "+f.Embedding.Words()+" Buy a license and record it.",
			evidence(f, "OS/2.fsType"))
	}
	for _, f := range q.Faces {
		if phrase, record := warning(f.Names); phrase != "" {
			v.add(Barred, "personal-use", fmt.Sprintf("No license covers this use, and the font speaks of “%s”. Buy a license and record it.", phrase), evidence(f, record))
			break
		}
	}
	if v.State != Barred && len(q.Terms) == 0 {
		v.add(Query, "no-license", "No license is recorded for this family. Record the one that was bought or given, with its document.", "license register")
	}
}

// narrowest gives the face with the narrowest permission, where that is not installable.
func (q Question) narrowest() (facts.Face, bool) {
	order := []facts.Level{facts.Installable, facts.NotStated, facts.Editable, facts.PreviewPrint, facts.Restricted}
	worst, rank := facts.Face{}, 0
	for _, f := range q.Faces {
		if r := slices.Index(order, f.Embedding.Level); r > rank {
			worst, rank = f, r
		}
	}
	return worst, rank > 1
}

// warnings are phrases in a font's names that speak against professional use.
var warnings = []string{"personal use only", "for personal use", "personal use", "non-commercial", "noncommercial", "not for commercial", "trial version", "trial font", "demo version", "demo font", "evaluation only"}

// warning gives the first such phrase as it stands in the font, and the name
// record it is quoted from.
func warning(n facts.Names) (phrase, record string) {
	for _, r := range []struct{ text, record string }{
		{n.License, "name record 13, license"}, {n.Description, "name record 10, description"},
		{n.Copyright, "name record 0, copyright"}, {n.Full, "name record 4, full name"},
	} {
		lower := strings.ToLower(r.text)
		for _, w := range warnings {
			if at := strings.Index(lower, w); at >= 0 && len(lower) == len(r.text) {
				return r.text[at : at+len(w)], r.record
			}
		}
	}
	return "", ""
}

func evidence(f facts.Face, place string) string {
	return fmt.Sprintf("%s, %s", f.Names.Full, place)
}
