package service_test

import (
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/demo/foundry"
)

// TestAppNamesAreTheSameEverywhere holds the names for code that a family's page gives to copy
// against plan, slip, property list and resources of packs for apps.
func TestAppNamesAreTheSameEverywhere(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	var all []int64
	for n, name := range []string{"InterQuay", "2nd Pier", "Über Möwe Text", "Class"} {
		d := *foundry.Signage()[n%3]
		d.Family, d.PostScript = name, "Quay"+itoa(int64(n))
		all = append(all, s.family(&d))
	}
	android, apple := s.site("Android", 1, all...), s.site("Apple", 1, all...)
	for site, kind := range map[int64]string{android: "android-app", apple: "apple-app"} {
		now := s.getSite(site)
		changed, err := s.admin.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: now.Etag}, api.SiteTerms{Name: now.Name, Client: 1, Builder: kind})
		require.NoError(t, err)
		require.NotNil(t, changed.JSON200, "%s", changed.Body)
	}
	l, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseApp}, Families: all})
	require.NoError(t, err)
	s.document(l.JSON201.Id)
	resources, list := s.built(android), s.built(apple)
	plan := s.plan(android, nil)
	planned := map[string]bool{}
	for _, f := range plan.Files {
		planned[f.Path] = true
	}
	for _, id := range all {
		f, err := s.admin.GetFamilyWithResponse(ctx, id)
		require.NoError(t, err)
		for _, face := range f.JSON200.Faces {
			at := "res/font/" + face.Resource + ".ttf"
			assert.Contains(t, resources, at)
			assert.True(t, planned[at], at)
			in := 0
			for file, text := range resources {
				if path.Ext(file) == ".xml" && strings.Contains(text, `"@font/`+face.Resource+`"`) {
					in++
					family := strings.TrimSuffix(path.Base(file), ".xml")
					assert.Contains(t, resources["upload-slip.html"], "R.font."+family+"<")
				}
			}
			assert.Equal(t, 1, in, face.Resource)
			assert.Contains(t, list["FontNames.swift"], `"`+face.Metadata.Names.PostScript+`"`)
			assert.Contains(t, list["upload-slip.html"], "<kbd>"+face.Metadata.Names.PostScript+"</kbd>")
			assert.Contains(t, list["Info-fonts.plist"], "<string>"+face.Metadata.Names.PostScript+".ttf</string>")
			assert.Contains(t, list, "fonts/"+face.Metadata.Names.PostScript+".ttf")
		}
	}
}

// TestWhatWasChangedIsReadBackFromTheBytes packs a font with PostScript outlines for old browsers
// too, and opens each file of the pack: of those with other outlines than the source it is said
// that they were converted, of no other.
func TestWhatWasChangedIsReadBackFromTheBytes(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	display, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(t, err)
	family := s.taken(t, "display.otf", display).Family.Id
	site := s.site("Quay pages", 1, family)
	yes := api.ConsentYes
	l, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}, Changes: &api.LicensedChanges{Subset: &yes, Outlines: &yes, Name: &yes, Format: &yes}})
	require.NoError(t, err)
	s.document(l.JSON201.Id)
	chosen, err := s.admin.SetChoicesWithResponse(ctx, site, &api.SetChoicesParams{IfMatch: s.getSite(site).Etag}, api.PackChoices{LegacyFormats: new(true)})
	require.NoError(t, err)
	require.NotNil(t, chosen.JSON200, "%s", chosen.Body)
	files := s.built(site)
	said := map[string]string{}
	for _, f := range s.plan(site, nil).Files {
		said[f.Path] = f.Why
	}
	converted := map[bool]int{}
	for at, data := range files {
		if !strings.HasPrefix(at, "fonts/") || path.Ext(at) == ".svg" {
			continue
		}
		f, err := font.Open([]byte(data))
		require.NoError(t, err, at)
		changed := metadata.One(f.Faces[0]).Outlines == metadata.TrueType
		assert.Equal(t, changed, strings.Contains(said[at], "outlines"), "%s: %s", at, said[at])
		converted[changed]++
	}
	assert.Positive(t, converted[true])
	assert.Positive(t, converted[false])
}
