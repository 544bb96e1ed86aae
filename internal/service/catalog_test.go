package service_test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// chooseAmong chooses one of several in a list that stays open, and closes it.
func chooseAmong(label, option string) browsertest.Step {
	item := `//div[contains(@class,"el-popper")][@aria-hidden="false"]//li[contains(@class,"item")][contains(normalize-space(),"` + option + `")]`
	return chromedp.Steps(browsertest.Click(`//*[@aria-label="`+label+`"]/ancestor::*[contains(concat(" ",@class," ")," el-select ")]`), browsertest.Visible(item),
		browsertest.Until(`(i => (i?.click(), !!i))(document.evaluate('`+item+`', document, null, XPathResult.FIRST_ORDERED_NODE_TYPE).singleNodeValue)`), fill(label, "\t"))
}

// listed are the families in the list, as a value of JavaScript.
const listed = `[...document.querySelectorAll(".strip .name")].map(n => n.textContent).join()`

// TestFindingInTheConsole types, misspells, filters, follows the page's address,
// and keeps a search.
func TestFindingInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/families")
	shows := func(names string) browsertest.Step { return browsertest.Until(listed + ` === "` + names + `"`) }
	address := func(query string) browsertest.Step { return browsertest.Until(`location.search === "` + query + `"`) }
	browsertest.Do(t, ctx, allSet(), fill("Find", "umbrosk"), shows("Umbrisk Display"), address("?q=umbrosk"),
		says("No results for “umbrosk”; showing results for “umbrisk”"),
		press("Show all"), browsertest.Until(`document.querySelectorAll(".strip").length === 4`),
		press("Filters"), chooseAmong("License", "No license"), shows("Tidegarth Poster"), address("?license=none"), says("License: No license"),
		press("Clear filters"), browsertest.Until(`document.querySelectorAll(".strip").length === 4`), fill("Weight", "700-\r"), shows("Skerrow Sans,Skerrow Sans Variable"),
		browsertest.Until(`document.body.innerText.includes("1 of 3 faces")`),
		choose("Variable", "Static"), shows("Skerrow Sans"),
		// Filters come off one by one, and choices say how many families they would find.
		browsertest.Click(`//li[contains(.,"Variable: no")]//i`), shows("Skerrow Sans,Skerrow Sans Variable"), choose("Variable", "Static"), shows("Skerrow Sans"),
		browsertest.Click(`//button[contains(.,"Saved searches")]`), fill("Name for this search", "Bold statics"), press("Save search"), browsertest.Visible(`//button[normalize-space()="Bold statics"]`))
	// The address by itself brings the search back, and a search kept by another is there.
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families?language=pl&origin=bought&sort=newest"), shows("Umbrisk Display"),
		browsertest.Click(`//button[contains(.,"Saved searches")]`), browsertest.Click(`//button[normalize-space()="On a site without a license"]`), shows("Tidegarth Poster"), address("?used=true&license=none"),
		chromedp.NavigateBack(), shows("Umbrisk Display"))
	// A client that has nothing of the kind.
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families?script=Hebrew"), browsertest.Until(`document.body.innerText.includes("No family matches")`))
}

