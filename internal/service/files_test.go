package service_test

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// regularOf returns the regular of the demo's text family in a version.
func regularOf(t *testing.T, version string) *sfnt.Font {
	t.Helper()
	d := *foundry.Signage()[1]
	d.Version = version
	return foundrytest.Face(t, &d, font.TTF)
}

// otherwise returns a face with something else in it, under the same names and version.
func otherwise(f *sfnt.Font, text string) *sfnt.Font {
	return &sfnt.Font{Flavor: f.Flavor, Tables: append(slices.Clone(f.Tables), sfnt.Table{Tag: sfnt.MakeTag("note"), Data: []byte(text)})}
}

func (s *studio) get(family int64) *api.Family {
	s.t.Helper()
	r, err := s.admin.GetFamilyWithResponse(s.t.Context(), family)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200
}

// file finds a file of a family's face by its name.
func file(t *testing.T, face *api.Face, name string) api.File {
	t.Helper()
	i := slices.IndexFunc(face.Files, func(f api.File) bool { return f.Name == name })
	require.GreaterOrEqual(t, i, 0, "%s among %+v", name, face.Files)
	return face.Files[i]
}

// TestThereAndBackAgain takes in two versions, goes back to the first, has a site stay on
// one, and removes files and brings them back.
func TestThereAndBackAgain(t *testing.T) {
	s := open(t)
	one, two, three := of(t, regularOf(t, "1.000"), font.TTF), of(t, regularOf(t, "2.000"), font.TTF), of(t, regularOf(t, "3.000"), font.TTF)
	family := s.taken(t, "one.ttf", one).Family.Id
	assert.Equal(t, api.OutcomeNewer, s.taken(t, "two.ttf", two).Outcome)
	face := func() *api.Face { return &s.get(family).Faces[0] }
	assert.Equal(t, "It is the newest complete file.", *file(t, face(), "two.ttf").Why)
	assert.Contains(t, *file(t, face(), "one.ttf").Why, "An older version")
	site := s.site("Timetable", 1, family)
	s.document(s.license(1, nil, family).Id)
	packed := func() string {
		for _, f := range s.plan(site, nil).Faces {
			return f.File.Name
		}
		return ""
	}
	assert.Equal(t, "two.ttf", packed())

	// Back to the first, for everybody, whatever comes.
	id := face().Id
	chosen, err := s.admin.UseFileWithResponse(t.Context(), id, api.FileInUse{File: file(t, face(), "one.ttf").Id})
	require.NoError(t, err)
	require.NotNil(t, chosen.JSON200, "%s", chosen.Body)
	assert.Equal(t, "one.ttf", packed())
	came := s.taken(t, "three.ttf", three)
	assert.Equal(t, api.OutcomeNewer, came.Outcome)
	assert.Contains(t, came.Message, "packs go on using one.ttf, which was chosen")
	assert.Equal(t, "one.ttf", s.inUse(t, family, "Regular"))
	assert.True(t, *file(t, face(), "one.ttf").Chosen)
	assert.Contains(t, *file(t, face(), "one.ttf").Why, "chose it; a newer version does not take its place")
	free, err := s.admin.UseNewestFileWithResponse(t.Context(), id)
	require.NoError(t, err)
	require.NotNil(t, free.JSON200, "%s", free.Body)
	assert.Equal(t, "three.ttf", s.inUse(t, family, "Regular"))

	// One site stays on the second.
	stay := func(file int64) *api.SetChoicesResponse {
		now, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		list := []api.PinnedFile{}
		if file != 0 {
			list = append(list, api.PinnedFile{Face: id, File: file})
		}
		r, err := s.admin.SetChoicesWithResponse(t.Context(), site, &api.SetChoicesParams{IfMatch: now.JSON200.Etag}, api.PackChoices{Pinned: &list})
		require.NoError(t, err)
		return r
	}
	require.NotNil(t, stay(file(t, face(), "two.ttf").Id).JSON200)
	assert.Equal(t, "no-such-version", stay(999).ApplicationproblemJSONDefault.Code)
	plan := s.plan(site, nil)
	assert.Equal(t, "two.ttf", plan.Faces[0].File.Name)
	assert.True(t, plan.Faces[0].Pinned)
	assert.Len(t, plan.Faces[0].OtherFiles, 2)
	address := packOf(t, s.Service, site)
	assert.Contains(t, textAt(t, address+"/manifest.json"), "2.000")
	got, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Empty(t, got.JSON200.Outdated)
	due, err := s.admin.ListDueWithResponse(t.Context(), &api.ListDueParams{})
	require.NoError(t, err)
	assert.NotContains(t, string(due.Body), "pack-outdated")
	require.NotNil(t, stay(0).JSON200)
	got, err = s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	require.Len(t, got.JSON200.Outdated, 1)
	assert.Contains(t, got.JSON200.Outdated[0].Changes[0], "has a newer file: Version 3.000, it was Version 2.000")

	// What uses a file is said before it goes; it can be brought back, also by adding it.
	third := file(t, face(), "three.ttf").Id
	for _, role := range []api.Role{api.RoleViewer} {
		r, err := s.Client(t, role).RemoveFileWithResponse(t.Context(), id, third, nil)
		require.NoError(t, err)
		assert.Equal(t, 403, r.StatusCode())
	}
	refused, err := s.admin.RemoveFileWithResponse(t.Context(), id, third, nil)
	require.NoError(t, err)
	require.NotNil(t, refused.ApplicationproblemJSONDefault)
	assert.Equal(t, "in-use", refused.ApplicationproblemJSONDefault.Code)
	assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, "which is on Timetable")
	anyway := true
	removed, err := s.admin.RemoveFileWithResponse(t.Context(), id, third, &api.RemoveFileParams{Anyway: &anyway})
	require.NoError(t, err)
	require.NotNil(t, removed.JSON200, "%s", removed.Body)
	assert.Equal(t, "two.ttf", s.inUse(t, family, "Regular"))
	require.Len(t, *face().Removed, 1)
	back, err := s.admin.RestoreFileWithResponse(t.Context(), id, third)
	require.NoError(t, err)
	require.NotNil(t, back.JSON200, "%s", back.Body)
	assert.Equal(t, "three.ttf", s.inUse(t, family, "Regular"))
	again, err := s.admin.RestoreFileWithResponse(t.Context(), id, third)
	require.NoError(t, err)
	assert.Equal(t, "not-removed", again.ApplicationproblemJSONDefault.Code)

	all, err := s.admin.RemoveFaceWithResponse(t.Context(), id, &api.RemoveFaceParams{Anyway: &anyway})
	require.NoError(t, err)
	require.NotNil(t, all.JSON200, "%s", all.Body)
	assert.Empty(t, all.JSON200.Faces)
	require.Len(t, all.JSON200.Removed, 1)
	found, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Weight: new("400")})
	require.NoError(t, err)
	assert.Empty(t, found.JSON200.Items, "nothing of it is found")
	came = s.taken(t, "three.ttf", three)
	assert.Contains(t, came.Message, "were removed from the family")
	assert.Equal(t, "three.ttf", s.inUse(t, family, "Regular"))
	require.NoError(t, later(t, s.Service, 31).Library.Sweep(t.Context()))
	assert.Nil(t, face().Removed, "after thirty days they are gone")
	assert.Len(t, face().Files, 1)
	assert.Equal(t, api.OutcomeOlder, s.taken(t, "one.ttf", one).Outcome, "and can be added anew")
}

