package service_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/service/servicetest"
)

// TestSitesSayTheSameEverywhere compares every site of the demo as the list and its page have it,
// which read only those faces that the site sends, with what a change of it answers, which reads
// all: verdicts, numbers of faces, packs left behind, warnings.
func TestSitesSayTheSameEverywhere(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	admin := s.Client(t, api.RoleAdmin)
	ctx := t.Context()
	// Some have a pack, of which some leave it behind.
	for i, site := range must(admin.ListSitesWithResponse(ctx, &api.ListSitesParams{}))(t).JSON200.Items {
		built := must(admin.BuildPackWithResponse(ctx, site.Id, &api.BuildPackParams{}))(t)
		if built.JSON201 == nil || i%3 == 0 {
			continue
		}
		site.Choices.LegacyFormats = ptr(true)
		set := must(admin.SetChoicesWithResponse(ctx, site.Id, &api.SetChoicesParams{IfMatch: site.Etag}, site.Choices))(t)
		require.NotNil(t, set.JSON200, "%s", set.Body)
	}
	var all []api.Site
	most := 5
	for q := (api.ListSitesParams{Limit: &most}); ; {
		page := must(admin.ListSitesWithResponse(ctx, &q))(t)
		require.NotNil(t, page.JSON200, "%s", page.Body)
		all = append(all, page.JSON200.Items...)
		if q.Cursor = page.JSON200.Next; q.Cursor == nil {
			break
		}
	}
	require.GreaterOrEqual(t, len(all), 5)
	outdated, warned, families := 0, 0, 0
	for _, listed := range all {
		own := must(admin.GetSiteWithResponse(ctx, listed.Id))(t)
		require.NotNil(t, own.JSON200, "%s", own.Body)
		assert.Equal(t, listed, *own.JSON200)
		if listed.OutletOf != nil {
			continue // it has the terms of the site it is an outlet of
		}
		changed := must(admin.ChangeSiteWithResponse(ctx, listed.Id, &api.ChangeSiteParams{IfMatch: listed.Etag}, api.SiteTerms{
			Name: listed.Name, Client: listed.Client.Id, Builder: listed.Builder.Kind, Domains: &listed.Domains, Environments: &listed.Environments, SampleText: &listed.SampleText,
		}))(t)
		require.NotNil(t, changed.JSON200, "%s", changed.Body)
		listed.Etag = changed.JSON200.Etag
		assert.Equal(t, listed, *changed.JSON200)
		outdated += len(listed.Outdated)
		warned += len(listed.Warnings)
		families += len(listed.Families)
	}
	assert.Positive(t, outdated)
	assert.Positive(t, warned)
	assert.Greater(t, families, 5)
}
