package license_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
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

// What a row says of the font.

func font(level metadata.Level, change ...func(*license.Face)) license.Face {
	f := license.Face{ID: 1, Name: "Example Regular", Level: level, Permission: "Said in words."}
	for _, c := range change {
		c(&f)
	}
	return f
}

func whole(f *license.Face)   { f.NoSubsetting = true }
func bitmaps(f *license.Face) { f.BitmapOnly = true }
func strikes(f *license.Face) { f.Strikes = true }

// speaks has the font's license record say something.
func speaks(text string) func(*license.Face) {
	return func(f *license.Face) {
		f.Findings = append(f.Findings, license.Read(license.Text{Source: "name record 13, license", Body: text})...)
	}
}

var (
	plain = font(metadata.Installable)
	ofl   = "This Font Software is licensed under the SIL Open Font License, Version 1.1."
	kept  = speaks("Copyright 2026 Ines Halloran, with Reserved Font Name Example.")
)

// What a row says of a license.

type term = func(*license.Terms)

// grant is a license for the client's web sites, perpetual, with its document.
func grant(change ...term) license.Terms {
	t := license.Terms{ID: 7, Name: "license 7", GrantedTo: us, Uses: []license.Use{license.Web}, Documents: 1}
	for _, c := range change {
		c(&t)
	}
	return t
}

func bare(t *license.Terms)      { t.Documents = 0 }
func anyone(t *license.Terms)    { t.Anyone, t.GrantedTo = true, "Lanternjaw Studio" }
func to(name string) term        { return func(t *license.Terms) { t.GrantedTo = name } }
func uses(u ...license.Use) term { return func(t *license.Terms) { t.Uses = u } }
func from(day string) term       { return func(t *license.Terms) { t.Begins = on(day) } }
func until(day string) term      { return func(t *license.Terms) { t.Ends = on(day) } }
func domains(d ...string) term   { return func(t *license.Terms) { t.Domains = d } }
func faces(ids ...int64) term    { return func(t *license.Terms) { t.Faces = ids } }
func counted(m license.Measure, used, limit int64) term {
	return func(t *license.Terms) {
		t.Limits = append(t.Limits, license.Limit{Measure: m, Used: used, Cap: limit, When: "2026-10"})
	}
}
func says(c license.Change, said license.Consent) term {
	return func(t *license.Terms) {
		if t.Changes == nil {
			t.Changes = map[license.Change]license.Consent{}
		}
		t.Changes[c] = said
	}
}

type row struct {
	name    string
	face    license.Face
	terms   []license.Terms
	asks    func(*license.Question)
	state   license.State
	reasons string // codes, in their order
}

func use(u license.Use) func(*license.Question) { return func(q *license.Question) { q.Use = u } }
func site(domains ...string) func(*license.Question) {
	return func(q *license.Question) { q.Site, q.Domains = "Timetables", domains }
}
func change(c ...license.Change) func(*license.Question) {
	return func(q *license.Question) { q.Changes = c }
}

func of(t ...license.Terms) []license.Terms { return t }

const (
	clear   = license.Cleared
	query   = license.Review
	blocked = license.Blocked
)

