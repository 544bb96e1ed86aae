package license

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"sparecrate/font/metadata"
)

// Judge answers a question.
func Judge(q Question) Verdict {
	return q.byFaces(func(v *Verdict, q Question, c covering) { v.whole(q, c) })
}

// JudgeChanges answers for the changes alone, whatever the use: what stands
// against making them, and not against sending the font out.
func JudgeChanges(q Question) Verdict {
	v := q.byFaces(func(v *Verdict, q Question, c covering) { v.changed(q, c.inForce) })
	if v.State == "" {
		v.State = Cleared
	}
	return v
}

// byFaces judges the faces together that the same licenses cover, and says which
// they are where there are several such groups.
func (q Question) byFaces(judge func(*Verdict, Question, covering)) Verdict {
	var out Verdict
	groups := q.groups()
	for _, faces := range groups {
		one := q
		one.Faces = faces
		var v Verdict
		judge(&v, one, one.covering())
		for _, r := range v.Reasons {
			if len(groups) > 1 && r.State != Cleared && len(faces) > 0 {
				names := make([]string, len(faces))
				for i, f := range faces {
					names[i] = f.Name
				}
				r.Message += " This is about " + strings.Join(names, ", ") + "."
			}
			if !slices.Contains(out.Reasons, r) {
				out.Reasons = append(out.Reasons, r)
			}
			if out.State == "" || r.State.weight() > out.State.weight() {
				out.State = r.State
			}
		}
	}
	return out
}

// groups parts the faces by the licenses that cover them.
func (q Question) groups() [][]Face {
	var keys []string
	by := map[string][]Face{}
	for _, f := range q.Faces {
		key := ""
		for _, t := range q.Terms {
			if t.Faces != nil {
				key += fmt.Sprint(slices.Contains(t.Faces, f.ID))
			}
		}
		if by[key] == nil {
			keys = append(keys, key)
		}
		by[key] = append(by[key], f)
	}
	out := make([][]Face, 0, len(keys))
	for _, k := range keys {
		out = append(out, by[k])
	}
	if len(out) == 0 {
		out = append(out, nil)
	}
	return out
}

func (v *Verdict) whole(q Question, c covering) {
	switch {
	case len(c.inForce) > 0:
		v.licensed(q, c.inForce)
	case len(c.waiting) > 0:
		for _, t := range c.waiting {
			v.add(Blocked, "awaits-approval", fmt.Sprintf("The font itself does not permit this use, and %s, which would allow it, is not approved. Ask an admin to check its documents and approve it.", t.Name), t.Name, t.ID)
		}
	case len(c.outside) > 0:
		v.outOfTerms(q, c.outside)
	default:
		v.unlicensed(q)
	}
	for _, f := range q.Faces {
		if f.BitmapOnly && !f.Strikes {
			v.add(Blocked, "bitmap-only", "The font permits embedding of bitmaps only, and it has none. Ask the foundry for another license or another file.", evidence(f, "OS/2.fsType, bit 9"), 0)
			break
		}
	}
	v.changed(q, c.inForce)
}

// changed weighs the changes asked for. Of several licenses in force, the one
// that says most in favor counts.
func (v *Verdict) changed(q Question, inForce []Terms) {
	for _, c := range q.Changes {
		if c == Format {
			v.converted(q, inForce)
			continue
		}
		said, by := NotSaid, Terms{}
		for _, t := range inForce {
			if c == Subset && t.Unapproved && t.says(c) == Yes && slices.ContainsFunc(q.Faces, func(f Face) bool { return f.NoSubsetting }) {
				continue // the font itself forbids it
			}
			if one := t.says(c); by.Name == "" || said != Yes && (one == Yes || one == No) {
				said, by = one, t
			}
		}
		if c == Subset && said != Yes {
			if i := slices.IndexFunc(q.Faces, func(f Face) bool { return f.NoSubsetting }); i >= 0 {
				v.add(Blocked, "no-subsetting", "The font does not permit subsetting, and no current license allows it. Include the whole font, or record the license that allows it.", evidence(q.Faces[i], "OS/2.fsType, bit 8"), 0)
				continue
			}
		}
		switch {
		case said == No:
			v.add(Blocked, "change-forbidden", fmt.Sprintf("The license forbids this change: %s. Remove it from the recipe.", changeWords[c]), by.Name+", what may be changed", by.ID)
		case said == NotSaid && by.Name != "":
			v.add(Review, "change-not-said", fmt.Sprintf("The license does not say whether this change is allowed: %s. Ask the licensor, and record the answer.", changeWords[c]), by.Name+", what may be changed", by.ID)
		}
	}
	if (slices.Contains(q.Changes, Subset) || slices.Contains(q.Changes, Outlines)) && !slices.Contains(q.Changes, Name) {
		if name, at, ok := q.reserved(); ok {
			v.add(Review, "reserved-name", fmt.Sprintf("The name “%s” is reserved for the unchanged font. Rename the changed font.", name), at, 0)
		}
	}
}

