package service_test

import (
	"context"
	"database/sql"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/demo"
	"sparecrate/internal/rooms"
	"sparecrate/internal/service/servicetest"
	"sparecrate/internal/store"
)

// names returns the families a search finds.
func names(t testing.TB, c *api.ClientWithResponses, q api.ListFamiliesParams) []string {
	t.Helper()
	r, err := c.ListFamiliesWithResponse(t.Context(), &q)
	require.NoError(t, err)
	require.NotNil(t, r.JSON200, "%s", r.Body)
	require.NotNil(t, r.JSON200.Total)
	assert.Equal(t, len(r.JSON200.Items), *r.JSON200.Total)
	out := []string{}
	for _, f := range r.JSON200.Items {
		out = append(out, f.Name)
	}
	return out
}

func TestSearch(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleViewer)
	const sans, variable, poster, display = "Skerrow Sans", "Skerrow Sans Variable", "Tidegarth Poster", "Umbrisk Display"
	off, err := s.Client(t, api.RoleEditor).RemoveSiteFamilyWithResponse(t.Context(), 5, 4)
	require.NoError(t, err)
	require.NotNil(t, off.JSON200, "%s", off.Body)
	all := []string{sans, variable, poster, display}
	yes, no := new(true), new(false)
	for _, q := range []struct {
		why   string
		asked api.ListFamiliesParams
		want  []string
	}{
		{"all, by name", api.ListFamiliesParams{}, all},
		{"a beginning of a word", api.ListFamiliesParams{Q: new("ske")}, []string{sans, variable}},
		{"words of a family and a face", api.ListFamiliesParams{Q: new("skerrow bold")}, []string{sans, variable}},
		{"a PostScript name", api.ListFamiliesParams{Q: new("SkerrowSans-Light")}, []string{sans, variable}},
		{"a designer", api.ListFamiliesParams{Q: new("varga")}, all},
		{"a client", api.ListFamiliesParams{Q: new("orrery")}, []string{display}},
		{"a file name", api.ListFamiliesParams{Q: new("v2_FINAL")}, []string{display}},
		{"accents and case", api.ListFamiliesParams{Q: new("SKÉRROW")}, []string{sans, variable}},
		{"a letter wrong", api.ListFamiliesParams{Q: new("Umbrosk")}, []string{display}},
		{"a letter missing, not typed to its end", api.ListFamiliesParams{Q: new("tidgar")}, []string{poster}},
		{"two letters changed about", api.ListFamiliesParams{Q: new("Umbirsk Dispaly")}, []string{display}},
		{"what is within a word", api.ListFamiliesParams{Q: new("garth")}, []string{poster}},
		{"a family and another's word", api.ListFamiliesParams{Q: new("umbrisk poster")}, []string{}},
		{"nothing of the kind", api.ListFamiliesParams{Q: new("zzzzzz")}, []string{}},
		{"only signs", api.ListFamiliesParams{Q: new("—%_")}, []string{}},
		{"client", api.ListFamiliesParams{Client: new("Holmvik Ferries")}, []string{sans, variable}},
		{"origin", api.ListFamiliesParams{Origin: &[]api.Origin{api.OriginUnknown, api.OriginBought}}, []string{poster, display}},
		{"permission", api.ListFamiliesParams{Permission: &[]api.PermissionLevel{api.PermissionRestricted}}, []string{poster}},
		{"no license", api.ListFamiliesParams{License: &[]api.LicenseState{api.LicenseNone}}, []string{poster}},
		{"license in force", api.ListFamiliesParams{License: &[]api.LicenseState{api.LicenseInForce}}, []string{sans, variable, display}},
		{"license lapsed or none", api.ListFamiliesParams{License: &[]api.LicenseState{api.LicenseLapsed, api.LicenseNone}}, []string{poster}},
		{"format", api.ListFamiliesParams{Format: &[]string{"OTF"}}, []string{display}},
		{"weight, a variable one among them", api.ListFamiliesParams{Weight: new("650")}, []string{variable}},
		{"weights", api.ListFamiliesParams{Weight: new("700-")}, []string{sans, variable}},
		{"width", api.ListFamiliesParams{Width: new("-99%")}, []string{display}},
		{"slope", api.ListFamiliesParams{Slope: &[]api.ListFamiliesParamsSlope{api.SlopeItalic}}, []string{}},
		{"variable", api.ListFamiliesParams{Variable: yes}, []string{variable}},
		{"static", api.ListFamiliesParams{Variable: no}, []string{sans, poster, display}},
		{"a kind, as measured", api.ListFamiliesParams{Kind: &[]api.FaceKind{api.KindSans}}, []string{sans, variable}},
		{"either of two kinds", api.ListFamiliesParams{Kind: &[]api.FaceKind{api.KindSans, api.KindDisplay}}, []string{sans, variable, display}},
		{"high stroke contrast", api.ListFamiliesParams{Contrast: new("3-")}, []string{display}},
		{"light stems, of one face", api.ListFamiliesParams{Stem: new("-11"), Variable: no}, []string{sans}},
		{"upright, with a tall x-height", api.ListFamiliesParams{Slant: new("0"), XHeight: new("72-80%")}, []string{sans, variable}},
		{"not in color", api.ListFamiliesParams{Color: no}, all},
		{"a language by name", api.ListFamiliesParams{Language: &[]string{"Norwegian bokmål"}}, nil},
		{"a language by code, and another", api.ListFamiliesParams{Language: &[]string{"en", "el"}}, []string{}},
		{"script", api.ListFamiliesParams{Script: &[]string{"Latin"}}, all},
		{"another script", api.ListFamiliesParams{Script: &[]string{"Cyrillic"}}, []string{}},
		{"feature", api.ListFamiliesParams{Feature: &[]string{"kern"}}, nil},
		{"any problem", api.ListFamiliesParams{Problem: &[]string{"any"}}, nil},
		{"on no site", api.ListFamiliesParams{Used: no}, []string{variable}},
		{"on a site", api.ListFamiliesParams{Used: yes}, []string{sans, poster, display}},
		{"one face must be all of it", api.ListFamiliesParams{Weight: new("700"), Variable: no, Client: new("Holmvik Ferries")}, []string{sans}},
		{"newest", api.ListFamiliesParams{Sort: new(api.SortNewest)}, []string{variable, poster, display, sans}},
		{"most faces", api.ListFamiliesParams{Sort: new(api.SortFaces), Client: new("Holmvik Ferries")}, []string{sans, variable}},
		{"what begins with the words comes first", api.ListFamiliesParams{Q: new("sans")}, []string{sans, variable}},
	} {
		found := names(t, c, q.asked)
		if q.want == nil { // what the demo fonts have of it is told by their metadata
			q.want = factual(t, c, all, q.asked)
		}
		assert.Equal(t, q.want, found, q.why)
	}
	r, err := c.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Q: new("Umbrosk"), Weight: new("400")})
	require.NoError(t, err)
	assert.Equal(t, []api.MeantWord{{Typed: "umbrosk", Words: []string{"umbrisk", "umbriskdisplay"}}}, r.JSON200.Meant)
	r, err = c.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Q: new("skerrow"), Weight: new("300"), Variable: no})
	require.NoError(t, err)
	meets := map[string]bool{}
	for _, f := range r.JSON200.Items[0].Faces {
		meets[f.Style] = f.Meets
	}
	assert.Equal(t, map[string]bool{"Light": true, "Regular": false, "Bold": false}, meets)
	for field, q := range map[string]api.ListFamiliesParams{
		"weight": {Weight: new("bold")}, "width": {Width: new("120-80")}, "language": {Language: &[]string{"Klingon"}}, "format": {Format: &[]string{"pfb"}},
		"client": {Client: new("Nobody")}, "sort": {Sort: new(api.FamilySort("size"))}, "status": {Status: new(api.FamilyStatus("attic"))}, "origin": {Origin: &[]api.Origin{"found"}},
	} {
		r, err := c.ListFamiliesWithResponse(t.Context(), &q)
		require.NoError(t, err)
		require.NotNil(t, r.ApplicationproblemJSONDefault, field)
		assert.Equal(t, http.StatusUnprocessableEntity, r.StatusCode(), field)
		assert.Equal(t, field, *r.ApplicationproblemJSONDefault.Field)
	}
	for field, q := range map[string]api.ListFamiliesParams{"stem": {Stem: new("30-10")}, "contrast": {Contrast: new("high")}, "slant": {Slant: new("-")}, "xHeight": {XHeight: new("1e9")}, "letterWidth": {LetterWidth: new("NaN")}, "roundness": {Roundness: new("1-2-3")}} {
		r, err := c.ListFamiliesWithResponse(t.Context(), &q)
		require.NoError(t, err)
		require.NotNil(t, r.ApplicationproblemJSONDefault, field)
		assert.Equal(t, "bad-range", r.ApplicationproblemJSONDefault.Code, field)
		assert.Equal(t, field, *r.ApplicationproblemJSONDefault.Field)
	}
	words, err := c.ListSearchWordsWithResponse(t.Context())
	require.NoError(t, err)
	assert.Contains(t, words.JSON200.Scripts, "Latin")
	assert.Contains(t, words.JSON200.Features, "kern")
	assert.NotContains(t, words.JSON200.Problems, "any")
}

