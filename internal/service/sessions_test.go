package service_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestSessionsAreListedAndEnded signs two people in, one of them twice. Each sees and ends
// their own sessions; an admin those of everybody.
func TestSessionsAreListedAndEnded(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	admin, editor, phone := s.Session(t, api.RoleAdmin), s.Session(t, api.RoleEditor), s.Session(t, api.RoleEditor)
	list := func(c *api.ClientWithResponses, everyone bool) ([]api.SignedIn, int) {
		t.Helper()
		r, err := c.ListSessionsWithResponse(ctx, &api.ListSessionsParams{Everyone: &everyone})
		require.NoError(t, err)
		if r.JSON200 == nil {
			return nil, r.StatusCode()
		}
		return r.JSON200.Items, r.StatusCode()
	}
	own, _ := list(phone, false)
	require.Len(t, own, 2)
	assert.True(t, own[0].Current, "the last used comes first")
	assert.False(t, own[1].Current)
	assert.Equal(t, "127.0.0.1", own[0].Address)
	assert.Contains(t, own[0].Browser, "Go")
	assert.InDelta(t, 8*60, own[0].EndsAt.Sub(own[0].SeenAt).Minutes(), 1)
	_, status := list(editor, true)
	assert.Equal(t, http.StatusForbidden, status)
	all, _ := list(admin, true)
	assert.Len(t, all, 3)
	of := slices.IndexFunc(all, func(i api.SignedIn) bool { return i.Current })
	end := func(c *api.ClientWithResponses, id int64) int {
		t.Helper()
		r, err := c.EndSessionWithResponse(ctx, id)
		require.NoError(t, err)
		return r.StatusCode()
	}
	assert.Equal(t, http.StatusNotFound, end(editor, all[of].Id), "an admin's session is nobody else's business")
	assert.Equal(t, http.StatusNotFound, end(editor, 99999))
	assert.Equal(t, http.StatusNoContent, end(phone, own[1].Id))
	_, status = list(editor, false)
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Equal(t, http.StatusNotFound, end(phone, own[1].Id), "it has ended")
	assert.Equal(t, http.StatusNoContent, end(admin, own[0].Id))
	_, status = list(phone, false)
	assert.Equal(t, http.StatusUnauthorized, status)
	left, _ := list(admin, true)
	assert.Len(t, left, 1)
}

// TestSettingsInTheConsole ends another session, renames the studio, and reads how the
// service is set up, in a browser; the tables of it are sorted and lose a column.
func TestSettingsInTheConsole(t *testing.T) {
	s := open(t)
	other := s.Session(t, api.RoleAdmin)
	_, err := s.admin.AddClientWithResponse(t.Context(), api.NewStudioClient{Name: "Orrery Hall"})
	require.NoError(t, err)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin, "/settings")
	rows := func(n string) browsertest.Step {
		return browsertest.Until(`document.querySelectorAll("tr.session").length === ` + n)
	}
	browsertest.Do(t, ctx, rows("2"), browsertest.Click(`//tr[contains(@class,"session")][not(contains(.,"this one"))]//button[normalize-space()="End"]`), press("End session"), rows("1"))
	r, err := other.GetSessionWithResponse(t.Context())
	require.NoError(t, err)
	assert.Equal(t, http.StatusUnauthorized, r.StatusCode())

	browsertest.Do(t, ctx, browsertest.Click(`//a[normalize-space()="Studio"]`), browsertest.Visible(".studio"), refill("Name of the studio", "Orrery Hall"), press("Save"), says("There is a client named"),
		refill("Name of the studio", "Lanternjaw and Daughters"), press("Save"), browsertest.Until(`!document.body.innerText.includes("There is a client named")`),
		browsertest.Click(`//a[normalize-space()="Service"]`), says("Largest font"), says("None, so no e-mail is sent"))
	found, err := s.admin.GetStudioWithResponse(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "Lanternjaw and Daughters", found.JSON200.Client.Name)

	names := `[...document.querySelectorAll('[data-table="people"] td.main')].map(c => c.innerText).join()`
	browsertest.Do(t, ctx, browsertest.Click(`//a[normalize-space()="People"]`), browsertest.Visible(`[data-table="people"]`))
	before := browsertest.Eval[string](t, ctx, names)
	browsertest.Do(t, ctx, press("Name"), browsertest.Until(`document.querySelector('th[aria-sort="ascending"]')?.innerText.trim() === "Name"`), press("Name"), browsertest.Until(names+` !== "`+before+`"`),
		press("Columns"), browsertest.Click(`//label[normalize-space()="E-mail"]`), browsertest.Until(`!document.querySelector('[data-column="email"]')`),
		chromedp.Navigate(s.Address+"/settings?tab=people"), browsertest.Visible(`[data-table="people"] th[aria-sort="descending"]`))
	assert.False(t, browsertest.Eval[bool](t, ctx, `!!document.querySelector('[data-column="email"]')`), "the choice is kept")
}

