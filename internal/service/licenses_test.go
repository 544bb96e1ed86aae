package service_test

import (
	"archive/zip"
	"bytes"
	"database/sql"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/fakes/mailbox"
	"sparecrate/internal/mail"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

func inDays(n int) *openapi.Date {
	return &openapi.Date{Time: time.Now().UTC().AddDate(0, 0, n).Truncate(24 * time.Hour)}
}

// months before this one, as page views name them.
func monthsAgo(n int) string {
	now := time.Now().UTC()
	return time.Date(now.Year(), now.Month()-time.Month(n), 1, 0, 0, 0, 0, time.UTC).Format("2006-01")
}

func (s *studio) verdict(family int64, q api.GetVerdictParams) *api.Verdict {
	s.t.Helper()
	r, err := s.admin.GetVerdictWithResponse(s.t.Context(), family, &q)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200
}

func codes(v *api.Verdict) string {
	var out []string
	for _, r := range v.Reasons {
		out = append(out, r.Code)
	}
	return strings.Join(out, " ")
}

func TestWhatALicenseIsLimitedTo(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ferries := s.client("Holmvik Ferries")
	family := s.family(foundry.Signage()[0], "client", "Holmvik Ferries")
	for _, d := range foundry.Signage()[1:] {
		s.family(d, "client", "Holmvik Ferries")
	}
	f, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	faces := f.JSON200.Faces
	five, none, price, euro := int64(5), int64(-1), int64(18_000), "EUR"
	good := api.LicenseTerms{Kind: api.KindBought, GrantedTo: ferries, Uses: []api.Use{api.UseWeb}, Families: []int64{family}}
	for code, spoil := range map[string]func(*api.LicenseTerms){
		"limit-without-use": func(l *api.LicenseTerms) { l.Seats = &five },
		"bad-limit":         func(l *api.LicenseTerms) { l.PageViews = &none },
		"bad-domain":        func(l *api.LicenseTerms) { l.Domains = &[]string{"not a domain"} },
		"unknown-face":      func(l *api.LicenseTerms) { l.Faces = &[]int64{999} },
		"not-open":          func(l *api.LicenseTerms) { l.Spdx = new("MIT") },
		"nothing-to-renew":  func(l *api.LicenseTerms) { r := api.RenewalByHand; l.Renewal = &r },
		"bad-renewal":       func(l *api.LicenseTerms) { r := api.Renewal("never"); l.Renewal = &r },
		"bad-currency":      func(l *api.LicenseTerms) { l.Price, l.Currency = &price, new("Euro") },
	} {
		bad := good
		spoil(&bad)
		r, err := s.admin.AddLicenseWithResponse(ctx, bad)
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
		assert.NotNil(t, r.ApplicationproblemJSONDefault.Field, code)
	}

	good.Domains, good.Faces = &[]string{"https://Holmvik.example/times", "holmvik.example"}, &[]int64{faces[0].Id}
	good.Price, good.Currency, good.PageViews = &price, &euro, new(int64(1000))
	added, err := s.admin.AddLicenseWithResponse(ctx, good)
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	l := added.JSON201
	assert.Equal(t, []string{"holmvik.example"}, l.Domains, "an address was pasted, twice")
	s.document(l.Id)

	// The license covers one face, on its domain.
	site := s.site("Timetable", ferries, family)
	q := api.GetVerdictParams{Site: &site}
	assert.Equal(t, api.Review, s.verdict(family, q).State)
	assert.Contains(t, codes(s.verdict(family, q)), "other-faces")
	q.Face = &faces[0].Id
	for _, on := range []struct{ domain, codes string }{{"", "licensed domain-not-known"}, {"orrery.example", "other-domain"}, {"times.holmvik.example", "licensed"}} {
		got, err := s.admin.GetSiteWithResponse(ctx, site)
		require.NoError(t, err)
		_, err = s.admin.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: got.JSON200.Etag}, api.SiteTerms{Name: "Timetable", Client: ferries, Builder: "self-hosted", Domains: &[]string{on.domain}})
		require.NoError(t, err)
		assert.Equal(t, on.codes, codes(s.verdict(family, q)), on.domain)
	}
	v := s.verdict(family, q)
	assert.Equal(t, api.Cleared, v.State)
	assert.True(t, v.MayGoOut)
	assert.Equal(t, &l.Id, v.Reasons[0].License, "it points at the license")
	shown, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	assert.Equal(t, api.Review, shown.JSON200.Verdict.State)
	assert.Equal(t, []api.VerdictState{api.Cleared, api.Review, api.Review}, []api.VerdictState{shown.JSON200.Faces[0].Verdict, shown.JSON200.Faces[1].Verdict, shown.JSON200.Faces[2].Verdict})
	for _, change := range []struct {
		q     api.GetVerdictParams
		state api.VerdictState
		codes string
	}{
		{api.GetVerdictParams{Site: &site, Face: q.Face, Change: &[]api.GetVerdictParamsChange{api.ChangeSubset}}, api.Review, "licensed change-not-said"},
		{api.GetVerdictParams{Site: &site, Face: q.Face, Use: new(api.UseApp)}, api.Review, "other-use"},
		{api.GetVerdictParams{Client: new(int64(1)), Face: q.Face}, api.Review, "other-client"},
	} {
		v := s.verdict(family, change.q)
		assert.Equal(t, change.state, v.State)
		assert.Equal(t, change.codes, codes(v))
	}
	for code, bad := range map[string]api.GetVerdictParams{
		"bad-use": {Use: new(api.Use("billboard"))}, "unknown-face": {Face: new(int64(999))}, "other-client": {Site: &site, Client: new(int64(1))},
		"bad-change": {Change: &[]api.GetVerdictParamsChange{"weight"}},
	} {
		r, err := s.admin.GetVerdictWithResponse(ctx, family, &bad)
		require.NoError(t, err)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}

	// What it was stays to be seen, also of a license from before versions were kept.
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	var unweighed int
	require.NoError(t, db.QueryRowContext(ctx, "SELECT COUNT(*) FROM faces WHERE bearing = 0 OR full_name = ''").Scan(&unweighed))
	assert.Zero(t, unweighed, "what verdicts need is kept when a face comes in")
	_, err = db.ExecContext(ctx, "DELETE FROM license_versions")
	require.NoError(t, err)
	good.Faces, good.Until = &[]int64{}, inDays(400)
	changed, err := s.admin.ChangeLicenseWithResponse(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, good)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	versions, err := s.admin.ListLicenseVersionsWithResponse(ctx, l.Id)
	require.NoError(t, err)
	require.Len(t, versions.JSON200.Items, 2)
	assert.Equal(t, []api.FieldChange{{Field: "until", From: "", To: inDays(400).String()}, {Field: "faces", From: "Skerrow Sans Light", To: ""}}, versions.JSON200.Items[0].Changed)
	assert.Contains(t, versions.JSON200.Items[1].Terms, "price: 180.00 EUR")
}

