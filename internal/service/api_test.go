package service_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"io"
	"io/fs"
	"mime/multipart"
	"net/http"
	"path/filepath"
	"strings"
	"testing"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

// upload returns the body of an upload.
func upload(t testing.TB, name string, data []byte, fields ...string) (string, io.Reader) {
	t.Helper()
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	for i := 0; i < len(fields); i += 2 {
		require.NoError(t, m.WriteField(fields[i], fields[i+1]))
	}
	part, err := m.CreateFormFile("file", name)
	require.NoError(t, err)
	_, err = part.Write(data)
	require.NoError(t, err)
	require.NoError(t, m.Close())
	return m.FormDataContentType(), &b
}

func drawn(t testing.TB, d *foundry.Design, to font.Container) []byte {
	t.Helper()
	as := font.TTF
	b, err := foundry.Build(d, as)
	require.NoError(t, err)
	opened, err := font.Open(b)
	require.NoError(t, err)
	made, err := font.Make(opened.Faces[0], to)
	require.NoError(t, err)
	return made
}

// studio is a service with helpers that fail the test.
type studio struct {
	*servicetest.Service
	t     testing.TB
	admin *api.ClientWithResponses
}

func open(t testing.TB) *studio {
	t.Helper()
	s := servicetest.Start(t, nil)
	return &studio{s, t, s.Client(t, api.RoleAdmin)}
}

func (s *studio) add(name string, data []byte, fields ...string) *api.AddFileResponse {
	s.t.Helper()
	kind, body := upload(s.t, name, data, fields...)
	r, err := s.admin.AddFileWithBodyWithResponse(s.t.Context(), kind, body)
	require.NoError(s.t, err)
	return r
}

func (s *studio) family(d *foundry.Design, fields ...string) int64 {
	s.t.Helper()
	r := s.add(d.PostScript+".ttf", drawn(s.t, d, font.TTF), fields...)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200.Family.Id
}

func (s *studio) client(name string) int64 {
	s.t.Helper()
	r, err := s.admin.AddClientWithResponse(s.t.Context(), api.NewStudioClient{Name: name})
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON201, "%s", r.Body)
	return r.JSON201.Id
}

func (s *studio) site(name string, client int64, families ...int64) int64 {
	s.t.Helper()
	domains := []string{"https://Times.Holmvik.example/today", "holmvik.example"}
	r, err := s.admin.AddSiteWithResponse(s.t.Context(), api.SiteTerms{Name: name, Client: client, Builder: "self-hosted", Domains: &domains})
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON201, "%s", r.Body)
	for _, f := range families {
		used, err := s.admin.AddSiteFamilyWithResponse(s.t.Context(), r.JSON201.Id, f, api.FamilyOnSite{})
		require.NoError(s.t, err)
		require.NotNil(s.t, used.JSON200, "%s", used.Body)
	}
	return r.JSON201.Id
}

func (s *studio) license(client int64, until *openapi.Date, families ...int64) *api.License {
	s.t.Helper()
	r, err := s.admin.AddLicenseWithResponse(s.t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: client, Uses: []api.Use{api.UseWeb}, Until: until, Families: families})
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON201, "%s", r.Body)
	return r.JSON201
}

func (s *studio) document(license int64) {
	s.t.Helper()
	kind, body := upload(s.t, "order.txt", []byte("Order 7"))
	r, err := s.admin.AddDocumentWithBodyWithResponse(s.t.Context(), license, kind, body)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON201, "%s", r.Body)
}

// refusedFor compares codes. What the contract itself does not allow is refused before
// the catalog looks at it, under one code for all of it.
func refusedFor(t testing.TB, want, got string) {
	t.Helper()
	for _, kind := range []string{"bad-", "too-", "no-"} {
		if got == "invalid-request" && strings.HasPrefix(want, kind) {
			return
		}
	}
	assert.Equal(t, want, got)
}

func problemOf(t testing.TB, r *http.Response, p *api.Problem, status int, code string) {
	t.Helper()
	assert.Equal(t, status, r.StatusCode)
	assert.Equal(t, "application/problem+json", r.Header.Get("Content-Type"))
	require.NotNil(t, p)
	refusedFor(t, code, p.Code)
	assert.Equal(t, status, p.Status)
	assert.Regexp(t, `^[A-Z“"].*[.)]$`, p.Detail, "a sentence for people")
}

