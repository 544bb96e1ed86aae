package service_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/rename"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/browsertest"
)

// manyScripts returns a face that writes Latin, Greek and Cyrillic, under a name of its own.
func manyScripts(t *testing.T) *sfnt.Font {
	t.Helper()
	data, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	f, err := font.Open(data)
	require.NoError(t, err)
	out, _, err := rename.Face(f.Faces[0], rename.Options{Family: "Quayside"})
	require.NoError(t, err)
	return out
}

// sets are the ranges that the sheet is cut into.
var sets = []string{"latin", "vietnamese", "latin-ext", "greek", "greek-ext", "cyrillic", "cyrillic-ext"}

// inParts returns a face cut into the sets, as WOFF2, and a stylesheet of them.
func inParts(t *testing.T, whole *sfnt.Font) (files map[string][]byte, sheet string) {
	t.Helper()
	files = map[string][]byte{}
	var taken coverage.Characters
	for _, name := range sets {
		set, err := coverage.Named(name)
		require.NoError(t, err)
		set = set.Without(taken)
		taken = taken.Plus(set)
		part, _, err := subset.Face(whole, subset.Options{Characters: set})
		require.NoError(t, err)
		files[name+".woff2"] = of(t, part, font.WOFF2)
		sheet += fmt.Sprintf("/* %s */ @font-face { font-family: 'Quayside'; font-style: normal; font-weight: 400; src: url(%s.woff2) format('woff2'); unicode-range: %s; }\n", name, name, set)
	}
	return files, sheet
}

// spoken is a text in each of three scripts, with the element that it stands in.
var spoken = map[string]string{"h1": "Departures", "h2": "Αναχωρήσεις", "h3": "Отправление"}

