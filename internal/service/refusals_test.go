package service_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
)

// TestSearchesThatCannotBeMade asks for families in ways that nothing answers to.
func TestSearchesThatCannotBeMade(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	s.refuse(t, []refusal{
		{"an order that is none", "GET", "/families?sort=prettiest", "", 422, "bad-sort", "sort"},
		{"a place where no families are", "GET", "/families?status=attic", "", 422, "bad-status", "status"},
		{"a format that is none", "GET", "/families?format=svgz", "", 422, "bad-format", "format"},
		{"a language nobody speaks", "GET", "/families?language=Kobaian", "", 422, "unknown-language", "language"},
		{"a weight in words", "GET", "/families?weight=bold", "", 422, "bad-range", "weight"},
		{"a range that runs backwards", "GET", "/families?width=120-80", "", 422, "bad-range", "width"},
		{"a weight beyond the scale", "GET", "/families?weight=1001", "", 422, "bad-range", "weight"},
		{"a slope that is none", "GET", "/families?slope=leaning", "", 422, "bad-slope", "slope"},
		{"a page from nowhere", "GET", "/families?cursor=!!", "", 422, "bad-cursor", "cursor"},
		{"a search without a name", "POST", "/searches", `{"name":" ","query":"q=sans"}`, 422, "missing-value", "name"},
		{"a search for nothing", "POST", "/searches", `{"name":"All","query":""}`, 422, "empty-query", "query"},
		{"a search that is not one", "POST", "/searches", `{"name":"Odd","query":"%zz"}`, 422, "bad-query", "query"},
		{"a search that cannot be made", "POST", "/searches", `{"name":"Odd","query":"sort=prettiest"}`, 422, "bad-sort", "query"},
		{"a stream of nothing", "GET", "/events?topic=weather", "", 422, "unknown-topic", "topic"},
		{"a stream of a import that is none", "GET", "/events?topic=import/soon", "", 422, "unknown-topic", "topic"},
	})
}

// TestPicturesThatCannotBeDrawnAsk for pictures, characters and fallbacks of a font
// in ways that it cannot give.
func TestPicturesThatCannotBeDrawn(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	s.refuse(t, []refusal{
		{"a size nobody reads", "GET", "/files/1/specimen?size=1", "", 422, "bad-size", "size"},
		{"a size no screen has", "GET", "/files/1/specimen?size=4000", "", 422, "bad-size", "size"},
		{"a feature of five letters", "GET", "/files/1/specimen?features=small", "", 422, "bad-feature", "features"},
		{"a place on no axis", "GET", "/files/1/specimen?at=heavy", "", 422, "bad-place", "at"},
		{"a face that is not there", "GET", "/files/1/specimen?place=7", "", 422, "no-such-face", "place"},
		{"a file that is not there", "GET", "/files/99/specimen", "", 404, "not-found", ""},
		{"a local font nobody knows", "GET", "/files/1/fallback?against=papyrus-nova", "", 422, "unknown-font", "against"},
		{"text of a language the font cannot write", "GET", "/files/1/fallback?against=arial&language=ru", "", 422, "cannot-compare", "language"},
		{"text of a language nobody counted", "GET", "/files/1/fallback?against=arial&language=tlh", "", 422, "unknown-language", "language"},
		{"versions of a face that is not there", "GET", "/faces/99/changes?from=1&to=1", "", 404, "not-found", ""},
	})
}

// TestFontsThatCannotBeMade orders other fonts of a face, by recipes that cannot be
// followed.
func TestFontsThatCannotBeMade(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	order := func(format, recipe string) string {
		return fmt.Sprintf(`{"format":%q,"recipe":%s}`, format, recipe)
	}
	s.refuse(t, []refusal{
		{"a format nobody makes", "POST", "/files/1/reshape", order("pfb", `{"to-truetype":true}`), 422, "bad-format", "format"},
		{"a recipe of nothing", "POST", "/files/1/reshape", order("woff2", `{}`), 422, "empty-recipe", "recipe"},
		{"a recipe as long as a book", "POST", "/files/1/reshape", order("woff2", `{"subset":{"text":"`+strings.Repeat("é", 40_000)+`"}}`), 422, "recipe-too-long", "recipe"},
		{"letters the font has not", "POST", "/files/1/reshape", order("woff2", `{"subset":{"text":"世界"}}`), 422, "cannot-reshape", "recipe"},
		{"a set nobody named", "POST", "/files/1/reshape", order("woff2", `{"subset":{"keep":["runes-of-the-north"]}}`), 422, "bad-recipe", "recipe"},
		{"an axis the font has not", "POST", "/files/1/reshape", order("ttf", `{"instance":{"at":{"wdth":"75"}}}`), 422, "cannot-reshape", "recipe"},
		{"a face that is not there", "POST", "/files/1/reshape", `{"place":3,"format":"ttf","recipe":{"subset":{"text":"a"}}}`, 422, "no-such-face", "place"},
		{"a file that is not there", "POST", "/files/9/reshape", order("ttf", `{"subset":{"text":"a"}}`), 404, "not-found", ""},
	})
}

