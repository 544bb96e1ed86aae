package license

import (
	"slices"
)

// Proposal is an open license that a family seems to be under, for a person to confirm.
type Proposal struct {
	Known
	License    string // SPDX identifier
	Confidence float64
	Findings   []Finding // that say so, the surest first
	Reserved   []string  // names kept for the unchanged font
}

// Propose gathers the open licenses that findings point to, the surest first.
func Propose(found []Finding) []Proposal {
	var out []Proposal
	var reserved []string
	for _, f := range found {
		for _, r := range f.Reserved {
			if !slices.Contains(reserved, r) {
				reserved = append(reserved, r)
			}
		}
		if f.License == "" {
			continue
		}
		i := slices.IndexFunc(out, func(p Proposal) bool { return p.License == f.License })
		if i < 0 {
			known, _ := KnownLicense(f.License)
			i = len(out)
			out = append(out, Proposal{Known: known, License: f.License})
		}
		out[i].Findings = append(out[i].Findings, f)
		out[i].Confidence = max(out[i].Confidence, f.Confidence)
	}
	for i := range out {
		out[i].Reserved = reserved
		slices.SortStableFunc(out[i].Findings, func(a, b Finding) int { return int(1000 * (b.Confidence - a.Confidence)) })
	}
	slices.SortStableFunc(out, func(a, b Proposal) int { return int(1000 * (b.Confidence - a.Confidence)) })
	return out
}

// Warnings returns the warnings among findings, the heaviest first.
func Warnings(found []Finding) []Finding {
	var out []Finding
	for _, f := range found {
		if f.Signal != "" {
			out = append(out, f)
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int {
		switch {
		case a.Signal.personal() == b.Signal.personal():
			return 0
		case a.Signal.personal():
			return -1
		}
		return 1
	})
	return out
}

func heaviest(found []Finding) (Finding, bool) {
	if w := Warnings(found); len(w) > 0 {
		return w[0], true
	}
	return Finding{}, false
}
