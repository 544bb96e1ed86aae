package service_test

import (
	"context"
	"encoding/json"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

func request(t testing.TB, c *http.Client, method, address, body string, header ...string) *http.Response {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, address, strings.NewReader(body))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	answer, err := c.Do(r)
	require.NoError(t, err)
	t.Cleanup(func() { _ = answer.Body.Close() })
	return answer
}

func decode(t testing.TB, r *http.Response, to any) {
	t.Helper()
	require.NoError(t, json.NewDecoder(r.Body).Decode(to))
}

// TestNobodyComesIn asks for every route of the contract without a sign-in,
// with a made-up token and with a made-up cookie.
func TestNobodyComesIn(t *testing.T) {
	s := open(t)
	contract, err := os.ReadFile("../../api/openapi.yaml")
	require.NoError(t, err)
	path, asked := "", 0
	for line := range strings.Lines(string(contract)) {
		if m := regexp.MustCompile(`^  (/\S*):`).FindStringSubmatch(line); m != nil {
			path = m[1]
		}
		m := regexp.MustCompile(`^    (get|post|put|patch|delete):`).FindStringSubmatch(line)
		if m == nil || path == "/session" && m[1] == "post" || path == "/session/ways" || strings.HasPrefix(path, "/session/passkey") && !strings.HasPrefix(path, "/session/passkeys") {
			continue
		}
		address := s.Address + "/api/v1" + regexp.MustCompile(`\{\w+\}`).ReplaceAllString(path, "1")
		for _, header := range [][]string{nil, {"Authorization", "Bearer sc_made-up"}, {"Cookie", "sparecrate_session=made-up"}} {
			r := request(t, http.DefaultClient, strings.ToUpper(m[1]), address, "{}", append(header, "If-Match", `"1"`)...)
			assert.Equal(t, http.StatusUnauthorized, r.StatusCode, "%s %s %v", m[1], path, header)
		}
		asked++
	}
	assert.Greater(t, asked, 25)
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/metrics", "").StatusCode)
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/api/v1/nothing", "").StatusCode)
	for _, free := range []string{"/healthz", "/readyz", "/", "/families/1"} {
		assert.Equal(t, http.StatusOK, request(t, http.DefaultClient, "GET", s.Address+free, "").StatusCode, free)
	}
	assert.Equal(t, http.StatusNotFound, request(t, http.DefaultClient, "GET", s.Address+"/assets/none.js", "").StatusCode)
	metrics := request(t, http.DefaultClient, "GET", s.Address+"/metrics", "", "Authorization", "Bearer "+s.As(api.RoleViewer).Token)
	assert.Equal(t, http.StatusOK, metrics.StatusCode)
}

