package service_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// TestAProducersDay goes from the due list to a license that has ended, renews it with
// its PDF, and builds the pack of the site that is clear again.
func TestAProducersDay(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	l, err := c.GetLicenseWithResponse(t.Context(), 2)
	require.NoError(t, err)
	ended := api.LicenseTerms{Kind: l.JSON200.Kind, GrantedTo: l.JSON200.GrantedTo.Id, Uses: l.JSON200.Uses, From: l.JSON200.From, Until: inDays(-4), Domains: &l.JSON200.Domains, Families: []int64{2}}
	_, err = c.ChangeLicenseWithResponse(t.Context(), 2, &api.ChangeLicenseParams{IfMatch: l.JSON200.Etag}, ended)
	require.NoError(t, err)
	order := filepath.Join(t.TempDir(), "order N-90400.pdf")
	require.NoError(t, os.WriteFile(order, aPDF("Order N-90400", "Licensee: Orrery Hall"), 0o600))
	downloads := t.TempDir()

	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address), says("Umbrisk Display is on Orrery Hall visitor site and blocked"), says("4 days ago"),
		browsertest.Click(`//li[contains(@class,"item")][contains(.,"and blocked")]//a[.="Orrery Hall visitor site"]`), browsertest.Visible(".verdict.blocked"),
		browsertest.Click(`//ul[contains(@class,"reasons")]//a[contains(.,"license 2")]`), browsertest.Visible(".shown .ended"), says("on Orrery Hall visitor site"))
	// What ended is renewed: the term, the order and its document.
	browsertest.Do(t, ctx, browsertest.Click(`//li[@class="shown"]//button[.="Change"]`), browsertest.Visible(".el-dialog"),
		browsertest.Until(`(document.querySelector('.el-dialog input[aria-label="Until"]').select(), true)`), fill("Until", inDays(365).String()+"\t"), browsertest.Upload(`.el-dialog input[type="file"]`, order),
		press("Save"), browsertest.Hidden(".el-dialog"), browsertest.Gone(".shown .ended"), says("order N-90400.pdf"), says("until was"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/"), says("Origins to confirm"))
	assert.NotContains(t, browsertest.Eval[string](t, ctx, `document.body.innerText`), "Umbrisk Display is on")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/2/pack"), browsertest.Visible("table .cleared"), press("Build and download"))
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(downloads, "*.zip"))
		return len(found) == 1
	}, time.Minute, 100*time.Millisecond)

	// The document is found by what is in it.
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/licenses"), fill("Search documents", "90400"), says("Licensee: Orrery Hall"))
}

// TestLimitsInTheConsole enters page views, gives a seat, begins a license with a usual
// kind, and signs a family off and back.
func TestLimitsInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleAdmin)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/2"), browsertest.Visible(".chart svg"), says("the limit is passed in"),
		fill("Page views", "60000\t"), press("Enter"), says("That is over the limit."), says("The license is over its limit: 60,000 of 50,000 page views"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/licenses?show=1"), says("3 of 6 seats"), fill("A person or an app", "Runa Holt"), press("Assign a seat"), says("4 of 6 seats"), says("Seat: Runa Holt"),
		browsertest.Click(`button[aria-label="Unassign Runa Holt"]`), says("3 of 6 seats"), press("Undo"), says("4 of 6 seats"), browsertest.Click(`button[aria-label="Unassign Runa Holt"]`), says("3 of 6 seats"))
	browsertest.Do(t, ctx, press("Record a license"), browsertest.Visible(".el-dialog"), choose("Start from template", "Web, one year"), chooseAmong("Covers", "Tidegarth Poster"), choose("Granted to", "Saltmarsh Seed Exchange"),
		press("Record"), browsertest.Hidden(".el-dialog"), says("of 50,000 page views a month"))
	all, err := s.Client(t, api.RoleViewer).ListLicensesWithResponse(t.Context(), &api.ListLicensesParams{})
	require.NoError(t, err)
	made := all.JSON200.Items[0]
	assert.Equal(t, int64(50_000), *made.PageViews)
	assert.Equal(t, api.RenewalByHand, *made.Renewal)
	assert.Equal(t, api.ConsentYes, *made.Changes.Subset)
	assert.WithinDuration(t, time.Now().AddDate(1, 0, -1), made.Until.Time, 48*time.Hour)

	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/3"), press("Sign off"), browsertest.Visible("#why"), browsertest.Type("#why", "By letter of 3 May"), fill("Until", inDays(9).String()+"\t"),
		browsertest.Click(`//div[contains(@class,"el-dialog")]//button[normalize-space()="Sign off"]`), says("By letter of 3 May"), says("until "+inDays(9).String()))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/licenses"), says("1 holds"), press("Revoke"), browsertest.Visible(".el-message-box"),
		browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Revoke"]`), says("revoked by Ines Varga"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1"), press("Create a live stylesheet"), says("/fonts.css"), browsertest.Click(`button[aria-label="Revoke live stylesheet 1"]`), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Revoke"]`), browsertest.Gone(`button[aria-label="Revoke live stylesheet 1"]`))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/register"), says("order N-88213.txt"), choose("Client", "Saltmarsh Seed Exchange"), browsertest.Until(`!document.body.innerText.includes("order N-88213.txt")`))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/"), browsertest.Until(`document.querySelectorAll(".item[data-kind=unknown-origin]").length === 1`), choose("Show only this client", "Saltmarsh"), browsertest.Until(`[...document.querySelectorAll(".item")].every(i => i.innerText.includes("Saltmarsh"))`),
		browsertest.Click(".elsewhere summary"), press("Create a feed URL"), says("/calendar/"))
}
