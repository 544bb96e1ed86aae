package service_test

import (
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
)

// browser is somebody at the service with a cookie, as a browser has one.
func browser(t testing.TB) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &http.Client{Jar: jar}
}

// signsIn tries a password, and tells whether it lets one in.
func (s *studio) signsIn(c *http.Client, email, password string) bool {
	s.t.Helper()
	return request(s.t, c, "POST", s.Address+"/api/v1/session", fmt.Sprintf(`{"email":%q,"password":%q}`, email, password)).StatusCode == http.StatusOK
}

// isIn tells whether a browser is signed in.
func (s *studio) isIn(c *http.Client) bool {
	s.t.Helper()
	return request(s.t, c, "GET", s.Address+"/api/v1/session", "").StatusCode == http.StatusOK
}

func (s *studio) changed(id int64, change api.PersonChange) api.Person {
	s.t.Helper()
	r, err := s.admin.ChangePersonWithResponse(s.t.Context(), id, change)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return *r.JSON200
}

// TestWhoLeavesIsLetInNoMore follows an account from its first password to its end:
// another role, a forgotten password, closed, and open again.
func TestWhoLeavesIsLetInNoMore(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	const email, own, next = "mads@lanternjaw.example", "harbour and herring", "herring and harbour"
	added, err := s.admin.AddPersonWithResponse(ctx, api.NewPerson{Name: "Mads Birk", Email: email, Role: api.RoleViewer})
	require.NoError(t, err)
	id := added.JSON201.Person.Id
	laptop, phone := browser(t), browser(t)
	require.True(t, s.signsIn(laptop, email, added.JSON201.OneTimePassword))
	require.True(t, s.signsIn(phone, email, added.JSON201.OneTimePassword))
	set := func(c *http.Client, current, password string) int {
		return request(t, c, "PUT", s.Address+"/api/v1/session/password", fmt.Sprintf(`{"current":%q,"new":%q}`, current, password)).StatusCode
	}
	require.Equal(t, http.StatusNoContent, set(laptop, added.JSON201.OneTimePassword, own))
	assert.True(t, s.isIn(laptop), "where the password was changed one stays signed in")
	assert.False(t, s.isIn(phone), "and nowhere else")
	require.True(t, s.signsIn(phone, email, own))

	assert.Equal(t, http.StatusForbidden, request(t, phone, "POST", s.Address+"/api/v1/clients", `{"name":"Holmvik Ferries"}`).StatusCode)
	editor := api.RoleEditor
	assert.Equal(t, api.RoleEditor, s.changed(id, api.PersonChange{Role: &editor}).Role)
	assert.Equal(t, http.StatusCreated, request(t, phone, "POST", s.Address+"/api/v1/clients", `{"name":"Holmvik Ferries"}`).StatusCode, "a role counts at once")
	name := "Mads Birk-Sund"
	assert.Equal(t, name, s.changed(id, api.PersonChange{Name: &name}).Name)

	fresh, err := s.Session(t, api.RoleAdmin).GivePasswordWithResponse(ctx, id)
	require.NoError(t, err)
	require.NotNil(t, fresh.JSON200, "%s", fresh.Body)
	assert.True(t, fresh.JSON200.Person.MustChangePassword)
	assert.False(t, s.isIn(laptop) || s.isIn(phone), "a new password ends all sessions")
	assert.False(t, s.signsIn(laptop, email, own))
	require.True(t, s.signsIn(laptop, email, fresh.JSON200.OneTimePassword))
	require.Equal(t, http.StatusNoContent, set(laptop, fresh.JSON200.OneTimePassword, next))

	var token api.AddedToken
	decode(t, request(t, laptop, "POST", s.Address+"/api/v1/tokens", `{"name":"build pipeline"}`), &token)
	var feed api.NewFeed
	decode(t, request(t, laptop, "POST", s.Address+"/api/v1/feeds", ""), &feed)
	by := []string{"Authorization", "Bearer " + token.Secret}
	assert.Equal(t, http.StatusOK, request(t, http.DefaultClient, "GET", s.Address+"/api/v1/families", "", by...).StatusCode)
	assert.Equal(t, http.StatusOK, request(t, http.DefaultClient, "GET", s.Address+feed.Path, "").StatusCode)

	yes, no := true, false
	assert.True(t, s.changed(id, api.PersonChange{Closed: &yes}).Closed)
	assert.False(t, s.isIn(laptop), "closed: the session")
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/api/v1/families", "", by...).StatusCode, "the token")
	assert.Equal(t, http.StatusNotFound, request(t, http.DefaultClient, "GET", s.Address+feed.Path, "").StatusCode, "the calendar")
	assert.False(t, s.signsIn(laptop, email, next), "the password")
	refused, err := s.Session(t, api.RoleAdmin).GivePasswordWithResponse(ctx, id)
	require.NoError(t, err)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusConflict, "account-closed")

	assert.False(t, s.changed(id, api.PersonChange{Closed: &no}).Closed)
	assert.True(t, s.signsIn(laptop, email, next), "open again")
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/api/v1/families", "", by...).StatusCode, "tokens are to be made anew")

	seen, err := s.admin.ListActivityWithResponse(ctx, &api.ListActivityParams{})
	require.NoError(t, err)
	said := map[string]string{}
	for _, a := range seen.JSON200.Items {
		if _, later := said[a.Action]; !later {
			said[a.Action] = a.Detail
		}
	}
	assert.Contains(t, said, "closed account")
	assert.Contains(t, said, "reopened account")
	assert.Contains(t, said, "reset password")
	assert.Equal(t, "Mads Birk → Mads Birk-Sund", said["changed person"], "the newest first")
}

