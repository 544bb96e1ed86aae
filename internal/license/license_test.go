package license_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/facts"
	"sparecrate/internal/license"
)

const (
	us     = "Holmvik Ferries"
	others = "Orrery Hall"
)

func on(s string) *time.Time {
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		panic(err)
	}
	return &t
}

var today = *on("2026-11-24")

func face(level facts.Level) facts.Face {
	return facts.Face{Names: facts.Names{Full: "Example Regular"}, Embedding: facts.Embedding{Level: level}}
}

func speaking(text string) facts.Face {
	f := face(facts.Installable)
	f.Names.License = text
	return f
}

func web(change func(t *license.Terms)) license.Terms {
	t := license.Terms{Name: "license 1", GrantedTo: us, Uses: []license.Use{license.Web}, Documents: 1}
	if change != nil {
		change(&t)
	}
	return t
}

// TestPolicy is the policy, to be read from top to bottom.
func TestPolicy(t *testing.T) {
	for _, test := range []struct {
		name  string
		face  facts.Face
		terms []license.Terms
		state license.State
		codes []string
	}{
		// 1. A license in force.
		{"licensed, with its document", face(facts.Installable), []license.Terms{web(nil)}, license.Clear, []string{"licensed"}},
		{"licensed, though the font says restricted", face(facts.Restricted), []license.Terms{web(nil)}, license.Clear, []string{"licensed", "permission-note"}},
		{"licensed, though the font says personal use", speaking("Free for personal use only"), []license.Terms{web(nil)}, license.Clear, []string{"licensed"}},
		{"licensed, but nothing proves it", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Documents = 0 })}, license.Query, []string{"no-evidence"}},
		{"one of two licenses has its document", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Documents = 0 }), web(nil)}, license.Clear, []string{"licensed"}},
		{"begins today", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Begins = on("2026-11-24") })}, license.Clear, []string{"licensed"}},
		{"ends today", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-11-24") })}, license.Clear, []string{"licensed", "ends-soon"}},
		{"ends in 29 days", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-12-23") })}, license.Clear, []string{"licensed", "ends-soon"}},
		{"ends in 31 days", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-12-25") })}, license.Clear, []string{"licensed"}},
		{"a short license and a perpetual one", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-11-30") }), web(nil)}, license.Clear, []string{"licensed"}},
		// 2. Out of term.
		{"ended yesterday", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-11-23") })}, license.Barred, []string{"expired"}},
		{"begins tomorrow", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Begins = on("2026-11-25") })}, license.Barred, []string{"not-begun"}},
		{"ended, but another is in force", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Ends = on("2026-11-23") }), web(nil)}, license.Clear, []string{"licensed"}},
		// 3. No license.
		{"nothing recorded", face(facts.Installable), nil, license.Query, []string{"no-license"}},
		{"nothing recorded, editable", face(facts.Editable), nil, license.Query, []string{"no-license"}},
		{"nothing recorded, nothing stated", face(facts.NotStated), nil, license.Query, []string{"no-license"}},
		{"nothing recorded, restricted", face(facts.Restricted), nil, license.Barred, []string{"permission-restricted"}},
		{"nothing recorded, preview and print", face(facts.PreviewPrint), nil, license.Barred, []string{"permission-preview-print"}},
		{"nothing recorded, personal use", speaking("This font is FOR PERSONAL USE only."), nil, license.Barred, []string{"personal-use"}},
		{"nothing recorded, a demo", speaking("Demo version, buy the full one"), nil, license.Barred, []string{"personal-use"}},
		{"bought for another client", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.GrantedTo = others })}, license.Query, []string{"other-client"}},
		{"bought for another client, restricted", face(facts.Restricted), []license.Terms{web(func(t *license.Terms) { t.GrantedTo = others })}, license.Barred, []string{"other-client", "permission-restricted"}},
		{"bought for desktop only", face(facts.Installable), []license.Terms{web(func(t *license.Terms) { t.Uses = []license.Use{license.Desktop} })}, license.Query, []string{"other-use"}},
		// 4. Bitmaps only.
		{"bitmaps only, licensed", facts.Face{Embedding: facts.Embedding{Level: facts.Installable, BitmapOnly: true}}, []license.Terms{web(nil)}, license.Barred, []string{"licensed", "bitmap-only"}},
	} {
		t.Run(test.name, func(t *testing.T) {
			v := license.Judge(license.Question{Family: "Example", Faces: []facts.Face{test.face}, Client: us, Use: license.Web, Day: today.Add(15 * time.Hour), Terms: test.terms})
			assert.Equal(t, test.state, v.State)
			var codes []string
			for _, r := range v.Reasons {
				codes = append(codes, r.Code)
				assert.NotEmpty(t, r.Evidence, "every reason points at its evidence")
				assert.Regexp(t, `[.”]$`, r.Message)
			}
			assert.Equal(t, test.codes, codes)
		})
	}
}

