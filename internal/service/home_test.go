package service_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
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

// TestItemsAreAssigned assigns what needs attention to a person, and lists what is whose.
func TestItemsAreAssigned(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := t.Context()
	admin, editor, viewer := s.Client(t, api.RoleAdmin), s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	due := func(c *api.ClientWithResponses, owner string) []api.DueItem {
		t.Helper()
		r, err := c.ListDueWithResponse(ctx, &api.ListDueParams{Owner: &owner})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200.Items
	}
	people, err := editor.ListOwnersWithResponse(ctx)
	require.NoError(t, err)
	me, err := editor.GetSessionWithResponse(ctx)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(people.JSON200.Items, func(o api.Owner) bool { return o.Id == me.JSON200.Id && o.Email == me.JSON200.Email }))
	reader, err := viewer.GetSessionWithResponse(ctx)
	require.NoError(t, err)
	assert.False(t, slices.ContainsFunc(people.JSON200.Items, func(o api.Owner) bool { return o.Id == reader.JSON200.Id }), "a viewer can act on nothing")
	hidden, err := viewer.ListOwnersWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, hidden.StatusCode())

	all := due(viewer, "none")
	item := all[0]
	assign := func(c *api.ClientWithResponses, key string, person int64) string {
		t.Helper()
		r, err := c.AssignDueWithResponse(ctx, key, api.NewOwner{Person: person})
		require.NoError(t, err)
		if r.ApplicationproblemJSONDefault != nil {
			return r.ApplicationproblemJSONDefault.Code
		}
		return ""
	}
	assert.Equal(t, "role-too-low", assign(viewer, item.Key, me.JSON200.Id))
	assert.Equal(t, "no-such-owner", assign(editor, item.Key, reader.JSON200.Id))
	assert.Equal(t, "no-such-owner", assign(editor, item.Key, 999))
	assert.Equal(t, "no-such-item", assign(editor, strings.Repeat("0", 64), me.JSON200.Id))
	require.Empty(t, assign(admin, item.Key, me.JSON200.Id))
	assert.Len(t, due(viewer, "none"), len(all)-1)
	require.Len(t, due(editor, "me"), 1)
	assert.Equal(t, me.JSON200.Name, due(viewer, strings.ToUpper(me.JSON200.Email))[0].Owner.Name)
	assert.Empty(t, due(admin, "me"))
	unknown, err := editor.ListDueWithResponse(ctx, &api.ListDueParams{Owner: new("nobody@lanternjaw.example")})
	require.NoError(t, err)
	problemOf(t, unknown.HTTPResponse, unknown.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "no-such-owner")
	assert.Empty(t, due(viewer, "nobody@lanternjaw.example"), "a viewer does not learn who has an account")
	taken, err := editor.UnassignDueWithResponse(ctx, item.Key)
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, taken.StatusCode())
	assert.Len(t, due(viewer, "none"), len(all))
	require.Empty(t, assign(admin, item.Key, me.JSON200.Id))
	closed, err := admin.ChangePersonWithResponse(ctx, me.JSON200.Id, api.PersonChange{Closed: new(true)})
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, closed.StatusCode())
	assert.Len(t, due(viewer, "none"), len(all), "what a closed account had is nobody's")
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
		browsertest.Click(`//button[normalize-space()="Show again"]`), browsertest.Until(`!document.body.innerText.includes("snoozed until")`), browsertest.Click(`//label[contains(., "Show snoozed (0)")]`), browsertest.Until(`!document.body.innerText.includes("Show snoozed")`))
	self, err := s.Client(t, api.RoleEditor).GetSessionWithResponse(t.Context())
	require.NoError(t, err)
	me := self.JSON200
	browsertest.Do(t, ctx, browsertest.Click(`//li[@data-kind="license-ends"]//button[normalize-space()="Assign"]`), browsertest.Click(`//li[contains(@class,"el-dropdown-menu__item")][contains(.,"`+me.Name+`")]`), browsertest.Visible(`//li[@data-kind="license-ends"]//button[normalize-space()="`+me.Name+`"]`),
		browsertest.Click(`//label[normalize-space()="Mine"]`), browsertest.Until(`document.querySelectorAll(".item").length === 1 && location.search.includes("owner=me")`), browsertest.Click(`//label[normalize-space()="All"]`), browsertest.Until(items("unknown-origin")+" === 1"))
	all := `document.querySelectorAll(".item").length`
	before := browsertest.Eval[int](t, ctx, all)
	browsertest.Do(t, ctx, browsertest.Click(`//li[@data-kind="unknown-origin"]//input[@type="checkbox"]`), browsertest.Click(`//li[@data-kind="license-ends"]//input[@type="checkbox"]`), says("2 items selected"),
		press("Snooze"), browsertest.Click(`//li[normalize-space()="For 1 week"]`), browsertest.Until(fmt.Sprintf("%s === %d", all, before-2)), press("Undo"), browsertest.Until(fmt.Sprintf("%s === %d", all, before)))
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