func TestRoles(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	family := s.family(foundry.Signage()[0])
	studioID := int64(1)
	site := s.site("Timetable", studioID, family)
	l := s.license(studioID, nil, family)
	for _, test := range []struct {
		name string
		role api.Role // the lowest that may
		call func(c *api.ClientWithResponses) (int, error)
	}{
		{"read families", api.RoleViewer, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
			return r.StatusCode(), err
		}},
		{"read a plan", api.RoleViewer, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.PlanPackWithResponse(ctx, site, nil)
			return r.StatusCode(), err
		}},
		{"add a client", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddClientWithResponse(ctx, api.NewStudioClient{Name: time.Now().String()})
			return r.StatusCode(), err
		}},
		{"add a file", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			kind, body := upload(t, "a.ttf", []byte("x"))
			r, err := c.AddFileWithBodyWithResponse(ctx, kind, body)
			return r.StatusCode(), err
		}},
		{"change a family", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ChangeFamilyWithResponse(ctx, family, &api.ChangeFamilyParams{IfMatch: `"0"`}, api.FamilyChange{})
			return r.StatusCode(), err
		}},
		{"record a license", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddLicenseWithResponse(ctx, api.LicenseTerms{})
			return r.StatusCode(), err
		}},
		{"change a license", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ChangeLicenseWithResponse(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: `"0"`}, api.LicenseTerms{})
			return r.StatusCode(), err
		}},
		{"keep a document", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			kind, body := upload(t, "a.txt", nil)
			r, err := c.AddDocumentWithBodyWithResponse(ctx, l.Id, kind, body)
			return r.StatusCode(), err
		}},
		{"add a site", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddSiteWithResponse(ctx, api.SiteTerms{})
			return r.StatusCode(), err
		}},
		{"put on a site", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddSiteFamilyWithResponse(ctx, site, family, api.FamilyOnSite{})
			return r.StatusCode(), err
		}},
		{"build a pack", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.BuildPackWithResponse(ctx, site, nil)
			return r.StatusCode(), err
		}},
		{"read the due list", api.RoleViewer, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ListDueWithResponse(ctx, &api.ListDueParams{})
			return r.StatusCode(), err
		}},
		{"read the register", api.RoleViewer, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.GetRegisterWithResponse(ctx, &api.GetRegisterParams{})
			return r.StatusCode(), err
		}},
		{"give a seat", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddAllocationWithResponse(ctx, l.Id, api.NewAllocation{Measure: api.MeasureSeats, Name: "x"})
			return r.StatusCode(), err
		}},
		{"take a seat away", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.RemoveAllocationWithResponse(ctx, l.Id, 1)
			return r.StatusCode(), err
		}},
		{"save a template", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.SaveTemplateWithResponse(ctx, api.NewTemplate{})
			return r.StatusCode(), err
		}},
		{"drop a template", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.DeleteTemplateWithResponse(ctx, 99)
			return r.StatusCode(), err
		}},
		{"confirm an open license", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ConfirmProposalWithResponse(ctx, family, api.Confirmation{Spdx: "OFL-1.1"})
			return r.StatusCode(), err
		}},
		{"revoke a sign-off", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.RevokeSignOffWithResponse(ctx, 99)
			return r.StatusCode(), err
		}},
		{"enter page views", api.RoleEditor, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.SetViewsWithResponse(ctx, site, api.NewViews{})
			return r.StatusCode(), err
		}},
		{"see people", api.RoleAdmin, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ListPeopleWithResponse(ctx)
			return r.StatusCode(), err
		}},
		{"add people", api.RoleAdmin, func(c *api.ClientWithResponses) (int, error) {
			r, err := c.AddPersonWithResponse(ctx, api.NewPerson{})
			return r.StatusCode(), err
		}},
	} {
		may := false
		for _, role := range []api.Role{api.RoleViewer, api.RoleEditor, api.RoleAdmin} {
			may = may || role == test.role
			status, err := test.call(s.Client(t, role))
			require.NoError(t, err)
			assert.Equal(t, !may, status == http.StatusForbidden, "%s as %s: %d", test.name, role, status)
		}
	}
}

// TestNoWayPastAVerdict tries to get a blocked font out as every role.
func TestNoWayPastAVerdict(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	seeds := s.client("Saltmarsh Seed Exchange")
	poster := s.family(foundry.Poster(), "client", "Saltmarsh Seed Exchange")
	site := s.site("Almanac", seeds, poster)
	for _, role := range []api.Role{api.RoleEditor, api.RoleAdmin} {
		r, err := s.Client(t, role).BuildPackWithResponse(ctx, site, nil)
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
		assert.Contains(t, r.ApplicationproblemJSONDefault.Detail, "Tidegarth Poster is blocked")
	}
	sign := func(role api.Role, reason string) *api.AddSignOffResponse {
		r, err := s.Client(t, role).AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: poster, Reason: reason})
		require.NoError(t, err)
		return r
	}
	for _, role := range []api.Role{api.RoleViewer, api.RoleEditor} {
		r := sign(role, "please")
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	}
	r := sign(api.RoleAdmin, "  ")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "missing-value")
	signed := sign(api.RoleAdmin, "The maker gave leave by telephone")
	require.NotNil(t, signed.JSON201, "%s", signed.Body)
	assert.True(t, signed.JSON201.Families[0].MayGoOut)
	built, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	content, err := s.admin.GetPackContentWithResponse(ctx, built.JSON201.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, content.StatusCode())

	// The reasons change: a license is recorded that has run out. What was signed for is not what stands now.
	ended := &openapi.Date{Time: time.Now().UTC().AddDate(0, 0, -1).Truncate(24 * time.Hour)}
	s.document(s.license(seeds, ended, poster).Id)
	refused, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
	old, err := s.admin.GetPackContentWithResponse(ctx, built.JSON201.Id)
	require.NoError(t, err)
	problemOf(t, old.HTTPResponse, old.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")

	// Taking the family off the site does not free the pack built before.
	_, err = s.admin.RemoveSiteFamilyWithResponse(ctx, site, poster)
	require.NoError(t, err)
	old, err = s.admin.GetPackContentWithResponse(ctx, built.JSON201.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusConflict, old.StatusCode())
}

