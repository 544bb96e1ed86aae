package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFindingOnTheCommandLine narrows, misspells, counts, and keeps a search; then
// a family is retired, deleted and brought back, and a shortlist shared.
func TestFindingOnTheCommandLine(t *testing.T) {
	s := hostedShell(t)

	out, errs, code := s.run("families", "--license", "none", "--used", "tidegrath")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, errs, `No results for "tidegrath"; showing results for tidegarth`)
	assert.Contains(t, out, "Tidegarth Poster")
	assert.NotContains(t, out, "Skerrow")
	assert.Contains(t, s.ok("families", "--weight", "700-", "--variable=false"), "1 of 3")
	assert.Equal(t, "5\n", s.ok("families", "--count"))
	for _, wrong := range [][]string{{"--weight", "heavy"}, {"--language", "Klingon"}, {"--sort", "size"}} {
		_, errs, code := s.run(append([]string{"families"}, wrong...)...)
		assert.Equal(t, 1, code)
		assert.Contains(t, errs, wrong[1])
	}
	assert.Contains(t, s.ok("families", "--origin", "client"), "No family matches.")
	assert.Contains(t, s.ok("families", "--kind", "display", "--contrast", "3-"), "Umbrisk Display")
	assert.Contains(t, s.ok("families", "--kind", "sans", "--contrast", "3-"), "No family matches.")
	assert.Contains(t, s.ok("family", "similar", "Skerrow Sans"), "Skerrow Sans Variable")
	assert.Contains(t, s.ok("family", "pairings", "Skerrow Sans"), "Sans serif with display")
	for _, wrong := range [][]string{{"families", "--stem", "30-10"}, {"families", "--kind", "heavy"}, {"family", "similar", "Nobody's"}} {
		_, errs, code := s.run(wrong...)
		assert.Equal(t, 1, code)
		assert.Contains(t, errs, wrong[2])
	}
	s.ok("searches", "save", "--shortlist", "winter timetable", "On the boards")
	found := s.ok("families", "--saved", "On the boards")
	assert.Contains(t, found, "Umbrisk Display")
	assert.NotContains(t, found, "Tidegarth", "a shortlist narrows here as in the console")
	_, errs, code = s.run("families", "--shortlist", "Nothing")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, `there is no shortlist "Nothing"`)
	_, errs, code = s.run("hosted", "read", "http://127.0.0.1:1/x.css")
	assert.Equal(t, 1, code, "nothing could be read")
	assert.Empty(t, errs)
	s.ok("searches", "save", "--origin", "hosted", "From elsewhere")
	found = s.ok("families", "--saved", "from elsewhere")
	assert.Contains(t, found, "Brackmoor Sans")
	assert.Contains(t, found, "127.0.0.1")
	_, errs, code = s.run("families", "--saved", "Nothing")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, `there is no saved search "Nothing"`)

	assert.Contains(t, s.ok("family", "change", "--tag", "almanac", "--designer", "Ottoline Krag", "Tidegarth Poster"), "Ottoline Krag")
	_, errs, code = s.run("family", "change", "Tidegarth Poster")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "say what is to be changed")
	_, errs, code = s.run("family", "delete", "Tidegarth Poster")
	assert.Equal(t, 2, code, "nobody can be asked")
	assert.Contains(t, errs, "It is used by: site Growers' almanac")
	assert.Contains(t, s.ok("family", "delete", "--yes", "Tidegarth Poster"), "`sparecrate family restore 3` undoes it")
	assert.NotContains(t, s.ok("families"), "Tidegarth")
	_, errs, code = s.run("pack", "build", "Growers' almanac")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "Restore it")
	assert.Contains(t, s.ok("family", "restore", "Tidegarth Poster"), "is back in the catalog")
	_, errs, code = s.run("family", "restore", "Tidegarth Poster")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "there is no retired or deleted family")
	assert.Contains(t, s.ok("family", "retire", "Tidegarth Poster"), "These go on using it")
	assert.Contains(t, s.ok("families", "--status", "retired"), "Tidegarth Poster")

	s.ok("shortlist", "change", "--family", "Umbrisk Display", "--family", "Skerrow Sans", "--add", "4", "--remove", "Skerrow Sans", "Winter timetable")
	var list struct{ Families []struct{ Name string } }
	s.json(&list, 2, "shortlist", "show", "1")
	require.Len(t, list.Families, 2)
	assert.Equal(t, "Umbrisk Display", list.Families[0].Name)
	assert.Equal(t, "Skerrow Sans Variable", list.Families[1].Name)
	var shared struct{ Address string }
	s.json(&shared, 2, "shortlist", "share", "--days", "3", "Winter timetable")
	assert.Regexp(t, `^http://127\.0\.0\.1:\d+/look/[a-z2-7]{32}$`, shared.Address)
	_, errs, code = s.run("shortlist", "revoke", "Winter timetable", "99")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "There is no such link")
}
