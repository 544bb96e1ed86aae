package service_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/fakes/hosting"
	"sparecrate/internal/service/servicetest"
)

// hosted runs the fallback for a server of hosted fonts.
func hosted(t testing.TB) (*hosting.Server, string) {
	t.Helper()
	fonts, err := hosting.New()
	require.NoError(t, err)
	server := httptest.NewServer(fonts)
	t.Cleanup(server.Close)
	return fonts, server.URL
}

// settledImport waits until all of a import is read.
func settledImport(t testing.TB, c *api.ClientWithResponses, id int64) *api.Import {
	t.Helper()
	var d *api.Import
	require.Eventually(t, func() bool {
		r, err := c.GetImportWithResponse(t.Context(), id)
		require.NoError(t, err)
		d = r.JSON200
		return d.Unpacking == 0 && d.State != api.ImportAccepting
	}, time.Minute, 50*time.Millisecond)
	return d
}

func TestHostedFamilies(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	fonts, at := hosted(t)
	c := s.Client(t, api.RoleEditor)
	read := func(text string) *api.ReadHostedResponse {
		r, err := c.ReadHostedWithResponse(t.Context(), api.PastedCode{Text: text})
		require.NoError(t, err)
		return r
	}
	r := read("@improt url(“" + at + hosting.ImportPath + "”);")
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Len(t, r.JSON200.Notes, 2)
	require.Len(t, r.JSON200.Sheets, 1, "what only imports is no source of its own")
	sheet := r.JSON200.Sheets[0]
	assert.Equal(t, at+hosting.SheetPath, sheet.Url)
	require.Len(t, sheet.Families, 1)
	require.Len(t, sheet.Families[0].Faces, 4, "two weights in two parts")
	assert.Equal(t, 700, sheet.Families[0].Faces[2].WeightMin)
	assert.True(t, strings.HasPrefix(*sheet.Families[0].Faces[0].Range, "U+0000-00FF"))
	assert.Equal(t, at+"/files/brackmoor-400-latin.woff2", sheet.Families[0].Faces[0].Files[0].Url)

	for text, says := range map[string]string{at + hosting.PagePath: "a web page at this address", at + "/none.css": "answered 404", at + "/files/brackmoor-400-latin.woff2": "no @font-face rule"} {
		assert.Contains(t, *read(text).JSON200.Sheets[0].Trouble, says)
	}
	assert.Equal(t, "no-sheet", read("hello").ApplicationproblemJSONDefault.Code)
	viewer, err := s.Client(t, api.RoleViewer).ReadHostedWithResponse(t.Context(), api.PastedCode{Text: at})
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, viewer.StatusCode())

	client := "Orrery Hall"
	add := func(n api.NewHosted) *api.AddHostedResponse {
		n.Client = &client
		r, err := c.AddHostedWithResponse(t.Context(), n)
		require.NoError(t, err)
		return r
	}
	added := add(api.NewHosted{Text: at + hosting.SheetPath})
	require.NotNil(t, added.JSON201, "%s", added.Body)
	require.Len(t, added.JSON201.Families, 1)
	id := added.JSON201.Families[0].Id
	again := add(api.NewHosted{Text: "@font-face { font-family: '" + hosting.Family + "'; src: url(https://other.example/b.woff2) }\n@import '" + at + hosting.SheetPath + "';"})
	assert.Equal(t, added.JSON201.Families, again.JSON201.Families, "another source of the same family")
	assert.Equal(t, "no-families", add(api.NewHosted{Text: at + hosting.SheetPath, Families: &[]string{"Another"}}).ApplicationproblemJSONDefault.Code)
	f, err := c.GetFamilyWithResponse(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, api.OriginHosted, f.JSON200.Origin)
	require.Len(t, f.JSON200.Hosted, 2)
	forms := map[string]string{}
	for _, form := range f.JSON200.Hosted[0].Snippets {
		forms[form.Name] = form.Text
	}
	assert.Equal(t, `<link rel="stylesheet" href="`+at+hosting.SheetPath+`">`, forms["Link tag"])
	assert.Contains(t, f.JSON200.Hosted[0].Notice, "Every page view")
	assert.Equal(t, "other.example", f.JSON200.Hosted[1].Host)
	assert.Contains(t, f.JSON200.Hosted[1].Snippets[0].Text, `url("https://other.example/b.woff2")`)
	for _, q := range []string{"brackmor", "other.example"} { // misspelt, and by its server
		found, err := c.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Q: &q})
		require.NoError(t, err)
		require.Len(t, found.JSON200.Items, 1, q)
		assert.Len(t, found.JSON200.Items[0].Hosts, 2, "every list names the sources")
	}
	use, err := c.AddSiteFamilyWithResponse(t.Context(), 1, id, api.AddSiteFamilyJSONRequestBody{})
	require.NoError(t, err)
	require.NotNil(t, use.JSON200, "%s", use.Body)
	for _, on := range use.JSON200.Families {
		if on.Family.Id == id {
			assert.Equal(t, []string{f.JSON200.Hosted[0].Host, "other.example"}, on.Hosts, "a site knows whom its pages call")
			assert.Equal(t, api.Review, on.Verdict, "no license says that it may be")
		}
	}

	// In-house: fetched into a import, every part of every face.
	source, open := f.JSON200.Hosted[0].Id, api.OriginOpen
	in, err := c.SelfHostFamilyWithResponse(t.Context(), id, api.SelfHost{Source: &source, Origin: &open})
	require.NoError(t, err)
	require.NotNil(t, in.JSON202, "%s", in.Body)
	d := settledImport(t, c, in.JSON202.Id)
	assert.Equal(t, 4, d.Counts.Fonts)
	assert.Equal(t, 4, d.Counts.Marked)
	assert.Equal(t, 1, fonts.Calls("/files/brackmoor-700-latin.woff2"))
	items, err := c.ListImportItemsWithResponse(t.Context(), d.Id, &api.ListImportItemsParams{Kind: new(api.ItemFont)})
	require.NoError(t, err)
	assert.Contains(t, items.JSON200.Items[0].Why, "It was served for U+0000-00FF")
	_, err = c.AcceptImportWithResponse(t.Context(), d.Id)
	require.NoError(t, err)
	require.Equal(t, 4, settledImport(t, c, d.Id).Counts.Taken)
	f, err = c.GetFamilyWithResponse(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, f.JSON200.Faces, 2)
	assert.Len(t, f.JSON200.Faces[0].Files, 2, "both parts, each with its range")
	assert.Equal(t, api.OriginOpen, f.JSON200.Origin)
	assert.Len(t, f.JSON200.Hosted, 2, "it is still served from there too")

	dropped, err := c.RemoveHostedStylesheetWithResponse(t.Context(), id, source)
	require.NoError(t, err)
	assert.Len(t, dropped.JSON200.Hosted, 1)
	dropped, err = c.RemoveHostedStylesheetWithResponse(t.Context(), 1, dropped.JSON200.Hosted[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, dropped.StatusCode(), "of another family")
	other := f.JSON200.Hosted[1].Id
	in, err = c.SelfHostFamilyWithResponse(t.Context(), id, api.SelfHost{Source: &other})
	require.NoError(t, err)
	d = settledImport(t, c, in.JSON202.Id)
	assert.Equal(t, 1, d.Counts.Refused, "a server that is not there")
}

func TestHostedInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	_, at := hosted(t)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/imports"), browsertest.Type(`//textarea[@aria-label="Code or URL"]`, "<link rel=“stylesheet” href=“"+at+hosting.SheetPath+"”>"), press("Read code"),
		browsertest.Until(`document.body.innerText.includes("Brackmoor Sans") && document.body.innerText.includes("Curly quotes")`),
		press("Add 1 family to the catalog"), browsertest.Visible(`//h1[normalize-space()="Brackmoor Sans"]`),
		browsertest.Until(`document.body.innerText.includes("Every page view") && document.body.innerText.includes("@import url(")`),
		press("Self-host"), browsertest.Until(`document.querySelectorAll('[data-outcome="new"], [data-outcome="piece"]').length === 4`))
	assert.Contains(t, text(t, ctx), "It was served for")
}

// TestAFamilyServedFromElsewhereDoesItsRoles puts a hosted family on a site: packs
// hold nothing of it, their styles load it from where it is, and everybody is told.
func TestAFamilyServedFromElsewhereDoesItsRoles(t *testing.T) {
	s := open(t)
	fonts, at := hosted(t)
	added, err := s.admin.AddHostedWithResponse(t.Context(), api.NewHosted{Text: at + hosting.SheetPath})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	kraka, skerrow := added.JSON201.Families[0].Id, s.family(foundry.Signage()[1])
	license, err := s.admin.AddLicenseWithResponse(t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{kraka, skerrow}})
	require.NoError(t, err)
	s.document(license.JSON201.Id)
	site := s.site("Timetable", 1, skerrow)
	get := func() *api.Site {
		r, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		return r.JSON200
	}
	placed := s.place(get(), placed("heading-1", kraka, 700), placed("body", skerrow, 400))
	require.NotNil(t, placed.JSON200, "%s", placed.Body)
	verdicts := map[int64]api.VerdictState{}
	for _, f := range get().Families {
		verdicts[f.Family.Id] = f.Verdict
	}
	assert.Equal(t, map[int64]api.VerdictState{skerrow: api.Cleared, kraka: api.Review}, verdicts, "the license is for fonts on servers of one's own")
	for _, q := range []api.GetVerdictParams{{}, {Site: &site}} { // without a use, what is asked is what pages do
		v := s.verdict(kraka, q)
		assert.Equal(t, api.UseWebHosted, v.Use)
		assert.Equal(t, api.Review, v.State)
	}
	assert.Equal(t, api.UseWeb, s.verdict(skerrow, api.GetVerdictParams{Site: &site}).Use)
	uses, err := s.admin.ChangeLicenseWithResponse(t.Context(), license.JSON201.Id, &api.ChangeLicenseParams{IfMatch: license.JSON201.Etag},
		api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb, api.UseWebHosted}, Families: []int64{kraka, skerrow}})
	require.NoError(t, err)
	require.NotNil(t, uses.JSON200, "%s", uses.Body)

	plan := s.plan(site, nil)
	for _, f := range plan.Files {
		assert.NotContains(t, f.Path, "brackmoor", "nothing of it is sent")
	}
	var warned []string
	for _, w := range plan.Warnings {
		warned = append(warned, w.Code)
	}
	assert.Contains(t, warned, "calls-elsewhere")
	assert.NotContains(t, warned, "fake-bold", "the sheet has a bold")

	address := packOf(t, s.Service, site)
	sheet := textAt(t, address+"/fonts.css")
	assert.Regexp(t, `(?s)^/\*.*?\*/\n\n@import url\("`+at+hosting.SheetPath+`"\);\n\n@font-face`, sheet)
	assert.Contains(t, sheet, `font-family: "Brackmoor Sans"`)
	assert.Contains(t, textAt(t, address+"/license-note.txt"), "Brackmoor Sans\n  Not in this pack: served by "+strings.TrimPrefix(at, "http://"))
	assert.Contains(t, textAt(t, address+"/manifest.json"), `"servedBy": [`)
	assert.NotContains(t, textAt(t, address+"/licenses.spdx.json"), "Brackmoor")
	assert.Contains(t, textAt(t, address+"/upload-slip.html"), "Each page view loads from "+strings.TrimPrefix(at, "http://"))

	// A page with these styles is set in both.
	ctx := tab(t, "")
	page := serve(t, folderWith(t, map[string]string{"index.html": `<!doctype html><link rel="stylesheet" href="` + address + `/fonts.css"><h1>Next departure</h1><p>from quay 4</p>`}))
	browsertest.Do(t, ctx, chromedp.Navigate(page), browsertest.Until(`document.fonts.status === "loaded" && document.fonts.size > 2`))
	assert.Positive(t, fonts.Calls(hosting.SheetPath))
	heading := browsertest.Fonts(t, ctx, "h1")
	require.Len(t, heading, 1)
	assert.True(t, heading[0].IsCustomFont)
	assert.Equal(t, "BrackmoorSans-Bold", heading[0].PostScriptName)

	// Another source: the pack is behind, on its site and on the due list.
	assert.Empty(t, get().Outdated)
	more, err := s.admin.AddHostedWithResponse(t.Context(), api.NewHosted{Text: "@font-face { font-family: '" + hosting.Family + "'; src: url(https://other.example/b.woff2) }"})
	require.NoError(t, err)
	require.NotNil(t, more.JSON201, "%s", more.Body)
	outdated := get().Outdated
	require.Len(t, outdated, 1)
	assert.Equal(t, []string{"Brackmoor Sans is loaded from " + at + hosting.SheetPath + " and other.example now; it was " + at + hosting.SheetPath + "."}, outdated[0].Changes)
	due, err := s.admin.ListDueWithResponse(t.Context(), &api.ListDueParams{})
	require.NoError(t, err)
	assert.Contains(t, string(due.Body), "and other.example now")

	// A platform that takes files alone has nothing of it, and says so.
	now := get()
	changed, err := s.admin.ChangeSiteWithResponse(t.Context(), site, &api.ChangeSiteParams{IfMatch: now.Etag}, api.SiteTerms{Name: now.Name, Client: 1, Builder: "fields-only"})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	warned = nil
	for _, w := range changed.JSON200.Warnings {
		warned = append(warned, w.Code+": "+w.Message)
	}
	assert.Contains(t, strings.Join(warned, "\n"), "only-elsewhere: Brackmoor Sans is served by")

	// Brought in-house, it is sent like any other.
	f, err := s.admin.GetFamilyWithResponse(t.Context(), kraka)
	require.NoError(t, err)
	assert.Equal(t, 1, len(f.JSON200.Sites), "its page says where it is used")
}

// textAt reads what a test's server answers.
func textAt(t testing.TB, address string) string {
	t.Helper()
	r, err := http.Get(address) //nolint:gosec,noctx // a server of the test's own
	require.NoError(t, err)
	defer func() { _ = r.Body.Close() }()
	require.Equal(t, http.StatusOK, r.StatusCode, address)
	b, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return string(b)
}

func folderWith(t testing.TB, files map[string]string) string {
	t.Helper()
	folder := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600))
	}
	return folder
}