// TestWhatLooksAlikeAndWhatGoesTogether counts what filters would find, and compares families
// by what is measured of them.
func TestWhatLooksAlikeAndWhatGoesTogether(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleViewer)
	count := func(q api.ListFamiliesParams, filter string) map[string]int {
		q.Choices = new(true)
		r, err := c.ListFamiliesWithResponse(t.Context(), &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		out := map[string]int{}
		for _, f := range *r.JSON200.Choices {
			if f.Filter == filter {
				for _, v := range f.Values {
					out[v.Value] = v.Families
				}
			}
		}
		return out
	}
	assert.Equal(t, map[string]int{"sans": 2, "display": 1}, count(api.ListFamiliesParams{}, "kind"))
	assert.Equal(t, map[string]int{"sans": 2}, count(api.ListFamiliesParams{Client: new("Holmvik Ferries")}, "kind"), "other filters narrow the counts")
	assert.Equal(t, map[string]int{"sans": 2, "display": 1}, count(api.ListFamiliesParams{Kind: &[]api.FaceKind{api.KindDisplay}}, "kind"), "a filter does not narrow its own")
	plain, err := c.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{})
	require.NoError(t, err)
	assert.Nil(t, plain.JSON200.Choices)

	similar, err := c.ListSimilarFamiliesWithResponse(t.Context(), 1)
	require.NoError(t, err)
	require.NotNil(t, similar.JSON200, "%s", similar.Body)
	require.Len(t, similar.JSON200.Items, 1, "a display face is not like a sans")
	assert.Equal(t, "Skerrow Sans Variable", similar.JSON200.Items[0].Family.Name)
	assert.Greater(t, similar.JSON200.Items[0].Score, float32(0.9))
	assert.Equal(t, api.KindSans, similar.JSON200.Appearance.Kind)
	pairs, err := c.ListPairingsWithResponse(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, pairs.JSON200.Items, 1, "the same design is no pair")
	assert.Equal(t, "Umbrisk Display", pairs.JSON200.Items[0].Family.Name)
	assert.LessOrEqual(t, pairs.JSON200.Items[0].Score, float32(1))
	assert.Contains(t, pairs.JSON200.Items[0].Why[0], "Sans serif with display")
	without, err := c.ListSimilarFamiliesWithResponse(t.Context(), 999)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, without.StatusCode())
}

