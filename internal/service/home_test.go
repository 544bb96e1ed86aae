package service_test

import (
	"net/http"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// TestItemsAreSnoozed hides what needs attention until a day, for everybody, and shows it again.
func TestItemsAreSnoozed(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := t.Context()
	editor, viewer := s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	due := func(q api.ListDueParams) *api.DueList {
		t.Helper()
		r, err := viewer.ListDueWithResponse(ctx, &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	before := due(api.ListDueParams{})
	require.NotEmpty(t, before.Items)
	item := before.Items[0]
	snooze := func(c *api.ClientWithResponses, key string, days int) (int, string) {
		t.Helper()
		r, err := c.SnoozeDueWithResponse(ctx, key, api.NewSnooze{Until: *inDays(days)})
		require.NoError(t, err)
		if r.ApplicationproblemJSONDefault != nil {
			return r.StatusCode(), r.ApplicationproblemJSONDefault.Code
		}
		return r.StatusCode(), ""
	}
	for _, wrong := range []struct {
		c    *api.ClientWithResponses
		key  string
		days int
		code string
	}{{viewer, item.Key, 7, "role-too-low"}, {editor, item.Key, 0, "bad-day"}, {editor, item.Key, 367, "bad-day"}, {editor, "0000000000000000000000000000000000000000000000000000000000000000", 7, "no-such-item"}} {
		_, code := snooze(wrong.c, wrong.key, wrong.days)
		assert.Equal(t, wrong.code, code)
	}
	status, _ := snooze(editor, item.Key, 7)
	require.Equal(t, http.StatusNoContent, status)
	now := due(api.ListDueParams{})
	assert.Len(t, now.Items, len(before.Items)-1)
	assert.Equal(t, 1, now.Snoozed)
	all := due(api.ListDueParams{Snoozed: new(true)})
	require.Len(t, all.Items, len(before.Items))
	assert.Equal(t, inDays(7).String(), all.Items[0].SnoozedUntil.String())
	woken, err := editor.WakeDueWithResponse(ctx, item.Key)
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, woken.StatusCode())
	assert.Equal(t, before.Items, due(api.ListDueParams{}).Items)
}

// TestHomeInTheConsole acts on what needs attention where it is listed, finds its way with the
// keyboard, and narrows the console to a client.
func TestHomeInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	items := func(kind string) string {
		return `document.querySelectorAll(".item[data-kind=` + kind + `]").length`
	}
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/"), browsertest.Until(items("license-ends")+" === 1"),
		browsertest.Click(`//li[@data-kind="license-ends"]//button[contains(@aria-label,"Snooze")]`), browsertest.Click(`//li[normalize-space()="For 30 days"]`),
		browsertest.Until(items("license-ends")+" === 0"), browsertest.Click(`//label[contains(., "Show snoozed (1)")]`), says("snoozed until"),
		browsertest.Click(`//button[normalize-space()="Show again"]`), browsertest.Until(`!document.body.innerText.includes("snoozed until")`))
	browsertest.Do(t, ctx, browsertest.Click(`//li[@data-kind="license-ends"]//button[normalize-space()="Renew"]`), browsertest.Visible(".el-dialog"), says("Record renewal"), press("Cancel"), browsertest.Hidden(".el-dialog"))
	found, err := s.Client(t, api.RoleViewer).ListDueWithResponse(t.Context(), nil)
	require.NoError(t, err)
	unknown := found.JSON200.Items[slices.IndexFunc(found.JSON200.Items, func(i api.DueItem) bool { return i.Kind == api.DueUnknown })]
	browsertest.Do(t, ctx, choose("Origin of "+unknown.Families[0].Name, "Commissioned"), browsertest.Until(items("unknown-origin")+" === 0"), says("changed family"))

	browsertest.Do(t, ctx, chromedp.KeyEvent("/"), browsertest.Visible(`input[aria-label="Search families, sites, clients and pages"]`), browsertest.Type(`input[aria-label="Search families, sites, clients and pages"]`, "orrery hall vis"),
		browsertest.Until(`document.querySelector('[role="option"][aria-selected="true"]')?.innerText.includes("visitor site")`), chromedp.KeyEvent("\r"), browsertest.Until(`location.pathname === "/sites/2"`))
	browsertest.Do(t, ctx, chromedp.KeyEvent("g"), chromedp.KeyEvent("k"), browsertest.Visible(".client"), browsertest.Click(`//a[.="Holmvik Ferries"]`), browsertest.Visible(".family"),
		press("Show only this client"), chromedp.Navigate(s.Address+"/sites"), browsertest.Visible(".site"))
	assert.NotContains(t, text(t, ctx), "Growers' almanac")
	assert.Contains(t, text(t, ctx), "Holmvik timetable")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/clients"), fill("Name of a client", "Tern Point Lighthouse"), press("Add client"), browsertest.Visible(`//h1[text()="Tern Point Lighthouse"]`), says("No families yet"))
}