func TestSeatsAppsAndTemplates(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	family := s.family(foundry.Signage()[0])
	two := int64(2)
	added, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseDesktop}, Seats: &two, Families: []int64{family}})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	id := added.JSON201.Id
	s.document(id)
	desktop := api.GetVerdictParams{Use: new(api.UseDesktop)}
	give := func(name string, m api.Measure) *api.AddAllocationResponse {
		r, err := s.admin.AddAllocationWithResponse(ctx, id, api.NewAllocation{Measure: m, Name: name})
		require.NoError(t, err)
		return r
	}
	for i, want := range []string{"licensed", "licensed near-limit", "over-limit"} {
		require.NotNil(t, give(fmt.Sprintf("Person %d", i), api.MeasureSeats).JSON201)
		assert.Equal(t, want, codes(s.verdict(family, desktop)))
	}
	assert.Equal(t, "name-taken", give("Person 1", api.MeasureSeats).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "limit-without-use", give("An app", api.MeasureApps).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "bad-measure", give("A page", api.MeasurePageViews).ApplicationproblemJSONDefault.Code)
	l, err := s.admin.GetLicenseWithResponse(ctx, id)
	require.NoError(t, err)
	taken, err := s.admin.RemoveAllocationWithResponse(ctx, id, l.JSON200.Allocations[0].Id)
	require.NoError(t, err)
	assert.Equal(t, int64(2), taken.JSON200.Limits[0].Used)
	again, err := s.admin.RemoveAllocationWithResponse(ctx, id, l.JSON200.Allocations[0].Id)
	require.NoError(t, err)
	assert.Equal(t, "not-found", again.ApplicationproblemJSONDefault.Code)

	kind, months := api.KindBought, 12
	for _, seats := range []int64{5, 8} { // the second takes the place of the first
		saved, err := s.admin.SaveTemplateWithResponse(ctx, api.NewTemplate{Name: "Desks", Terms: api.TemplateTerms{Kind: &kind, Uses: &[]api.Use{api.UseDesktop}, Months: &months, Seats: &seats}})
		require.NoError(t, err)
		require.NotNil(t, saved.JSON201, "%s", saved.Body)
	}
	all, err := s.admin.ListTemplatesWithResponse(ctx)
	require.NoError(t, err)
	require.Len(t, all.JSON200.Items, 1)
	assert.Equal(t, int64(8), *all.JSON200.Items[0].Terms.Seats)
	bad, err := s.admin.SaveTemplateWithResponse(ctx, api.NewTemplate{Name: "x", Terms: api.TemplateTerms{Uses: &[]api.Use{"billboard"}}})
	require.NoError(t, err)
	refusedFor(t, "bad-use", bad.ApplicationproblemJSONDefault.Code)
	dropped, err := s.admin.DeleteTemplateWithResponse(ctx, all.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, dropped.StatusCode())
}

const openText = "Copyright 2026 Ines Halloran, with Reserved Font Name \"Skerrow Sans\".\n\nThis Font Software is licensed under the SIL Open Font License, Version 1.1.\n"