// TestTwoClientsOwnOneFont adds the same bytes for two clients: licenses, sites and notes are
// each one's own, and either may go.
func TestTwoClientsOwnOneFont(t *testing.T) {
	s := open(t)
	ferries, hall := s.client("Ferries"), s.client("Hall")
	data := of(t, regularOf(t, "1.000"), font.TTF)
	add := func(client string) *api.ImportResult {
		r := s.add("regular.ttf", data, "client", client)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	first := add("Ferries")
	second := add("Hall")
	assert.Equal(t, api.OutcomeNew, second.Outcome)
	assert.Contains(t, second.Message, "Ferries has the same file; each keeps its own licenses, sites and notes.")
	assert.NotEqual(t, first.Family.Id, second.Family.Id)
	assert.Equal(t, api.OutcomeSame, add("Hall").Outcome)
	assert.Equal(t, api.OutcomeSame, s.taken(t, "whose.ttf", data).Outcome, "nobody named a client: they are whose they are")
	a, b := s.get(first.Family.Id), s.get(second.Family.Id)
	assert.Equal(t, a.Faces[0].Files[0].Id, b.Faces[0].Files[0].Id, "the bytes are there once")
	assert.Equal(t, ferries, a.Client.Id)
	assert.Equal(t, hall, b.Client.Id)

	s.document(s.license(ferries, nil, a.Id).Id)
	assert.Equal(t, api.Cleared, s.verdict(a.Id, api.GetVerdictParams{}).State)
	assert.Equal(t, api.Review, s.verdict(b.Id, api.GetVerdictParams{}).State)
	site := s.site("Timetable", ferries, a.Id)
	packOf(t, s.Service, site)
	assert.Len(t, s.get(a.Id).Faces[0].Files[0].CarriedBy, 1)
	assert.Empty(t, s.get(b.Id).Faces[0].Files[0].CarriedBy, "the site of another client")

	// In a import for a third, it is offered; for the studio only where somebody asks.
	s.client("Museum")
	for client, marked := range map[string]bool{"Museum": true, "": false, "Hall": false} {
		id := s.deliver(client)
		s.put(id, "regular.ttf", data)
		_, items := s.rested(id)
		assert.Equal(t, marked, items["regular.ttf"].Marked, client)
		if client == "" {
			assert.Contains(t, items["regular.ttf"].Why, "Select it to add it for")
		}
	}

	gone, err := s.admin.DeleteFamilyWithResponse(t.Context(), a.Id, &api.DeleteFamilyParams{IfMatch: s.get(a.Id).Etag})
	require.NoError(t, err)
	require.NotNil(t, gone.JSON200, "%s", gone.Body)
	require.NoError(t, later(t, s.Service, 31).Library.Sweep(t.Context()))
	assert.Equal(t, data, s.content(b.Faces[0].Files[0].Id, api.TTF).Body, "the other one still has them")
}

// TestConflictsAreSettledByAPerson has fonts meet that have one version number and other
// content: they wait in the import until somebody says which counts, and what was said
// is remembered.
func TestConflictsAreSettledByAPerson(t *testing.T) {
	s := open(t)
	was := regularOf(t, "1.000")
	family := s.taken(t, "was.ttf", of(t, was, font.TTF)).Family.Id
	deliver := func(files map[string][]byte) (int64, map[string]api.ImportItem) {
		id := s.deliver("")
		for name, data := range files {
			s.put(id, name, data)
		}
		_, items := s.rested(id)
		return id, items
	}
	settle := func(id, item int64, how api.Settle) {
		r, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Items: &[]int64{item}, Settle: &how})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	bold := of(t, foundrytest.Face(t, foundry.Signage()[2], font.TTF), font.TTF)
	id, items := deliver(map[string][]byte{"other.ttf": of(t, otherwise(was, "other"), font.TTF), "bold.ttf": bold, "license.txt": []byte("Order 7")})
	require.NotNil(t, items["other.ttf"].Undecided, "%+v", items["other.ttf"])
	assert.Equal(t, api.OutcomeConflict, *items["other.ttf"].Outcome)
	assert.Contains(t, items["other.ttf"].Why, "Choose which of the two to use")
	assert.Nil(t, items["bold.ttf"].Undecided)
	d, items := s.accept(id)
	assert.Equal(t, api.ImportOpen, d.State, "one font waits")
	assert.True(t, items["bold.ttf"].Taken)
	assert.False(t, items["other.ttf"].Taken)
	assert.Equal(t, "was.ttf", s.inUse(t, family, "Regular"))
	bad, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Settle: new(api.Settle("maybe"))})
	require.NoError(t, err)
	assert.Equal(t, "invalid-request", bad.ApplicationproblemJSONDefault.Code)
	settle(id, items["other.ttf"].Id, api.SettleUse)
	d, items = s.accept(id)
	assert.Equal(t, api.ImportFinished, d.State)
	assert.Contains(t, items["other.ttf"].Why, "as chosen")
	assert.Equal(t, "other.ttf", s.inUse(t, family, "Regular"))
	face := s.get(family).Faces[slices.IndexFunc(s.get(family).Faces, func(f api.Face) bool { return f.Style == "Regular" })]
	assert.Equal(t, api.OutcomeSetAside, *file(t, &face, "was.ttf").Outcome)

	// The other way round, and one that came by itself.
	id, items = deliver(map[string][]byte{"third.ttf": of(t, otherwise(was, "third"), font.TTF)})
	settle(id, items["third.ttf"].Id, api.SettleKeep)
	d, _ = s.accept(id)
	assert.Equal(t, api.ImportFinished, d.State)
	assert.Equal(t, "other.ttf", s.inUse(t, family, "Regular"))
	fourth := s.taken(t, "fourth.ttf", of(t, otherwise(was, "fourth"), font.TTF))
	assert.Equal(t, api.OutcomeSetAside, fourth.Outcome, "it was finished for another one before")
	gaps := func(imp int64) []string {
		q := api.ListGapsParams{}
		if imp != 0 {
			q.Import = &imp
		}
		r, err := s.admin.ListGapsWithResponse(t.Context(), &q)
		require.NoError(t, err)
		var out []string
		for _, f := range r.JSON200.Items {
			for _, l := range f.Gaps {
				out = append(out, string(l.Code))
			}
		}
		return out
	}
	assert.NotContains(t, gaps(0), "conflict")
	settled, err := s.admin.SettleConflictWithResponse(t.Context(), face.Id, file(t, &face, "was.ttf").Id)
	require.NoError(t, err)
	require.NotNil(t, settled.JSON200, "%s", settled.Body)
	assert.Equal(t, "was.ttf", s.inUse(t, family, "Regular"))

	// Two that come together decide nothing by their order.
	other := *foundry.Display()
	display := foundrytest.Face(t, &other, font.TTF)
	id, items = deliver(map[string][]byte{"a.ttf": of(t, display, font.TTF), "b.ttf": of(t, otherwise(display, "b"), font.TTF)})
	require.NotNil(t, items["a.ttf"].Undecided, "%+v", items["a.ttf"])
	require.NotNil(t, items["b.ttf"].Undecided, "%+v", items["b.ttf"])
	d, items = s.accept(id)
	assert.Equal(t, api.ImportOpen, d.State)
	assert.Zero(t, d.Counts.Taken)
	settle(id, items["b.ttf"].Id, api.SettleUse)
	_, items = s.rested(id)
	assert.Nil(t, items["b.ttf"].Undecided)
	assert.Equal(t, api.OutcomeSetAside, *items["a.ttf"].Outcome)
	d, items = s.accept(id)
	assert.Equal(t, api.ImportFinished, d.State)
	assert.Equal(t, "b.ttf", s.inUse(t, *items["b.ttf"].FamilyId, other.Style))

	// With nothing new a import is closed, and the documents beside the fonts are kept.
	id, _ = deliver(map[string][]byte{"bold.ttf": bold, "letter.txt": []byte("By letter of 3 May")})
	d, _ = s.accept(id)
	assert.Equal(t, api.ImportFinished, d.State)
	var docs []string
	for _, p := range s.get(family).Documents {
		docs = append(docs, p.Name)
	}
	assert.Equal(t, []string{"letter.txt", "license.txt"}, docs)
}