// TestThereIsAlwaysAnAdmin tries to leave the studio without one.
func TestThereIsAlwaysAnAdmin(t *testing.T) {
	s := open(t)
	s.admin = s.Session(t, api.RoleAdmin)
	me, err := s.admin.GetSessionWithResponse(t.Context())
	require.NoError(t, err)
	people, err := s.admin.ListPeopleWithResponse(t.Context())
	require.NoError(t, err)
	var others []api.Person
	for _, p := range people.JSON200.Items {
		if p.Id != me.JSON200.Id {
			others = append(others, p)
		}
	}
	viewer, yes, none := api.RoleViewer, true, "  "
	for _, p := range others { // whoever else is an admin is none any more
		s.changed(p.Id, api.PersonChange{Role: &viewer})
	}
	for _, role := range []api.Role{api.RoleViewer, api.RoleEditor} {
		r, err := s.Client(t, role).ChangePersonWithResponse(t.Context(), others[0].Id, api.PersonChange{Role: &viewer})
		require.NoError(t, err)
		assert.Equal(t, http.StatusForbidden, r.StatusCode())
	}
	refuse := func(id int64, change api.PersonChange, status int, code string) {
		t.Helper()
		r, err := s.admin.ChangePersonWithResponse(t.Context(), id, change)
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, status, code)
	}
	refuse(me.JSON200.Id, api.PersonChange{Role: &viewer}, http.StatusConflict, "last-admin")
	refuse(me.JSON200.Id, api.PersonChange{Closed: &yes}, http.StatusConflict, "last-admin")
	admin := api.RoleAdmin
	s.changed(others[0].Id, api.PersonChange{Role: &admin})
	refuse(me.JSON200.Id, api.PersonChange{Closed: &yes}, http.StatusConflict, "own-account")
	refuse(999, api.PersonChange{Closed: &yes}, http.StatusNotFound, "not-found")
	odd := api.Role("owner")
	refuse(others[0].Id, api.PersonChange{Role: &odd}, http.StatusUnprocessableEntity, "bad-role")
	refuse(others[0].Id, api.PersonChange{Name: &none}, http.StatusUnprocessableEntity, "missing-value")
	own, err := s.admin.GivePasswordWithResponse(t.Context(), me.JSON200.Id)
	require.NoError(t, err)
	problemOf(t, own.HTTPResponse, own.ApplicationproblemJSONDefault, http.StatusConflict, "own-account")
}

