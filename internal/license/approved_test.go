package license_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"sparecrate/font/fonttest"
	"sparecrate/internal/license"
)

// say writes a verdict with every reason, without when it was reached.
func say(v license.Verdict) string {
	out := string(v.State)
	for _, r := range v.Reasons {
		out += fmt.Sprintf(" | %s %s: %s [%s]", r.State, r.Code, r.Message, r.Evidence)
	}
	return out
}

// TestVerdictsAsApproved judges every row of the policy for each use and for days
// before and after, with and without changes.
func TestVerdictsAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for _, part := range slices.Sorted(maps.Keys(policy)) {
		for _, r := range policy[part] {
			q := r.question()
			lines = append(lines, part+"/"+r.name+": "+say(license.Judge(q)))
			var others []string
			for _, u := range license.Uses {
				for _, days := range []int{-400, -1, 0, 1, 29, 30, 31, 400} {
					q := r.question()
					q.Use, q.Day = u, q.Day.AddDate(0, 0, days)
					others = append(others, say(license.Judge(q)))
					q.Changes = license.Changes
					others = append(others, say(license.JudgeChanges(q)))
				}
			}
			lines = append(lines, "  for other uses and days: "+fonttest.Digest(others))
		}
	}
	fonttest.Lines(t, "verdicts", lines...)
}

// TestTextsAsApproved reads what the rows of the policy have fonts say, and short texts
// about each known license.
func TestTextsAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	read := func(source, text string) {
		found := license.Read(license.Text{Source: source, Body: text})
		for _, one := range found {
			lines = append(lines, fmt.Sprintf("%s: %s %s %v %q %s", source, one.Signal, one.License, one.Reserved, one.Quote, one.At()))
		}
		for _, p := range license.Propose(found) {
			lines = append(lines, fmt.Sprintf("%s proposes %+v", source, p))
		}
		lines = append(lines, fmt.Sprintf("%s warns of %d", source, len(license.Warnings(found))))
	}
	for i, text := range []string{
		ofl, "Free for personal use only", "FREE FOR\nPERSONAL  USE", "Nur für den privaten Gebrauch.", "Police réservée à un usage personnel.", "Solo para uso personal", "Tylko do użytku prywatnego",
		"個人利用のみ", "free for non-commercial use", "Commercial use requires a license.", "Demo version, buy the full one", "This trial font is for evaluation only",
		"Free for personal and commercial use.", "Donationware. Thank you!", "100% free", "Copyright 2026 Ines Halloran, with Reserved Font Name Example.",
		`with Reserved Font Names "A", 'B One' and C.`, "Apache License, Version 2.0, January 2004", "GNU General Public License, version 3, with the font exception", "public domain",
		"not for personal use only but for everybody", "no embedding, no conversion, no subsetting", "You may not modify, convert or rename the font.", "",
	} {
		read(fmt.Sprint("text ", i), text)
		read(fmt.Sprint("text ", i, " within others"), "A font by Ines Halloran. "+text+" See the web site; \n\n"+ofl)
	}
	for _, k := range license.KnownLicenses {
		read(k.ID, "This font is licensed under "+k.Title+".\n")
		read(k.ID+" alone", k.ID)
		again, is := license.KnownLicense(k.ID)
		lines = append(lines, fmt.Sprintf("%s %v %s", again.Title, is, fonttest.Digest(fmt.Sprintf("%+v", again))))
	}
	fonttest.Lines(t, "texts", lines...)
}

// TestCountsAsApproved looks ahead along counts of many shapes.
func TestCountsAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for shape := range 12 {
		var counts []license.Count
		for m := range 3 + shape {
			counts = append(counts, license.Count{Month: time.Date(2025, time.Month(1+m+m*shape/5), 1, 0, 0, 0, 0, time.UTC), Views: int64(1000 + m*m*37*shape - m*200)})
		}
		for _, limit := range []int64{0, 900, 5000, 100_000, 9_000_000} {
			o := license.Look(counts, limit)
			line := fmt.Sprintf("shape %d to %s: %s in %s, %.3f a month", shape, license.Grouped(limit), license.Grouped(o.Latest), o.Month.Format("2006-01"), o.Trend)
			if o.Reached != nil {
				line += ", reached " + o.Reached.Format("2006-01")
			}
			lines = append(lines, line)
		}
	}
	for _, n := range []int64{0, 7, 999, 1000, 12_345, 999_999, 1_000_000, -1234} {
		lines = append(lines, license.Grouped(n))
	}
	fonttest.Lines(t, "counts", lines...)
}