// policy is the policy, to be read from top to bottom.
var policy = map[string][]row{
	"1. A license in force": {
		{"with its document", plain, of(grant()), nil, clear, "licensed"},
		{"nothing proves it", plain, of(grant(bare)), nil, query, "no-evidence"},
		{"one of two has its document", plain, of(grant(bare), grant()), nil, clear, "licensed"},
		{"begins today", plain, of(grant(from("2026-11-24"))), nil, clear, "licensed"},
		{"ends today", plain, of(grant(until("2026-11-24"))), nil, clear, "licensed ends-soon"},
		{"ends in 29 days", plain, of(grant(until("2026-12-23"))), nil, clear, "licensed ends-soon"},
		{"ends in 31 days", plain, of(grant(until("2026-12-25"))), nil, clear, "licensed"},
		{"a short one and a perpetual one", plain, of(grant(until("2026-11-30")), grant()), nil, clear, "licensed"},
		{"a short one with its document and a perpetual one without", plain, of(grant(until("2026-11-30")), grant(bare)), nil, clear, "licensed ends-soon"},
		{"two terms, the later counts", plain, of(grant(until("2026-11-30")), grant(until("2027-11-30"))), nil, clear, "licensed"},
		{"the font says restricted", font(metadata.Restricted), of(grant()), nil, clear, "licensed permission-note"},
		{"the font says preview and print", font(metadata.PreviewPrint), of(grant()), nil, clear, "licensed permission-note"},
		{"the font says editable", font(metadata.Editable), of(grant()), nil, clear, "licensed permission-note"},
		{"the font states nothing", font(metadata.NotStated), of(grant()), nil, clear, "licensed"},
		{"the font says personal use", font(metadata.Installable, speaks("Free for personal use only")), of(grant()), nil, clear, "licensed"},
		{"for the web, asked for an app", plain, of(grant()), use(license.App), query, "other-use"},
		{"for apps", plain, of(grant(uses(license.App))), use(license.App), clear, "licensed"},
		{"for the desktop", plain, of(grant(uses(license.Desktop))), use(license.Desktop), clear, "licensed"},
		{"for documents", plain, of(grant(uses(license.Document))), use(license.Document), clear, "licensed"},
		{"for a server", plain, of(grant(uses(license.Server))), use(license.Server), clear, "licensed"},
		{"for hosted web fonts", plain, of(grant(uses(license.WebHosted))), use(license.WebHosted), clear, "licensed"},
		{"for hosted web fonts, asked for the site's own", plain, of(grant(uses(license.WebHosted))), nil, query, "other-use"},
		{"for several uses", plain, of(grant(uses(license.Desktop, license.Web))), nil, clear, "licensed"},
		{"the desktop's and the web's, each its own", plain, of(grant(uses(license.Desktop)), grant()), nil, clear, "licensed"},
		{"open, confirmed: granted to everybody", plain, of(grant(anyone)), nil, clear, "licensed"},
		{"open, confirmed without its text", plain, of(grant(anyone, bare)), nil, query, "no-evidence"},
	},
	"1. Whom and what it covers": {
		{"another client", plain, of(grant(to(others))), nil, query, "other-client"},
		{"another client, restricted", font(metadata.Restricted), of(grant(to(others))), nil, blocked, "other-client permission-restricted"},
		{"another client's, and ours", plain, of(grant(to(others)), grant()), nil, clear, "licensed"},
		{"another client's use, and ours without a document", plain, of(grant(to(others)), grant(bare)), nil, query, "no-evidence"},
		{"its domain", plain, of(grant(domains("holmvik.example"))), site("holmvik.example"), clear, "licensed"},
		{"below its domain", plain, of(grant(domains("holmvik.example"))), site("tickets.holmvik.example"), clear, "licensed"},
		{"a domain that only ends alike", plain, of(grant(domains("holmvik.example"))), site("oldholmvik.example"), query, "other-domain"},
		{"another domain", plain, of(grant(domains("holmvik.example"))), site("orrery.example"), query, "other-domain"},
		{"one of the site's two domains", plain, of(grant(domains("holmvik.example"))), site("holmvik.example", "orrery.example"), query, "other-domain"},
		{"both of the site's domains", plain, of(grant(domains("holmvik.example", "orrery.example"))), site("holmvik.example", "orrery.example"), clear, "licensed"},
		{"domains named, the site has none", plain, of(grant(domains("holmvik.example"))), site(), query, "licensed domain-not-known"},
		{"domains named, no site asked about", plain, of(grant(domains("holmvik.example"))), nil, clear, "licensed"},
		{"domains named, and another for any", plain, of(grant(domains("holmvik.example")), grant()), site(), clear, "licensed"},
		{"domains do not matter on the desktop", plain, of(grant(uses(license.Desktop), domains("holmvik.example"))), func(q *license.Question) { use(license.Desktop)(q); site("orrery.example")(q) }, clear, "licensed"},
		{"granted to the studio for the site's domain", plain, of(grant(to("Lanternjaw Studio"), domains("holmvik.example"))), site("holmvik.example"), clear, "licensed"},
		{"granted to the studio for another domain", plain, of(grant(to("Lanternjaw Studio"), domains("orrery.example"))), site("holmvik.example"), query, "other-client"},
		{"this face", plain, of(grant(faces(1))), nil, clear, "licensed"},
		{"this face and others", plain, of(grant(faces(2, 1))), nil, clear, "licensed"},
		{"another face", plain, of(grant(faces(2))), nil, query, "other-faces"},
		{"another face, restricted", font(metadata.Restricted), of(grant(faces(2))), nil, blocked, "other-faces permission-restricted"},
		{"another face, and another license for all", plain, of(grant(faces(2)), grant()), nil, clear, "licensed"},
	},
	"2. No license in force": {
		{"installable", plain, nil, nil, query, "no-license"},
		{"editable", font(metadata.Editable), nil, nil, query, "no-license"},
		{"nothing stated", font(metadata.NotStated), nil, nil, query, "no-license"},
		{"restricted", font(metadata.Restricted), nil, nil, blocked, "permission-restricted"},
		{"preview and print", font(metadata.PreviewPrint), nil, nil, blocked, "permission-preview-print"},
		{"restricted, in an app", font(metadata.Restricted), nil, use(license.App), blocked, "permission-restricted"},
		{"preview and print, in an app", font(metadata.PreviewPrint), nil, use(license.App), blocked, "permission-preview-print"},
		{"restricted, hosted", font(metadata.Restricted), nil, use(license.WebHosted), blocked, "permission-restricted"},
		{"restricted, on the desktop", font(metadata.Restricted), nil, use(license.Desktop), query, "permission-restricted no-license"},
		{"restricted, in documents", font(metadata.Restricted), nil, use(license.Document), query, "permission-restricted no-license"},
		{"preview and print, in documents", font(metadata.PreviewPrint), nil, use(license.Document), query, "permission-preview-print no-license"},
		{"restricted, on a server", font(metadata.Restricted), nil, use(license.Server), query, "permission-restricted no-license"},
		{"installable, on the desktop", plain, nil, use(license.Desktop), query, "no-license"},
		{"installable, in an app", plain, nil, use(license.App), query, "no-license"},
		{"editable, in documents", font(metadata.Editable), nil, use(license.Document), query, "no-license"},
		{"speaks of personal use", font(metadata.Installable, speaks("This font is FOR PERSONAL USE only.")), nil, nil, blocked, "personal-use"},
		{"speaks of it in German", font(metadata.Installable, speaks("Nur für den privaten Gebrauch.")), nil, nil, blocked, "personal-use"},
		{"speaks of it in French", font(metadata.Installable, speaks("Police réservée à un usage personnel.")), nil, nil, blocked, "personal-use"},
		{"speaks of it in Spanish", font(metadata.Installable, speaks("Solo para uso personal")), nil, nil, blocked, "personal-use"},
		{"speaks of it in Polish", font(metadata.Installable, speaks("Tylko do użytku prywatnego")), nil, nil, blocked, "personal-use"},
		{"speaks of it in Japanese", font(metadata.Installable, speaks("個人利用のみ")), nil, nil, blocked, "personal-use"},
		{"non-commercial", font(metadata.Installable, speaks("free for non-commercial use")), nil, nil, blocked, "personal-use"},
		{"commercial use needs a license", font(metadata.Installable, speaks("Commercial use requires a license.")), nil, nil, blocked, "personal-use"},
		{"a demo", font(metadata.Installable, speaks("Demo version, buy the full one")), nil, nil, blocked, "personal-use"},
		{"a trial", font(metadata.Installable, speaks("This trial font is for evaluation only")), nil, nil, blocked, "personal-use"},
		{"personal use, on the desktop", font(metadata.Installable, speaks("for personal use only")), nil, use(license.Desktop), query, "personal-use no-license"},
		{"personal use, in an app", font(metadata.Installable, speaks("for personal use only")), nil, use(license.App), blocked, "personal-use"},
		{"personal and commercial use", font(metadata.Installable, speaks("Free for personal and commercial use.")), nil, nil, query, "no-license"},
		{"a donation is asked for", font(metadata.Installable, speaks("Donationware. Thank you!")), nil, nil, query, "terms-unclear no-license"},
		{"found somewhere", plain, nil, func(q *license.Question) {
			q.Documents = license.Read(license.Text{Source: "readme.txt", Body: "Found on the internet, assume it is free."})
		}, query, "terms-unclear no-license"},
		{"its maker wants to be asked", font(metadata.Installable, speaks("Ask me before you use it.")), nil, nil, query, "terms-unclear no-license"},
		{"questions and answers about a license are not it", plain, nil, func(q *license.Question) {
			q.Documents = license.Read(license.Text{Source: "OFL-FAQ.txt", Body: "OFL FAQ\nIs this freeware? No. The SIL Open Font License is more than that.\nMay I donate? Yes, a donation is welcome."})
		}, query, "open-unconfirmed"},
		{"free, without terms", font(metadata.Installable, speaks("100% free")), nil, nil, query, "terms-unclear no-license"},
		{"free for personal use weighs more than free", font(metadata.Installable, speaks("100% free, free for personal use")), nil, nil, blocked, "personal-use"},
		{"restricted and personal use", font(metadata.Restricted, speaks("personal use only")), nil, nil, blocked, "permission-restricted personal-use"},
		{"personal use, bought for another client", font(metadata.Installable, speaks("personal use only")), of(grant(to(others))), nil, blocked, "other-client personal-use"},
		{"open, not confirmed", font(metadata.Installable, speaks(ofl)), nil, nil, query, "open-unconfirmed"},
		{"open, not confirmed, restricted", font(metadata.Restricted, speaks(ofl)), nil, nil, blocked, "permission-restricted open-unconfirmed"},
		{"open, not confirmed, personal use", font(metadata.Installable, speaks(ofl+" Demo version.")), nil, nil, blocked, "personal-use open-unconfirmed"},
		{"open, not confirmed, in an app", font(metadata.Installable, speaks(ofl)), nil, use(license.App), query, "open-unconfirmed"},
		{"open, confirmed", font(metadata.Installable, speaks(ofl)), of(grant(anyone)), nil, clear, "licensed"},
		{"open, confirmed for one of the client's uses", font(metadata.Installable, speaks(ofl)), of(grant(anyone, uses(license.Desktop))), nil, query, "other-use open-unconfirmed"},
		{"said by a document beside it", plain, nil, func(q *license.Question) {
			q.Documents = license.Read(license.Text{Source: "readme.txt", Body: "Hello\nFor personal use only"})
		}, blocked, "personal-use"},
		{"an open license beside it", plain, nil, func(q *license.Question) {
			q.Documents = license.Read(license.Text{Source: "OFL.txt", Body: ofl})
		}, query, "open-unconfirmed"},
	},
	"3. Out of term or over a limit": {
		{"ended yesterday", plain, of(grant(until("2026-11-23"))), nil, blocked, "expired"},
		{"ended years ago", plain, of(grant(until("2019-01-31"))), nil, blocked, "expired"},
		{"begins tomorrow", plain, of(grant(from("2026-11-25"))), nil, blocked, "not-begun"},
		{"ended, but another is in force", plain, of(grant(until("2026-11-23")), grant()), nil, clear, "licensed"},
		{"ended, and the next has no document", plain, of(grant(until("2026-11-23")), grant(bare)), nil, query, "no-evidence"},
		{"ended, and the next begins tomorrow", plain, of(grant(until("2026-11-23")), grant(from("2026-11-25"))), nil, blocked, "expired not-begun"},
		{"ended, and open", font(metadata.Installable, speaks(ofl)), of(grant(until("2026-11-23"))), nil, blocked, "expired"},
		{"another client's ended", plain, of(grant(to(others), until("2026-11-23"))), nil, query, "other-client"},
		{"ended, without a document", plain, of(grant(bare, until("2026-11-23"))), nil, blocked, "expired"},
		{"another use's ended", plain, of(grant(uses(license.Desktop), until("2026-11-23"))), nil, query, "other-use"},
		{"page views within", plain, of(grant(counted(license.PageViews, 70_000, 100_000))), nil, clear, "licensed"},
		{"page views at 80 %", plain, of(grant(counted(license.PageViews, 80_000, 100_000))), nil, clear, "licensed"},
		{"page views above 80 %", plain, of(grant(counted(license.PageViews, 80_001, 100_000))), nil, clear, "licensed near-limit"},
		{"page views at the limit", plain, of(grant(counted(license.PageViews, 100_000, 100_000))), nil, clear, "licensed near-limit"},
		{"page views over", plain, of(grant(counted(license.PageViews, 100_001, 100_000))), nil, blocked, "over-limit"},
		{"page views over, restricted", font(metadata.Restricted), of(grant(counted(license.PageViews, 100_001, 100_000))), nil, blocked, "over-limit"},
		{"page views over, hosted", plain, of(grant(uses(license.WebHosted), counted(license.PageViews, 9, 8))), use(license.WebHosted), blocked, "over-limit"},
		{"page views over do not count in an app", plain, of(grant(uses(license.App), counted(license.PageViews, 9, 8))), use(license.App), clear, "licensed"},
		{"page views over, another license within", plain, of(grant(counted(license.PageViews, 9, 8)), grant(counted(license.PageViews, 9, 100))), nil, clear, "licensed"},
		{"page views over, another without a limit", plain, of(grant(counted(license.PageViews, 9, 8)), grant()), nil, clear, "licensed"},
		{"page views over and ended", plain, of(grant(until("2026-11-23"), counted(license.PageViews, 9, 8))), nil, blocked, "expired"},
		{"seats within", plain, of(grant(uses(license.Desktop), counted(license.Seats, 3, 5))), use(license.Desktop), clear, "licensed"},
		{"seats all taken", plain, of(grant(uses(license.Desktop), counted(license.Seats, 5, 5))), use(license.Desktop), clear, "licensed near-limit"},
		{"seats over", plain, of(grant(uses(license.Desktop), counted(license.Seats, 6, 5))), use(license.Desktop), blocked, "over-limit"},
		{"seats over do not count on the web", plain, of(grant(uses(license.Desktop, license.Web), counted(license.Seats, 6, 5))), nil, clear, "licensed"},
		{"apps within", plain, of(grant(uses(license.App), counted(license.Apps, 1, 2))), use(license.App), clear, "licensed"},
		{"apps over", plain, of(grant(uses(license.App), counted(license.Apps, 3, 2))), use(license.App), blocked, "over-limit"},
		{"two limits, one over", plain, of(grant(counted(license.Seats, 1, 5), counted(license.PageViews, 9, 8))), nil, blocked, "over-limit"},
		{"a limit of none", plain, of(grant(uses(license.App), counted(license.Apps, 1, 0))), use(license.App), blocked, "over-limit"},
		{"ends soon and near a limit", plain, of(grant(until("2026-12-01"), counted(license.PageViews, 99, 100))), nil, clear, "licensed ends-soon near-limit"},
	},
	"4. Changes": {
		{"nothing changed", font(metadata.Installable, whole), of(grant(says(license.Subset, license.No))), nil, clear, "licensed"},
		{"a subset, allowed", plain, of(grant(says(license.Subset, license.Yes))), change(license.Subset), clear, "licensed"},
		{"a subset, forbidden", plain, of(grant(says(license.Subset, license.No))), change(license.Subset), blocked, "licensed change-forbidden"},
		{"a subset, not spoken of", plain, of(grant()), change(license.Subset), query, "licensed change-not-said"},
		{"outlines, not spoken of", plain, of(grant(says(license.Subset, license.Yes))), change(license.Outlines), query, "licensed change-not-said"},
		{"outlines, forbidden", plain, of(grant(says(license.Outlines, license.No))), change(license.Outlines), blocked, "licensed change-forbidden"},
		{"a name, allowed", plain, of(grant(says(license.Name, license.Yes))), change(license.Name), clear, "licensed"},
		{"a name, forbidden", plain, of(grant(says(license.Name, license.No))), change(license.Name), blocked, "licensed change-forbidden"},
		{"a subset and outlines, one forbidden", plain, of(grant(says(license.Subset, license.Yes), says(license.Outlines, license.No))), change(license.Subset, license.Outlines), blocked, "licensed change-forbidden"},
		{"two licenses, one allows", plain, of(grant(says(license.Subset, license.No)), grant(says(license.Subset, license.Yes))), change(license.Subset), clear, "licensed"},
		{"two licenses, one forbids and one is silent", plain, of(grant(), grant(says(license.Subset, license.No))), change(license.Subset), blocked, "licensed change-forbidden"},
		{"allowed by one that has ended", plain, of(grant(), grant(until("2026-11-23"), says(license.Subset, license.Yes))), change(license.Subset), query, "licensed change-not-said"},
		{"the font forbids a subset", font(metadata.Installable, whole), of(grant()), change(license.Subset), blocked, "licensed no-subsetting"},
		{"the font forbids a subset, the license allows it", font(metadata.Installable, whole), of(grant(says(license.Subset, license.Yes))), change(license.Subset), clear, "licensed"},
		{"the font and the license forbid a subset", font(metadata.Installable, whole), of(grant(says(license.Subset, license.No))), change(license.Subset), blocked, "licensed no-subsetting"},
		{"the font forbids a subset, nothing recorded", font(metadata.Installable, whole), nil, change(license.Subset), blocked, "no-license no-subsetting"},
		{"the font forbids a subset, outlines change", font(metadata.Installable, whole), of(grant(says(license.Outlines, license.Yes))), change(license.Outlines), clear, "licensed"},
		{"a reserved name, the font whole", font(metadata.Installable, kept), of(grant()), nil, clear, "licensed"},
		{"a reserved name kept on a subset", font(metadata.Installable, kept), of(grant(says(license.Subset, license.Yes))), change(license.Subset), query, "licensed reserved-name"},
		{"a reserved name kept on other outlines", font(metadata.Installable, kept), of(grant(says(license.Outlines, license.Yes))), change(license.Outlines), query, "licensed reserved-name"},
		{"a reserved name, renamed", font(metadata.Installable, kept), of(grant(says(license.Subset, license.Yes), says(license.Name, license.Yes))), change(license.Subset, license.Name), clear, "licensed"},
		{"a reserved name that the font does not bear", font(metadata.Installable, speaks("with Reserved Font Name Tidegarth.")), of(grant(says(license.Subset, license.Yes))), change(license.Subset), clear, "licensed"},
		{"a change, and the license has ended", plain, of(grant(until("2026-11-23"), says(license.Subset, license.Yes))), change(license.Subset), blocked, "expired"},
		{"a change, nothing recorded", plain, nil, change(license.Outlines), query, "no-license"},
	},
	"5. Bitmaps only": {
		{"and none in it", font(metadata.Installable, bitmaps), of(grant()), nil, blocked, "licensed bitmap-only"},
		{"and some in it", font(metadata.Installable, bitmaps, strikes), of(grant()), nil, clear, "licensed"},
		{"and none in it, nothing recorded", font(metadata.Installable, bitmaps), nil, nil, blocked, "no-license bitmap-only"},
		{"and none in it, on the desktop", font(metadata.Installable, bitmaps), of(grant(uses(license.Desktop))), use(license.Desktop), blocked, "licensed bitmap-only"},
	},
}

