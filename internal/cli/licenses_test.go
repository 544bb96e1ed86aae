package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo"
	"sparecrate/internal/service/servicetest"
)

// demoShell is signed in to a service of its own that has the demo studio.
func demoShell(t *testing.T) *shell {
	t.Helper()
	at := servicetest.Start(t, servicetest.Demo)
	s := newShell(t)
	s.password = s.write("pw", []byte(at.As(api.RoleAdmin).Password))
	s.ok("sign-in", "--email", at.As(api.RoleAdmin).Email, "--password-file", s.password, at.Address)
	return s
}

// hostedShell is signed in to `sparecrate demo` itself, which hosts a family elsewhere too.
func hostedShell(t *testing.T) *shell {
	t.Helper()
	t.Parallel()
	s := newShell(t)
	lines, _ := s.serve("demo", "--small")
	said := strings.Join(lines, "\n")
	s.password = s.write("pw", []byte(regexp.MustCompile(`harbour-\w+`).FindString(said)))
	s.ok("sign-in", "--email", demo.Email, "--password-file", s.password, regexp.MustCompile(`http://\S+`).FindString(said))
	return s
}

// TestVerdictsStopABuild gives the exit codes that a build pipeline goes by, and what
// changes them.
func TestVerdictsStopABuild(t *testing.T) {
	s := demoShell(t)
	almanac := "Growers' almanac"
	for _, test := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"Skerrow Sans"}, 0, "cleared"},
		{[]string{"--site", "Holmvik timetable", "--change", "subset,outlines", "Skerrow Sans"}, 0, "cleared"},
		{[]string{"--site", almanac, "Skerrow Sans"}, 3, "The only license is for Holmvik Ferries, not for Saltmarsh Seed Exchange"},
		{[]string{"--use", "desktop", "--client", "Orrery Hall", "Umbrisk Display"}, 3, "does not cover the use"},
		{[]string{"--site", almanac, "Tidegarth Poster"}, 4, "Free for personal use only"},
		{[]string{"--change", "subset", "Umbrisk Display"}, 4, "does not permit subsetting"},
		{[]string{"--day", "2031-01-01", "Umbrisk Display"}, 4, "The license ended on"},
		{[]string{"--face", "Bold", "Skerrow Sans"}, 0, "cleared"},
		{[]string{"--face", "Heavy", "Skerrow Sans"}, 1, "it has Light, Regular, Bold"},
		{[]string{"--day", "soon", "Skerrow Sans"}, 2, "takes a day"},
		{[]string{"--use", "billboard", "Skerrow Sans"}, 1, `is "billboard"; choose web`},
	} {
		out, errs, code := s.run(append([]string{"verdict"}, test.args...)...)
		assert.Equal(t, test.code, code, "%v: %s%s", test.args, out, errs)
		assert.Contains(t, out+errs, test.says, "%v", test.args)
	}
	s.ok("site", "sign-off", "--until", "2091-12-31", almanac, "Tidegarth Poster", "By letter of 3 May")
	out, _, code := s.run("verdict", "--site", almanac, "Tidegarth Poster")
	assert.Equal(t, 0, code, "signed off")
	assert.Contains(t, out, "until 2091-12-31: By letter of 3 May")
	assert.Contains(t, s.ok("sign-offs", "list", "--state", "holds"), "Holding: 1")
	assert.Contains(t, s.ok("sign-offs", "revoke", "1"), "is revoked")
	_, _, code = s.run("verdict", "--site", almanac, "Tidegarth Poster")
	assert.Equal(t, 4, code)
	_, errs, code := s.run("pack", "build", almanac)
	assert.Equal(t, 1, code, "there is no other way")
	assert.Contains(t, errs, "Tidegarth Poster is blocked")

	// Without a site a family is signed off for the builder, in words that the refusal gives.
	file := s.folder + "/poster.zip"
	_, errs, code = s.run("pack", "family", "--builder", "self-hosted", "--out", file, "Tidegarth Poster")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "sparecrate sign-offs add --builder self-hosted")
	assert.Contains(t, s.fails(2, "sign-offs", "add", "Tidegarth Poster", "By letter"), "builder")
	assert.Contains(t, s.ok("sign-offs", "add", "--builder", "self-hosted", "Tidegarth Poster", "By letter of 3 May"), "is signed off for packs for self-hosted")
	s.ok("pack", "family", "--builder", "self-hosted", "--out", file, "Tidegarth Poster")
	assert.FileExists(t, file)
	assert.Regexp(t, `packs for self-hosted +Tidegarth Poster`, s.ok("sign-offs", "list", "--state", "holds"))

	// Everything of a client for one machine: said first, then packed, with a seat.
	assert.Regexp(t, `(?s)Skerrow Sans.*seats are taken; Ada Holt takes one`, s.ok("pack", "client", "--seat", "Ada Holt", "Holmvik Ferries"))
	all := s.folder + "/holmvik.zip"
	s.ok("pack", "client", "--seat", "Ada Holt", "--out", all, "Holmvik Ferries")
	assert.FileExists(t, all)
	assert.Contains(t, s.ok("license", "show", "1"), "Ada Holt")
	assert.Contains(t, s.fails(1, "pack", "client", "--builder", "page-block", "Holmvik Ferries"), "only after the upload")
}

