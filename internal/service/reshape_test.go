package service_test

import (
	"bytes"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/font/subset"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

var latinOnly = reshape.Recipe{Subset: &reshape.Subset{Keep: []string{"latin"}}}

// firstFile returns the number of the current file of a family's first face.
func (s *studio) firstFile(family int64) int64 {
	s.t.Helper()
	r, err := s.admin.GetFamilyWithResponse(s.t.Context(), family)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200.Faces[0].Files[0].Id
}

func (s *studio) reshape(file int64, to api.FileFormat, r reshape.Recipe) *api.ReshapeFileResponse {
	s.t.Helper()
	made, err := s.admin.ReshapeFileWithResponse(s.t.Context(), file, api.ReshapeOrder{Format: to, Recipe: r})
	require.NoError(s.t, err)
	return made
}

// TestAFaceIsReshapedInTheService trims, pins and renames faces of the catalog,
// each once, and refuses what cannot be made or may not.
func TestAFaceIsReshapedInTheService(t *testing.T) {
	s := open(t)
	skerrow := s.firstFile(s.family(foundry.Signage()[1]))
	umbrisk := s.firstFile(s.family(foundry.Display()))
	variable, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	varies := s.firstFile(s.add("var.ttf", variable).JSON200.Family.Id)

	made := s.reshape(skerrow, api.WOFF2, latinOnly)
	require.NotNil(t, made.JSON200, "%s", made.Body)
	assert.Less(t, made.JSON200.Glyphs, made.JSON200.GlyphsBefore)
	body, err := s.admin.GetReshapedContentWithResponse(t.Context(), skerrow, made.JSON200.Hash)
	require.NoError(t, err)
	opened, err := font.Open(body.Body)
	require.NoError(t, err)
	have, err := subset.Has(opened.Faces[0])
	require.NoError(t, err)
	assert.True(t, have.Has('é'))
	assert.False(t, have.Has('ł'))
	again := s.reshape(skerrow, api.WOFF2, latinOnly)
	assert.Equal(t, made.JSON200.Hash, again.JSON200.Hash, "made once")

	bold := s.reshape(varies, api.TTF, reshape.Recipe{Instance: &reshape.Instance{Named: "Bold"}, Rename: &reshape.Rename{Family: "Pier Sans"}})
	require.NotNil(t, bold.JSON200, "%s", bold.Body)
	assert.Equal(t, "Pier Sans Bold", bold.JSON200.FullName)
	body, err = s.admin.GetReshapedContentWithResponse(t.Context(), varies, bold.JSON200.Hash)
	require.NoError(t, err)
	faces, err := metadata.Read(body.Body)
	require.NoError(t, err)
	assert.Equal(t, 700, faces[0].Style.Weight)
	assert.Empty(t, faces[0].Axes)

	asTTF := s.reshape(umbrisk, api.TTF, reshape.Recipe{ToTrueType: true})
	require.NotNil(t, asTTF.JSON200, "%s", asTTF.Body)

	for name, test := range map[string]struct {
		file   int64
		recipe reshape.Recipe
		status int
		code   string
		says   string
	}{
		"nothing asked for":           {skerrow, reshape.Recipe{}, 422, "empty-recipe", "recipe is empty"},
		"a set that is not known":     {skerrow, reshape.Recipe{Subset: &reshape.Subset{Keep: []string{"klingonish"}}}, 422, "bad-recipe", "latin-ext"},
		"a text the font has nothing": {skerrow, reshape.Recipe{Subset: &reshape.Subset{Text: "жук"}}, 422, "cannot-reshape", "ж (U+0436)"},
		"an axis that is not there":   {varies, reshape.Recipe{Instance: &reshape.Instance{At: map[string]string{"wdth": "75"}}}, 422, "cannot-reshape", "no axis `wdth`"},
		"a place outside the axis":    {varies, reshape.Recipe{Instance: &reshape.Instance{At: map[string]string{"wght": "950"}}}, 422, "cannot-reshape", "from 300 to 700"},
		"a static font pinned":        {skerrow, reshape.Recipe{Instance: &reshape.Instance{Rest: true}}, 422, "cannot-reshape", "no axes"},
		"a font that forbids subsets": {umbrisk, latinOnly, 409, "no-subsetting", "does not permit subsetting"},
	} {
		t.Run(name, func(t *testing.T) {
			r := s.reshape(test.file, api.WOFF2, test.recipe)
			problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, test.status, test.code)
			assert.Contains(t, r.ApplicationproblemJSONDefault.Detail, test.says)
		})
	}
}

