package service_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestSavingsAreMeasured puts a font of many scripts on a site: what the plan says that
// trimming saves is what it saves, and sizes are said before a recipe is kept, in the API
// and in the dialog.
func TestSavingsAreMeasured(t *testing.T) {
	s := open(t)
	family := s.taken(t, "whole.ttf", of(t, manyScripts(t), font.TTF)).Family.Id
	small := s.family(foundry.Signage()[1])
	site := s.site("Pages", 1, family, small)
	measured := func() *api.Plan {
		for {
			plan := s.plan(site, nil)
			if plan.Faces[0].Measuring == nil && plan.Faces[1].Measuring == nil {
				return plan
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	plan := measured()
	before := plan.Faces[0]
	require.Equal(t, family, before.Family.Id)
	require.NotNil(t, before.SubsetSaves)
	assert.Nil(t, plan.Faces[1].SubsetSaves, "it has Latin letters alone")

	trim := &reshape.Recipe{Subset: &reshape.Subset{Keep: []string{"latin", "latin-ext"}}}
	size := func(c *api.ClientWithResponses, recipe *reshape.Recipe) *api.SizeSiteFamilyResponse {
		for {
			r, err := c.SizeSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: recipe})
			require.NoError(t, err)
			if r.JSON200 == nil || !r.JSON200.Pending {
				return r
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	sizes := size(s.admin, trim)
	require.NotNil(t, sizes.JSON200, "%s", sizes.Body)
	assert.Equal(t, before.Bytes, sizes.JSON200.Before)
	assert.Equal(t, *before.SubsetSaves, sizes.JSON200.Before-sizes.JSON200.After)
	assert.Nil(t, s.getSite(site).Families[0].Recipe, "nothing is kept")
	r := size(s.Client(t, api.RoleViewer), trim)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = size(s.admin, &reshape.Recipe{Subset: &reshape.Subset{Keep: []string{"martian"}}})
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-recipe")

	// The dialog says it, and what is saved comes to the same.
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/pack"), says(kB(*before.SubsetSaves)),
		press("Subset or change Quayside"), browsertest.Visible(`section[aria-label="Sizes"] table`),
		fill("Also the characters of this text", "Harbour"), browsertest.Until(`/^\d\.\d kB$/.test([...document.querySelectorAll("section[aria-label=Sizes] td.num")].at(-1)?.innerText)`))

	used, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: trim})
	require.NoError(t, err)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	assert.Equal(t, sizes.JSON200.After, measured().Faces[0].Bytes)
}

// kB writes a size as the console does.
func kB(n int64) string { return fmt.Sprintf("%.1f kB", float64(n)/1000) }
