package service_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
)

// refusal is a call that is refused: what is sent, and what comes back.
type refusal struct {
	name, method, path, body string
	status                   int
	code, field              string
}

// refuse makes calls that are refused, and expects the code, the field and a
// sentence.
func (s *studio) refuse(t *testing.T, calls []refusal) {
	t.Helper()
	for _, test := range calls {
		t.Run(test.name, func(t *testing.T) {
			header := []string{"Authorization", "Bearer " + s.As(api.RoleAdmin).Token, "If-Match", `"1"`}
			if test.code == "bad-etag" {
				header[3] = "soon"
			}
			r := request(t, http.DefaultClient, test.method, s.Address+"/api/v1"+test.path, test.body, header...)
			assert.Equal(t, "application/problem+json", r.Header.Get("Content-Type"))
			var p api.Problem
			decode(t, r, &p)
			assert.Equal(t, test.status, r.StatusCode, p.Detail)
			assert.Equal(t, r.StatusCode, p.Status)
			if test.code != "" {
				refusedFor(t, test.code, p.Code)
			}
			field := ""
			if p.Field != nil {
				field = *p.Field
			}
			assert.Equal(t, test.field, field)
			assert.Regexp(t, `^["“A-Z0-9-].*\.$`, p.Detail)
		})
	}
}

// TestWhatIsSentIsChecked sends what cannot be used to every call that changes
// something, and expects the code, the field and a sentence.
func TestWhatIsSentIsChecked(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	site := s.site("Timetable", 1, family)
	s.client("Holmvik Ferries")
	l := s.license(1, nil, family)
	s.document(l.Id)
	long := strings.Repeat("x", 201)
	s.refuse(t, []refusal{
		{"a client without a name", "POST", "/clients", `{"name":"  "}`, 422, "missing-value", "name"},
		{"a client of that name", "POST", "/clients", `{"name":"holmvik ferries"}`, 422, "name-taken", "name"},
		{"a client with a long name", "POST", "/clients", `{"name":"` + long + `"}`, 422, "too-long", "name"},
		{"a person without an address", "POST", "/people", `{"name":"A","email":"nobody","role":"viewer"}`, 422, "bad-email", "email"},
		{"a person of no role", "POST", "/people", `{"name":"A","email":"a@b.example","role":"owner"}`, 422, "bad-role", "role"},
		{"a person who is there", "POST", "/people", `{"name":"A","email":"INES@lanternjaw.example","role":"viewer"}`, 422, "email-taken", "email"},
		{"a token without a name", "POST", "/tokens", `{"name":""}`, 422, "missing-value", "name"},
		{"a token that is not there", "DELETE", "/tokens/999", ``, 404, "not-found", ""},
		{"a family that is not there", "GET", "/families/999", ``, 404, "not-found", ""},
		{"an origin that is none", "PATCH", "/families/1", `{"origin":"found"}`, 422, "bad-origin", "origin"},
		{"a family for no client", "PATCH", "/families/1", `{"client":999}`, 422, "unknown-client", "client"},
		{"a license that is not there", "GET", "/licenses/999", ``, 404, "not-found", ""},
		{"a document that is not there", "GET", "/documents/999/content", ``, 404, "not-found", ""},
		{"a site without a name", "POST", "/sites", `{"name":"","client":1,"builder":"bundler"}`, 422, "missing-value", "name"},
		{"a site without a client", "POST", "/sites", `{"name":"B","client":0,"builder":"bundler"}`, 422, "missing-client", "client"},
		{"a site of no builder", "POST", "/sites", `{"name":"B","client":1,"builder":"loom"}`, 422, "unknown-builder", "builder"},
		{"a site of no domain", "POST", "/sites", `{"name":"B","client":1,"builder":"bundler","domains":["not a domain"]}`, 422, "bad-domain", "domains"},
		{"a site of that name", "POST", "/sites", `{"name":"TIMETABLE","client":1,"builder":"bundler"}`, 422, "name-taken", "name"},
		{"a change of a site from no version", "PUT", "/sites/1", `{"name":"B","client":1,"builder":"bundler"}`, 422, "bad-etag", "If-Match"},
		{"a family on no site", "PUT", "/sites/999/families/1", ``, 404, "not-found", ""},
		{"no family on a site", "PUT", "/sites/1/families/999", ``, 404, "not-found", ""},
		{"a sign-off for what is clear", "POST", "/sites/1/sign-offs", `{"family":1,"reason":"why"}`, 409, "nothing-to-sign", ""},
		{"a sign-off for what is not there", "POST", "/sites/1/sign-offs", `{"family":999,"reason":"why"}`, 422, "not-on-site", "family"},
		{"a pack that is not there", "GET", "/packs/999/content", ``, 404, "not-found", ""},
		{"a page of too many", "GET", "/families?limit=1000", ``, 422, "bad-limit", "limit"},
		{"a number that is none", "GET", "/families/one", ``, 400, "bad-request", ""},
		{"JSON that is none", "POST", "/clients", `{"name":`, 400, "bad-request", ""},
		{"far too much JSON", "POST", "/clients", `{"name":"` + strings.Repeat("x", 2<<20) + `"}`, 413, "", ""},
		{"nothing at this address", "GET", "/fonts", ``, 404, "not-found", ""},
		{"an upload without a file", "POST", "/files", ``, 415, "not-an-upload", ""},
	})
	kind, _ := upload(t, "", nil)
	none, err := s.admin.AddFileWithBodyWithResponse(t.Context(), kind, strings.NewReader("--"+strings.TrimPrefix(kind, "multipart/form-data; boundary=")+"--\r\n"))
	require.NoError(t, err)
	problemOf(t, none.HTTPResponse, none.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "no-file")
	after, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Equal(t, "Timetable", after.JSON200.Name, "nothing was changed")
	clients, err := s.admin.ListClientsWithResponse(t.Context())
	require.NoError(t, err)
	assert.Len(t, clients.JSON200.Items, 2)
}