// TestAMislabeledBoldIsRecordedAsOne is told what it looks like, and stands for it.
func TestAMislabeledBoldIsRecordedAsOne(t *testing.T) {
	s := open(t)
	regular, bold := *foundry.Signage()[1], *foundry.Signage()[2]
	bold.Family, bold.Style, bold.PostScript, bold.Weight = regular.Family, regular.Style, regular.PostScript, regular.Weight
	family := s.taken(t, "regular.ttf", of(t, foundrytest.Face(t, &regular, font.TTF), font.TTF)).Family.Id
	told := s.taken(t, "bold.ttf", of(t, foundrytest.Face(t, &bold, font.TTF), font.TTF))
	assert.Contains(t, told.Message, "which looks like Bold", told.Message)
	face := &s.get(family).Faces[0]
	wrong := file(t, face, "bold.ttf")
	assert.True(t, *wrong.Unsettled)
	assert.Equal(t, "Bold", *wrong.LooksLike)
	record := func(style string) *api.RecordFileAsResponse {
		r, err := s.admin.RecordFileAsWithResponse(t.Context(), face.Id, wrong.Id, api.RecordAs{Style: style})
		require.NoError(t, err)
		return r
	}
	assert.Equal(t, "no-weight", record("Nice").ApplicationproblemJSONDefault.Code)
	done := record("Bold")
	require.NotNil(t, done.JSON200, "%s", done.Body)
	require.Len(t, done.JSON200.Faces, 2)
	is := done.JSON200.Faces[1]
	assert.Equal(t, "Bold", is.Style)
	assert.Equal(t, 700, is.Metadata.Style.Weight)
	assert.Equal(t, "regular.ttf", s.inUse(t, family, "Regular"))
	assert.Contains(t, is.Metadata.Problems[len(is.Metadata.Problems)-1].Message, "It calls itself Regular and was recorded as Bold.")
	site := s.site("Timetable", 1, family)
	s.document(s.license(1, nil, family).Id)
	assert.Contains(t, textAt(t, packOf(t, s.Service, site)+"/fonts.css"), "font-weight: 700")
}

