package service_test

import (
	"os"
	"regexp"
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// TestTwelveEverydayJobs does twelve jobs from the home page on, counts the clicks, and holds
// them against the table in docs/CONSOLE.md. Choosing from a list is two clicks, typing none.
func TestTwelveEverydayJobs(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/")
	clicks := 0
	click := func(selector string) browsertest.Step {
		clicks++
		return browsertest.Click(selector)
	}
	pick := func(label, option string) browsertest.Step {
		clicks += 2
		return choose(label, option)
	}
	button := func(label string) browsertest.Step { return click(`//button[normalize-space()="` + label + `"]`) }
	link := func(label string) browsertest.Step { return click(`//a[normalize-space()="` + label + `"]`) }
	menu := func(page string) browsertest.Step {
		return click(`//nav[@aria-label="Pages"]//a[normalize-space()="` + page + `"]`)
	}
	ends := `//li[@data-kind="license-ends"]`
	jobs := map[string]func() []browsertest.Step{
		"Renew a license that ends": func() []browsertest.Step {
			return []browsertest.Step{click(ends + `//button[normalize-space()="Renew"]`), browsertest.Visible(".el-dialog"), button("Record renewal"), browsertest.Hidden(".el-dialog")}
		},
		"Say where a font in use came from": func() []browsertest.Step {
			return []browsertest.Step{pick("Origin of Tidegarth Poster", "Bought"), browsertest.Until(`!document.querySelector("[data-kind=unknown-origin]")`)}
		},
		"Put something off for a month": func() []browsertest.Step {
			return []browsertest.Step{click(`//li[@data-kind="blocked"]//button[normalize-space()="Snooze"]`), click(`//li[normalize-space()="For 30 days"]`), browsertest.Until(`!document.querySelector("[data-kind=blocked]")`)}
		},
		"Assign something to a colleague": func() []browsertest.Step {
			return []browsertest.Step{click(`//li[@data-kind="unlicensed"]//button[normalize-space()="Assign"]`), click(`//li[contains(@class,"el-dropdown-menu__item")][1]`), browsertest.Until(`!document.querySelector("[data-kind=unlicensed]").innerText.includes("Assign")`)}
		},
		"See all of a client": func() []browsertest.Step {
			return []browsertest.Step{menu("Clients"), link("Holmvik Ferries"), browsertest.Visible(".family"), says("Licenses")}
		},
		"See all characters of a face": func() []browsertest.Step {
			return []browsertest.Step{menu("Catalog"), link("Umbrisk Display"), click(`//li[contains(@class,"face")]//a[contains(.,"characters")]`), browsertest.Visible(".map .grid button")}
		},
		"Tag three families": func() []browsertest.Step {
			return []browsertest.Step{menu("Catalog"), click(`//*[@aria-label="Select Skerrow Sans"]`), click(`//*[@aria-label="Select Umbrisk Display"]`), click(`//*[@aria-label="Select Tidegarth Poster"]`),
				button("Add tags"), browsertest.Type(`input[aria-label="Tags"]`, "season 27"), button("Add"), says("3 families tagged")}
		},
		"Find a sans serif": func() []browsertest.Step {
			return []browsertest.Step{menu("Catalog"), button("Filters"), click(`//button[contains(@class,"kind")][contains(.,"Sans serif")]`), browsertest.Until(`location.search.includes("kind=sans")`)}
		},
		"Build the packs of two sites": func() []browsertest.Step {
			return []browsertest.Step{menu("Sites"), click(`//*[@aria-label="Select Holmvik timetable"]`), click(`//*[@aria-label="Select Orrery Hall visitor site"]`), button("Build packs"), says("Pack built for 2 sites.")}
		},
		"Read what one person did": func() []browsertest.Step {
			return []browsertest.Step{menu("Activity"), pick("Person", "Ines Varga"), browsertest.Until(`location.search.includes("person=")`)}
		},
		"Export the register": func() []browsertest.Step {
			return []browsertest.Step{menu("Licenses"), link("Register"), browsertest.Visible(`//a[normalize-space()="Export XLSX"]`), click(`//a[normalize-space()="Export XLSX"]`)}
		},
		"Get help on a page": func() []browsertest.Step {
			return []browsertest.Step{click(`//button[@aria-label="Help"]`), browsertest.Visible(".el-drawer"), says("Snooze")}
		},
	}
	text, err := os.ReadFile("../../docs/CONSOLE.md")
	require.NoError(t, err)
	done := 0
	for _, row := range regexp.MustCompile(`(?m)^\| ([^|]+?) \| [^|]+ \| (\d+) \|`).FindAllStringSubmatch(string(text), -1) {
		job := jobs[row[1]]
		require.NotNil(t, job, row[1])
		clicks = 0
		browsertest.Do(t, ctx, append([]browsertest.Step{chromedp.Navigate(s.Address + "/"), browsertest.Visible(".item")}, job()...)...)
		said, err := strconv.Atoi(row[2])
		require.NoError(t, err)
		assert.Equal(t, said, clicks, row[1])
		done++
	}
	assert.Equal(t, 12, done)
}