// TestClientsAreRenamed renames a client as an editor, and the studio as an admin only.
func TestClientsAreRenamed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	studio, err := s.admin.GetStudioWithResponse(ctx)
	require.NoError(t, err)
	added, err := s.admin.AddClientWithResponse(ctx, api.NewStudioClient{Name: "Orrery Hall"})
	require.NoError(t, err)
	client := added.JSON201
	rename := func(role api.Role, id int64, name string) string {
		t.Helper()
		r, err := s.Client(t, role).ChangeClientWithResponse(ctx, id, api.NewStudioClient{Name: name})
		require.NoError(t, err)
		if r.JSON200 != nil {
			return r.JSON200.Name
		}
		return r.ApplicationproblemJSONDefault.Code
	}
	family := s.family(foundry.Signage()[1], "client", "Orrery Hall")
	found := func(words string) bool {
		t.Helper()
		r, err := s.admin.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{Q: &words})
		require.NoError(t, err)
		return slices.ContainsFunc(r.JSON200.Items, func(f api.FamilySummary) bool { return f.Id == family })
	}
	require.True(t, found("Orrery Hall"), "a family is found by its client")
	assert.Equal(t, "role-too-low", rename(api.RoleViewer, client.Id, "Tern Point"))
	assert.Equal(t, "Tern Point", rename(api.RoleEditor, client.Id, " Tern Point "))
	assert.Equal(t, "role-too-low", rename(api.RoleEditor, studio.JSON200.Client.Id, "Ours"))
	assert.Equal(t, "name-taken", rename(api.RoleAdmin, studio.JSON200.Client.Id, "tern point"))
	assert.Equal(t, "missing-value", rename(api.RoleAdmin, client.Id, "  "))
	assert.Equal(t, "not-found", rename(api.RoleAdmin, 999, "Nobody"))
	after, err := s.admin.ListClientsWithResponse(ctx)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(after.JSON200.Items, func(c api.StudioClient) bool { return c.Name == "Tern Point" }))
	require.Eventually(t, func() bool { return found("Tern Point") && !found("Orrery Hall") }, time.Minute, 50*time.Millisecond, "and by its new name")
	read, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	assert.Equal(t, "Tern Point", read.JSON200.Client.Name)
	settings, err := s.Client(t, api.RoleEditor).GetSettingsWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, settings.StatusCode())
}

// TestAnyBrowserMayCallItselfAnything signs in with names of browsers that are long, no text, or
// made to act on a terminal.
func TestAnyBrowserMayCallItselfAnything(t *testing.T) {
	s := open(t)
	who := s.As(api.RoleEditor)
	for _, agent := range []string{strings.Repeat("Lantern", 2000) + "/1.0", "Gull\xff\xfe/2.0 (X11; Linux)", "Tern\x1b[31m/3", "", "Mozilla/5.0 (" + strings.Repeat("(", 500)} {
		c := browser(t)
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.Address+"/api/v1/session", strings.NewReader(fmt.Sprintf(`{"email":%q,"password":%q}`, who.Email, who.Password)))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		r.Header["User-Agent"] = []string{agent}
		answer, err := c.Do(r)
		if err != nil { // this client sends no control characters
			continue
		}
		_ = answer.Body.Close()
		assert.Equal(t, http.StatusOK, answer.StatusCode, "%.40q", agent)
	}
	list, err := s.Session(t, api.RoleEditor).ListSessionsWithResponse(t.Context(), nil)
	require.NoError(t, err)
	for _, i := range list.JSON200.Items {
		assert.LessOrEqual(t, len([]rune(i.Browser)), 100)
		assert.NotContains(t, i.Browser, "\x1b")
	}
}