// converted weighs that the font is written into another format than it came in.
func (v *Verdict) converted(q Question, inForce []Terms) {
	var by *Terms
	for i := range inForce {
		t := &inForce[i]
		said := t.says(Format)
		if said == Yes || t.Anyone && said != No {
			return
		}
		if by == nil || said == No {
			by = t
		}
	}
	switch {
	case by == nil:
	case by.says(Format) == No:
		v.add(Blocked, "conversion-forbidden", "The license forbids conversion, and the pack needs a format that the supplier did not deliver. Use the supplier's files, or ask for this format.", by.Name+", what may be changed", by.ID)
	case slices.ContainsFunc(q.Faces, func(f Face) bool { return f.Webfont }):
		v.add(Review, "conversion-not-said", "The license does not say whether conversion is allowed, and the pack needs a format that the supplier did not deliver. Use the supplier's files, or ask.", by.Name+", what may be changed", by.ID)
	}
}

var changeWords = map[Change]string{Subset: "fewer characters", Outlines: "other outlines", Name: "another name"}

// reserved returns a reserved name that a face bears, and where that is said.
func (q Question) reserved() (name, at string, ok bool) {
	for _, f := range q.Faces {
		for _, said := range slices.Concat(f.Says(), q.Documents) {
			for _, r := range said.Reserved {
				if strings.Contains(strings.ToLower(f.Name), strings.ToLower(r)) || f.Name == "" {
					return r, said.At(), true
				}
			}
		}
	}
	return "", "", false
}

func (v *Verdict) add(s State, code, message, evidence string, license int64) {
	v.Reasons = append(v.Reasons, Reason{State: s, Code: code, Message: message, Evidence: evidence, License: license})
	if v.State == "" || s.weight() > v.State.weight() {
		v.State = s
	}
}

// covering are the licenses for this client or site, use and faces: those in
// force and within their limits, those that fail by day or limit alone, and those that
// an admin is to approve first, as the font itself forbids what they allow.
type covering struct{ inForce, outside, waiting []Terms }

func (q Question) covering() covering {
	var c covering
	forbidden := q.forbidden()
	for _, t := range q.Terms {
		if q.short(t) != "" {
			continue
		}
		if _, over := q.over(t); over || q.dated(t) {
			c.outside = append(c.outside, t)
			continue
		}
		if forbidden && t.Unapproved {
			c.waiting = append(c.waiting, t)
			continue
		}
		c.inForce = append(c.inForce, t)
	}
	return c
}

// forbidden reports whether the use would be blocked by what the font says, if there
// were no license.
func (q Question) forbidden() bool {
	var bare Verdict
	bare.unlicensed(q)
	return bare.State == Blocked
}

// short returns the code of what a license lacks for this question besides days and
// limits; empty where it covers it.
func (q Question) short(t Terms) string {
	switch {
	case !t.Anyone && t.GrantedTo != q.Client && !q.onItsDomains(t):
		return "other-client"
	case len(t.Domains) > 0 && len(q.Domains) > 0 && q.Use != Desktop && !q.onItsDomains(t):
		return "other-domain"
	case !slices.Contains(t.Uses, q.Use):
		return "other-use"
	}
	for _, f := range q.Faces {
		if t.Faces != nil && !slices.Contains(t.Faces, f.ID) {
			return "other-faces"
		}
	}
	return ""
}

