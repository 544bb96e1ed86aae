package cli_test

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/sites"
)

// site returns a published page of the fakes, by its name.
func fake(t *testing.T, name string) sites.Site {
	t.Helper()
	for _, one := range append(sites.Faultless(), sites.Faulty()...) {
		if one.Name == name {
			return one
		}
	}
	t.Fatalf("there is no page %s", name)
	return sites.Site{}
}

// TestPagesAreInspected inspects pages from the command line, for people and for pipelines.
func TestPagesAreInspected(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	good, bad := fake(t, "plain"), fake(t, "botched")
	servers := sites.Start([]sites.Site{good, bad})
	t.Cleanup(servers.Close)

	said := s.ok("inspect", "--fail-on", "error", "--allow-private-addresses", servers.URL(good))
	assert.Contains(t, said, "Nothing is wrong with the fonts of this page.")
	assert.Contains(t, said, "Skerrow Sans Bold")

	// A pipeline reads files, and the exit code.
	out, _, code := s.run("inspect", "--json", "--fail-on", "warning", "--sarif", "fonts.sarif", "--junit", "fonts.xml", "--pictures", "pictures", "--allow-private-addresses", servers.URL(good), servers.URL(bad))
	assert.Equal(t, 3, code)
	var told struct {
		Pages []struct {
			URL   string
			Fonts []struct {
				URL        string
				Status     int
				Family     string
				PostScript string
				SHA256     string
				Used       bool
			}
			Runs []struct {
				Selector, Asked, Used, Faux string
				Characters                  int
			}
			Findings []struct{ Code, Severity, Message, Fix, Selector, URL string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &told))
	require.Len(t, told.Pages, 2)
	assert.Equal(t, servers.URL(good), told.Pages[0].URL)
	assert.Empty(t, told.Pages[0].Findings)
	require.Len(t, told.Pages[0].Fonts, 2)
	assert.True(t, told.Pages[0].Fonts[0].Used)
	assert.NotEmpty(t, told.Pages[0].Runs)
	codes := map[string]bool{}
	for _, f := range told.Pages[1].Findings {
		codes[f.Code] = true
		assert.NotEmpty(t, f.Fix, f.Code)
	}
	for _, planted := range bad.Planted {
		assert.True(t, codes[planted], planted)
	}

	var sarif struct {
		Version string
		Runs    []struct {
			Results []struct {
				RuleID string `json:"ruleId"`
				Level  string
			}
		}
	}
	written, err := os.ReadFile(filepath.Join(s.folder, "fonts.sarif"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(written, &sarif))
	assert.Equal(t, "2.1.0", sarif.Version)
	require.Len(t, sarif.Runs, 1)
	assert.Len(t, sarif.Runs[0].Results, len(told.Pages[1].Findings))
	var suites struct {
		Suites []struct {
			Tests    int `xml:"tests,attr"`
			Failures int `xml:"failures,attr"`
		} `xml:"testsuite"`
	}
	written, err = os.ReadFile(filepath.Join(s.folder, "fonts.xml"))
	require.NoError(t, err)
	require.NoError(t, xml.Unmarshal(written, &suites))
	require.Len(t, suites.Suites, 2)
	assert.Zero(t, suites.Suites[0].Failures)
	assert.Equal(t, 3, suites.Suites[1].Failures, "font-404, font-wrong-type and uncompressed; notes do not fail")
	picture, err := os.ReadFile(filepath.Join(s.folder, "pictures", "page-2.png"))
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(picture), "\x89PNG"))

	// What cannot be asked for is said.
	assert.Contains(t, s.fails(2, "inspect"), "URL")
	assert.Contains(t, s.fails(2, "inspect", "--fail-on", "sometimes", servers.URL(good)), "error, warning or note")
	assert.Contains(t, s.fails(1, "inspect", "ftp://harbour.example"), "https://www.example.com/")
	refused, _, code := s.run("inspect", servers.URL(good))
	assert.Equal(t, 1, code)
	assert.Contains(t, refused, "page-unreachable")
	assert.Contains(t, refused, "private network")
}

// TestTheCatalogKnowsWhatAPageLoads inspects a page for sites of the demo studio.
func TestTheCatalogKnowsWhatAPageLoads(t *testing.T) {
	s := demoShell(t)
	page, part, redrawn := fake(t, "plain"), fake(t, "ranges"), fake(t, "redrawn")
	servers := sites.Start([]sites.Site{page, part, redrawn})
	t.Cleanup(servers.Close)
	inspect := func(site, url string) (known []string, codes map[string]string) {
		out, errs, code := s.run("inspect", "--json", "--allow-private-addresses", "--site", site, url)
		require.Zero(t, code, errs)
		var told struct {
			Pages []struct {
				Fonts []struct {
					Known *struct{ FamilyName, Style, Relation, Verdict string }
				}
				Findings []struct{ Code, Message string }
			}
		}
		require.NoError(t, json.Unmarshal([]byte(out), &told))
		codes = map[string]string{}
		for _, f := range told.Pages[0].Findings {
			codes[f.Code] = f.Message
		}
		for _, f := range told.Pages[0].Fonts {
			require.NotNil(t, f.Known)
			known = append(known, strings.Join([]string{f.Known.FamilyName, f.Known.Style, f.Known.Relation, f.Known.Verdict}, "/"))
		}
		return known, codes
	}
	known, codes := inspect("Holmvik timetable", servers.URL(page))
	assert.ElementsMatch(t, []string{"Skerrow Sans/Regular/same/cleared", "Skerrow Sans/Bold/same/cleared"}, known)
	assert.NotContains(t, codes, "license-review")

	// Bought for the ferries, it is on a page of the growers.
	known, codes = inspect("Growers' almanac", servers.URL(page))
	assert.Contains(t, known, "Skerrow Sans/Bold/same/review")
	assert.Contains(t, codes["other-client"], "Holmvik Ferries")

	// Its headings are assigned another family.
	_, codes = inspect("Orrery Hall visitor site", servers.URL(page))
	assert.Contains(t, codes["role-differs"], "Umbrisk Display")

	// An older drawing is another version.
	_, codes = inspect("Holmvik timetable", servers.URL(redrawn))
	assert.Contains(t, codes["pack-outdated"], "Skerrow Sans Regular")

	// Parts are known by what they draw.
	known, _ = inspect("Holmvik timetable", servers.URL(part))
	for _, k := range known {
		assert.Contains(t, k, "Skerrow Sans/Regular/part/")
	}
}