// TestAccountsInTheConsole adds somebody, gives another role and a new password,
// closes the account and opens it again, in a browser.
func TestAccountsInTheConsole(t *testing.T) {
	s := open(t)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin)
	row := func(label string) browsertest.Step {
		return browsertest.Click(`//tr[td[normalize-space()="Mads Birk"]]//button[normalize-space()="` + label + `"]`)
	}
	account := func(state string) browsertest.Step {
		return browsertest.Until(`[...document.querySelectorAll("tr")].some(r => r.innerText.includes("Mads Birk") && r.cells[4]?.innerText === "` + state + `")`)
	}
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/settings?tab=people"), browsertest.Visible("table.plain"),
		fill("Name", "Mads Birk"), fill("E-mail", "mads@lanternjaw.example"), press("Add the person"), says("with the one-time password"), account("one-time password"),
		choose("Role of Mads Birk", "editor"), browsertest.Until(`document.querySelector('[aria-label="Role of Mads Birk"]').closest(".el-select").innerText.includes("editor")`),
		row("New password"), press("Set password"), says("Mads Birk signs in as mads@lanternjaw.example"),
		row("Close"), press("Close account"), account("closed"), row("Reopen"), account("one-time password"))
	people, err := s.admin.ListPeopleWithResponse(t.Context())
	require.NoError(t, err)
	for _, p := range people.JSON200.Items {
		if p.Name == "Mads Birk" {
			assert.Equal(t, api.RoleEditor, p.Role)
			assert.False(t, p.Closed)
		}
	}
}

// TestTwoAdminsCannotCloseEachOther lets both try at the same moment, many times: one
// is always left.
func TestTwoAdminsCannotCloseEachOther(t *testing.T) {
	s := open(t)
	s.admin = s.Session(t, api.RoleAdmin)
	ctx := t.Context()
	me, err := s.admin.GetSessionWithResponse(ctx)
	require.NoError(t, err)
	added, err := s.admin.AddPersonWithResponse(ctx, api.NewPerson{Name: "Mads Birk", Email: "mads@lanternjaw.example", Role: api.RoleAdmin})
	require.NoError(t, err)
	other := added.JSON201.Person.Id
	const own = "harbour and herring"
	begin := func(password string) *http.Client {
		c := browser(t)
		require.True(t, s.signsIn(c, "mads@lanternjaw.example", password))
		return c
	}
	mads := begin(added.JSON201.OneTimePassword)
	require.Equal(t, http.StatusNoContent, request(t, mads, "PUT", s.Address+"/api/v1/session/password", fmt.Sprintf(`{"current":%q,"new":%q}`, added.JSON201.OneTimePassword, own)).StatusCode)
	viewer, admin := api.RoleViewer, api.RoleAdmin
	for range 8 {
		var wait sync.WaitGroup
		wait.Go(func() {
			_, err := s.admin.ChangePersonWithResponse(ctx, other, api.PersonChange{Role: &viewer})
			assert.NoError(t, err)
		})
		wait.Go(func() {
			request(t, mads, "PATCH", fmt.Sprintf("%s/api/v1/people/%d", s.Address, me.JSON200.Id), `{"role":"viewer"}`)
		})
		wait.Wait()
		// Whoever is left makes the other an admin again.
		if r, err := s.admin.ChangePersonWithResponse(ctx, other, api.PersonChange{Role: &admin}); assert.NoError(t, err) && r.StatusCode() == http.StatusOK {
			continue
		}
		require.Equal(t, http.StatusOK, request(t, mads, "PATCH", fmt.Sprintf("%s/api/v1/people/%d", s.Address, me.JSON200.Id), `{"role":"admin"}`).StatusCode, "somebody is an admin")
	}
}
