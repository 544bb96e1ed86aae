package service_test

import (
	"bytes"
	"encoding/json"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// formOf returns a form of fields and a file, and its media type.
func formOf(t testing.TB, fields map[string]string, name, body string) (*bytes.Buffer, string) {
	t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for field, value := range fields {
		require.NoError(t, w.WriteField(field, value))
	}
	if name != "" {
		part, err := w.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = part.Write([]byte(body))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return &b, w.FormDataContentType()
}

func (s *studio) renew(as api.Role, id int64, terms api.Renewing, name, body string) *api.RenewLicenseResponse {
	s.t.Helper()
	text, err := json.Marshal(terms)
	require.NoError(s.t, err)
	form, kind := formOf(s.t, map[string]string{"terms": string(text)}, name, body)
	r, err := s.Client(s.t, as).RenewLicenseWithBodyWithResponse(s.t.Context(), id, kind, form)
	require.NoError(s.t, err)
	return r
}

// TestALicenseIsRenewed records the next term of a license in one step: the license before
// it stays with its document, seats go on, nobody is told to renew it any more, and in the
// console the document of the next term fills in the form.
func TestALicenseIsRenewed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	family := s.family(foundry.Poster())
	site := s.site("Quay pages", 1, family)
	seats := int64(3)
	price, currency := int64(18000), "EUR"
	added, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb, api.UseDesktop}, Families: []int64{family},
		From: inDays(-360), Until: inDays(5), Seats: &seats, Price: &price, Currency: &currency, Reference: new("Q-1"), Licensor: new("Quayside Letter Works")})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	first := added.JSON201.Id
	s.document(first)
	_, err = s.admin.AddAllocationWithResponse(ctx, first, api.NewAllocation{Measure: api.MeasureSeats, Name: "Marit Sund"})
	require.NoError(t, err)
	ends := func() (out []string) {
		r, err := s.admin.ListDueWithResponse(ctx, &api.ListDueParams{})
		require.NoError(t, err)
		for _, i := range r.JSON200.Items {
			if i.Kind == api.DueEnds {
				out = append(out, i.Message)
			}
		}
		return out
	}
	require.Len(t, ends(), 1)

	r := s.renew(api.RoleViewer, first, api.Renewing{}, "", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = s.renew(api.RoleEditor, first, api.Renewing{Until: inDays(2)}, "", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "ends-no-later")
	r = s.renew(api.RoleEditor, first, api.Renewing{}, "empty.pdf", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "empty-document")
	r = s.renew(api.RoleEditor, 999, api.Renewing{}, "", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	all, err := s.admin.ListLicensesWithResponse(ctx, nil)
	require.NoError(t, err)
	require.Len(t, all.JSON200.Items, 1, "nothing half-done stays")

	again := int64(20000)
	r = s.renew(api.RoleAdmin, first, api.Renewing{Price: &again, Reference: new("Q-2")}, "order.txt", "Order Q-2")
	require.NotNil(t, r.JSON201, "%s", r.Body)
	next := r.JSON201
	assert.Equal(t, inDays(6).Time, next.From.Time, "the day after the last")
	assert.Equal(t, inDays(371).Time, next.Until.Time, "as long as before")
	assert.Equal(t, &first, next.Renews)
	assert.Equal(t, "EUR", *next.Currency)
	assert.Equal(t, "Quayside Letter Works", next.Licensor)
	require.Len(t, next.Documents, 1)
	require.Len(t, next.Allocations, 1)
	assert.Equal(t, api.TermNotBegun, next.State)
	before, err := s.admin.GetLicenseWithResponse(ctx, first)
	require.NoError(t, err)
	assert.Equal(t, &next.Id, before.JSON200.RenewedBy)
	assert.Equal(t, "Q-1", before.JSON200.Reference)
	assert.Len(t, before.JSON200.Documents, 1)
	assert.Empty(t, ends(), "it goes on")
	assert.NotContains(t, codes(s.verdict(family, api.GetVerdictParams{Site: &site})), "ends-soon")
	assert.Contains(t, codes(s.verdict(family, api.GetVerdictParams{Site: &site, Day: inDays(30)})), "licensed")
	r = s.renew(api.RoleAdmin, first, api.Renewing{}, "", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "renewed-already")

	// A gap between the terms is told.
	terms := api.LicenseTerms{Kind: next.Kind, GrantedTo: 1, Uses: next.Uses, Families: []int64{family}, From: inDays(20), Until: next.Until, Seats: &seats}
	changed, err := s.admin.ChangeLicenseWithResponse(ctx, next.Id, &api.ChangeLicenseParams{IfMatch: next.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	require.Len(t, ends(), 1)
	assert.Contains(t, ends()[0], "nothing covers the days between")

	// In the console the document of the term after that says its days.
	letter := filepath.Join(t.TempDir(), "order.txt")
	require.NoError(t, os.WriteFile(letter, []byte("Order number: Q-3\nValid from 2031-01-01 until 2031-12-31\n4 users\nTotal: 260.00 EUR\n"), 0o600))
	page := tab(t, "")
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/licenses"), browsertest.Click(`//button[@aria-label="Renew license `+itoa(next.Id)+`"]`),
		browsertest.Upload(`input[aria-label="Document of the new term"]`, letter), says("Order number: Q-3"), press("Use all"),
		press("Record renewal"), says("is renewed by license"))
	all, err = s.admin.ListLicensesWithResponse(ctx, nil)
	require.NoError(t, err)
	last := all.JSON200.Items[0]
	assert.Equal(t, "2031-12-31", last.Until.String())
	assert.Equal(t, "Q-3", last.Reference)
	assert.EqualValues(t, 26000, *last.Price)
	assert.EqualValues(t, 4, *last.Seats)
	assert.Equal(t, &next.Id, last.Renews)
	assert.Len(t, last.Documents, 1)

	// Nothing renews what does not end.
	r = s.renew(api.RoleAdmin, last.Id, api.Renewing{Perpetual: new(true)}, "", "")
	require.NotNil(t, r.JSON201, "%s", r.Body)
	assert.Nil(t, r.JSON201.Until)
	r = s.renew(api.RoleAdmin, r.JSON201.Id, api.Renewing{}, "", "")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "perpetual")
}

// TestALicenseDocumentFillsInTheForm reads a document over HTTP and in the form of the
// console, which takes what it states and records it.
func TestALicenseDocumentFillsInTheForm(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	family := s.family(foundry.Poster())
	s.client("Orrery Hall")
	text := "Licensee: Orrery Hall\nOrder no. A-77\nTidegarth Poster, webfont license, 50,000 page views per month\nValid from 2026-01-01 until 2031-12-31\nDomain: orrery.example\nTotal: EUR 99.00\n"
	read := func(as api.Role, name, body string) *api.ReadLicenseDocumentResponse {
		form, kind := formOf(t, nil, name, body)
		r, err := s.Client(t, as).ReadLicenseDocumentWithBodyWithResponse(ctx, kind, form)
		require.NoError(t, err)
		return r
	}
	r := read(api.RoleViewer, "order.txt", text)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = read(api.RoleEditor, "scan.png", "\x89PNG\r\n\x1a\n\x00\x00")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "no-text")
	r = read(api.RoleEditor, "order.txt", text)
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, "Orrery Hall", r.JSON200.Client.Name)
	assert.Equal(t, []api.Ref{{Id: family, Name: "Tidegarth Poster"}}, r.JSON200.Families)
	documents, err := s.admin.FindDocumentsWithResponse(ctx, &api.FindDocumentsParams{Q: "Licensee"})
	require.NoError(t, err)
	assert.Empty(t, documents.JSON200.Items, "nothing is kept")

	letter := filepath.Join(t.TempDir(), "order.txt")
	require.NoError(t, os.WriteFile(letter, []byte(text), 0o600))
	page := tab(t, "")
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/licenses"), press("Record a license"),
		browsertest.Upload(`input[aria-label="Documents"]`, letter), says("Order no. A-77"), press("Use all"),
		press("Record"), says("for orrery.example"))
	all, err := s.admin.ListLicensesWithResponse(ctx, nil)
	require.NoError(t, err)
	require.Len(t, all.JSON200.Items, 1)
	l := all.JSON200.Items[0]
	assert.Equal(t, "Orrery Hall", l.GrantedTo.Name)
	assert.Equal(t, []api.Ref{{Id: family, Name: "Tidegarth Poster"}}, l.Families)
	assert.Equal(t, "2026-01-01 2031-12-31", strings.Join([]string{l.From.String(), l.Until.String()}, " "))
	assert.EqualValues(t, 50000, *l.PageViews)
	assert.EqualValues(t, 9900, *l.Price)
	assert.Equal(t, []string{"orrery.example"}, l.Domains)
	require.Len(t, l.Documents, 1)
}