func (r row) question() license.Question {
	q := license.Question{Family: "Example", Faces: []license.Face{r.face}, Client: us, Use: license.Web, Day: today.Add(15 * time.Hour), Terms: r.terms}
	if r.asks != nil {
		r.asks(&q)
	}
	return q
}

func TestPolicy(t *testing.T) {
	rows := 0
	for part, all := range policy {
		for _, r := range all {
			rows++
			t.Run(part+"/"+r.name, func(t *testing.T) {
				v := license.Judge(r.question())
				var codes []string
				for _, reason := range v.Reasons {
					codes = append(codes, reason.Code)
					assert.NotEmpty(t, reason.Evidence, "every reason points at its evidence")
					if slices.Contains([]string{"bitmap-only", "no-license", "restricted", "not-stated"}, reason.Code) {
						assert.Zero(t, reason.License, "what the font says points at no license")
					} else if reason.License != 0 {
						assert.True(t, slices.ContainsFunc(r.question().Terms, func(one license.Terms) bool { return one.ID == reason.License }), "%s: a license that was asked about", reason.Code)
					}
					assert.Regexp(t, `[.”]$`, reason.Message)
				}
				assert.Equal(t, r.state, v.State)
				assert.Equal(t, r.reasons, strings.Join(codes, " "))
			})
		}
	}
	assert.GreaterOrEqual(t, rows, 120)
}