// TestAViewerSeesPicturesOnly asks for a font, and for its picture, as somebody
// who may see and not have it.
func TestAViewerSeesPicturesOnly(t *testing.T) {
	s := open(t)
	file := s.firstFile(s.family(foundry.Signage()[1]))
	viewer := s.Client(t, api.RoleViewer)
	body, err := viewer.GetFileContentWithResponse(t.Context(), file, &api.GetFileContentParams{})
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, body.StatusCode())
	line, size := "Next ferry 16:35", float32(60)
	picture, err := viewer.DrawSpecimenWithResponse(t.Context(), file, &api.DrawSpecimenParams{Text: &line, Size: &size})
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, picture.StatusCode(), "%s", picture.Body)
	img, err := png.Decode(bytes.NewReader(picture.Body))
	require.NoError(t, err)
	assert.Greater(t, img.Bounds().Dx(), 300)
	apart := "-kern,-liga"
	for says, q := range map[string]api.DrawSpecimenParams{
		"is no axis with its place": {At: new("wght")}, "is no layout feature": {Features: new("small")},
	} {
		refused, err := viewer.DrawSpecimenWithResponse(t.Context(), file, &q)
		require.NoError(t, err)
		require.NotNil(t, refused.ApplicationproblemJSONDefault)
		assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, says)
	}
	wide := func(features *string) int {
		r, err := viewer.DrawSpecimenWithResponse(t.Context(), file, &api.DrawSpecimenParams{Text: new("AVATo AVATo"), Size: &size, Features: features, At: new("wght=700")})
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, r.StatusCode(), "%s", r.Body)
		img, err := png.Decode(bytes.NewReader(r.Body))
		require.NoError(t, err)
		return img.Bounds().Dx()
	}
	assert.Greater(t, wide(&apart), wide(nil), "without kerning; an axis the face does not have is passed over")
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleViewer, "/families")
	browsertest.Do(t, ctx, browsertest.Visible(".strip"), allSet())
	assert.Equal(t, 1.0, browsertest.Eval[float64](t, ctx, `[...document.querySelectorAll(".strip img")].filter(i => i.naturalWidth > 100).length`), "a picture stands in for the font")
}

// TestPacksReshape has a site's packs trim a family: the verdict asks for the
// license's word on it, and the pack holds the smaller font.
func TestPacksReshape(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[1])
	l := s.license(1, nil, family)
	s.document(l.Id)
	site := s.site("Timetable", 1, family)
	whole, err := planned(t.Context(), s.admin, site, nil)
	require.NoError(t, err)
	used, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: &latinOnly})
	require.NoError(t, err)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	one := used.JSON200.Families[0]
	assert.Equal(t, api.Review, one.Verdict, "the license says nothing of subsets")
	assert.Equal(t, "subset to latin", *one.Reshaped)
	terms := api.LicenseTerms{Kind: l.Kind, GrantedTo: 1, Uses: l.Uses, Families: []int64{family}}
	for consent, want := range map[api.Consent]api.VerdictState{api.ConsentNo: api.Blocked, api.ConsentYes: api.Cleared} {
		now, err := s.admin.GetLicenseWithResponse(t.Context(), l.Id)
		require.NoError(t, err)
		terms.Changes = &api.LicensedChanges{Subset: &consent}
		changed, err := s.admin.ChangeLicenseWithResponse(t.Context(), l.Id, &api.ChangeLicenseParams{IfMatch: now.JSON200.Etag}, terms)
		require.NoError(t, err)
		require.NotNil(t, changed.JSON200, "%s", changed.Body)
		again, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		assert.Equal(t, want, again.JSON200.Families[0].Verdict)
		if consent == api.ConsentYes {
			plan, err := planned(t.Context(), s.admin, site, nil)
			require.NoError(t, err)
			assert.Less(t, plan.JSON200.Delivered, whole.JSON200.Delivered)
			assert.Contains(t, plan.JSON200.Files[0].Why, "subset to latin")
			built, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
			require.NoError(t, err)
			assert.NotNil(t, built.JSON201, "%s", built.Body)
			s.splits(t, site, family)
		}
	}
}