// factual finds the families that a filter of metadata must find, by their metadata.
func factual(t *testing.T, c *api.ClientWithResponses, all []string, q api.ListFamiliesParams) []string {
	out := []string{}
	for id, name := range map[int64]string{1: all[0], 2: all[3], 3: all[2], 4: all[1]} {
		f, err := c.GetFamilyWithResponse(t.Context(), id)
		require.NoError(t, err)
		require.Equal(t, name, f.JSON200.Name)
		for _, face := range f.JSON200.Faces {
			is := q.Problem != nil && len(face.Metadata.Problems) > 0
			for _, l := range face.Metadata.Coverage.Languages {
				is = is || q.Language != nil && l == "nb"
			}
			for _, tag := range face.Metadata.Features {
				is = is || q.Feature != nil && tag == (*q.Feature)[0]
			}
			if is {
				out = append(out, name)
				break
			}
		}
	}
	require.NotEmpty(t, out)
	sorted := []string{}
	for _, name := range all {
		for _, o := range out {
			if o == name {
				sorted = append(sorted, name)
			}
		}
	}
	return sorted
}

func TestPagesInEveryOrder(t *testing.T) {
	s := servicetest.Start(t, nil)
	s.FillCrate(t, 640)
	c := s.Client(t, api.RoleViewer)
	for _, q := range []api.ListFamiliesParams{{}, {Q: new("s")}, {Sort: new(api.SortNewest)}, {Sort: new(api.SortChanged)}, {Sort: new(api.SortFaces), Weight: new("700")}} {
		limit, seen := 7, map[int64]bool{}
		q.Limit = &limit
		total := 0
		for {
			r, err := c.ListFamiliesWithResponse(t.Context(), &q)
			require.NoError(t, err)
			require.NotNil(t, r.JSON200, "%s", r.Body)
			if q.Cursor == nil {
				total = *r.JSON200.Total
			}
			for _, f := range r.JSON200.Items {
				assert.False(t, seen[f.Id], "each is on one page")
				seen[f.Id] = true
			}
			if q.Cursor = r.JSON200.Next; q.Cursor == nil {
				break
			}
		}
		assert.Len(t, seen, total)
		assert.Greater(t, total, 7)
	}
}