// TestOpenLicensesAreConfirmed takes in a zip with a license text beside its fonts,
// and one with a readme that warns.
func TestOpenLicensesAreConfirmed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	pack := func(files map[string][]byte) []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		for name, data := range files {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = w.Write(data)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return out.Bytes()
	}
	build := func(d *foundry.Design) []byte {
		d.License, d.LicenseURL, d.FsType = "", "", 0
		data, err := foundry.Build(d, font.TTF)
		require.NoError(t, err)
		return data
	}
	opened, err := s.admin.StartImportWithResponse(ctx, api.NewImport{})
	require.NoError(t, err)
	id := opened.JSON201.Id
	for name, data := range map[string][]byte{
		"open.zip":   pack(map[string][]byte{"a/skerrow.ttf": build(foundry.Signage()[0]), "a/OFL.txt": []byte(openText)}),
		"poster.zip": pack(map[string][]byte{"b/tidegarth.ttf": build(foundry.Poster()), "b/read me.html": []byte("<!doctype html><p>Hello!</p><p>Nur für den privaten Gebrauch.</p>"), "b/license.txt": []byte("Hello!\nNur für den privaten Gebrauch.\n")}),
	} {
		kind, body := upload(t, name, data)
		r, err := s.admin.AddImportItemWithBodyWithResponse(ctx, id, kind, body)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	deliver(t, s, id)
	list, err := s.admin.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	require.NoError(t, err)
	families := map[string]int64{}
	for _, f := range list.JSON200.Items {
		families[f.Name] = f.Id
	}
	sans, poster := families["Skerrow Sans"], families["Tidegarth Poster"]
	require.NotZero(t, sans)
	require.NotZero(t, poster)

	said, err := s.admin.ListProposalsWithResponse(ctx, sans)
	require.NoError(t, err)
	require.Len(t, said.JSON200.Items, 1)
	p := said.JSON200.Items[0]
	assert.Equal(t, "OFL-1.1", p.Spdx)
	assert.Equal(t, []string{"Skerrow Sans"}, p.Reserved)
	assert.Equal(t, "OFL.txt, line 3", p.Findings[0].Source)
	assert.Contains(t, p.Findings[0].Quote, "SIL Open Font License, Version 1.1")
	assert.Empty(t, said.JSON200.Warnings)
	assert.Equal(t, "open-unconfirmed", codes(s.verdict(sans, api.GetVerdictParams{})))
	wrong, err := s.admin.ConfirmProposalWithResponse(ctx, sans, api.Confirmation{Spdx: "MIT"})
	require.NoError(t, err)
	assert.Equal(t, "not-proposed", wrong.ApplicationproblemJSONDefault.Code)
	confirmed, err := s.admin.ConfirmProposalWithResponse(ctx, sans, api.Confirmation{Spdx: "OFL-1.1"})
	require.NoError(t, err)
	require.NotNil(t, confirmed.JSON201, "%s", confirmed.Body)
	assert.Equal(t, "OFL.txt", confirmed.JSON201.Documents[0].Name, "the document that says so proves it")
	twice, err := s.admin.ConfirmProposalWithResponse(ctx, sans, api.Confirmation{Spdx: "OFL-1.1"})
	require.NoError(t, err)
	assert.Equal(t, "confirmed-already", twice.ApplicationproblemJSONDefault.Code)
	// Now every client may use it; changed, it may not keep its name.
	other := s.client("Orrery Hall")
	assert.Equal(t, api.Cleared, s.verdict(sans, api.GetVerdictParams{Client: &other}).State)
	assert.Equal(t, "licensed reserved-name", codes(s.verdict(sans, api.GetVerdictParams{Change: &[]api.GetVerdictParamsChange{api.ChangeSubset}})))
	assert.Equal(t, api.Cleared, s.verdict(sans, api.GetVerdictParams{Change: &[]api.GetVerdictParamsChange{api.ChangeSubset, api.ChangeName}}).State)

	warned, err := s.admin.ListProposalsWithResponse(ctx, poster)
	require.NoError(t, err)
	require.NotEmpty(t, warned.JSON200.Warnings)
	assert.Equal(t, "license.txt, line 2", warned.JSON200.Warnings[0].Source)
	assert.Equal(t, "Nur für den privaten Gebrauch", *warned.JSON200.Warnings[0].Phrase)
	v := s.verdict(poster, api.GetVerdictParams{})
	assert.Equal(t, api.Blocked, v.State)
	assert.Equal(t, "personal-use", codes(v))
}

// deliver takes in all of a import.
func deliver(t *testing.T, s *studio, id int64) {
	t.Helper()
	wait := func(done func(d *api.Import) bool) {
		require.Eventually(t, func() bool {
			d, err := s.admin.GetImportWithResponse(t.Context(), id)
			return err == nil && d.JSON200 != nil && done(d.JSON200)
		}, time.Minute, 50*time.Millisecond)
	}
	wait(func(d *api.Import) bool { return d.Unpacking == 0 })
	r, err := s.admin.AcceptImportWithResponse(t.Context(), id)
	require.NoError(t, err)
	require.NotNil(t, r.JSON202, "%s", r.Body)
	wait(func(d *api.Import) bool { return d.State == api.ImportFinished })
}