// TestConvertingIsWeighed has a license forbid it, say nothing of it, and allow it, with the
// supplier's web fonts and without.
func TestConvertingIsWeighed(t *testing.T) {
	s := open(t)
	regular := regularOf(t, "1.000")
	family := s.taken(t, "regular.ttf", of(t, regular, font.TTF)).Family.Id
	site := s.site("Timetable", 1, family)
	l := s.license(1, nil, family)
	s.document(l.Id)
	says := func(c api.Consent) {
		now, err := s.admin.GetLicenseWithResponse(t.Context(), l.Id)
		require.NoError(t, err)
		r, err := s.admin.ChangeLicenseWithResponse(t.Context(), l.Id, &api.ChangeLicenseParams{IfMatch: now.JSON200.Etag},
			api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}, Changes: &api.LicensedChanges{Format: &c}})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	state := func() string {
		r, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		on := r.JSON200.Families[0]
		var codes []string
		for _, reason := range on.Reasons {
			if strings.HasPrefix(reason.Code, "conversion") {
				codes = append(codes, reason.Code)
			}
		}
		return string(on.Verdict) + " " + strings.Join(codes, " ")
	}
	choose := func(supply api.PackChoicesSource) {
		now, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		r, err := s.admin.SetChoicesWithResponse(t.Context(), site, &api.SetChoicesParams{IfMatch: now.JSON200.Etag}, api.PackChoices{Source: &supply})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	assert.Equal(t, "cleared ", state(), "who licenses a desktop font for the web means that it is made into a web font")
	says(api.ConsentNo)
	assert.Equal(t, "blocked conversion-forbidden", state())
	says(api.ConsentYes)
	assert.Equal(t, "cleared ", state())
	says(api.ConsentNotSaid)

	webfont := of(t, otherwise(regular, "made by the shop"), font.WOFF2)
	assert.Equal(t, api.OutcomeSibling, s.taken(t, "regular.woff2", webfont).Outcome)
	names := func() (out []string) {
		for _, f := range s.plan(site, nil).Files {
			if f.Format != nil {
				out = append(out, *f.Format)
			}
		}
		return out
	}
	assert.Equal(t, []string{"woff2"}, names(), "the supplier's own, and nothing is made beside it")
	assert.Equal(t, "cleared ", state())
	says(api.ConsentNo)
	assert.Equal(t, "cleared ", state(), "nothing is converted")
	choose(api.SourceConverted)
	assert.Equal(t, "blocked conversion-forbidden", state())
	says(api.ConsentNotSaid)
	assert.Equal(t, "review conversion-not-said", state())
	says(api.ConsentYes)
	assert.Equal(t, []string{"woff2", "woff"}, names())
	address := packOf(t, s.Service, site)
	made := s.plan(site, nil).Files[0]
	assert.NotEqual(t, string(webfont), textAt(t, address+"/"+made.Path), "made here")
	choose(api.SourceSmaller)
	smaller := s.plan(site, nil).Files[0]
	assert.Equal(t, min(made.Bytes, int64(len(webfont))), smaller.Bytes)
	got, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Contains(t, got.JSON200.Outdated[0].Changes[0], "whichever are smaller")
	choose(api.SourceSupplied)
	assert.Equal(t, string(webfont), textAt(t, packOf(t, s.Service, site)+"/"+s.plan(site, nil).Files[0].Path))

	// A change that is asked for makes all of them.
	use, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.AddSiteFamilyJSONRequestBody{Recipe: &reshape.Recipe{Subset: &reshape.Subset{Text: "Skerrow"}}})
	require.NoError(t, err)
	require.NotNil(t, use.JSON200, "%s", use.Body)
	assert.Equal(t, []string{"woff2", "woff"}, names())
}