// TestASheetInSevenRangesIsSelfHosted brings a family in-house whose stylesheet serves it in
// seven parts: they are one face, packs hold all of them, and a page is set in them in
// Latin, Greek and Cyrillic. A platform that takes one file says so.
func TestASheetInSevenRangesIsSelfHosted(t *testing.T) {
	s := open(t)
	files, sheet := inParts(t, manyScripts(t))
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(r.URL.Path, "/")
		if name == "fonts.css" {
			w.Header().Set("Content-Type", "text/css")
			_, _ = w.Write([]byte(sheet))
			return
		}
		_, _ = w.Write(files[name])
	}))
	t.Cleanup(server.Close)
	added, err := s.admin.AddHostedWithResponse(t.Context(), api.NewHosted{Text: server.URL + "/fonts.css"})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	family := added.JSON201.Families[0].Id
	in, err := s.admin.SelfHostFamilyWithResponse(t.Context(), family, api.SelfHost{})
	require.NoError(t, err)
	require.NotNil(t, in.JSON202, "%s", in.Body)
	d := settledImport(t, s.admin, in.JSON202.Id)
	assert.Equal(t, len(sets), d.Counts.Marked, "every part is wanted")
	d, items := s.accept(d.Id)
	assert.Equal(t, len(sets), d.Counts.Taken)
	for path, it := range items {
		if it.Kind == api.ItemFont {
			assert.Contains(t, []api.Outcome{api.OutcomeNew, api.OutcomePiece}, *it.Outcome, path)
		}
	}

	got, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	require.Len(t, got.JSON200.Faces, 1)
	face := got.JSON200.Faces[0]
	require.Len(t, face.Files, len(sets))
	assert.True(t, face.Files[0].Current)
	assert.Contains(t, *face.Files[0].Range, "U+0000-00FF", "the one with the basic letters comes first")
	for _, f := range face.Files[1:] {
		require.NotNil(t, f.Beside, f.Name)
		assert.Contains(t, *f.Why, "One of the 7 parts")
	}
	for _, language := range []string{"en", "el", "ru", "vi", "uk"} {
		assert.Contains(t, face.Metadata.Coverage.Languages, language, "what all parts write together")
	}
	found, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Language: &[]string{"el"}})
	require.NoError(t, err)
	assert.Len(t, found.JSON200.Items, 1, "it is found by a language of one of its parts")

	site := s.site("Timetable", 1, family)
	yes := api.ConsentYes
	license, err := s.admin.AddLicenseWithResponse(t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}, Changes: &api.LicensedChanges{Subset: &yes}})
	require.NoError(t, err)
	s.document(license.JSON201.Id)
	plan := s.plan(site, nil)
	var fonts []string
	for _, f := range plan.Files {
		if strings.HasSuffix(f.Path, ".woff2") {
			fonts = append(fonts, f.Path)
		}
	}
	assert.Equal(t, []string{"fonts/quayside-book-latin.woff2", "fonts/quayside-book-latin-2.woff2"}, fonts[:2], "%v", fonts)
	require.Len(t, fonts, len(sets))
	address := packOf(t, s.Service, site)
	styles := textAt(t, address+"/fonts.css")
	assert.Equal(t, len(sets), strings.Count(styles, "unicode-range:"))
	body := ""
	for element, text := range spoken {
		body += fmt.Sprintf("<%s style='font-family:Quayside,monospace;font-weight:400'>%s</%s>", element, text, element)
	}
	ctx := tab(t, "")
	read := func(address, styles string, custom map[string]bool) {
		t.Helper()
		browsertest.Do(t, ctx, chromedp.Navigate(address+"/license-note.txt"),
			browsertest.Until(fmt.Sprintf("(document.documentElement.innerHTML = %q, true)", "<head>"+styles+"</head><body>"+body+"</body>")),
			browsertest.Until(`document.fonts.status === "loaded" && [...document.fonts].some((f) => f.status === "loaded")`))
		for element, is := range custom {
			shown := browsertest.Fonts(t, ctx, element)
			require.Len(t, shown, 1, element)
			assert.Equal(t, is, shown[0].IsCustomFont, "%s: %s", element, shown[0].FamilyName)
		}
	}
	read(address, `<link rel="stylesheet" href="fonts.css">`, map[string]bool{"h1": true, "h2": true, "h3": true})
	assert.Equal(t, string(files["latin.woff2"]), textAt(t, address+"/"+fonts[0]), "the supplier's own bytes")

	// A platform without unicode-range is told of, and takes one part where that is enough.
	now, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	changed, err := s.admin.ChangeSiteWithResponse(t.Context(), site, &api.ChangeSiteParams{IfMatch: now.JSON200.Etag}, api.SiteTerms{Name: "Timetable", Client: 1, Builder: "upload-form"})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	refused, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
	require.NoError(t, err)
	require.NotNil(t, refused.ApplicationproblemJSONDefault, "%s", refused.Body)
	assert.Equal(t, "cannot-send", refused.ApplicationproblemJSONDefault.Code)
	assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, "it is in 7 parts (Latin, Latin 2, Latin 3, Greek, Cyrillic, Cyrillic 2, Greek 2)")
	assert.Contains(t, refused.ApplicationproblemJSONDefault.Detail, "takes one file per face. Add the complete font, or subset it to the characters of one part")

	use, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.AddSiteFamilyJSONRequestBody{Recipe: &reshape.Recipe{Subset: &reshape.Subset{Text: spoken["h2"]}}})
	require.NoError(t, err)
	require.NotNil(t, use.JSON200, "%s", use.Body)
	address = packOf(t, s.Service, site)
	fonts = nil
	for _, f := range s.plan(site, nil).Files {
		if f.Format != nil && *f.Format != "eot" {
			fonts = append(fonts, f.Path)
		}
	}
	require.Len(t, fonts, 1)
	read(address, `<style>@font-face { font-family: Quayside; src: url("`+fonts[0]+`") }</style>`, map[string]bool{"h1": false, "h2": true, "h3": false})
}