// aPDF writes a PDF of one page with lines of text (ISO 32000-1, section 7.5).
func aPDF(lines ...string) []byte {
	var stream strings.Builder
	stream.WriteString("BT /F1 12 Tf 14 TL 72 720 Td\n")
	for _, l := range lines {
		fmt.Fprintf(&stream, "(%s) Tj T*\n", l)
	}
	stream.WriteString("ET")
	objects := []string{
		"<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
		fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", stream.Len(), stream.String()),
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
	}
	var out bytes.Buffer
	out.WriteString("%PDF-1.4\n")
	var at []int
	for i, o := range objects {
		at = append(at, out.Len())
		fmt.Fprintf(&out, "%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	start := out.Len()
	fmt.Fprintf(&out, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, a := range at {
		fmt.Fprintf(&out, "%010d 00000 n \n", a)
	}
	fmt.Fprintf(&out, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, start)
	return out.Bytes()
}

func TestDocumentsAreFoundByTheirText(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	l := s.license(1, nil, s.family(foundry.Signage()[0]))
	for name, data := range map[string][]byte{
		"order.pdf": aPDF("Order N-90771", "Web fonts for the observatory"), "letter.txt": []byte("Dear Ines,\nthe observatory may use it for exhibitions.\n"),
		"page.html": []byte("<!doctype html><script>steal()</script><p>observatory terms</p>"), "scan.png": []byte("\x89PNG\r\n\x1a\n scan"), "broken.pdf": []byte("%PDF-1.4\nnonsense"),
	} {
		kind, body := upload(t, name, data)
		r, err := s.admin.AddDocumentWithBodyWithResponse(ctx, l.Id, kind, body)
		require.NoError(t, err)
		require.NotNil(t, r.JSON201, "%s: %s", name, r.Body)
	}
	find := func(q string) map[string]api.DocumentHit {
		r, err := s.Client(t, api.RoleViewer).FindDocumentsWithResponse(ctx, &api.FindDocumentsParams{Q: q})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		out := map[string]api.DocumentHit{}
		for _, d := range r.JSON200.Items {
			out[d.Name] = d
		}
		return out
	}
	hits := find("observatory")
	assert.Len(t, hits, 3)
	assert.Contains(t, hits["order.pdf"].Quote, "Web fonts for the observatory")
	assert.NotContains(t, hits["page.html"].Quote, "steal")
	assert.Equal(t, l.Id, *hits["order.pdf"].License)
	assert.Contains(t, find("N-90771"), "order.pdf")
	assert.Len(t, find("exhibit observ"), 1, "every word, or its beginning")
	assert.Contains(t, find("scan"), "scan.png", "by its name")
	assert.Empty(t, find("planetarium"))
	empty, err := s.admin.FindDocumentsWithResponse(ctx, &api.FindDocumentsParams{Q: " "})
	require.NoError(t, err)
	assert.Equal(t, "missing-value", empty.ApplicationproblemJSONDefault.Code)

	// What could run a script is only saved; the rest may be looked at.
	for name, want := range map[string]string{"order.pdf": "application/pdf", "letter.txt": "text/plain; charset=utf-8", "scan.png": "image/png", "page.html": "application/octet-stream"} {
		all := find(strings.SplitN(name, ".", 2)[0])
		r, err := s.admin.GetDocumentContentWithResponse(ctx, all[name].Id, &api.GetDocumentContentParams{Inline: new(true)})
		require.NoError(t, err)
		assert.Equal(t, want, r.HTTPResponse.Header.Get("Content-Type"), name)
		assert.Equal(t, want == "application/octet-stream", strings.HasPrefix(r.HTTPResponse.Header.Get("Content-Disposition"), "attachment"), name)
	}
}

func TestPageViews(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ferries := s.client("Holmvik Ferries")
	family := s.family(foundry.Signage()[0])
	site, second := s.site("Timetable", ferries, family), s.site("Crew pages", ferries, family)
	limit := int64(10_000)
	added, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: ferries, Uses: []api.Use{api.UseWeb}, PageViews: &limit, Families: []int64{family}})
	require.NoError(t, err)
	s.document(added.JSON201.Id)
	enter := func(site int64, counts ...int64) *api.SetViewsResponse {
		in := api.NewViews{}
		for i, n := range counts {
			in.Items = append(in.Items, api.MonthViews{Month: monthsAgo(len(counts) - i), Views: n})
		}
		r, err := s.admin.SetViewsWithResponse(ctx, site, in)
		require.NoError(t, err)
		return r
	}
	v := enter(site, 5000, 5500, 6000, 6500)
	require.NotNil(t, v.JSON200, "%s", v.Body)
	require.Len(t, v.JSON200.Limits, 1)
	assert.Equal(t, int64(500), v.JSON200.Limits[0].Trend)
	assert.Equal(t, monthsAgo(-7), *v.JSON200.Limits[0].Reached, "6,500 and eight times 500, from last month on")
	assert.Equal(t, "licensed", codes(s.verdict(family, api.GetVerdictParams{Site: &site})))
	// The second site counts against the same license.
	require.NotNil(t, enter(second, 1800).JSON200)
	assert.Equal(t, "licensed near-limit", codes(s.verdict(family, api.GetVerdictParams{Site: &site})))
	require.NotNil(t, enter(second, 4000).JSON200)
	over := s.verdict(family, api.GetVerdictParams{Site: &site})
	assert.Equal(t, api.Blocked, over.State)
	assert.Contains(t, over.Reasons[0].Message, "10,500 of 10,000 page views in "+monthsAgo(1))
	refused, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	assert.Equal(t, "not-clear", refused.ApplicationproblemJSONDefault.Code)
	page, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	assert.Equal(t, int64(10_500), page.JSON200.Licenses[0].Limits[0].Used)
	assert.LessOrEqual(t, s.statementsOf("/api/v1/families/1"), 6, "the page of a family just changed, limits and all")

	load := func(text string) *api.ImportViewsResponse {
		kind, body := upload(t, "views.csv", []byte(text))
		r, err := s.admin.ImportViewsWithBodyWithResponse(ctx, second, kind, body)
		require.NoError(t, err)
		return r
	}
	m := monthsAgo(1)
	for text, want := range map[string]int64{
		"Month,Page views\r\n" + m + ",\"1,234\"\r\n":                                            1234,
		"\ufeffTag;Seitenaufrufe\n" + m + "-01;1.000\n" + m + "-02;500\nTotal;1.500\n":           1500,
		"Day,Visitors,Unique page views,Page views\n" + m + "-01,10,30,41\n" + m + "-02,5,6,9\n": 50,
		"Datum;Besucher;Aufrufe\n01." + m[5:] + "." + m[:4] + ";7;21\n":                          21,
		"Report of the week\n\nPath\tDate\tViews\n/\t" + m + "-03\t70\n/a\t" + m + "-03\t30":     100,
	} {
		r := load(text)
		require.NotNil(t, r.JSON200, "%s: %s", text, r.Body)
		last := r.JSON200.Months[len(r.JSON200.Months)-1]
		assert.Equal(t, want, last.Views, text)
		assert.Equal(t, api.ViewsImported, *last.Source)
	}
	for text, code := range map[string]string{
		"": "no-months", "just words\nand more": "no-months", "Month,Views\n" + m + ",many\n": "no-months", "Month,Views\n" + m + ",5\nsoon,6\n": "bad-month",
		"Month,Views\n" + m + ",5\n" + m + ",many\n": "bad-count", "Month,Views\n2199-01,5\n": "month-to-come",
		"Month,Visitors,Clicks\n" + m + ",5,6\n": "which-column", m + ",5,6\n": "which-column",
	} {
		r := load(text)
		require.NotNil(t, r.ApplicationproblemJSONDefault, "%q: %s", text, r.Body)
		assert.Equal(t, code, r.ApplicationproblemJSONDefault.Code, text)
	}
	for _, bad := range []api.NewViews{{}, {Items: []api.MonthViews{{Month: "2026-13", Views: 1}}}, {Items: []api.MonthViews{{Month: m, Views: -1}}}} {
		r, err := s.admin.SetViewsWithResponse(ctx, site, bad)
		require.NoError(t, err)
		assert.Equal(t, http.StatusUnprocessableEntity, r.StatusCode())
	}
	got, err := s.admin.GetViewsWithResponse(ctx, second)
	require.NoError(t, err)
	assert.Len(t, got.JSON200.Months, 1, "nothing of a file that was refused stays")
	log, err := s.admin.ListActivityWithResponse(ctx, &api.ListActivityParams{})
	require.NoError(t, err)
	assert.Contains(t, log.JSON200.Items[0].Detail, "(was ", "what was counted before is kept")
}

// TestSignOffsEnd follows a sign-off of a blocked family over every way out: packs
// built and downloaded, and the page of a link.
func TestSignOffsEnd(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	seeds := s.client("Saltmarsh Seed Exchange")
	poster := s.family(foundry.Poster(), "client", "Saltmarsh Seed Exchange")
	site := s.site("Almanac", seeds, poster)
	sign := func(until *openapi.Date) *api.AddSignOffResponse {
		r, err := s.admin.AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: poster, Reason: "By letter of 3 May", Until: until})
		require.NoError(t, err)
		return r
	}
	assert.Equal(t, "day-past", sign(inDays(-1)).ApplicationproblemJSONDefault.Code)
	signed := sign(inDays(20))
	require.NotNil(t, signed.JSON201, "%s", signed.Body)
	o := signed.JSON201.Families[0].SignOff
	require.NotNil(t, o)
	v := s.verdict(poster, api.GetVerdictParams{Site: &site})
	assert.Equal(t, api.Blocked, v.State)
	assert.True(t, v.MayGoOut)
	built, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	download := func(role api.Role) *api.GetPackContentResponse {
		r, err := s.Client(t, role).GetPackContentWithResponse(ctx, built.JSON201.Id)
		require.NoError(t, err)
		return r
	}
	manifest := read(t, download(api.RoleAdmin).Body, "manifest.json")
	assert.Contains(t, manifest, `"until": "`+inDays(20).String()+`"`)
	assert.Contains(t, manifest, "By letter of 3 May")

	// It is for this site alone: a link for the client shows pictures.
	list, err := s.admin.AddShortlistWithResponse(ctx, api.NewShortlist{Name: "Posters", Client: new("Saltmarsh Seed Exchange"), Families: &[]int64{poster}})
	require.NoError(t, err)
	share, err := s.admin.ShareShortlistWithResponse(ctx, list.JSON201.Id, api.NewShare{})
	require.NoError(t, err)
	_, _, page := fetchLook(t, s.Address+share.JSON201.Path)
	assert.NotContains(t, page, "@font-face")
	f, err := s.admin.GetFamilyWithResponse(ctx, poster)
	require.NoError(t, err)
	status, _, _ := fetchLook(t, fmt.Sprintf("%s%s/%d/font.woff2", s.Address, share.JSON201.Path, f.JSON200.Faces[0].Id))
	assert.Equal(t, http.StatusNotFound, status)

	held, err := s.admin.ListSignOffsWithResponse(ctx, &api.ListSignOffsParams{Site: &site})
	require.NoError(t, err)
	assert.Equal(t, 1, held.JSON200.Holding)
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	standing := func() api.SignOffState {
		r, err := s.Client(t, api.RoleViewer).ListSignOffsWithResponse(ctx, &api.ListSignOffsParams{})
		require.NoError(t, err)
		return r.JSON200.Items[0].Standing
	}
	assert.Equal(t, api.SignOffHolds, standing())
	_, err = db.ExecContext(ctx, "UPDATE sign_offs SET ends = CURDATE() - INTERVAL 2 DAY")
	require.NoError(t, err)
	assert.Equal(t, api.SignOffEnded, standing())
	assert.Equal(t, http.StatusForbidden, download(api.RoleViewer).StatusCode(), "viewers get no fonts")
	for _, role := range []api.Role{api.RoleEditor, api.RoleAdmin} {
		assert.Equal(t, http.StatusConflict, download(role).StatusCode(), "%s", role)
	}
	require.NotNil(t, sign(nil).JSON201)
	assert.Equal(t, http.StatusOK, download(api.RoleEditor).StatusCode())
	held, err = s.admin.ListSignOffsWithResponse(ctx, &api.ListSignOffsParams{State: new(api.SignOffHolds)})
	require.NoError(t, err)
	require.Len(t, held.JSON200.Items, 1)
	lower, err := s.Client(t, api.RoleEditor).RevokeSignOffWithResponse(ctx, held.JSON200.Items[0].Id)
	require.NoError(t, err)
	problemOf(t, lower.HTTPResponse, lower.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	withdrawn, err := s.admin.RevokeSignOffWithResponse(ctx, held.JSON200.Items[0].Id)
	require.NoError(t, err)
	require.NotNil(t, withdrawn.JSON200, "%s", withdrawn.Body)
	again, err := s.admin.RevokeSignOffWithResponse(ctx, held.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Equal(t, "revoked-already", again.ApplicationproblemJSONDefault.Code)
	assert.Equal(t, http.StatusForbidden, download(api.RoleViewer).StatusCode(), "viewers get no fonts")
	for _, role := range []api.Role{api.RoleEditor, api.RoleAdmin} {
		assert.Equal(t, http.StatusConflict, download(role).StatusCode(), "%s", role)
	}
	// Recorded as ended, the family has other reasons against it: an old sign-off is overtaken.
	require.NotNil(t, sign(nil).JSON201)
	s.license(seeds, inDays(-3), poster)
	assert.Equal(t, api.SignOffOvertaken, standing())
}

// read returns a file of a zip.
func read(t *testing.T, data []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	r, err := z.Open(name)
	require.NoError(t, err)
	b, err := io.ReadAll(r)
	require.NoError(t, err)
	return string(b)
}

func TestTheDueList(t *testing.T) {
	post, err := mailbox.Start()
	require.NoError(t, err)
	defer post.Close()
	s := servicetest.Start(t, servicetest.Demo, func(o *service.Options) {
		o.Mail = mail.Config{Server: post.Address, From: "crate@lanternjaw.example", Plain: true}
		o.Address = "https://fonts.lanternjaw.example/"
	})
	ctx := t.Context()
	c := s.Client(t, api.RoleAdmin)
	due := func(q api.ListDueParams) *api.DueList {
		r, err := c.ListDueWithResponse(ctx, &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	kinds := func(d *api.DueList) string {
		var out []string
		for _, i := range d.Items {
			out = append(out, string(i.Kind))
		}
		return strings.Join(out, " ")
	}
	assert.Equal(t, "blocked license-ends near-limit unknown-origin unlicensed", kinds(due(api.ListDueParams{})))
	assert.NotContains(t, kinds(due(api.ListDueParams{Within: new(10)})), "license-ends")
	orrery := int64(3)
	assert.Equal(t, "license-ends near-limit", kinds(due(api.ListDueParams{Client: &orrery})))
	bad, err := c.ListDueWithResponse(ctx, &api.ListDueParams{Within: new(0)})
	require.NoError(t, err)
	refusedFor(t, "bad-days", bad.ApplicationproblemJSONDefault.Code)

	// The planetarium's license ends, and a sign-off is given for some days.
	l, err := c.GetLicenseWithResponse(ctx, 2)
	require.NoError(t, err)
	t2 := api.LicenseTerms{Kind: l.JSON200.Kind, GrantedTo: orrery, Uses: l.JSON200.Uses, From: l.JSON200.From, Until: inDays(-3), PageViews: l.JSON200.PageViews, Families: []int64{l.JSON200.Families[0].Id}}
	changed, err := c.ChangeLicenseWithResponse(ctx, 2, &api.ChangeLicenseParams{IfMatch: l.JSON200.Etag}, t2)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	d := due(api.ListDueParams{Client: &orrery})
	assert.Equal(t, "license-ended blocked", kinds(d))
	assert.Equal(t, -3, *d.Items[0].Days)
	assert.Equal(t, "Orrery Hall visitor site", d.Items[0].Sites[0].Name)
	signed, err := c.AddSignOffWithResponse(ctx, 2, api.NewSignOff{Family: 2, Reason: "Being renewed", Until: inDays(5)})
	require.NoError(t, err)
	require.NotNil(t, signed.JSON201, "%s", signed.Body)
	d = due(api.ListDueParams{Client: &orrery})
	assert.Equal(t, "license-ended sign-off-ends", kinds(d))
	assert.Contains(t, d.Items[1].Message, "Then it is blocked again.")
	end, err := c.EndLicenseWithResponse(ctx, 1)
	require.NoError(t, err)
	require.Len(t, end.JSON200.Families[0].Sites, 2)
	assert.Equal(t, "Holmvik members' pages", end.JSON200.Families[0].Sites[0].Site.Name)
	assert.Equal(t, "Holmvik timetable", end.JSON200.Families[0].Sites[1].Site.Name)
	require.Len(t, end.JSON200.Families[0].Sites[1].Packs, 1)
	assert.Equal(t, "Holmvik timetable app", end.JSON200.Families[1].Sites[0].Site.Name)

	// As a calendar.
	feed, err := c.AddFeedWithResponse(ctx)
	require.NoError(t, err)
	require.NotNil(t, feed.JSON201, "%s", feed.Body)
	status, header, calendar := fetchLook(t, s.Address+feed.JSON201.Path)
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "text/calendar; charset=utf-8", header.Get("Content-Type"))
	whole := strings.ReplaceAll(calendar, "\r\n ", "")
	assert.Contains(t, whole, "SUMMARY:Sign-off ends: Umbrisk Display\\, Orrery Hall\r\n")
	assert.Contains(t, whole, "DTSTART;VALUE=DATE:"+inDays(5).Format("20060102")+"\r\n")
	assert.Contains(t, whole, "SUMMARY:License ended: Umbrisk Display\\, Orrery Hall\r\n")
	feeds, err := c.ListFeedsWithResponse(ctx)
	require.NoError(t, err)
	assert.NotNil(t, feeds.JSON200.Items[0].ReadAt)
	other, err := s.Client(t, api.RoleEditor).RevokeFeedWithResponse(ctx, feed.JSON201.Feed.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, other.StatusCode(), "somebody else's")
	gone, err := c.RevokeFeedWithResponse(ctx, feed.JSON201.Feed.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, gone.StatusCode())
	status, _, _ = fetchLook(t, s.Address+feed.JSON201.Path)
	assert.Equal(t, http.StatusNotFound, status)

	// By e-mail: once a week to who asked, again where it was not taken.
	require.NoError(t, s.Crate.Reports.MailWeekly(ctx))
	assert.Empty(t, post.Letters(), "nobody asked")
	weekly, err := c.SetWeeklyWithResponse(ctx, api.SetWeeklyJSONRequestBody{Weekly: true})
	require.NoError(t, err)
	assert.True(t, weekly.JSON200.Weekly)
	post.Refuse(true)
	require.Error(t, s.Crate.Reports.MailWeekly(ctx))
	refused, err := c.SendDueWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, "mail-refused", refused.ApplicationproblemJSONDefault.Code)
	post.Refuse(false)
	require.NoError(t, s.Crate.Reports.MailWeekly(ctx))
	require.NoError(t, s.Crate.Reports.MailWeekly(ctx))
	letters := post.Letters()
	require.Len(t, letters, 1, "once a week")
	assert.Equal(t, "ines@lanternjaw.example", letters[0].To)
	assert.Regexp(t, `^Fonts: \d due, \d blocked$`, letters[0].Subject)
	assert.Contains(t, letters[0].Text, "BLOCKED\n\n- ")
	assert.Contains(t, letters[0].Text, "Act on it: https://fonts.lanternjaw.example/\n")
	now, err := c.SendDueWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, now.StatusCode())
	assert.Len(t, post.Letters(), 2)
}