// TestPolicyOnChanges is the policy on what is changed on the way out.
func TestPolicyOnChanges(t *testing.T) {
	says := func(c license.Change, said license.Consent) []license.Terms {
		return []license.Terms{web(func(t *license.Terms) { t.Changes = map[license.Change]license.Consent{c: said} })}
	}
	whole := face(facts.Installable)
	fixed := facts.Face{Embedding: facts.Embedding{Level: facts.Installable, NoSubsetting: true}}
	kept := face(facts.Installable)
	kept.Names.Copyright = "Copyright 2026 Ines Halloran, with Reserved Font Name Tidegarth."
	subset, outlines := []license.Change{license.Subset}, []license.Change{license.Outlines}
	for _, test := range []struct {
		name    string
		face    facts.Face
		terms   []license.Terms
		changes []license.Change
		state   license.State
		codes   []string
	}{
		{"nothing changed", fixed, says(license.Subset, license.No), nil, license.Clear, []string{"licensed"}},
		{"the license allows a subset", whole, says(license.Subset, license.Yes), subset, license.Clear, []string{"licensed"}},
		{"the license forbids a subset", whole, says(license.Subset, license.No), subset, license.Barred, []string{"licensed", "change-forbidden"}},
		{"the license does not speak of a subset", whole, []license.Terms{web(nil)}, subset, license.Query, []string{"licensed", "change-not-said"}},
		{"the license speaks of another change", whole, says(license.Subset, license.Yes), outlines, license.Query, []string{"licensed", "change-not-said"}},
		{"of two licenses one allows it", whole, append(says(license.Subset, license.No), says(license.Subset, license.Yes)...), subset, license.Clear, []string{"licensed"}},
		{"the font forbids a subset", fixed, []license.Terms{web(nil)}, subset, license.Barred, []string{"licensed", "no-subsetting"}},
		{"the font forbids a subset, the license allows it", fixed, says(license.Subset, license.Yes), subset, license.Clear, []string{"licensed"}},
		{"the font forbids a subset, nothing recorded", fixed, nil, subset, license.Barred, []string{"no-license", "no-subsetting"}},
		{"the font forbids a subset, outlines change", fixed, says(license.Outlines, license.Yes), outlines, license.Clear, []string{"licensed"}},
		{"a reserved name, the font whole", kept, []license.Terms{web(nil)}, nil, license.Clear, []string{"licensed"}},
		{"a reserved name kept", kept, says(license.Subset, license.Yes), subset, license.Query, []string{"licensed", "reserved-name"}},
		{"a reserved name, renamed", kept, []license.Terms{web(func(t *license.Terms) {
			t.Changes = map[license.Change]license.Consent{license.Subset: license.Yes, license.Name: license.Yes}
		})}, []license.Change{license.Subset, license.Name}, license.Clear, []string{"licensed"}},
	} {
		t.Run(test.name, func(t *testing.T) {
			v := license.Judge(license.Question{Family: "Example", Faces: []facts.Face{test.face}, Client: us, Use: license.Web, Day: today, Terms: test.terms, Changes: test.changes})
			var codes []string
			for _, r := range v.Reasons {
				codes = append(codes, r.Code)
				assert.NotEmpty(t, r.Evidence)
			}
			assert.Equal(t, test.state, v.State)
			assert.Equal(t, test.codes, codes)
		})
	}
}

func TestGroundsChangeWithTheReasons(t *testing.T) {
	judge := func(f facts.Face, terms ...license.Terms) license.Verdict {
		return license.Judge(license.Question{Faces: []facts.Face{f}, Client: us, Use: license.Web, Day: today, Terms: terms})
	}
	none := judge(face(facts.Installable)).Grounds()
	assert.Equal(t, none, judge(face(facts.Installable)).Grounds(), "the same reasons are the same grounds")
	assert.NotEqual(t, none, judge(face(facts.Restricted)).Grounds(), "a bar is not what a query was signed for")
	undocumented := web(func(t *license.Terms) { t.Documents = 0 })
	assert.NotEqual(t, none, judge(face(facts.Installable), undocumented).Grounds())
}

func TestPhraseIsQuotedAsItStands(t *testing.T) {
	v := license.Judge(license.Question{Faces: []facts.Face{speaking("Personal Use ONLY!")}, Client: us, Use: license.Web, Day: today})
	assert.Contains(t, v.Reasons[0].Message, "“Personal Use ONLY”")
	assert.Equal(t, "Example Regular, name record 13, license", v.Reasons[0].Evidence)
}