// TestALicenseNeverHurts adds a valid license to every row, and takes it away again:
// the first never makes the verdict worse, the second never better.
func TestALicenseNeverHurts(t *testing.T) {
	weight := map[license.State]int{clear: 0, query: 1, blocked: 2}
	for part, all := range policy {
		for _, r := range all {
			q := r.question()
			for _, valid := range []license.Terms{
				grant(uses(license.Uses...), says(license.Subset, license.Yes), says(license.Outlines, license.Yes), says(license.Name, license.Yes)),
				grant(uses(q.Use), until("2026-11-24"), says(license.Subset, license.Yes), says(license.Outlines, license.Yes), says(license.Name, license.Yes)),
				grant(anyone, uses(q.Use), says(license.Subset, license.Yes), says(license.Outlines, license.Yes), says(license.Name, license.Yes), counted(license.PageViews, 1, 1)),
			} {
				without := license.Judge(q)
				with := q
				with.Terms = append(append([]license.Terms{}, q.Terms...), valid)
				got := license.Judge(with)
				assert.LessOrEqual(t, weight[got.State], weight[without.State], "%s/%s: %v", part, r.name, got.Reasons)
				// What a license cannot heal stays: bitmaps only, and a reserved name.
				for _, reason := range got.Reasons {
					if reason.State != clear {
						assert.Contains(t, []string{"bitmap-only", "reserved-name"}, reason.Code, "%s/%s", part, r.name)
					}
				}
			}
		}
	}
}