// TestWhatGapsWhat lists what families of a import lack and mends many at once.
func TestWhatGapsWhat(t *testing.T) {
	s := open(t)
	id := s.deliver("")
	signage := foundry.Signage()
	for _, d := range append(slices.Clone(signage[:2]), foundry.Display(), foundry.Poster()) {
		s.put(id, d.PostScript+".ttf", of(t, foundrytest.Face(t, d, font.TTF), font.TTF))
	}
	_, items := s.rested(id)
	tags := []string{"Ferry", "signs"}
	first := items[signage[0].PostScript+".ttf"].Id
	r, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Items: &[]int64{first}, Tags: &tags})
	require.NoError(t, err)
	require.NotNil(t, r.JSON200, "%s", r.Body)
	s.accept(id)
	gaps := func(q api.ListGapsParams) map[string][]api.GapCode {
		out := map[string][]api.GapCode{}
		r, err := s.Client(t, api.RoleViewer).ListGapsWithResponse(t.Context(), &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		for _, f := range r.JSON200.Items {
			for _, l := range f.Gaps {
				out[f.Family.Name] = append(out[f.Family.Name], l.Code)
			}
		}
		return out
	}
	found := gaps(api.ListGapsParams{Import: &id})
	require.Len(t, found, 3, "%v", found)
	assert.Contains(t, found[signage[0].Family], api.GapMates, "there is no bold")
	assert.Contains(t, found[signage[0].Family], api.GapOrigin)
	family := s.search(t, "ferry")
	assert.Equal(t, []string{"ferry", "signs"}, s.get(family).Tags)
	assert.Empty(t, gaps(api.ListGapsParams{Client: new(int64(99))}))
	bad, err := s.admin.ListGapsWithResponse(t.Context(), &api.ListGapsParams{What: &[]api.GapCode{"money"}})
	require.NoError(t, err)
	assert.Equal(t, "invalid-request", bad.ApplicationproblemJSONDefault.Code)

	var ids []int64
	for _, it := range items {
		_ = it
	}
	_, items = s.rested(id)
	for _, it := range items {
		if !slices.Contains(ids, *it.FamilyId) {
			ids = append(ids, *it.FamilyId)
		}
	}
	origin := api.OriginCommissioned
	changed, err := s.admin.ChangeFamiliesWithResponse(t.Context(), api.FamiliesChange{Families: append(ids, 999), Origin: &origin, Tags: &[]string{"2026"}})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Len(t, changed.JSON200.Done, 3)
	require.Len(t, changed.JSON200.Refused, 1)
	assert.Equal(t, int64(999), changed.JSON200.Refused[0].Family.Id)
	assert.Equal(t, []string{"2026", "ferry", "signs"}, s.get(family).Tags)
	l := s.license(1, nil, ids[0])
	covered, err := s.admin.CoverFamiliesWithResponse(t.Context(), l.Id, api.SomeFamilies{Families: ids})
	require.NoError(t, err)
	require.NotNil(t, covered.JSON200, "%s", covered.Body)
	assert.Len(t, covered.JSON200.Families, 3)
	found = gaps(api.ListGapsParams{})
	for name, codes := range found {
		assert.Contains(t, codes, api.GapDocument, name)
		assert.NotContains(t, codes, api.GapLicense, name)
		assert.NotContains(t, codes, api.GapOrigin, name)
	}
	s.document(l.Id)
	assert.Len(t, gaps(api.ListGapsParams{What: &[]api.GapCode{api.GapDocument, api.GapMates}}), len(gaps(api.ListGapsParams{})))
	none, err := s.admin.ConfirmRecognizedWithResponse(t.Context(), api.SomeFamilies{Families: ids[:1]})
	require.NoError(t, err)
	assert.Len(t, none.JSON200.Refused, 1, "its files speak of no open license")
	for _, call := range []func(c *api.ClientWithResponses) (int, error){
		func(c *api.ClientWithResponses) (int, error) {
			r, err := c.ChangeFamiliesWithResponse(t.Context(), api.FamiliesChange{Families: ids, Origin: &origin})
			return r.StatusCode(), err
		},
		func(c *api.ClientWithResponses) (int, error) {
			r, err := c.CoverFamiliesWithResponse(t.Context(), l.Id, api.SomeFamilies{Families: ids})
			return r.StatusCode(), err
		},
	} {
		code, err := call(s.Client(t, api.RoleViewer))
		require.NoError(t, err)
		assert.Equal(t, 403, code)
	}
}