func TestWithoutAMailServer(t *testing.T) {
	s := open(t)
	for _, ask := range []func() (*api.Problem, error){
		func() (*api.Problem, error) {
			r, err := s.admin.SetWeeklyWithResponse(t.Context(), api.SetWeeklyJSONRequestBody{Weekly: true})
			return r.ApplicationproblemJSONDefault, err
		},
		func() (*api.Problem, error) {
			r, err := s.admin.SendDueWithResponse(t.Context())
			return r.ApplicationproblemJSONDefault, err
		},
	} {
		p, err := ask()
		require.NoError(t, err)
		require.NotNil(t, p)
		assert.Equal(t, "no-mail-server", p.Code)
	}
	require.NoError(t, s.Crate.Reports.MailWeekly(t.Context()))
}

func TestTheRegister(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := t.Context()
	c := s.Client(t, api.RoleViewer)
	all, err := c.GetRegisterWithResponse(ctx, &api.GetRegisterParams{})
	require.NoError(t, err)
	rows := map[string]api.RegisterRow{}
	for _, r := range all.JSON200.Items {
		rows[r.Family.Name] = r
	}
	assert.Equal(t, api.Blocked, rows["Tidegarth Poster"].Verdict)
	assert.Contains(t, rows["Tidegarth Poster"].Missing, "Nobody knows where it came from.")
	assert.Contains(t, rows["Umbrisk Display"].Licenses[0], "page views a month: 50,000")
	assert.Contains(t, rows["Umbrisk Display"].Evidence[0], "order N-88213.txt (license 2, SHA-256 ")
	assert.Equal(t, []string{"Growers' almanac: The only license is for Holmvik Ferries, not for Saltmarsh Seed Exchange."}, rows["Skerrow Sans"].Missing)
	ferries := int64(2)
	own, err := c.GetRegisterWithResponse(ctx, &api.GetRegisterParams{Client: &ferries})
	require.NoError(t, err)
	for _, r := range own.JSON200.Items {
		assert.Equal(t, api.Cleared, r.Verdict, "only its own sites count: %s", r.Family.Name)
	}

	file := func(format api.GetRegisterFileParamsFormat) []byte {
		r, err := c.GetRegisterFileWithResponse(ctx, &api.GetRegisterFileParams{Format: format})
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, r.StatusCode(), "%s", r.Body)
		assert.Contains(t, r.HTTPResponse.Header.Get("Content-Disposition"), "license-register-")
		return r.Body
	}
	table, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(file(api.RegisterCSV), []byte("\ufeff")))).ReadAll()
	require.NoError(t, err)
	require.Len(t, table, 5)
	book, err := excelize.OpenReader(bytes.NewReader(file(api.RegisterXLSX)))
	require.NoError(t, err)
	sheet, err := book.GetRows("Register")
	require.NoError(t, err)
	require.Len(t, sheet, 5)
	assert.Equal(t, table[0], sheet[0])
	assert.Equal(t, "Umbrisk Display", sheet[4][0])
	bad, err := c.GetRegisterFileWithResponse(ctx, &api.GetRegisterFileParams{Format: "doc"})
	require.NoError(t, err)
	refusedFor(t, "bad-format", bad.ApplicationproblemJSONDefault.Code)
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/register/print", "").StatusCode)
	printed := request(t, http.DefaultClient, "GET", s.Address+"/register/print", "", "Authorization", "Bearer "+s.As(api.RoleViewer).Token)
	assert.Equal(t, http.StatusOK, printed.StatusCode)
}