func TestFacesAreJudgedByTheirOwnLicenses(t *testing.T) {
	bold := license.Face{ID: 2, Name: "Example Bold", Level: metadata.Restricted, Permission: "Said in words."}
	q := license.Question{Family: "Example", Faces: []license.Face{plain, bold}, Client: us, Use: license.Web, Day: today, Terms: of(grant(faces(1)))}
	v := license.Judge(q)
	assert.Equal(t, blocked, v.State)
	assert.Contains(t, v.Worst().Message, "This is about Example Bold.")
	q.Terms = of(grant(faces(1)), grant(faces(2)))
	assert.Equal(t, clear, license.Judge(q).State)
}

func TestGroundsChangeWithTheReasons(t *testing.T) {
	judge := func(f license.Face, terms ...license.Terms) license.Verdict {
		return license.Judge(license.Question{Faces: []license.Face{f}, Client: us, Use: license.Web, Day: today, Terms: terms})
	}
	none := judge(plain).Grounds()
	assert.Equal(t, none, judge(plain).Grounds(), "the same reasons are the same grounds")
	assert.NotEqual(t, none, judge(font(metadata.Restricted)).Grounds(), "a bar is not what a query was signed for")
	assert.NotEqual(t, none, judge(plain, grant(bare)).Grounds())
	over := func(n int64) string { return judge(plain, grant(counted(license.PageViews, n, 8))).Grounds() }
	assert.Equal(t, over(9), over(10), "a count that goes on is the same reason")
}