// onItsDomains reports whether all of the site's domains are among those that a
// license names, or below them.
func (q Question) onItsDomains(t Terms) bool {
	for _, d := range q.Domains {
		if !slices.ContainsFunc(t.Domains, func(of string) bool { return d == of || strings.HasSuffix(d, "."+of) }) {
			return false
		}
	}
	return len(q.Domains) > 0
}

func (q Question) dated(t Terms) bool {
	day := q.Day.UTC().Truncate(24 * time.Hour)
	return t.Begins != nil && day.Before(*t.Begins) || t.Ends != nil && day.After(*t.Ends)
}

// over returns the limit that a license is over, of those that this use counts against.
func (q Question) over(t Terms) (Limit, bool) {
	for _, l := range t.Limits {
		if l.Measure.counts(q.Use) && l.Used > l.Cap {
			return l, true
		}
	}
	return Limit{}, false
}

// undecided reports whether a license names domains and the site has none.
func (q Question) undecided(t Terms) bool {
	return len(t.Domains) > 0 && len(q.Domains) == 0 && q.Site != ""
}

// licensed takes the best of the licenses in force: one that is sure to cover the
// site, with evidence, the longest first.
func (v *Verdict) licensed(q Question, inForce []Terms) {
	rank := func(t Terms) int {
		n := 0
		if t.Documents > 0 {
			n++
		}
		if !q.undecided(t) {
			n++
		}
		return n
	}
	best := slices.MaxFunc(inForce, func(a, b Terms) int {
		if d := rank(a) - rank(b); d != 0 {
			return d
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
	to := best.GrantedTo
	if best.Anyone {
		to = "everybody"
	}
	if best.Documents > 0 {
		v.add(Cleared, "licensed", fmt.Sprintf("A license granted to %s covers this use.", to), best.Name, best.ID)
	} else {
		v.add(Review, "no-evidence", "A license is recorded, but it has no document. Add the order, the license text or a letter from the licensor.", best.Name, best.ID)
	}
	if q.undecided(best) {
		v.add(Review, "domain-not-known", fmt.Sprintf("The license is for %s, and the site has no domains. Enter the site's domains.", strings.Join(best.Domains, ", ")), best.Name+", domains", best.ID)
	}
	if best.Ends != nil && !best.Continued && best.Ends.Sub(q.Day) < WarnDays*24*time.Hour {
		v.add(Cleared, "ends-soon", fmt.Sprintf("The license ends on %s. Renew it, or plan a replacement.", best.Ends.Format(time.DateOnly)), best.Name, best.ID)
	}
	for _, l := range best.Limits {
		if l.Measure.counts(q.Use) && l.Share() > WarnShare {
			v.add(Cleared, "near-limit", fmt.Sprintf("%s. Ask for a larger license before the limit is reached.", l.Said()), best.Name+", "+string(l.Measure), best.ID)
		}
	}
	for _, l := range best.Limits {
		if l.Measure.counts(q.Use) && l.Live > l.Used && float64(l.Live) > WarnShare*float64(l.Cap) {
			v.add(Cleared, "live-count", fmt.Sprintf("Live stylesheets had %s visitors in %s, and the license allows %s page views a month. Enter the counted page views.", Grouped(l.Live), l.LiveWhen, Grouped(l.Cap)), best.Name+", "+string(l.Measure), best.ID)
		}
	}
	if f, ok := q.narrowest(); ok {
		v.add(Cleared, "permission-note", "The font's embedding permission is stricter than the license: "+f.Permission, evidence(f, "OS/2.fsType"), 0)
	}
}

func (v *Verdict) outOfTerms(q Question, outside []Terms) {
	for _, t := range outside {
		if q.dated(t) {
			if t.Ends != nil && q.Day.After(*t.Ends) {
				v.add(Blocked, "expired", fmt.Sprintf("The license ended on %s. Renew it, or remove the family.", t.Ends.Format(time.DateOnly)), t.Name, t.ID)
			} else {
				v.add(Blocked, "not-begun", fmt.Sprintf("The license begins on %s.", t.Begins.Format(time.DateOnly)), t.Name, t.ID)
			}
			continue
		}
		l, _ := q.over(t)
		v.add(Blocked, "over-limit", fmt.Sprintf("The license is over its limit: %s. Buy a larger license, or remove the family.", l.Said()), t.Name+", "+string(l.Measure)+": "+l.Said(), t.ID)
		v.Reasons[len(v.Reasons)-1].ground = t.Name + ", " + string(l.Measure)
	}
}

func (v *Verdict) unlicensed(q Question) {
	for _, t := range q.Terms {
		switch code := q.short(t); code {
		case "other-client":
			v.add(Review, code, fmt.Sprintf("The only license is for %s, not for %s.", t.GrantedTo, q.Client), t.Name, t.ID)
		case "other-domain":
			v.add(Review, code, fmt.Sprintf("The license is for %s, not for %s.", strings.Join(t.Domains, ", "), strings.Join(q.Domains, ", ")), t.Name+", domains", t.ID)
		case "other-use":
			v.add(Review, code, fmt.Sprintf("The license does not cover the use %q.", q.Use), t.Name, t.ID)
		case "other-faces":
			v.add(Review, code, "The license covers other faces of the family.", t.Name, t.ID)
		}
	}
	if f, ok := q.narrowest(); ok && (f.Level == metadata.Restricted || f.Level == metadata.PreviewPrint) {
		state := Review
		if q.Use.goesOut() {
			state = Blocked
		}
		v.add(state, "permission-"+string(f.Level), "No license covers this use, and the font does not permit it. "+f.Permission+" Buy a license and record it.", evidence(f, "OS/2.fsType"), 0)
	}
	said := slices.Clone(q.Documents)
	for _, f := range q.Faces {
		said = append(said, f.Says()...)
	}
	if w, ok := heaviest(said); ok {
		switch {
		case w.Signal.personal() && q.Use.goesOut():
			v.add(Blocked, "personal-use", fmt.Sprintf("No license covers this use, and the font says “%s”. Buy a license and record it.", w.Phrase), w.At(), 0)
		case w.Signal.personal():
			v.add(Review, "personal-use", fmt.Sprintf("No license covers this use, and the font says “%s”. Ask the foundry what that means.", w.Phrase), w.At(), 0)
		case w.Signal == Unknown:
			v.add(Review, "terms-unclear", fmt.Sprintf("A document that came with the font says “%s”, so the terms of use are unknown. Ask the foundry, or use another font.", w.Phrase), w.At(), 0)
		case w.Signal == AskFirst:
			v.add(Review, "terms-unclear", fmt.Sprintf("Whoever made the font wants to be asked: “%s”. Ask, and record the answer as a license.", w.Phrase), w.At(), 0)
		default:
			v.add(Review, "terms-unclear", fmt.Sprintf("The font says “%s”, and that is not a license. Ask the foundry for one.", w.Phrase), w.At(), 0)
		}
	}
	if p := Propose(said); len(p) > 0 {
		v.add(Review, "open-unconfirmed", fmt.Sprintf("The font seems to be under an open license, %s. Look at what it says and confirm it.", p[0].License), p[0].Findings[0].At(), 0)
		return
	}
	if v.State != Blocked && len(q.Terms) == 0 {
		v.add(Review, "no-license", "No license is recorded for this family. Record the one that was bought or given, with its document.", "license register", 0)
	}
}

// narrowest returns the face with the narrowest permission, where that is not installable.
func (q Question) narrowest() (Face, bool) {
	order := []metadata.Level{metadata.Installable, metadata.NotStated, metadata.Editable, metadata.PreviewPrint, metadata.Restricted}
	worst, rank := Face{}, 0
	for _, f := range q.Faces {
		if r := slices.Index(order, f.Level); r > rank {
			worst, rank = f, r
		}
	}
	return worst, rank > 1
}

func evidence(f Face, place string) string { return fmt.Sprintf("%s, %s", f.Name, place) }