func TestFromFontToPackOverTheAPI(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ferries := s.client("Holmvik Ferries")
	d := foundry.Signage()[2]
	family := s.family(d, "client", "Holmvik Ferries", "origin", "commissioned")
	got, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	f := got.JSON200
	assert.Equal(t, "Skerrow Sans", f.Name)
	assert.Equal(t, api.OriginCommissioned, f.Origin)
	require.Len(t, f.Faces, 1)
	assert.Equal(t, "SkerrowSans-Bold", f.Faces[0].Metadata.Names.PostScript)
	assert.Equal(t, "Installable: embedding and installing are permitted (fsType 0).", f.Faces[0].Permission)

	license := s.license(ferries, nil, family)
	s.document(license.Id)
	site := s.site("Timetable", ferries, family)
	shown, err := s.admin.GetSiteWithResponse(ctx, site)
	require.NoError(t, err)
	assert.Equal(t, []string{"times.holmvik.example", "holmvik.example"}, shown.JSON200.Domains, "domains are cut out of addresses")
	assert.Equal(t, api.Cleared, shown.JSON200.Families[0].Verdict)

	var zips [2][]byte
	for i := range zips {
		built, err := s.admin.BuildPackWithResponse(ctx, site, nil)
		require.NoError(t, err)
		require.NotNil(t, built.JSON201, "%s", built.Body)
		r, err := s.admin.GetPackContentWithResponse(ctx, built.JSON201.Id)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, r.StatusCode())
		assert.Equal(t, "application/zip", r.HTTPResponse.Header.Get("Content-Type"))
		assert.Equal(t, `attachment; filename=timetable-fonts.zip`, r.HTTPResponse.Header.Get("Content-Disposition"))
		assert.EqualValues(t, len(r.Body), built.JSON201.Bytes)
		zips[i] = r.Body
	}
	assert.True(t, bytes.Equal(zips[0], zips[1]), "the same zip each time")

	log, err := s.admin.ListActivityWithResponse(ctx, &api.ListActivityParams{})
	require.NoError(t, err)
	var actions []string
	for _, a := range log.JSON200.Items {
		actions = append(actions, a.Action)
	}
	assert.Subset(t, actions, []string{"built pack", "added family to site", "added site", "added document", "recorded license", "added file", "added client"})
}

func TestWhatComesInAgain(t *testing.T) {
	s := open(t)
	d := foundry.Signage()[1]
	newer, older := *d, *d
	newer.Version, older.Version = "1.300", "1.90"
	for _, step := range []struct {
		name    string
		data    []byte
		outcome api.Outcome
		current string
	}{
		{"first.ttf", drawn(t, d, font.TTF), api.OutcomeNew, "first.ttf"},
		{"copy.ttf", drawn(t, d, font.TTF), api.OutcomeSame, "first.ttf"},
		{"web.woff2", drawn(t, d, font.WOFF2), api.OutcomeSibling, "first.ttf"},
		{"newer.ttf", drawn(t, &newer, font.TTF), api.OutcomeNewer, "newer.ttf"},
		{"older.ttf", drawn(t, &older, font.TTF), api.OutcomeOlder, "newer.ttf"},
	} {
		r := s.add(step.name, step.data)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		assert.Equal(t, step.outcome, r.JSON200.Outcome, step.name)
		got, err := s.admin.GetFamilyWithResponse(t.Context(), r.JSON200.Family.Id)
		require.NoError(t, err)
		require.Len(t, got.JSON200.Faces, 1, "all are files of one face")
		for _, f := range got.JSON200.Faces[0].Files {
			assert.Equal(t, f.Name == step.current, f.Current, "%s after %s", f.Name, step.name)
		}
	}
	bold := s.add("bold.ttf", drawn(t, foundry.Signage()[2], font.TTF))
	got, err := s.admin.GetFamilyWithResponse(t.Context(), bold.JSON200.Family.Id)
	require.NoError(t, err)
	require.Len(t, got.JSON200.Faces, 2, "another weight is another face")
	assert.Equal(t, "Regular", got.JSON200.Faces[0].Style, "in the order of weights")
}

func TestWhatIsRefusedLeavesNothing(t *testing.T) {
	s := open(t)
	whole := drawn(t, foundry.Signage()[0], font.TTF)
	for _, test := range []struct {
		name   string
		data   []byte
		fields []string
		code   string
		says   string
	}{
		{"page.woff2", []byte("<html><title>Not found</title>"), nil, "not-a-font", "a web page saved as a font"},
		{"cut.ttf", whole[:3000], nil, "not-a-font", "runs past the end of the file"},
		{"empty.ttf", nil, nil, "not-a-font", "empty"},
		{"who.ttf", whole, []string{"client", "Nobody"}, "unknown-client", `There is no client "Nobody"`},
		{"where.ttf", whole, []string{"origin", "found"}, "bad-origin", `found`},
	} {
		r := s.add(test.name, test.data, test.fields...)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, test.code)
		assert.Contains(t, r.ApplicationproblemJSONDefault.Detail, test.says)
	}
	list, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{})
	require.NoError(t, err)
	assert.Empty(t, list.JSON200.Items)
	var found []string
	require.NoError(t, filepath.WalkDir(s.Data+"/files", func(path string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() && e.Name() != "lock" {
			found = append(found, path)
		}
		return err
	}))
	assert.Empty(t, found, "nothing was kept in the bucket, nor left beside it")
}