func TestPhraseIsQuotedAsItStands(t *testing.T) {
	v := license.Judge(license.Question{Faces: []license.Face{font(metadata.Installable, speaks("Personal Use ONLY!"))}, Client: us, Use: license.Web, Day: today})
	assert.Contains(t, v.Reasons[0].Message, "“Personal Use ONLY”")
	assert.Equal(t, "Example Regular, name record 13, license", v.Reasons[0].Evidence)
	found := license.Read(license.Text{Source: "read me.txt", Body: "Thank you!\r\n\r\nThis font is\r\nfor PERSONAL\r\n use only.\r\n"})
	require.Len(t, found, 1)
	assert.Equal(t, "read me.txt, line 4", found[0].At())
	assert.Equal(t, "for PERSONAL use only", found[0].Phrase)
}

func TestOpenLicensesAreProposed(t *testing.T) {
	for text, want := range map[string]string{
		ofl:                          "OFL-1.1",
		"http://scripts.sil.org/OFL": "OFL-1.1",
		"Licensed under the Apache License, Version 2.0 (the “License”)": "Apache-2.0",
		"// Licensed under the Apache\n// License, Version 2.0":          "Apache-2.0",
		"http://www.apache.org/licenses/LICENSE-2.0.html":                "Apache-2.0",
		"Ubuntu Font Licence 1.0":                                        "Ubuntu-font-1.0",
		"CC0 1.0 Universal":                                              "CC0-1.0",
		"https://creativecommons.org/publicdomain/zero/1.0/":             "CC0-1.0",
		"Released under the MIT license":                                 "MIT",
		"GNU General Public License version 2, or (at your option) any later version. As a special exception, if you create a document which uses this font, and embed this font or unaltered portions of this font into the document": "GPL-2.0-or-later WITH Font-exception-2.0",
		"GPLv3 with font exception":                      "GPL-3.0-only WITH Font-exception-2.0",
		"This is my font. All rights reserved.":          "",
		"The license of this font is open to discussion": "",
	} {
		got := license.Propose(license.Read(license.Text{Source: "x", Body: text}))
		if want == "" {
			assert.Empty(t, got, text)
			continue
		}
		require.NotEmpty(t, got, text)
		assert.Equal(t, want, got[0].License, text)
		assert.NotEmpty(t, got[0].Title)
		assert.Greater(t, got[0].Confidence, 0.5)
		assert.NotEmpty(t, got[0].Findings[0].Quote)
	}
	// The licenses that come with every Debian system, where this is one.
	for file, want := range map[string]string{"Apache-2.0": "Apache-2.0", "CC0-1.0": "CC0-1.0", "BSD": "BSD-3-Clause"} {
		if b, err := readCommon(file); err == nil {
			assert.Equal(t, want, license.Propose(license.Read(license.Text{Source: file, Body: b}))[0].License, file)
		}
	}
}

