package service_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
)

func (s *studio) move(family int64, into string, faces ...int64) *api.MoveFacesResponse {
	s.t.Helper()
	m := api.FaceMove{Into: into}
	if len(faces) > 0 {
		m.Faces = &faces
	}
	r, err := s.admin.MoveFacesWithResponse(s.t.Context(), family, m)
	require.NoError(s.t, err)
	return r
}

// TestAFamilyIsSplitAndMerged moves a face out of a licensed family that is on a
// site, and back; licenses and sites hold of both, and nothing is lost.
func TestAFamilyIsSplitAndMerged(t *testing.T) {
	s := open(t)
	var family int64
	for _, d := range foundry.Signage() {
		family = s.family(d)
	}
	l := s.license(1, nil, family)
	s.document(l.Id)
	site := s.site("Timetable", 1, family)
	built, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	whole, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	bold := whole.JSON200.Faces[2].Id

	split := s.move(family, "Skerrow Signs", bold)
	require.NotNil(t, split.JSON200, "%s", split.Body)
	signs := split.JSON200
	assert.Equal(t, "Skerrow Signs", signs.Name)
	require.Len(t, signs.Faces, 1)
	require.Len(t, signs.Licenses, 1, "a license of these fonts stays one of these fonts")
	onSite, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	require.Len(t, onSite.JSON200.Families, 2)
	for _, f := range onSite.JSON200.Families {
		assert.Equal(t, api.Cleared, f.Verdict)
	}
	id := s.deliver("")
	s.put(id, "bold.woff2", drawn(t, foundry.Signage()[2], font.WOFF2))
	_, items := s.rested(id)
	assert.Equal(t, "Skerrow Signs", *items["bold.woff2"].Family, "fonts that name the family follow")

	assert.Equal(t, "same-family", s.move(signs.Id, "Skerrow Signs").ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "no-such-face", s.move(signs.Id, "Skerrow Sans", 999).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "missing-value", s.move(signs.Id, " ").ApplicationproblemJSONDefault.Code)
	merged := s.move(signs.Id, "skerrow sans")
	require.NotNil(t, merged.JSON200, "%s", merged.Body)
	assert.Len(t, merged.JSON200.Faces, 3)
	gone, err := s.admin.GetFamilyWithResponse(t.Context(), signs.Id)
	require.NoError(t, err)
	assert.Equal(t, "not-found", gone.ApplicationproblemJSONDefault.Code)
	onSite, err = s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Len(t, onSite.JSON200.Families, 1)
	saved, err := s.admin.GetPackContentWithResponse(t.Context(), built.JSON201.Id)
	require.NoError(t, err)
	assert.Equal(t, 200, saved.StatusCode(), "the pack built before speaks of families that are there")
	again, err := s.admin.GetLicenseWithResponse(t.Context(), l.Id)
	require.NoError(t, err)
	assert.Len(t, again.JSON200.Families, 1)
}

// TestLicensesDoNotPassByMerging merges a licensed family into one that is not,
// which is refused, and two of the same face, whose files come together.
func TestLicensesDoNotPassByMerging(t *testing.T) {
	s := open(t)
	first := s.deliver("")
	s.put(first, "a.ttf", drawn(t, foundry.Signage()[1], font.TTF))
	name := "Skerrow Old"
	_, err := s.admin.ChangeImportItemsWithResponse(t.Context(), first, api.ImportChange{Family: &name})
	require.NoError(t, err)
	_, items := s.accept(first)
	old := *items["a.ttf"].FamilyId
	second := s.deliver("")
	s.put(second, "b.woff2", drawn(t, foundry.Signage()[1], font.WOFF2))
	name = "Skerrow New"
	_, err = s.admin.ChangeImportItemsWithResponse(t.Context(), second, api.ImportChange{Family: &name})
	require.NoError(t, err)
	_, items = s.accept(second)
	fresh := *items["b.woff2"].FamilyId
	s.license(1, nil, fresh)
	refused := s.move(fresh, "Skerrow Old")
	require.NotNil(t, refused.ApplicationproblemJSONDefault)
	assert.Equal(t, "license-differs", refused.ApplicationproblemJSONDefault.Code)
	assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, "covers Skerrow New and not Skerrow Old")
	merged := s.move(old, "Skerrow New")
	require.NotNil(t, merged.JSON200, "%s", merged.Body)
	require.Len(t, merged.JSON200.Faces, 1)
	files := merged.JSON200.Faces[0].Files
	require.Len(t, files, 2)
	for _, f := range files {
		assert.Equal(t, f.Format == api.TTF, f.Current, "packs take the plain one of the same version")
	}
}