// TestManyAtOnce sends the same bytes and several faces of one family at the
// same time.
func TestManyAtOnce(t *testing.T) {
	s := open(t)
	type answer struct {
		r   *api.AddFileResponse
		err error
	}
	answers := make(chan answer)
	weights := foundry.Signage()
	const each = 4
	for range each {
		for _, d := range weights {
			kind, body := upload(t, d.PostScript+".ttf", drawn(t, d, font.TTF))
			go func() {
				r, err := s.admin.AddFileWithBodyWithResponse(context.Background(), kind, body)
				answers <- answer{r, err}
			}()
		}
	}
	outcomes := map[api.Outcome]int{}
	for range each * len(weights) {
		a := <-answers
		require.NoError(t, a.err)
		require.NotNil(t, a.r.JSON200, "%s", a.r.Body)
		outcomes[a.r.JSON200.Outcome]++
	}
	assert.Equal(t, map[api.Outcome]int{api.OutcomeNew: 3, api.OutcomeSame: 9}, outcomes)
	list, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.Len(t, list.JSON200.Items[0].Faces, 3)
}

func TestSearchAndPages(t *testing.T) {
	s := open(t)
	s.client("Orrery Hall")
	s.family(foundry.Display(), "client", "Orrery Hall")
	s.family(foundry.Poster())
	s.family(foundry.Signage()[0])
	names := func(q api.ListFamiliesParams) []string {
		out := []string{}
		for {
			r, err := s.admin.ListFamiliesWithResponse(t.Context(), &q)
			require.NoError(t, err)
			require.NotNil(t, r.JSON200, "%s", r.Body)
			for _, f := range r.JSON200.Items {
				out = append(out, f.Name)
			}
			if r.JSON200.Next == nil {
				return out
			}
			q.Cursor = r.JSON200.Next
		}
	}
	one := 1
	text := func(s string) *string { return &s }
	assert.Equal(t, []string{"Skerrow Sans", "Tidegarth Poster", "Umbrisk Display"}, names(api.ListFamiliesParams{Limit: &one}), "page by page")
	for q, want := range map[string][]string{
		"umbriskdisplay-rg": {"Umbrisk Display"}, "ORRERY display": {"Umbrisk Display"}, "sans light": {"Skerrow Sans"}, "100%": {}, "poster sans": {},
	} {
		assert.Equal(t, want, names(api.ListFamiliesParams{Q: text(q)}), q)
	}
	assert.Equal(t, []string{"Umbrisk Display"}, names(api.ListFamiliesParams{Client: text("Orrery Hall")}))
	bad, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{Cursor: text("!")})
	require.NoError(t, err)
	problemOf(t, bad.HTTPResponse, bad.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-cursor")
}

func TestTwoPeopleEditTheSame(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ferries := s.client("Holmvik Ferries")
	family := s.family(foundry.Signage()[0])
	l := s.license(ferries, nil, family)
	terms := api.LicenseTerms{Kind: api.KindBought, GrantedTo: ferries, Uses: []api.Use{api.UseApp, api.UseWeb}, Families: []int64{family}}
	first, err := s.admin.ChangeLicenseWithResponse(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, first.JSON200, "%s", first.Body)
	assert.Equal(t, []api.Use{api.UseApp, api.UseWeb}, first.JSON200.Uses)
	assert.Equal(t, first.JSON200.Etag, first.HTTPResponse.Header.Get("ETag"))
	second, err := s.admin.ChangeLicenseWithResponse(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, terms)
	require.NoError(t, err)
	problemOf(t, second.HTTPResponse, second.ApplicationproblemJSONDefault, http.StatusPreconditionFailed, "changed-meanwhile")
	note := "signs only"
	got, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	for i, want := range []int{http.StatusOK, http.StatusPreconditionFailed} {
		r, err := s.admin.ChangeFamilyWithResponse(ctx, family, &api.ChangeFamilyParams{IfMatch: got.JSON200.Etag}, api.FamilyChange{Note: &note})
		require.NoError(t, err)
		assert.Equal(t, want, r.StatusCode(), "change %d", i)
	}
	log, err := s.admin.ListActivityWithResponse(ctx, &api.ListActivityParams{})
	require.NoError(t, err)
	assert.Contains(t, log.JSON200.Items[1].Detail, "was: bought for Holmvik Ferries by (none), reference (none); web; always", "what it was is kept")
}