func TestReservedNames(t *testing.T) {
	for text, want := range map[string][]string{
		`Copyright (c) 2026, Ines Halloran, with Reserved Font Name "Tidegarth".`:                      {"Tidegarth"},
		`with Reserved Font Names “Tidegarth” and “Tidegarth Sans”.`:                                   {"Tidegarth", "Tidegarth Sans"},
		"with Reserved Font Name Skerrow Sans.\nThis Font Software is licensed":                        {"Skerrow Sans"},
		`with Reserved Font Name: 'Umbrisk', 'Brackmoor'`:                                              {"Umbrisk", "Brackmoor"},
		`Copyright 2026 Ines Halloran, with no Reserved Font Name. This Font Software is licensed`:     nil,
		`"Reserved Font Name" refers to any names specified as such after the copyright statement(s).`: nil,
	} {
		var got []string
		for _, f := range license.Read(license.Text{Source: "x", Body: text}) {
			got = append(got, f.Reserved...)
		}
		assert.Equal(t, want, got, text)
	}
}

func TestMetadataCarryWhatTheVerdictNeeds(t *testing.T) {
	f := license.FaceOf(&metadata.Face{Names: metadata.Names{Full: "Brackmoor Demo", License: ofl, Copyright: "with Reserved Font Name Brackmoor"},
		Embedding: metadata.Embedding{Level: metadata.Editable, BitmapOnly: true}, Tables: []metadata.Table{{Tag: "EBDT"}}})
	assert.True(t, f.Strikes)
	assert.Equal(t, metadata.Editable, f.Level)
	var said []string
	for _, one := range f.Says() {
		said = append(said, fmt.Sprintf("%s%s%v at %s", one.License, one.Signal, one.Reserved, one.At()))
	}
	assert.Equal(t, []string{"OFL-1.1[] at Brackmoor Demo, name record 13, license", "[Brackmoor] at Brackmoor Demo, name record 0, copyright", "demo[] at Brackmoor Demo, name record 4, full name"}, said)
}