// TestHomeActsInPlace confirms an open license and rebuilds a pack where they are listed.
func TestHomeActsInPlace(t *testing.T) {
	s := servicetest.Start(t, servicetest.WholeDemo)
	editor := s.Client(t, api.RoleEditor)
	found, err := editor.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Q: new("Bollardine Sans")})
	require.NoError(t, err)
	added, err := editor.AddSiteFamilyWithResponse(t.Context(), 1, found.JSON200.Items[0].Id, api.AddSiteFamilyJSONRequestBody{})
	require.NoError(t, err)
	require.NotNil(t, added.JSON200, "%s", added.Body)
	before, err := editor.ListPacksWithResponse(t.Context(), 1)
	require.NoError(t, err)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/")
	browsertest.Do(t, ctx, browsertest.Click(`//button[normalize-space()="Confirm open license"]`), browsertest.Until(`!document.body.innerText.includes("Confirm open license")`),
		browsertest.Click(`//li[@data-kind="pack-outdated"]//button[normalize-space()="Rebuild pack"]`), says("The pack of Holmvik timetable is rebuilt."), browsertest.Until(`!document.querySelector("[data-kind=pack-outdated]")`))
	after, err := editor.ListPacksWithResponse(t.Context(), 1)
	require.NoError(t, err)
	assert.Len(t, after.JSON200.Items, len(before.JSON200.Items)+1)
}

// TestOnesOwnChangesShowAtOnce reads what needs attention where that takes long to work out: what
// oneself did shows at once, what others did a little later, and nothing stays old.
func TestOnesOwnChangesShowAtOnce(t *testing.T) {
	s := open(t)
	s.Crate.Reports.AtOnce = -time.Second // everything counts as slow
	admin, editor := s.admin, s.Client(t, api.RoleEditor)
	ctx := t.Context()
	family := s.family(foundry.Poster())
	ends := &openapi.Date{Time: time.Now().AddDate(0, 0, 5)}
	license := func(as *api.ClientWithResponses) {
		r, err := as.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Until: ends, Families: []int64{family}})
		require.NoError(t, err)
		require.NotNil(t, r.JSON201, "%s", r.Body)
	}
	seen := func(as *api.ClientWithResponses) int {
		r, err := as.ListDueWithResponse(ctx, &api.ListDueParams{})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return len(r.JSON200.Items)
	}
	// A list that lacks what was changed says that it is older.
	whole := func(want int) bool {
		r, err := admin.ListDueWithResponse(ctx, &api.ListDueParams{})
		require.NoError(t, err)
		if len(r.JSON200.Items) != want {
			require.NotNil(t, r.JSON200.AsOf, "%d of %d", len(r.JSON200.Items), want)
			assert.WithinDuration(t, time.Now(), *r.JSON200.AsOf, time.Minute)
		}
		return len(r.JSON200.Items) == want
	}
	require.Zero(t, seen(admin))
	license(admin)
	assert.Equal(t, 1, seen(admin), "one's own change")
	for n := 2; n < 6; n++ {
		license(editor)
		assert.Equal(t, n, seen(editor), "one's own change")
		require.Eventually(t, func() bool { return whole(n) }, 10*time.Second, 5*time.Millisecond, "a change of somebody else")
	}
	// What belongs to one person, or is hidden for all, is not remembered.
	due, err := admin.ListDueWithResponse(ctx, &api.ListDueParams{})
	require.NoError(t, err)
	snoozed, err := editor.SnoozeDueWithResponse(ctx, due.JSON200.Items[0].Key, api.NewSnooze{Until: openapi.Date{Time: time.Now().AddDate(0, 0, 2)}})
	require.NoError(t, err)
	require.Less(t, snoozed.StatusCode(), 300, "%s", snoozed.Body)
	assert.Equal(t, 4, seen(admin))

	// What is past the limit is counted.
	few, err := admin.ListDueWithResponse(ctx, &api.ListDueParams{Limit: ptr(2)})
	require.NoError(t, err)
	require.Len(t, few.JSON200.Items, 2)
	assert.Equal(t, 4, few.JSON200.Total)
	assert.Equal(t, []api.DueCount{{Kind: api.DueEnds, Count: 4}}, few.JSON200.Counts)
	for _, bad := range []int{0, 5001} {
		refused, err := admin.ListDueWithResponse(ctx, &api.ListDueParams{Limit: &bad})
		require.NoError(t, err)
		assert.Equal(t, http.StatusUnprocessableEntity, refused.StatusCode(), "%s", refused.Body)
	}
}