func TestSavedSearches(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	editor, viewer := s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	save := func(c *api.ClientWithResponses, n api.NewSavedSearch) *api.SaveSearchResponse {
		r, err := c.SaveSearchWithResponse(t.Context(), n)
		require.NoError(t, err)
		return r
	}
	kept := save(editor, api.NewSavedSearch{Name: "Loose ends", Query: "?license=none&used=true", Shared: new(true)})
	require.NotNil(t, kept.JSON201, "%s", kept.Body)
	assert.Equal(t, "license=none&used=true", kept.JSON201.Query)
	require.NotNil(t, save(editor, api.NewSavedSearch{Name: "Mine", Query: "q=sans"}).JSON201)
	assert.Equal(t, "name-taken", save(editor, api.NewSavedSearch{Name: "Mine", Query: "q=x"}).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "empty-query", save(editor, api.NewSavedSearch{Name: "All", Query: ""}).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "bad-query", save(editor, api.NewSavedSearch{Name: "Odd", Query: "%zz"}).ApplicationproblemJSONDefault.Code)
	seen, err := viewer.ListSearchesWithResponse(t.Context())
	require.NoError(t, err)
	var titles []string
	for _, i := range seen.JSON200.Items {
		assert.False(t, i.Own)
		titles = append(titles, i.Name)
	}
	assert.Equal(t, []string{"Loose ends", "On a site without a license"}, titles, "what is not shared is one's own")
	dropped, err := viewer.DeleteSearchWithResponse(t.Context(), kept.JSON201.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, dropped.StatusCode(), "nobody drops another's")
	dropped, err = editor.DeleteSearchWithResponse(t.Context(), kept.JSON201.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, dropped.StatusCode())
}

