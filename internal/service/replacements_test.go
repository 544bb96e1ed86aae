package service_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/fakes/hosting"
)

// TestReplacementsOfHostedFamilies replaces a name of a design by a family that somebody else
// serves, in two weights: the browser loads their fonts under that name, the pages of the site
// are read for what else is set in it, and the URLs of stylesheets stand on the site's pages.
func TestReplacementsOfHostedFamilies(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	_, at := hosted(t)
	editor := s.Client(t, api.RoleEditor)
	added, err := editor.AddHostedWithResponse(ctx, api.NewHosted{Text: at + hosting.SheetPath, Client: new("Lanternjaw Studio")})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	family := added.JSON201.Families[0].Id
	site := s.site("Quay pages", 1, family)

	pages := http.NewServeMux()
	pages.HandleFunc("/prices", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		_, _ = w.Write([]byte(`<link rel=stylesheet href="/a.css"><style>h2 { font: 700 2rem "Old Letter" }</style><form style="font-family: Old Letter">x</form>`))
	})
	pages.HandleFunc("/a.css", func(w http.ResponseWriter, _ *http.Request) {
		_, _ = w.Write([]byte(`@import "b.css"; .card p { font-family: "old letter", serif }`))
	})
	pages.HandleFunc("/b.css", func(w http.ResponseWriter, _ *http.Request) {
		_, _ = w.Write([]byte(`footer { font-family: 'Old Letter' }`))
	})
	published := httptest.NewServer(pages)
	t.Cleanup(published.Close)
	_, err = editor.AddSitePagesWithResponse(ctx, site, api.NewSitePages{Pages: []api.NewSitePage{{Url: published.URL + "/prices"}, {Url: published.URL + "/gone"}, {Url: "/elsewhere"}}})
	require.NoError(t, err)

	check := func(c *api.ClientWithResponses) *api.CheckReplacementsResponse {
		r, err := c.CheckReplacementsWithResponse(ctx, site)
		require.NoError(t, err)
		return r
	}
	r := check(editor)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "nothing-replaced")
	place := func(in ...api.Replacement) *api.AssignRolesResponse {
		r, err := editor.AssignRolesWithResponse(ctx, site, &api.AssignRolesParams{IfMatch: s.getSite(site).Etag}, api.RoleAssignments{Replacements: in,
			Assignments: []api.RoleAssignment{{Role: "body", Family: family, Weight: 400, Slope: api.StyleNormal, Fallbacks: []string{"Old Letter", "serif"}}}})
		require.NoError(t, err)
		return r
	}
	one := func(weight int) api.Replacement {
		return api.Replacement{Name: "Old Letter", Family: family, Weight: weight, Slope: api.StyleNormal}
	}
	twice := place(one(400), one(400))
	problemOf(t, twice.HTTPResponse, twice.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "twice")
	placed := place(one(400), one(700))
	require.NotNil(t, placed.JSON200, "%s", placed.Body)

	r = check(s.Client(t, api.RoleViewer))
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = check(editor)
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, []api.ReplacedName{{Name: "Old Letter", Roles: []string{"Body text"}, Pages: []api.NameOnPage{{Url: published.URL + "/prices", Selectors: []string{".card p", "footer", "form", "h2"}}}}}, r.JSON200.Items)
	require.Len(t, r.JSON200.Unread, 2)

	// In the browser text in that name is set in the hosted fonts, bold in their bold.
	l, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWebHosted}, Families: []int64{family}})
	require.NoError(t, err)
	s.document(l.JSON201.Id)
	folder := t.TempDir()
	for path, text := range s.built(site) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(folder, path)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(folder, path), []byte(text), 0o600))
	}
	require.NoError(t, os.WriteFile(filepath.Join(folder, "page.html"), []byte(`<!doctype html><link rel=stylesheet href=fonts.css><p style="font-family:'Old Letter',monospace">Quay</p><p style="font-family:'Old Letter',monospace;font-weight:700">Quay</p>`), 0o600))
	page := tab(t, "")
	browsertest.Do(t, page, chromedp.Navigate(serve(t, folder)+"/page.html"),
		browsertest.Until(`[...document.fonts].filter(f => f.family.includes("Old Letter") && f.status === "loaded").map(f => f.weight).sort().join() === "400,700"`))

	// The bare URLs are at hand: of the hosted stylesheet, and of a live one, also later.
	made, err := editor.AddLiveStylesheetWithResponse(ctx, site)
	require.NoError(t, err)
	require.NotNil(t, made.JSON201, "%s", made.Body)
	list, err := s.Client(t, api.RoleViewer).ListLiveStylesheetsWithResponse(ctx, site)
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.Equal(t, &made.JSON201.Path, list.JSON200.Items[0].Path)
	assert.Equal(t, []string{at + hosting.SheetPath}, s.getSite(site).Families[0].Sheets)
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/roles"), says(made.JSON201.Path), says(at+hosting.SheetPath), says("Copy URL"),
		press("Check the published pages"), says(".card p; footer; form; h2"))
}