func TestOutlook(t *testing.T) {
	month := func(n int) time.Time { return time.Date(2026, time.Month(n), 1, 0, 0, 0, 0, time.UTC) }
	rising := []license.Count{{month(6), 60_000}, {month(7), 64_000}, {month(8), 68_000}, {month(9), 72_000}, {month(10), 76_000}}
	o := license.Look(rising, 100_000)
	assert.InDelta(t, 4000, o.Trend, 0.01)
	require.NotNil(t, o.Reached)
	assert.Equal(t, "2027-05", o.Reached.Format("2006-01"), "76,000 and seven times 4,000")
	assert.Nil(t, license.Look(rising, 10_000_000).Reached, "beyond the horizon")
	assert.Nil(t, license.Look(rising[:2], 100_000).Reached, "two months are no trend")
	assert.Equal(t, "2026-10", license.Look(rising, 70_000).Reached.Format("2006-01"), "over it already")
	falling := []license.Count{{month(8), 90_000}, {month(9), 80_000}, {month(10), 70_000}}
	assert.Nil(t, license.Look(falling, 100_000).Reached)
	assert.Zero(t, license.Look(nil, 5))
	gap := []license.Count{{month(1), 10}, {month(5), 50}, {month(9), 90}}
	assert.InDelta(t, 10, license.Look(gap, 0).Trend, 0.01, "months that are missing are skipped, not zero")
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{ofl, "for\npersonal  use", "with Reserved Font Name \"A\", 'B' and C", "İ personal use", "GPLv3+FE", "\xff\xfe personal use \x80"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, one := range license.Read(license.Text{Source: "x", Body: s}) {
			if one.Quote == "" {
				t.Fatalf("%v was found and not quoted", one)
			}
		}
	})
}

// TestConvertingIsWeighedByTheStrictest puts a license that forbids converting beside one that
// says nothing of it, in both orders, and one that allows it beside them.
func TestConvertingIsWeighedByTheStrictest(t *testing.T) {
	numbered := func(id int64, change ...term) license.Terms {
		terms := grant(change...)
		terms.ID, terms.Name = id, fmt.Sprintf("license %d", id)
		return terms
	}
	webfont := plain
	webfont.Webfont = true
	silent, forbids, allows := numbered(1), numbered(2, says(license.Format, license.No)), numbered(3, says(license.Format, license.Yes))
	ask := func(face license.Face, terms ...license.Terms) (license.State, string, int64) {
		v := license.Judge(license.Question{Client: us, Use: license.Web, Day: today, Faces: []license.Face{face}, Changes: []license.Change{license.Format}, Terms: terms})
		for _, reason := range v.Reasons {
			if strings.HasPrefix(reason.Code, "conversion-") {
				return v.State, reason.Code, reason.License
			}
		}
		return v.State, "", 0
	}
	for name, one := range map[string]struct {
		face  license.Face
		terms []license.Terms
		state license.State
		code  string
		by    int64
	}{
		"forbidden":                     {plain, []license.Terms{forbids}, blocked, "conversion-forbidden", 2},
		"forbidden, then not said":      {plain, []license.Terms{forbids, silent}, blocked, "conversion-forbidden", 2},
		"not said, then forbidden":      {plain, []license.Terms{silent, forbids}, blocked, "conversion-forbidden", 2},
		"forbidden, and allowed":        {plain, []license.Terms{forbids, silent, allows}, clear, "", 0},
		"not said of a web font":        {webfont, []license.Terms{silent}, query, "conversion-not-said", 1},
		"not said of another":           {plain, []license.Terms{silent}, clear, "", 0},
		"open licenses allow it":        {webfont, []license.Terms{numbered(4, anyone)}, clear, "", 0},
		"but where they forbid it":      {webfont, []license.Terms{numbered(4, anyone, says(license.Format, license.No))}, blocked, "conversion-forbidden", 4},
		"and where another license may": {webfont, []license.Terms{forbids, numbered(4, anyone)}, clear, "", 0},
	} {
		state, code, by := ask(one.face, one.terms...)
		assert.Equal(t, one.state, state, name)
		assert.Equal(t, one.code, code, name)
		assert.Equal(t, one.by, by, name)
	}
}

// TestNoticesAreTakenOnce gathers copyright, reserved names and the address of a license from
// faces that say the same, nothing, or something else.
func TestNoticesAreTakenOnce(t *testing.T) {
	face := func(copyright, address string) *metadata.Face {
		return &metadata.Face{Names: metadata.Names{Copyright: copyright, LicenseURL: address}}
	}
	n := license.NoticesOf([]*metadata.Face{face("Copyright 2026 Ines Halloran, with Reserved Font Name Example.", ""), face(" Copyright 2026 Ines Halloran, with Reserved Font Name Example. ", " https://first.example "), face("", "https://second.example"), face("Copyright 2026 Runa Holt", "")})
	assert.Equal(t, []string{"Copyright 2026 Ines Halloran, with Reserved Font Name Example.", "Copyright 2026 Runa Holt"}, n.Copyright)
	assert.Equal(t, "https://first.example", n.LicenseURL)
	assert.Equal(t, []string{"Example"}, n.Reserved)
	assert.Empty(t, license.NoticesOf(nil).LicenseURL)
}