// TestTheCatalogIsLookedThrough finds families by their look, looks at them in three ways, and
// changes several at once and back.
func TestTheCatalogIsLookedThrough(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/families")
	card := `[...document.querySelectorAll(".card .name")].map(n => n.textContent).join()`
	browsertest.Do(t, ctx, browsertest.Click(`//label[contains(.,"Grid")]`), browsertest.Until(card+` === "Skerrow Sans,Skerrow Sans Variable,Tidegarth Poster,Umbrisk Display"`), allSet(),
		press("Filters"), press("Sans serif 2"), browsertest.Until(card+` === "Skerrow Sans,Skerrow Sans Variable"`), browsertest.Until(`location.search.includes("kind=sans")`),
		browsertest.Click(`//label[contains(.,"Specimens")]`), browsertest.Visible(".card.specimen"),
		browsertest.Click(`//*[@aria-label="Select Skerrow Sans"]`), browsertest.Click(`//*[@aria-label="Select Skerrow Sans Variable"]`), says("2 families selected"),
		press("Add tags"), fill("Tags", "timetable, signs\r"), says("2 families tagged."))
	tags := func(id int64) []string {
		f, err := s.Client(t, api.RoleViewer).GetFamilyWithResponse(t.Context(), id)
		require.NoError(t, err)
		return f.JSON200.Tags
	}
	assert.Equal(t, []string{"signage", "signs", "timetable"}, tags(1))
	assert.Equal(t, []string{"signage", "signs", "timetable"}, tags(4))
	// What can be undone offers it.
	browsertest.Do(t, ctx, press("Retire"), says("2 families retired."), browsertest.Until(card+` === ""`), press("Undo"), browsertest.Until(card+` === "Skerrow Sans,Skerrow Sans Variable"`))
	// What goes with a family, and why.
	browsertest.Do(t, ctx, browsertest.Click(`//a[.="Skerrow Sans"]`), says("Pairs with"), says("Similar families"), browsertest.Visible(`//h2[.="Similar families"]/following-sibling::ul//a[.="Skerrow Sans Variable"]`))
}

// TestAFamilysLifeInTheConsole says things of a family, retires it, deletes it, and
// brings it back.
func TestAFamilysLifeInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/3"), browsertest.Visible(".face"), press("Edit"), choose("Origin", "Open"),
		fill("Designer", " and Ottoline Krag"), fill("Tags", "almanac\r\t"), browsertest.Type(`//textarea[@aria-label="Note"]`, "Ask Ottoline."), press("Save"),
		says("Ines Varga and Ottoline Krag"), says("Ask Ottoline."), browsertest.Click(`//a[contains(@class,"tag")][.="almanac"]`), browsertest.Until(listed+` === "Tidegarth Poster"`))
	f, err := s.Client(t, api.RoleViewer).GetFamilyWithResponse(t.Context(), 3)
	require.NoError(t, err)
	assert.Equal(t, api.OriginOpen, f.JSON200.Origin)
	assert.Equal(t, []string{"almanac"}, f.JSON200.Tags)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/3"), browsertest.Visible(".face"), press("Retire"), says("It is hidden from lists"),
		chromedp.Navigate(s.Address+"/families"), browsertest.Until(`document.querySelectorAll(".strip").length === 3`), chromedp.Navigate(s.Address+"/families?status=retired"), browsertest.Until(listed+` === "Tidegarth Poster"`),
		chromedp.Navigate(s.Address+"/families/3"), press("Restore"), browsertest.Gone(".gone"),
		press("Delete"), browsertest.Visible(".el-message-box"), says("It is used by the site Growers"), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Cancel"]`), browsertest.Gone(".el-message-box"),
		press("Delete"), browsertest.Visible(".el-message-box"), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Delete"]`), says("It can be restored until"),
		press("Restore"), browsertest.Gone(".gone"))
}

// TestTheListHoldsOnlyWhatIsInView scrolls through a large catalog: strips come and
// go, pages are read on, and the words on the screen follow.
func TestTheListHoldsOnlyWhatIsInView(t *testing.T) {
	s := servicetest.Start(t, nil)
	s.FillCrate(t, 2400)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/families")
	browsertest.Do(t, ctx, browsertest.Until(`document.body.innerText.includes("300 families") && document.querySelectorAll(".strip").length > 4`))
	seen := map[string]bool{}
	for range 120 {
		for _, n := range browsertest.Eval[[]string](t, ctx, `[...document.querySelectorAll(".slot[data-index]")].map(e => e.dataset.index)`) {
			seen[n] = true
		}
		require.Less(t, browsertest.Eval[int](t, ctx, `document.querySelectorAll(".strip").length`), 40, "only what is in view, and a little more")
		if len(seen) == 300 {
			break
		}
		browsertest.Do(t, ctx, browsertest.Until(`(scrollBy(0, 700), true)`), browsertest.Until(`new Promise(ok => setTimeout(() => ok(true), 150))`))
	}
	assert.Len(t, seen, 300)
}