func TestLicenseTermsAreChecked(t *testing.T) {
	s := open(t)
	ferries := s.client("Holmvik Ferries")
	family := s.family(foundry.Signage()[0])
	day := func(v string) *openapi.Date {
		d, err := time.Parse(time.DateOnly, v)
		require.NoError(t, err)
		return &openapi.Date{Time: d}
	}
	good := api.LicenseTerms{Kind: api.KindBought, GrantedTo: ferries, Uses: []api.Use{api.UseWeb}, Families: []int64{family}}
	for code, spoil := range map[string]func(*api.LicenseTerms){
		"bad-kind":          func(l *api.LicenseTerms) { l.Kind = "found" },
		"unknown-client":    func(l *api.LicenseTerms) { l.GrantedTo = 999 },
		"no-use":            func(l *api.LicenseTerms) { l.Uses = nil },
		"bad-use":           func(l *api.LicenseTerms) { l.Uses = []api.Use{"billboard"} },
		"no-family":         func(l *api.LicenseTerms) { l.Families = nil },
		"unknown-family":    func(l *api.LicenseTerms) { l.Families = []int64{999} },
		"ends-before-start": func(l *api.LicenseTerms) { l.From, l.Until = day("2026-05-01"), day("2026-04-30") },
	} {
		bad := good
		spoil(&bad)
		r, err := s.admin.AddLicenseWithResponse(t.Context(), bad)
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
		assert.NotNil(t, r.ApplicationproblemJSONDefault.Field, "%s names its field", code)
	}
	list, err := s.admin.ListLicensesWithResponse(t.Context(), &api.ListLicensesParams{})
	require.NoError(t, err)
	assert.Empty(t, list.JSON200.Items)
	l := s.license(ferries, nil, family)
	s.document(l.Id)
	kind, body := upload(t, "order again.txt", []byte("Order 7"))
	again, err := s.admin.AddDocumentWithBodyWithResponse(t.Context(), l.Id, kind, body)
	require.NoError(t, err)
	problemOf(t, again.HTTPResponse, again.ApplicationproblemJSONDefault, http.StatusConflict, "same-document")
	doc, err := s.admin.GetDocumentContentWithResponse(t.Context(), 1, &api.GetDocumentContentParams{})
	require.NoError(t, err)
	assert.Equal(t, "Order 7", strings.TrimSpace(string(doc.Body)))
}

// TestCollection takes in a collection of two weights: two faces of one family,
// each to be seen and packed by itself.
func TestCollection(t *testing.T) {
	s := open(t)
	weights := foundry.Signage()
	r := s.add("Skerrow.ttc", collection(drawn(t, weights[0], font.TTF), drawn(t, weights[2], font.TTF)))
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, "A collection of 2 faces, the first of the family Skerrow Sans.", r.JSON200.Message)
	list, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	faces := list.JSON200.Items[0].Faces
	require.Len(t, faces, 2)
	to := api.WOFF2
	for i, want := range []string{"SkerrowSans-Light", "SkerrowSans-Bold"} {
		got, err := s.admin.GetFileContentWithResponse(t.Context(), faces[i].FileId, &api.GetFileContentParams{Format: &to, Place: &faces[i].Place})
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, got.StatusCode(), "%s", got.Body)
		read, err := metadata.Read(got.Body)
		require.NoError(t, err)
		assert.Equal(t, want, read[0].Names.PostScript)
	}
	none := 2
	missing, err := s.admin.GetFileContentWithResponse(t.Context(), faces[0].FileId, &api.GetFileContentParams{Format: &to, Place: &none})
	require.NoError(t, err)
	problemOf(t, missing.HTTPResponse, missing.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "no-such-face")
	plan, err := planned(t.Context(), s.admin, s.site("Signs", 1, list.JSON200.Items[0].Id), nil)
	require.NoError(t, err)
	assert.Equal(t, "fonts/skerrow-sans-bold.woff2", plan.JSON200.Files[2].Path)
}

// collection puts fonts behind one header, each with its offsets moved along.
func collection(fonts ...[]byte) []byte {
	head := []byte("ttcf\x00\x01\x00\x00")
	head = binary.BigEndian.AppendUint32(head, uint32(len(fonts)))
	at := len(head) + 4*len(fonts)
	var body []byte
	for _, f := range fonts {
		head = binary.BigEndian.AppendUint32(head, uint32(at+len(body)))
		f = bytes.Clone(f)
		for i := range int(binary.BigEndian.Uint16(f[4:])) {
			field := f[12+16*i+8:]
			binary.BigEndian.PutUint32(field, binary.BigEndian.Uint32(field)+uint32(at+len(body)))
		}
		body = append(body, f...)
	}
	return append(head, body...)
}
