package service_test

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// TestTablesInTheConsole sorts and exports clients, the register and sites, does something
// with several sites at once, and reads the same tables on a phone.
func TestTablesInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	downloads := t.TempDir()
	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor, "/clients")
	first := func(table, name string) browsertest.Step {
		return browsertest.Until(`document.querySelector('[data-table="` + table + `"] td.main a')?.textContent === "` + name + `"`)
	}
	heading := func(label string) browsertest.Step {
		return browsertest.Click(`//th//button[normalize-space()="` + label + `"]`)
	}
	exported := func(name string) [][]string {
		t.Helper()
		var rows [][]string
		require.Eventually(t, func() bool {
			b, err := os.ReadFile(filepath.Join(downloads, name)) //nolint:gosec // in a folder of the test's own
			if err != nil || len(b) == 0 {
				return false
			}
			rows, err = csv.NewReader(strings.NewReader(strings.TrimPrefix(string(b), "\ufeff"))).ReadAll()
			return err == nil
		}, time.Minute, 50*time.Millisecond)
		return rows
	}
	browsertest.Do(t, ctx, first("clients", "Lanternjaw Studio"), heading("Client"), first("clients", "Holmvik Ferries"), heading("Client"), first("clients", "Saltmarsh Seed Exchange"),
		press("Columns"), browsertest.Click(`//label[normalize-space()="Verdicts"]`), browsertest.Until(`!document.querySelector('[data-column="verdicts"]')`), press("Export CSV"))
	rows := exported("clients.csv")
	assert.Equal(t, []string{"Client", "Families", "Sites", "Needs attention"}, rows[0])
	assert.Equal(t, "Saltmarsh Seed Exchange", rows[1][0])
	assert.Equal(t, "Lanternjaw Studio", rows[3][0], "they are as they are shown")

	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/register"), browsertest.Visible(`[data-table="register"]`), heading("Verdict"), browsertest.Until(`document.querySelector('[data-table="register"] td[data-column="verdict"]').innerText === "Blocked"`), press("Export CSV"))
	rows = exported("register.csv")
	assert.Equal(t, "Blocked", rows[1][2])

	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites"), browsertest.Visible(".site"), browsertest.Click(`//*[@aria-label="Select Holmvik timetable"]`), browsertest.Click(`//*[@aria-label="Select Growers' almanac"]`), says("2 sites selected"),
		press("Build packs"), says("Done for 1 site."), says("Growers' almanac: "))
	for site, packs := range map[int64]int{1: 2, 3: 0} {
		built, err := s.Client(t, api.RoleViewer).ListPacksWithResponse(t.Context(), site)
		require.NoError(t, err)
		assert.Len(t, built.JSON200.Items, packs, "what may not go out is said, and the others are built")
	}

	// On a phone each row is a block with labels, and nothing is wider than the screen.
	browsertest.Do(t, ctx, chromedp.EmulateViewport(360, 740), chromedp.Navigate(s.Address+"/register"), browsertest.Visible(`[data-table="register"]`),
		browsertest.Until(`getComputedStyle(document.querySelector('[data-table="register"] td[data-column="verdict"]'), "::before").content === '"Verdict"'`))
	for _, page := range []string{"/", "/clients", "/clients/2", "/register", "/sites", "/imports", "/gaps", "/settings", "/licenses", "/activity", "/families", "/families/1", "/families/1/faces/1", "/sites/1", "/sites/1/roles", "/sites/1/pack", "/builders", "/shortlists"} {
		browsertest.Do(t, ctx, chromedp.Navigate(s.Address+page), browsertest.Visible("h1"), browsertest.Until(`!document.body.innerText.includes("Loading …")`))
		assert.LessOrEqual(t, browsertest.Eval[int](t, ctx, `document.documentElement.scrollWidth`), 360, page)
	}
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/clients"), browsertest.Visible(".client"),
		browsertest.Until(`(c => { c.value = "families"; c.dispatchEvent(new Event("change", { bubbles: true })); return true })(document.querySelector("select.phone"))`),
		browsertest.Until(`document.querySelector('th[aria-sort="descending"]')?.innerText.trim() === "Families"`))
}

// TestActivityInTheConsole narrows who did what to a person, a word and nothing.
func TestActivityInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleViewer, "/activity")
	lines := `document.querySelectorAll(".line").length`
	browsertest.Do(t, ctx, browsertest.Until(lines+" > 3"), choose("Person", "Ines Varga"), browsertest.Until(`location.search.includes("person=Ines")`),
		fill("Text", "Skerrow"), browsertest.Until(`[...document.querySelectorAll(".line")].length > 0 && [...document.querySelectorAll(".line")].every(l => l.innerText.includes("Skerrow"))`),
		fill("Text", " nowhere"), says("No activity matches."), press("Clear filters"), browsertest.Until(lines+" > 3"))
	assert.Empty(t, browsertest.Eval[string](t, ctx, "location.search"))
}