// TestSiteChanges walks a site through its changes.
func TestSiteChanges(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ferries := s.client("Holmvik Ferries")
	family := s.family(foundry.Signage()[1], "client", "Holmvik Ferries")
	site := s.site("Timetable", ferries, family)
	get := func() *api.Site {
		r, err := s.admin.GetSiteWithResponse(ctx, site)
		require.NoError(t, err)
		return r.JSON200
	}
	before := get()
	assert.Equal(t, api.Review, before.Families[0].Verdict)
	assert.Equal(t, "no-license", before.Families[0].Reasons[0].Code)
	signed, err := s.Client(t, api.RoleEditor).AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: family, Reason: "Order is on its way"})
	require.NoError(t, err)
	require.NotNil(t, signed.JSON201, "%s", signed.Body)
	assert.Equal(t, "The editor", signed.JSON201.Families[0].SignOff.By)
	plan, err := planned(ctx, s.admin, site, nil)
	require.NoError(t, err)
	assert.True(t, plan.JSON200.Ready)
	assert.Contains(t, plan.JSON200.Stylesheet, `url("fonts/skerrow-sans-regular.woff2")`)
	var woff2 int64
	for _, f := range plan.JSON200.Files {
		if strings.HasSuffix(f.Path, ".woff2") {
			woff2 += f.Bytes
		}
	}
	assert.Equal(t, woff2, plan.JSON200.Delivered)

	changed, err := s.admin.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: before.Etag}, api.SiteTerms{Name: "Times", Client: ferries, Builder: "upload-form"})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Equal(t, "upload-form", changed.JSON200.Builder.Kind)
	assert.Empty(t, changed.JSON200.Domains)
	assert.True(t, changed.JSON200.Families[0].MayGoOut, "the reasons are what they were")
	plan, err = planned(ctx, s.admin, site, nil)
	require.NoError(t, err)
	assert.Equal(t, "fonts/Skerrow Sans Regular.woff2", plan.JSON200.Files[0].Path, "named as the new builder wants")
	stale, err := s.admin.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: before.Etag}, api.SiteTerms{Name: "Old", Client: ferries, Builder: "bundler"})
	require.NoError(t, err)
	assert.Equal(t, http.StatusPreconditionFailed, stale.StatusCode())

	dropped, err := s.admin.RemoveSiteFamilyWithResponse(ctx, site, family)
	require.NoError(t, err)
	assert.Empty(t, dropped.JSON200.Families)
	empty, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	problemOf(t, empty.HTTPResponse, empty.ApplicationproblemJSONDefault, http.StatusConflict, "empty-pack")
	list, err := s.admin.ListSitesWithResponse(ctx, &api.ListSitesParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.Equal(t, "Times", list.JSON200.Items[0].Name)
}