// TestLicensesThatCannotBe sends terms that contradict themselves.
func TestLicensesThatCannotBe(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	l := s.license(1, nil, family)
	terms := func(more string) string {
		return fmt.Sprintf(`{"kind":"bought","grantedTo":1,"uses":["web"],"families":[%d]%s}`, family, more)
	}
	s.refuse(t, []refusal{
		{"a price below nothing", "POST", "/licenses", terms(`,"price":-5,"currency":"EUR"`), 422, "bad-price", "price"},
		{"a price in no money", "POST", "/licenses", terms(`,"price":5,"currency":"shells"`), 422, "bad-currency", "currency"},
		{"an answer that is none", "POST", "/licenses", terms(`,"changes":{"subset":"perhaps"}`), 422, "bad-consent", "changes.subset"},
		{"an end before the start", "POST", "/licenses", terms(`,"from":"2026-05-01","until":"2026-04-30"`), 422, "ends-before-start", "until"},
		{"page views of no web", "POST", "/licenses", strings.Replace(terms(`,"pageViews":5000`), `"web"`, `"desktop"`, 1), 422, "limit-without-use", "pageViews"},
		{"a domain that is none", "POST", "/licenses", terms(`,"domains":["the internet"]`), 422, "bad-domain", "domains"},
		{"a face of another family", "POST", "/licenses", terms(`,"faces":[999]`), 422, "unknown-face", "faces"},
		{"no use at all", "POST", "/licenses", strings.Replace(terms(""), `"web"`, "", 1), 422, "no-use", "uses"},
		{"no family at all", "POST", "/licenses", strings.Replace(terms(""), fmt.Sprintf("[%d]", family), "[]", 1), 422, "no-family", "families"},
		{"a usual kind for a day", "POST", "/license-templates", `{"name":"Day pass","terms":{"kind":"bought","uses":["web"],"months":0}}`, 422, "bad-months", "terms.months"},
		{"a usual kind without a name", "POST", "/license-templates", `{"name":"","terms":{"kind":"bought","uses":["web"]}}`, 422, "missing-value", "name"},
		{"a seat of no measure", "POST", fmt.Sprintf("/licenses/%d/allocations", l.Id), `{"measure":"chairs","name":"Ines"}`, 422, "bad-measure", "measure"},
		{"an open license that is none", "POST", fmt.Sprintf("/families/%d/proposals", family), `{"spdx":"MIT-ish"}`, 422, "not-proposed", "spdx"},
	})
	kind, body := upload(t, "document.pdf", nil)
	r, err := s.admin.AddDocumentWithBodyWithResponse(t.Context(), l.Id, kind, body)
	require.NoError(t, err)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "empty-document")
	after, err := s.admin.ListLicensesWithResponse(t.Context(), &api.ListLicensesParams{})
	require.NoError(t, err)
	assert.Len(t, after.JSON200.Items, 1, "none was kept")
}

// TestFamiliesThatCannotBeChanged sends changes of families that make no sense, and
// fonts without a name.
func TestFamiliesThatCannotBeChanged(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	var tags []string
	for i := range 60 {
		tags = append(tags, fmt.Sprintf("%q", fmt.Sprint("tag", i)))
	}
	s.refuse(t, []refusal{
		{"more tags than anybody reads", "PATCH", "/families/1", `{"tags":[` + strings.Join(tags, ",") + `]}`, 422, "too-many-tags", "tags"},
		{"a tag that is none", "PATCH", "/families/1", `{"tags":["a,b"]}`, 422, "bad-tag", "tags"},
		{"nothing to move", "POST", "/families/1/move", `{"into":"Other","faces":[]}`, 422, "no-face", "faces"},
		{"a face that is not there", "POST", "/families/1/move", `{"into":"Other","faces":[99]}`, 422, "no-such-face", "faces"},
		{"a move to nowhere", "POST", "/families/1/move", `{"into":""}`, 422, "missing-value", "into"},
		{"a move to where it is", "POST", "/families/1/move", `{"into":"Skerrow Sans"}`, 422, "same-family", "into"},
		{"a link that ends before it starts", "POST", "/shortlists/1/shares", `{"days":0}`, 422, "bad-days", "days"},
		{"a password by a token", "PUT", "/session/password", `{"current":"not it","new":"long enough to be one"}`, 403, "password-needed", ""},
		{"no font at the pasted address", "POST", "/hosted/read", `{"text":""}`, 422, "no-sheet", "text"},
	})
}