func TestWhatIsSaidOfAFamily(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	change := func(etag string, ch api.FamilyChange) *api.ChangeFamilyResponse {
		r, err := c.ChangeFamilyWithResponse(t.Context(), 3, &api.ChangeFamilyParams{IfMatch: etag}, ch)
		require.NoError(t, err)
		return r
	}
	r := change(`"1"`, api.FamilyChange{Tags: &[]string{" Almanac ", "almanac", "Big  type", ""}, Designer: new("Ottoline Krag"), Foundry: new("Krag & Daughter"), Note: new("Ask Ottoline.")})
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, []string{"almanac", "big type"}, r.JSON200.Tags)
	for _, q := range []string{"ottoline", "daughter", "almanac", "big"} {
		assert.Equal(t, []string{"Tidegarth Poster"}, names(t, c, api.ListFamiliesParams{Q: &q}))
	}
	assert.Equal(t, []string{"Tidegarth Poster"}, names(t, c, api.ListFamiliesParams{Tag: &[]string{"Big Type", "almanac"}}))
	assert.Empty(t, names(t, c, api.ListFamiliesParams{Tag: &[]string{"almanac", "small"}}))
	assert.Equal(t, "changed-meanwhile", change(`"1"`, api.FamilyChange{Note: new("x")}).ApplicationproblemJSONDefault.Code)
	r = change(r.JSON200.Etag, api.FamilyChange{Tags: &[]string{}})
	assert.Empty(t, r.JSON200.Tags)
	assert.Equal(t, "Ottoline Krag", r.JSON200.Designer, "what is not named stays")
	assert.Equal(t, "bad-tag", change(r.JSON200.Etag, api.FamilyChange{Tags: &[]string{"a, b"}}).ApplicationproblemJSONDefault.Code)

	r = change(r.JSON200.Etag, api.FamilyChange{Retired: new(true)})
	assert.Equal(t, api.StatusRetired, r.JSON200.Status)
	assert.NotContains(t, names(t, c, api.ListFamiliesParams{}), "Tidegarth Poster")
	assert.Equal(t, []string{"Tidegarth Poster"}, names(t, c, api.ListFamiliesParams{Status: new(api.StatusRetired)}))
	on, err := c.AddSiteFamilyWithResponse(t.Context(), 1, 3, api.AddSiteFamilyJSONRequestBody{})
	require.NoError(t, err)
	assert.Equal(t, "family-retired", on.ApplicationproblemJSONDefault.Code)
	on, err = c.AddSiteFamilyWithResponse(t.Context(), 3, 3, api.AddSiteFamilyJSONRequestBody{})
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, on.StatusCode(), "a site that uses it goes on")
	assert.Equal(t, api.StatusActive, change(r.JSON200.Etag, api.FamilyChange{Retired: new(false)}).JSON200.Status)
}

func TestDeletedFamiliesComeBackForThirtyDays(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	before, err := c.GetFamilyWithResponse(t.Context(), 2)
	require.NoError(t, err)
	gone, err := c.DeleteFamilyWithResponse(t.Context(), 2, &api.DeleteFamilyParams{IfMatch: `"99"`})
	require.NoError(t, err)
	assert.Equal(t, http.StatusPreconditionFailed, gone.StatusCode())
	gone, err = c.DeleteFamilyWithResponse(t.Context(), 2, &api.DeleteFamilyParams{IfMatch: before.JSON200.Etag})
	require.NoError(t, err)
	require.NotNil(t, gone.JSON200, "%s", gone.Body)
	assert.NotEmpty(t, gone.JSON200.Sites, "what uses it is told")
	assert.NotContains(t, names(t, c, api.ListFamiliesParams{}), "Umbrisk Display")
	assert.Equal(t, []string{"Umbrisk Display"}, names(t, c, api.ListFamiliesParams{Q: new("umbrisk"), Status: new(api.StatusDeleted)}))
	built, err := c.BuildPackWithResponse(t.Context(), gone.JSON200.Sites[0].Id, nil)
	require.NoError(t, err)
	assert.Equal(t, "family-deleted", built.ApplicationproblemJSONDefault.Code)
	assert.Contains(t, built.ApplicationproblemJSONDefault.Detail, "Restore")
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	again := addFile(t, c, fonts[3].Name, fonts[3].Data, fonts[3].Client, "bought")
	require.NotNil(t, again.ApplicationproblemJSONDefault, "%s", again.Body)
	assert.Contains(t, again.ApplicationproblemJSONDefault.Detail, "which was deleted")

	// Name is free meanwhile, and taken when it comes back.
	other := append([]byte{}, fonts[3].Data...)
	other[len(other)-1] ^= 1
	fresh := addFile(t, c, fonts[3].Name, other, fonts[3].Client, "bought")
	require.NotNil(t, fresh.JSON200, "%s", fresh.Body)
	assert.Equal(t, "Umbrisk Display", fresh.JSON200.Family.Name)
	assert.NotEqual(t, int64(2), fresh.JSON200.Family.Id)
	back, err := c.RestoreFamilyWithResponse(t.Context(), 2)
	require.NoError(t, err)
	assert.Equal(t, "name-taken", back.ApplicationproblemJSONDefault.Code)
	_, err = c.MoveFacesWithResponse(t.Context(), fresh.JSON200.Family.Id, api.FaceMove{Into: "Umbrisk Two"})
	require.NoError(t, err)
	back, err = c.RestoreFamilyWithResponse(t.Context(), 2)
	require.NoError(t, err)
	require.NotNil(t, back.JSON200, "%s", back.Body)
	assert.Equal(t, before.JSON200.Sites, back.JSON200.Sites)
	assert.Equal(t, before.JSON200.Licenses, back.JSON200.Licenses)
	assert.Contains(t, names(t, c, api.ListFamiliesParams{}), "Umbrisk Display")

	// After thirty days it is gone, with its bytes; what another family has stays.
	gone, err = c.DeleteFamilyWithResponse(t.Context(), 2, &api.DeleteFamilyParams{IfMatch: back.JSON200.Etag})
	require.NoError(t, err)
	require.NotNil(t, gone.JSON200)
	hash := before.JSON200.Faces[0].Files[0].Sha256
	blob := filepath.Join(s.Data, "files", hash[:2], hash)
	for _, after := range []struct {
		days   int
		status int
	}{{29, http.StatusOK}, {31, http.StatusNotFound}} {
		require.FileExists(t, blob)
		require.NoError(t, later(t, s, after.days).Library.Sweep(t.Context()))
		f, err := c.GetFamilyWithResponse(t.Context(), 2)
		require.NoError(t, err)
		assert.Equal(t, after.status, f.StatusCode(), "after %d days", after.days)
	}
	require.NoFileExists(t, blob)
	kept, err := c.GetFamilyWithResponse(t.Context(), 1)
	require.NoError(t, err)
	_, err = os.Stat(filepath.Join(s.Data, "files", kept.JSON200.Faces[0].Files[0].Sha256[:2]))
	require.NoError(t, err)
	site, err := c.GetSiteWithResponse(t.Context(), before.JSON200.Sites[0].Id)
	require.NoError(t, err)
	assert.Empty(t, site.JSON200.Families)
}

