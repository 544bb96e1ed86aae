package service_test

import (
	"net/http"
	"path/filepath"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestANewVersionEverywhere adds a new version of a font that two sites carry: their packs
// are built anew in one step, what may not go out is on the checklist, and nothing is old
// afterwards.
func TestANewVersionEverywhere(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	viewer, editor := s.Client(t, api.RoleViewer), s.Client(t, api.RoleEditor)
	family := s.taken(t, "old.ttf", of(t, regularOf(t, "1.000"), font.TTF)).Family.Id
	poster := s.family(foundry.Poster())
	s.document(s.license(1, nil, family).Id)
	var sites []int64
	for _, name := range []string{"Quay pages", "Harbour pages", "Pier pages", "Never built"} {
		sites = append(sites, s.site(name, 1, family))
	}
	for _, site := range sites[:3] {
		s.built(site)
	}
	plan := func() []api.Rebuild {
		r, err := viewer.PlanRebuildWithResponse(ctx, family)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200.Items
	}
	assert.Empty(t, plan(), "all are built from what is in use")
	rebuild := func(c *api.ClientWithResponses) *api.RebuildResponse {
		r, err := c.RebuildWithResponse(ctx, family)
		require.NoError(t, err)
		return r
	}
	r := rebuild(editor)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "nothing-old")

	s.taken(t, "new.ttf", of(t, regularOf(t, "2.000"), font.TTF))
	used, err := s.admin.AddSiteFamilyWithResponse(ctx, sites[2], poster, api.FamilyOnSite{})
	require.NoError(t, err)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	old := plan()
	require.Len(t, old, 3)
	names := []string{old[0].Site.Name, old[1].Site.Name, old[2].Site.Name}
	assert.Equal(t, []string{"Harbour pages", "Pier pages", "Quay pages"}, names)
	assert.Contains(t, old[0].Changes[0], "has a newer file")
	assert.Nil(t, old[0].Stops)
	require.NotNil(t, old[1].Stops, "the poster may not go out")
	r = rebuild(viewer)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")

	// In the console, to a folder with everything in order.
	downloads, folder := t.TempDir(), t.TempDir()
	page := tab(t, downloads)
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/families/"+itoa(family)), says("3 packs with an old version"), press("Rebuild all packs"))
	var found []string
	require.Eventually(t, func() bool {
		found, _ = filepath.Glob(filepath.Join(downloads, "*.zip"))
		return len(found) == 1
	}, wait, tick)
	unzip(t, found[0], folder)
	files, err := filepath.Glob(filepath.Join(folder, "*"))
	require.NoError(t, err)
	for i := range files {
		files[i] = filepath.Base(files[i])
	}
	slices.Sort(files)
	assert.Equal(t, []string{"01-harbour-pages-fonts-slip.html", "01-harbour-pages-fonts.zip", "02-quay-pages-fonts-slip.html", "02-quay-pages-fonts.zip", "checklist.html"}, files)
	browsertest.Do(t, page, chromedp.Navigate(serve(t, folder)+"/checklist.html"), says("Not built: "))
	assert.Equal(t, "Harbour pages,Pier pages,Quay pages", browsertest.Eval[string](t, page, `[...document.querySelectorAll("[data-site]")].map(r => r.dataset.site).join()`))
	browsertest.Do(t, page, browsertest.Click(`//a[.="02-quay-pages-fonts-slip.html"]`), says("Upload slip: Quay pages"))

	left := plan()
	require.Len(t, left, 1, "the one that may not go out")
	r = rebuild(editor)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
}