// TestASiteIsSurveyed surveys a site of several pages from the command line.
func TestASiteIsSurveyed(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	whole := sites.StartWhole()
	t.Cleanup(whole.Close)
	var told struct {
		Pages []struct{ Final string }
		Left  []struct{ URL, Why string }
		Site  struct {
			Families []string
			Roles    []struct{ Role, Family string }
		}
		Findings []struct{ Code, Message string }
	}
	s.json(&told, 1, "survey", "--pages", "9", "--pause", "10ms", "--allow-private-addresses", whole.URL)
	paths := map[string]bool{}
	for _, p := range told.Pages {
		paths[strings.TrimPrefix(p.Final, whole.URL)] = true
	}
	for _, path := range []string{"/", "/fares", "/news/", "/news/one", "/hidden", "/old"} {
		assert.True(t, paths[path], path)
	}
	assert.False(t, paths["/staff/rota"])
	assert.NotContains(t, whole.Asked(), "/staff/rota")
	assert.NotContains(t, whole.Asked(), "/timetable.pdf")
	assert.Equal(t, []string{"Skerrow Sans"}, told.Site.Families)
	assert.NotEmpty(t, told.Site.Roles)
	require.NotEmpty(t, told.Findings)
	assert.Equal(t, "pages-differ", told.Findings[0].Code)
	said := s.ok("survey", "--pages", "2", "--pause", "10ms", "--allow-private-addresses", whole.URL)
	assert.Contains(t, said, "The site as it could be recorded")
	assert.Contains(t, said, "only 2 pages were to be inspected")
	assert.Contains(t, s.fails(2, "survey", "--pages", "0", whole.URL), "from 1 to 500")
}

// TestInspectionsOfTheService reads what the demo's inspection found, accepts a finding, and
// inspects again.
func TestInspectionsOfTheService(t *testing.T) {
	s := hostedShell(t)
	const site = "Holmvik timetable"
	out, _, code := s.run("inspections", "start", "--wait", "--fail-on", "error", site)
	assert.Equal(t, 3, code, out)
	for _, words := range []string{"font-404", "The file is at http://127.0.0.1", "family-not-declared", "third-party", "Brackmoor Sans"} {
		assert.Contains(t, out, words)
	}
	var found struct {
		Items []struct {
			ID   int64 `json:"id"`
			Code string
		}
	}
	s.json(&found, 2, "inspections", "findings", site)
	var wrong int64
	for _, f := range found.Items {
		if f.Code == "family-not-declared" {
			wrong = f.ID
		}
	}
	require.NotZero(t, wrong)
	said := s.ok("inspections", "accept", "--until", "2099-12-31", fmt.Sprint(wrong), "The client wants it so")
	assert.Contains(t, said, "accepted by Ines Varga: The client wants it so, until 2099-12-31")
	assert.Contains(t, s.ok("inspections", "findings", "--state", "accepted", site), "family-not-declared")
	assert.Contains(t, s.ok("due"), "The pages of Holmvik timetable")
	assert.NotContains(t, s.ok("inspections", "reopen", fmt.Sprint(wrong)), "accepted")

	assert.Contains(t, s.ok("inspections", "list", site), "done")
	assert.Contains(t, s.ok("inspections", "schedule", "--survey", "10", site, "day"), "Inspected each day")
	assert.Contains(t, s.ok("inspections", "schedule", site, "never"), "no longer inspected automatically")
	assert.Contains(t, s.fails(2, "inspections", "schedule", site), "EVERY")
	assert.Contains(t, s.fails(1, "inspections", "schedule", site, "hourly"), "day")
	assert.Contains(t, s.fails(1, "inspections", "show", "999"), "There is no such inspection")
	assert.Contains(t, s.fails(2, "inspections", "start", "--fail-on", "error", site), "--wait")
	s.ok("inspections", "save", "1", "all.sarif")
	b, err := os.ReadFile(filepath.Join(s.folder, "all.sarif"))
	require.NoError(t, err)
	assert.Contains(t, string(b), `"ruleId": "font-404"`)
	assert.Contains(t, s.fails(2, "inspections", "save", "1", "all.pdf"), "choose .json, .sarif or .xml")
}