// later returns the catalog of a service as it is in so many days.
func later(t *testing.T, s *servicetest.Service, days int) *rooms.Rooms {
	t.Helper()
	records, err := store.Open(t.Context(), s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = records.Close() })
	files, err := bucket.Open(filepath.Join(s.Data, "files"))
	require.NoError(t, err)
	t.Cleanup(func() { _ = files.Close() })
	return rooms.New(records, files, func() time.Time { return time.Now().AddDate(0, 0, days) }, app.DefaultLimits, slog.New(slog.DiscardHandler))
}

func addFile(t testing.TB, c *api.ClientWithResponses, name string, data []byte, client, origin string) *api.AddFileResponse {
	t.Helper()
	kind, body := upload(t, name, data, "client", client, "origin", origin)
	r, err := c.AddFileWithBodyWithResponse(t.Context(), kind, body)
	require.NoError(t, err)
	return r
}

// TestFamiliesOfAnOlderServiceAreListed has families stand as an older version left
// them, without words, listings and makers; the next start lists them.
func TestFamiliesOfAnOlderServiceAreListed(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleViewer)
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	for _, q := range []string{"DELETE FROM family_words", "DELETE FROM family_tags", "UPDATE families SET indexer = 0, designer = '', foundry = '', face_count = 0", "UPDATE faces SET file_id = 0, format = '', formats = '', weight_min = 0, weight_max = 0, trait_set = 0"} {
		_, err := db.ExecContext(t.Context(), q)
		require.NoError(t, err)
	}
	require.Empty(t, names(t, c, api.ListFamiliesParams{Q: new("umbrisk")}))
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan error, 1)
	crate := later(t, s, 0)
	go func() { done <- crate.Work(ctx) }()
	assert.Eventually(t, func() bool {
		return len(names(t, c, api.ListFamiliesParams{Q: new("varga"), Language: &[]string{"pl"}, Weight: new("400")})) == 4
	}, wait, tick)
	stop()
	require.NoError(t, <-done)
	f, err := c.GetFamilyWithResponse(t.Context(), 2)
	require.NoError(t, err)
	assert.Equal(t, "Ines Varga", f.JSON200.Designer)
	assert.Equal(t, "Lanternjaw Studio", f.JSON200.Foundry)
}