// splits has packs hold a face in parts, with local fonts that hold its place.
func (s *studio) splits(t *testing.T, site, family int64) {
	recipe := reshape.Recipe{Split: []string{"latin", "cyrillic", "rest"}, Fallback: &reshape.Fallback{Against: []string{"arial"}, Groups: 4}}
	used, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: &recipe})
	require.NoError(t, err)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	assert.Equal(t, api.Cleared, used.JSON200.Families[0].Verdict)
	assert.Equal(t, "split into latin, cyrillic, rest; fallback metrics for arial", *used.JSON200.Families[0].Reshaped)
	plan, err := planned(t.Context(), s.admin, site, nil)
	require.NoError(t, err)
	require.NotNil(t, plan.JSON200, "%s", plan.Body)
	sheet := plan.JSON200.Stylesheet
	assert.Equal(t, []string{"fonts/skerrow-sans-regular-latin.woff2", "fonts/skerrow-sans-regular-latin.woff", "fonts/skerrow-sans-regular-rest.woff2", "fonts/skerrow-sans-regular-rest.woff"},
		[]string{plan.JSON200.Files[0].Path, plan.JSON200.Files[1].Path, plan.JSON200.Files[2].Path, plan.JSON200.Files[3].Path}, "the font has nothing of Cyrillic")
	assert.Contains(t, sheet, `src: local("Arial");`)
	assert.Equal(t, 6, strings.Count(sheet, "size-adjust"), "for all letters, for the space, and for four groups")
	assert.Greater(t, strings.Count(sheet, "unicode-range"), 6)

	refused, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: &reshape.Recipe{Fallback: &reshape.Fallback{Against: []string{"nosuch"}}}})
	require.NoError(t, err)
	require.NotNil(t, refused.ApplicationproblemJSONDefault)
	assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, "not known")
	nothing := api.ReshapeOrder{Format: "woff2", Recipe: reshape.Recipe{Fallback: &reshape.Fallback{Against: []string{"arial"}}}}
	made, err := s.admin.ReshapeFileWithResponse(t.Context(), 1, nothing)
	require.NoError(t, err)
	require.NotNil(t, made.ApplicationproblemJSONDefault, "%s", made.Body)
	assert.Equal(t, "empty-recipe", made.ApplicationproblemJSONDefault.Code)
}

// TestReshapingInTheConsole trims a face on its page and downloads it, then has a
// site's packs do the same.
func TestReshapingInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	downloads := t.TempDir()
	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/1"), openFace("Light"), openTab("Subset and convert"),
		fill("Character sets", "latin\r\t"),
		browsertest.Visible("[data-tab=changes] form"), press("Create file"), browsertest.Visible("[data-made]"))
	assert.Contains(t, text(t, ctx), "of 296 glyphs")
	browsertest.Do(t, ctx, browsertest.Click("[data-made] a"))
	path := filepath.Join(downloads, "SkerrowSans-Light-reshaped.woff2")
	require.Eventually(t, func() bool { b, err := os.ReadFile(path); return err == nil && len(b) > 4 }, time.Minute, 50*time.Millisecond)
	browsertest.Do(t, ctx, openTab("Fallback metrics"), browsertest.Visible("[data-tab=fallback] pre"))
	assert.Contains(t, text(t, ctx), "size-adjust")
	browsertest.Do(t, ctx, browsertest.Click(`//label[contains(., "Keep line breaks")]`), browsertest.Until(`document.body.innerText.includes("unicode-range: U+0020;")`))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1"), browsertest.Visible(".used"), press("Change files"), browsertest.Visible(".el-dialog"),
		browsertest.Type(`//*[contains(@class,"el-dialog")]//input[@aria-label="Also the characters of this text"]`, "Quay 4 16:35"),
		fill("Fallback fonts with matching metrics", "georgia\r"), press("Save"),
		browsertest.Until(`document.body.innerText.includes("Changes in packs: subset to a text; fallback metrics for georgia.")`))
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Pack"]`), browsertest.Visible("table.plain"))
	assert.Contains(t, text(t, ctx), "Build and download", "the license of the demo allows it")
}

// TestFormsGetWholeFaces has a site split its faces whose builder is a form with one
// place for a face: the pack holds each whole, and says nothing of parts.
func TestFormsGetWholeFaces(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	ferries, err := c.ListClientsWithResponse(t.Context())
	require.NoError(t, err)
	var client int64
	for _, k := range ferries.JSON200.Items {
		if k.Name == "Holmvik Ferries" {
			client = k.Id
		}
	}
	recipe := reshape.Recipe{Split: []string{"latin", "rest"}}
	pack := func(builder string) (paths []string, said string) {
		site, err := c.AddSiteWithResponse(t.Context(), api.SiteTerms{Name: "Boards " + builder, Client: client, Builder: builder})
		require.NoError(t, err)
		require.NotNil(t, site.JSON201, "%s", site.Body)
		used, err := c.AddSiteFamilyWithResponse(t.Context(), site.JSON201.Id, 1, api.FamilyOnSite{Recipe: &recipe})
		require.NoError(t, err)
		require.NotNil(t, used.JSON200, "%s", used.Body)
		plan, err := planned(t.Context(), c, site.JSON201.Id, nil)
		require.NoError(t, err)
		require.NotNil(t, plan.JSON200, "%s", plan.Body)
		for _, f := range plan.JSON200.Files {
			paths, said = append(paths, f.Path), said+f.Why
		}
		return paths, said
	}
	split, _ := pack("self-hosted")
	assert.Contains(t, split, "fonts/skerrow-sans-bold-latin.woff2")
	whole, said := pack("upload-form")
	fonts := 0
	for _, p := range whole {
		assert.NotContains(t, p, "latin")
		if strings.Contains(strings.ToLower(p), "skerrow") {
			fonts++
		}
	}
	assert.Positive(t, fonts, "%v", whole)
	assert.Zero(t, fonts%3, "each of three faces in as many files: %v", whole)
	assert.NotContains(t, said, "split")
}