// TestLiveStylesheets loads a page of another site with a live stylesheet in the browser, counts
// its views, and has what may no longer go out stop it.
func TestLiveStylesheets(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	seeds := s.client("Saltmarsh Seed Exchange")
	poster := s.family(foundry.Poster(), "client", "Saltmarsh Seed Exchange")
	site := s.site("Almanac", seeds, poster)
	for _, role := range []api.Role{api.RoleViewer, api.RoleEditor, api.RoleAdmin} {
		r, err := s.Client(t, role).AddLiveStylesheetWithResponse(ctx, site)
		require.NoError(t, err)
		want := map[api.Role]string{api.RoleViewer: "role-too-low"}[role]
		if want == "" {
			want = "not-clear"
		}
		assert.Equal(t, want, r.ApplicationproblemJSONDefault.Code, "%s", role)
	}
	signed, err := s.admin.AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: poster, Reason: "By letter"})
	require.NoError(t, err)
	made, err := s.admin.AddLiveStylesheetWithResponse(ctx, site)
	require.NoError(t, err)
	require.NotNil(t, made.JSON201, "%s", made.Body)
	sheet := s.Address + made.JSON201.Path

	folder := t.TempDir()
	page := `<!doctype html><meta charset="utf-8"><link rel="stylesheet" href="` + sheet + `"><h1 style="font-family: 'Tidegarth Poster'">Broad beans</h1>`
	require.NoError(t, os.WriteFile(filepath.Join(folder, "index.html"), []byte(page), 0o600))
	tab := tab(t, "")
	for range 3 {
		browsertest.Do(t, tab, chromedp.Navigate(serve(t, folder)), browsertest.Until(`document.fonts.ready.then(() => [...document.fonts].some(f => f.status === "loaded"))`))
	}
	v, err := s.admin.GetViewsWithResponse(ctx, site)
	require.NoError(t, err)
	assert.Empty(t, v.JSON200.Months, "what anybody can drive up is counted apart")
	assert.Equal(t, []api.LiveMonth{{Month: monthsAgo(0), Visitors: 1}}, v.JSON200.Live, "a visitor counts once a day")
	fonts := browsertest.Fonts(t, tab, "h1") // which reads the sheet once more
	require.Len(t, fonts, 1)
	assert.True(t, fonts[0].IsCustomFont)

	// What somebody enters stands, and is not counted on.
	_, err = s.admin.SetViewsWithResponse(ctx, site, api.NewViews{Items: []api.MonthViews{{Month: monthsAgo(0), Views: 500}}})
	require.NoError(t, err)
	status, header, css := fetchLook(t, sheet)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "no-cache", header.Get("Cache-Control"))
	v, err = s.admin.GetViewsWithResponse(ctx, site)
	require.NoError(t, err)
	assert.Equal(t, int64(500), v.JSON200.Months[0].Views)

	m := regexp.MustCompile(`url\("?([^")]+\.woff2)`).FindStringSubmatch(css)
	require.NotNil(t, m, css)
	file := strings.TrimSuffix(sheet, "fonts.css") + m[1]
	for path, want := range map[string]int{file: 200, strings.TrimSuffix(sheet, "fonts.css") + "manifest.json": 404, strings.Replace(sheet, "/live/", "/live/x", 1): 404} {
		status, _, _ := fetchLook(t, path)
		assert.Equal(t, want, status, path)
	}
	withdrawn, err := s.admin.RevokeSignOffWithResponse(ctx, signed.JSON201.Families[0].SignOff.Id)
	require.NoError(t, err)
	require.NotNil(t, withdrawn.JSON200)
	for _, path := range []string{sheet, file} {
		status, _, body := fetchLook(t, path)
		assert.Equal(t, http.StatusConflict, status, path)
		assert.Contains(t, body, "Tidegarth Poster is blocked")
	}
	_, err = s.admin.AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: poster, Reason: "By letter"})
	require.NoError(t, err)
	listed, err := s.admin.ListLiveStylesheetsWithResponse(ctx, site)
	require.NoError(t, err)
	require.Len(t, listed.JSON200.Items, 1)
	gone, err := s.admin.RevokeLiveStylesheetWithResponse(ctx, site, listed.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, gone.StatusCode())
	status, _, _ = fetchLook(t, file)
	assert.Equal(t, http.StatusNotFound, status)
}