func TestTheRegisterOnTheCommandLine(t *testing.T) {
	s := demoShell(t)
	assert.Regexp(t, `(?s)Blocked.*Tidegarth Poster is on Growers' almanac and blocked.*Needs review.*in 18 days`, s.ok("due"))
	assert.NotContains(t, s.ok("due", "--client", "Holmvik Ferries"), "Tidegarth")
	assert.Contains(t, s.ok("due", "--client", "Holmvik Ferries"), "Nothing needs attention within 90 days.")
	_, errs, code := s.run("due", "soon")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `has no command "soon"`)
	_, errs, code = s.run("due", "mail", "--order")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "--mail-server")
	assert.Regexp(t, `http://127\.0\.0\.1:\d+/calendar/[a-z2-7]+\.ics`, s.ok("due", "calendar"))
	assert.Contains(t, s.ok("due", "calendar", "--list"), "never")
	assert.Contains(t, s.ok("due", "calendar", "--revoke", "1"), "is revoked")

	assert.Contains(t, s.ok("register", "--client", "Orrery Hall"), "order N-88213.txt")
	for _, name := range []string{"r.csv", "r.xlsx"} {
		s.ok("register", "--out", name)
		b, err := os.ReadFile(filepath.Join(s.folder, name))
		require.NoError(t, err)
		assert.Greater(t, len(b), 500)
	}
	_, errs, code = s.run("register", "--out", "r.doc")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, ".csv or .xlsx")

	s.ok("license", "templates", "--save", "Desks", "--use", "desktop", "--seats", "2", "--months", "12", "--allow", "subset")
	assert.Contains(t, s.ok("license", "templates"), "desktop; 12 months; 2 seats")
	added := s.ok("license", "add", "--client", "Orrery Hall", "--like", "Desks", "--price", "99,50 EUR", "--reference", "N-1", "--document", s.write("order.txt", []byte("Order N-1 for the planetarium's desks")), "Umbrisk Display")
	assert.Contains(t, added, "Recorded license 3: bought for Orrery Hall; desktop")
	s.ok("license", "assign", "3", "Runa Holt")
	assert.Regexp(t, `(?s)99\.50 EUR.*seats +1 of 2.*seat +\d+: Runa Holt`, s.ok("license", "show", "3"))
	assert.NotContains(t, s.ok("license", "unassign", "3", "Runa Holt"), "Runa")
	_, errs, code = s.run("license", "assign", "--app", "3", "An app")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "does not allow the use app")
	s.ok("license", "change", "--until", "", "--renewal", "none", "--note", "Kept for good", "3")
	versions := s.ok("license", "versions", "3")
	assert.Regexp(t, `until +"", was "20\d\d-`, versions)
	assert.Contains(t, versions, `"Kept for good", was ""`)
	assert.Contains(t, s.ok("license", "duplicate", "--client", "Holmvik Ferries", "--reference", "N-2", "3"), "Recorded license 4: bought for Holmvik Ferries")
	s.ok("license", "duplicate", "--client", "Holmvik Ferries", "2")
	assert.NotContains(t, s.ok("license", "show", "5"), "orreryhall.example", "the other client's domains do not come along")
	assert.Contains(t, s.ok("license", "find", "planetarium"), "Order N-1 for the planetarium's desks")
	assert.Contains(t, s.ok("license", "find", "dirigible"), "No document holds these words.")
	assert.Contains(t, s.ok("license", "ending", "1"), "Skerrow Sans must come off Holmvik timetable")
	assert.Contains(t, s.ok("license", "ending", "3"), "Nothing:")
	assert.Contains(t, s.ok("license", "propose", "Tidegarth Poster"), "“Free for personal use only.”")
	_, errs, code = s.run("license", "propose", "--confirm", "OFL-1.1", "Tidegarth Poster")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "Record the license by hand")
	for _, wrong := range [][]string{{"license", "add", "Umbrisk Display"}, {"license", "add", "--client", "Orrery Hall", "--use", "web", "--price", "much", "Umbrisk Display"}, {"views", "enter", "Holmvik timetable", "October"}} {
		_, _, code := s.run(wrong...)
		assert.Equal(t, 2, code, "%v", wrong)
	}
	s.ok("license", "templates", "--delete", "Desks")
	assert.NotContains(t, s.ok("license", "templates"), "Desks")

	assert.Regexp(t, `<link rel="stylesheet" href="http://127\.0\.0\.1:\d+/live/[a-z2-7]+/fonts\.css">`, s.ok("site", "live", "Holmvik timetable"))
	assert.Contains(t, s.ok("site", "live", "--list", "Holmvik timetable"), "Ines Varga")
	assert.Contains(t, s.ok("site", "live", "--revoke", "1", "Holmvik timetable"), "no longer works")
	_, errs, code = s.run("site", "live", "Growers' almanac")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "Tidegarth Poster is blocked")
	now := time.Now().UTC()
	last := time.Date(now.Year(), now.Month()-1, 1, 0, 0, 0, 0, time.UTC).Format("2006-01")
	assert.Contains(t, s.ok("views", "enter", "Orrery Hall visitor site", last+"=51,000"), "It is over its limit.")
	assert.Contains(t, s.ok("due"), "51,000 of 50,000 page views")
	assert.Contains(t, s.ok("views", "import", "Orrery Hall visitor site", s.write("v.csv", []byte("Month,Views\n"+last+",41000\n"))), "41,000")
	out, _, _ := s.run("verdict", "--json", "Tidegarth Poster")
	var v struct{ State string }
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	assert.Equal(t, "blocked", v.State)
}
