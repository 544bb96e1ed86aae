package service_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestASiteHasSeveralOutlets gives a site whose pages take a stylesheet two further outlets, one
// whose posts take an HTML block and an app: each has its own verdict, pages, file URLs and
// packs, and all follow what the site is changed to.
func TestASiteHasSeveralOutlets(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	viewer, editor := s.Client(t, api.RoleViewer), s.Client(t, api.RoleEditor)
	var family int64
	for _, d := range foundry.Signage() {
		family = s.family(d)
	}
	poster := s.family(foundry.Poster())
	terms := api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}}
	added, err := s.admin.AddLicenseWithResponse(ctx, terms)
	require.NoError(t, err)
	s.document(added.JSON201.Id)
	site := s.site("Quay pages", 1, family)
	place := func(on int64, assignments ...api.RoleAssignment) *api.AssignRolesResponse {
		r, err := editor.AssignRolesWithResponse(ctx, on, &api.AssignRolesParams{IfMatch: s.getSite(on).Etag}, api.RoleAssignments{Assignments: assignments, Replacements: []api.Replacement{}})
		require.NoError(t, err)
		return r
	}
	body := api.RoleAssignment{Role: "body", Family: family, Weight: 400, Slope: api.StyleNormal, Fallbacks: []string{}}
	heading := api.RoleAssignment{Role: "heading-1", Family: family, Weight: 700, Slope: api.StyleNormal, Fallbacks: []string{}}
	first := place(site, body)
	require.NotNil(t, first.JSON200, "%s", first.Body)

	add := func(c *api.ClientWithResponses, to int64, name, builder string) *api.AddOutletResponse {
		r, err := c.AddOutletWithResponse(ctx, to, api.NewOutlet{Name: name, Builder: builder})
		require.NoError(t, err)
		return r
	}
	r := add(viewer, site, "App", "android-app")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = add(editor, site, "App", "abacus")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "unknown-builder")
	r = add(editor, site, "  ", "android-app")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "missing-value")
	r = add(editor, 999, "App", "android-app")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	r = add(editor, site, "App", "android-app")
	require.NotNil(t, r.JSON201, "%s", r.Body)
	app := r.JSON201
	assert.Equal(t, "Quay pages · App", app.Name)
	assert.Equal(t, site, app.OutletOf.Id)
	require.Len(t, app.Roles, 1, "it begins with the site's roles")
	assert.Equal(t, api.Cleared, s.getSite(site).Families[0].Verdict)
	assert.NotEqual(t, api.Cleared, app.Families[0].Verdict, "the license is for the web")
	r = add(editor, site, "App", "self-hosted")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "name-taken")
	r = add(editor, app.Id, "Watch", "android-app")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "outlet")
	posts := add(editor, site, "Posts", "page-block").JSON201
	require.NotNil(t, posts)

	// Packs, pages and file URLs are an outlet's own; families and roles are not.
	sheet, block := s.built(site), s.built(posts.Id)
	assert.Contains(t, sheet, "fonts.css")
	assert.NotContains(t, block, "fonts.css")
	_, err = editor.AddSitePagesWithResponse(ctx, posts.Id, api.NewSitePages{Pages: []api.NewSitePage{{Url: "/posts/1"}}})
	require.NoError(t, err)
	pages, err := viewer.ListSitePagesWithResponse(ctx, site)
	require.NoError(t, err)
	assert.Empty(t, pages.JSON200.Items)
	refused := place(posts.Id, body, heading)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusConflict, "outlet")
	used, err := editor.AddSiteFamilyWithResponse(ctx, posts.Id, poster, api.FamilyOnSite{})
	require.NoError(t, err)
	problemOf(t, used.HTTPResponse, used.ApplicationproblemJSONDefault, http.StatusConflict, "outlet")

	// What the site is changed to, its outlets are.
	require.NotNil(t, place(site, body, heading).JSON200)
	assert.Len(t, s.getSite(posts.Id).Roles, 2)
	assert.Len(t, s.getSite(app.Id).Roles, 2)
	assert.NotEmpty(t, s.getSite(posts.Id).Outdated, "its pack knows one role")
	now := s.getSite(site)
	changed, err := editor.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: now.Etag}, api.SiteTerms{Name: "Harbour pages", Client: 1, Builder: now.Builder.Kind, Domains: &[]string{"harbour.example"}})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	outlet := s.getSite(posts.Id)
	assert.Equal(t, "Harbour pages · Posts", outlet.Name)
	assert.Equal(t, []string{"harbour.example"}, outlet.Domains)
	changed, err = editor.ChangeSiteWithResponse(ctx, posts.Id, &api.ChangeSiteParams{IfMatch: outlet.Etag}, api.SiteTerms{Name: "Member posts", Client: 1, Builder: "page-block"})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Equal(t, "Harbour pages · Member posts", changed.JSON200.Name)
	_, err = editor.AddSiteFamilyWithResponse(ctx, site, poster, api.FamilyOnSite{})
	require.NoError(t, err)
	assert.Len(t, s.getSite(app.Id).Families, 2)
	_, err = editor.RemoveSiteFamilyWithResponse(ctx, site, poster)
	require.NoError(t, err)
	assert.Len(t, s.getSite(app.Id).Families, 1)

	// In the console an outlet is added, opened and deleted.
	page := tab(t, "")
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/sites/"+itoa(site)), says("Member posts"), press("Add an outlet"), fill("Name of the outlet", "Kiosk"),
		choose("Builder of the outlet", s.getSite(site).Builder.Name), press("Add"), says("Harbour pages · Kiosk"), says("upload-slip.html"))
	outlets := s.getSite(site).Outlets
	require.Len(t, outlets, 3)
	browsertest.Do(t, page, press("Delete this outlet"), press("Delete the outlet"), browsertest.Until(`!document.querySelector("nav[aria-label=Outlets]").innerText.includes("Kiosk")`))
	assert.Len(t, s.getSite(site).Outlets, 2)

	gone, err := editor.DeleteOutletWithResponse(ctx, posts.Id, site)
	require.NoError(t, err)
	problemOf(t, gone.HTTPResponse, gone.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	gone, err = editor.DeleteOutletWithResponse(ctx, site, posts.Id)
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, gone.StatusCode(), "%s", gone.Body)
	list, err := viewer.ListSitesWithResponse(ctx, nil)
	require.NoError(t, err)
	var names []string
	for _, v := range list.JSON200.Items {
		names = append(names, v.Name)
	}
	assert.Equal(t, "Harbour pages,Harbour pages · App", strings.Join(names, ","))
}