// TestOneTimePassword follows a new person from the one-time password on.
func TestOneTimePassword(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	added, err := s.admin.AddPersonWithResponse(ctx, api.NewPerson{Name: "Tomas", Email: "tomas@lanternjaw.example", Role: api.RoleEditor})
	require.NoError(t, err)
	oneTime := added.JSON201.OneTimePassword
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c, err := api.NewClientWithResponses(s.Address+"/api/v1", api.WithHTTPClient(&http.Client{Jar: jar}))
	require.NoError(t, err)
	wrong, err := c.SignInWithResponse(ctx, api.SignIn{Email: "tomas@lanternjaw.example", Password: "guess"})
	require.NoError(t, err)
	problemOf(t, wrong.HTTPResponse, wrong.ApplicationproblemJSONDefault, http.StatusUnauthorized, "wrong-sign-in")
	in, err := c.SignInWithResponse(ctx, api.SignIn{Email: "Tomas@lanternjaw.example", Password: oneTime})
	require.NoError(t, err)
	require.NotNil(t, in.JSON200, "%s", in.Body)
	assert.True(t, in.JSON200.MustChangePassword)
	list, err := c.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	require.NoError(t, err)
	problemOf(t, list.HTTPResponse, list.ApplicationproblemJSONDefault, http.StatusForbidden, "password-change-required")
	u, err := url.Parse(s.Address)
	require.NoError(t, err)
	measured := request(t, &http.Client{Jar: jar}, http.MethodGet, u.JoinPath("metrics").String(), "")
	assert.Equal(t, http.StatusForbidden, measured.StatusCode, "nor the metrics")
	for next, code := range map[string]string{"short": "weak-password", oneTime: "password-unchanged"} {
		r, err := c.ChangePasswordWithResponse(ctx, api.PasswordChange{Current: oneTime, New: next})
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}
	changed, err := c.ChangePasswordWithResponse(ctx, api.PasswordChange{Current: oneTime, New: "harbour lights at dusk"})
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, changed.StatusCode())
	list, err = c.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	require.NoError(t, err)
	assert.NotNil(t, list.JSON200)
	out, err := c.SignOutWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, out.StatusCode())
	list, err = c.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	require.NoError(t, err)
	assert.Equal(t, http.StatusUnauthorized, list.StatusCode())
}

// TestOtherSitesCannotActForSomebody sends what a browser sends when another
// site's page posts here.
func TestOtherSitesCannotActForSomebody(t *testing.T) {
	s := open(t)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar}
	in := s.As(api.RoleAdmin)
	r := request(t, c, "POST", s.Address+"/api/v1/session", `{"email":"`+in.Email+`","password":"`+in.Password+`"}`)
	require.Equal(t, http.StatusOK, r.StatusCode)
	cookie := r.Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, cookie.SameSite)
	body := `{"name":"Planted"}`
	assert.Equal(t, http.StatusForbidden, request(t, c, "POST", s.Address+"/api/v1/clients", body, "Sec-Fetch-Site", "cross-site").StatusCode)
	assert.Equal(t, http.StatusForbidden, request(t, c, "POST", s.Address+"/api/v1/clients", body, "Origin", "https://elsewhere.example").StatusCode)
	assert.Equal(t, http.StatusCreated, request(t, c, "POST", s.Address+"/api/v1/clients", body, "Sec-Fetch-Site", "same-origin").StatusCode)
}

func TestTokensAreKeptHashedAndCanBeRevoked(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	viewer := s.Client(t, api.RoleViewer)
	list, err := viewer.ListTokensWithResponse(ctx, nil)
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.NotContains(t, string(list.Body), s.As(api.RoleViewer).Token)
	other, err := s.Client(t, api.RoleEditor).RevokeTokenWithResponse(ctx, list.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, other.StatusCode(), "nobody revokes another's token")
	gone, err := viewer.RevokeTokenWithResponse(ctx, list.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, gone.StatusCode())
	after, err := viewer.ListTokensWithResponse(ctx, nil)
	require.NoError(t, err)
	problemOf(t, after.HTTPResponse, after.ApplicationproblemJSONDefault, http.StatusUnauthorized, "unknown-token")
}

func TestPortTaken(t *testing.T) {
	s := servicetest.Start(t, nil)
	err := service.Run(context.Background(), service.Options{Listen: strings.TrimPrefix(s.Address, "http://"), Data: t.TempDir(), Log: slog.New(slog.DiscardHandler)})
	require.ErrorContains(t, err, "is taken by another program; stop that one or choose another with --listen")
}