// TestSitesThatCannotBe sends what sites and their packs cannot be made by.
func TestSitesThatCannotBe(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	s.license(1, nil, family)
	site := s.site("Timetable", 1, family)
	r0, err := s.admin.AddSiteWithResponse(t.Context(), api.SiteTerms{Name: "Form", Client: 1, Builder: "page-block"})
	require.NoError(t, err)
	require.NotNil(t, r0.JSON201, "%s", r0.Body)
	_, err = s.admin.AddSiteFamilyWithResponse(t.Context(), r0.JSON201.Id, family, api.FamilyOnSite{})
	require.NoError(t, err)
	uploaded := fmt.Sprintf("/sites/%d/file-urls", r0.JSON201.Id)
	on := func(path string) string { return fmt.Sprintf("/sites/%d%s", site, path) }
	placed := func(more string) string {
		return fmt.Sprintf(`{"assignments":[{"role":"body","family":%d,"weight":400,"slope":"normal","fallbacks":["serif"],"override":false%s}],"replacements":[]}`, family, more)
	}
	s.refuse(t, []refusal{
		{"a stylesheet called by mail", "PUT", on("/choices"), `{"load":"pigeon"}`, 422, "bad-load", "load"},
		{"a face the site has not", "PUT", on("/choices"), `{"include":[999]}`, 422, "unknown-face", "include"},
		{"a prefix that is no path", "PUT", on(""), `{"name":"Timetable","client":1,"builder":"bundler","environments":[{"name":"live","prefix":"fonts here"}]}`, 422, "bad-prefix", "environments"},
		{"addresses that nobody needs", "POST", on("/file-urls"), `{"text":"https://cdn.example/a.woff2"}`, 409, "no-addresses", ""},
		{"a file the pack has not", "POST", uploaded, `{"text":"https://cdn.example/a.woff2","file":"no-such.woff2"}`, 422, "unknown-file", "file"},
		{"two addresses of one file", "POST", uploaded, `{"text":"https://cdn.example/a.woff2 https://cdn.example/b.woff2","file":"skerrow-sans-light.woff2"}`, 422, "one-address", "text"},
		{"an environment nobody has", "POST", uploaded, `{"text":"https://cdn.example/a.woff2","environment":"moon"}`, 422, "unknown-environment", "environment"},
		{"a weight beyond the scale", "PUT", on("/roles"), strings.Replace(placed(""), "400", "4000", 1), 422, "bad-weight", "assignments.0.weight"},
		{"a role twice", "PUT", on("/roles"), strings.Replace(placed(""), `}],"replacements"`, fmt.Sprintf(`},{"role":"body","family":%d,"weight":400,"slope":"normal","fallbacks":[],"override":false}],"replacements"`, family), 1), 422, "role-twice", "assignments.1.role"},
		{"a selector that is none", "PUT", on("/roles"), placed(`,"selector":"h1 {"`), 422, "bad-selector", "assignments.0.selector"},
		{"a family the site has not", "PUT", on("/roles"), strings.Replace(placed(""), fmt.Sprintf(`"family":%d`, family), `"family":999`, 1), 404, "not-found", ""},
		{"views of no month", "PUT", on("/views"), `{"items":[]}`, 422, "no-month", "month"},
		{"views of a month to come", "PUT", on("/views"), `{"items":[{"month":"2999-01","views":5}]}`, 422, "month-to-come", "month"},
		{"views below nothing", "PUT", on("/views"), `{"items":[{"month":"2026-01","views":-5}]}`, 422, "bad-count", "items.0.views"},
		{"rules of another kind", "PUT", "/builders/bundler", `{"kind":"loom","name":"Loom"}`, 422, "bad-rules", ""},
	})
	kind, body := upload(t, "views.csv", []byte(strings.Repeat("2026-01-01;5\n", 100_001)))
	r, err := s.admin.ImportViewsWithBodyWithResponse(t.Context(), site, kind, body)
	require.NoError(t, err)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-csv")
	after, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Empty(t, after.JSON200.Roles, "nothing was placed")
}