// search returns the only family that a word finds.
func (s *studio) search(t *testing.T, word string) int64 {
	t.Helper()
	r, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Q: &word})
	require.NoError(t, err)
	require.Len(t, r.JSON200.Items, 1, word)
	return r.JSON200.Items[0].Id
}

// TestLargeFontsAreMeasuredInTheBackground adds a font of more than five thousand glyphs and a
// part of it: neither waits to be measured, and what they are beside each other is known
// soon after.
func TestLargeFontsAreMeasuredInTheBackground(t *testing.T) {
	s := open(t)
	whole := manyScripts(t)
	set, err := coverage.Named("cyrillic")
	require.NoError(t, err)
	part, _, err := subset.Face(whole, subset.Options{Characters: set})
	require.NoError(t, err)
	family := s.taken(t, "whole.ttf", of(t, whole, font.TTF)).Family.Id
	s.taken(t, "part.woff2", of(t, part, font.WOFF2))
	outcome := func() api.Outcome {
		f := file(t, &s.get(family).Faces[0], "part.woff2")
		if f.Outcome == nil {
			return ""
		}
		return *f.Outcome
	}
	require.Eventually(t, func() bool { return outcome() == api.OutcomePart }, time.Minute, 50*time.Millisecond)
	assert.Equal(t, "whole.ttf", s.inUse(t, family, s.get(family).Faces[0].Style))
	kind, body := upload(t, "asked.woff2", of(t, part, font.WOFF2))
	found, err := s.admin.FindAlikeWithBodyWithResponse(t.Context(), kind, body)
	require.NoError(t, err)
	require.NotEmpty(t, found.JSON200.Items)
	assert.Equal(t, family, found.JSON200.Items[0].Family.Id)

	id := s.deliver("")
	s.put(id, "more.ttf", of(t, otherwise(whole, "more"), font.TTF))
	require.Eventually(t, func() bool {
		_, items := s.rested(id)
		return items["more.ttf"].Undecided != nil
	}, time.Minute, 50*time.Millisecond)
	d, _ := s.accept(id)
	assert.Zero(t, d.Counts.Taken, "it has the version number of the one in use and other content")
}

// TestFilesThatComeTogetherLeaveOneInUse adds versions of a face at the same time: the newest
// is in use, and no other.
func TestFilesThatComeTogetherLeaveOneInUse(t *testing.T) {
	s := open(t)
	family := s.taken(t, "0.ttf", of(t, regularOf(t, "0.500"), font.TTF)).Family.Id
	fonts := make([][]byte, 8)
	for i := range fonts {
		fonts[i] = of(t, regularOf(t, fmt.Sprintf("%d.000", i+1)), font.TTF)
	}
	var coming sync.WaitGroup
	for i, data := range fonts {
		coming.Go(func() {
			kind, body := upload(t, fmt.Sprintf("%d.ttf", i+1), data)
			r, err := s.admin.AddFileWithBodyWithResponse(t.Context(), kind, body)
			assert.NoError(t, err)
			assert.NotNil(t, r.JSON200, "%s", r.Body)
		})
	}
	coming.Wait()
	face := s.get(family).Faces[0]
	var used []string
	for _, f := range face.Files {
		if f.Current || f.Beside != nil {
			used = append(used, f.Name)
		}
	}
	assert.Len(t, face.Files, 9)
	assert.Equal(t, []string{"8.ttf"}, used)
}
