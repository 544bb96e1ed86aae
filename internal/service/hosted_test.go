package service_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
	"sparecrate/internal/standin/hosting"
)

// hosted runs the stand-in for a server of hosted fonts.
func hosted(t testing.TB) (*hosting.Server, string) {
	t.Helper()
	fonts, err := hosting.New()
	require.NoError(t, err)
	server := httptest.NewServer(fonts)
	t.Cleanup(server.Close)
	return fonts, server.URL
}

// settledDelivery waits until all of a delivery is read.
func settledDelivery(t testing.TB, c *api.ClientWithResponses, id int64) *api.Delivery {
	t.Helper()
	var d *api.Delivery
	require.Eventually(t, func() bool {
		r, err := c.GetDeliveryWithResponse(t.Context(), id)
		require.NoError(t, err)
		d = r.JSON200
		return d.Unpacking == 0 && d.State != api.DeliveryAccepting
	}, time.Minute, 50*time.Millisecond)
	return d
}

func TestHostedFamilies(t *testing.T) {
	s := servicetest.Start(t, demoStudio)
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
	assert.Equal(t, at+hosting.SheetPath, sheet.Address)
	require.Len(t, sheet.Families, 1)
	require.Len(t, sheet.Families[0].Faces, 4, "two weights in two parts")
	assert.Equal(t, 700, sheet.Families[0].Faces[2].WeightMin)
	assert.True(t, strings.HasPrefix(*sheet.Families[0].Faces[0].Range, "U+0000-00FF"))
	assert.Equal(t, at+"/files/brackmoor-400-latin.woff2", sheet.Families[0].Faces[0].Files[0].Address)

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
	use, err := c.UseFamilyWithResponse(t.Context(), 1, id, api.UseFamilyJSONRequestBody{})
	require.NoError(t, err)
	assert.Equal(t, "no-files", use.ApplicationproblemJSONDefault.Code)

	// In-house: fetched into a delivery, the parts with the basic letters marked.
	source, open := f.JSON200.Hosted[0].Id, api.OriginOpen
	in, err := c.BringFamilyInWithResponse(t.Context(), id, api.BringIn{Source: &source, Origin: &open})
	require.NoError(t, err)
	require.NotNil(t, in.JSON202, "%s", in.Body)
	d := settledDelivery(t, c, in.JSON202.Id)
	assert.Equal(t, 4, d.Counts.Fonts)
	assert.Equal(t, 2, d.Counts.Marked)
	assert.Equal(t, 1, fonts.Calls("/files/brackmoor-700-latin.woff2"))
	items, err := c.ListDeliveryItemsWithResponse(t.Context(), d.Id, &api.ListDeliveryItemsParams{Kind: new(api.ItemFont)})
	require.NoError(t, err)
	assert.Contains(t, items.JSON200.Items[0].Why, "Only a part of the face")
	_, err = c.AcceptDeliveryWithResponse(t.Context(), d.Id)
	require.NoError(t, err)
	require.Equal(t, 2, settledDelivery(t, c, d.Id).Counts.Taken)
	f, err = c.GetFamilyWithResponse(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, f.JSON200.Faces, 2)
	assert.Equal(t, api.OriginOpen, f.JSON200.Origin)
	assert.Len(t, f.JSON200.Hosted, 2, "it is still served from there too")

	dropped, err := c.DropHostedSheetWithResponse(t.Context(), id, source)
	require.NoError(t, err)
	assert.Len(t, dropped.JSON200.Hosted, 1)
	dropped, err = c.DropHostedSheetWithResponse(t.Context(), 1, dropped.JSON200.Hosted[0].Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, dropped.StatusCode(), "of another family")
	other := f.JSON200.Hosted[1].Id
	in, err = c.BringFamilyInWithResponse(t.Context(), id, api.BringIn{Source: &other})
	require.NoError(t, err)
	d = settledDelivery(t, c, in.JSON202.Id)
	assert.Equal(t, 1, d.Counts.Refused, "a server that is not there")
}

func TestHostedInTheConsole(t *testing.T) {
	s := servicetest.Start(t, demoStudio)
	_, at := hosted(t)
	ctx := browsertest.New(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/intake"), chromedp.SendKeys(`//textarea[@aria-label="Code or address"]`, "<link rel=“stylesheet” href=“"+at+hosting.SheetPath+"”>"), press("Read it"),
		browsertest.Until(`document.body.innerText.includes("Brackmoor Sans") && document.body.innerText.includes("Curly quotes")`),
		press("Keep 1 family"), chromedp.WaitVisible(`//h1[normalize-space()="Brackmoor Sans"]`),
		browsertest.Until(`document.body.innerText.includes("Every page view") && document.body.innerText.includes("@import url(")`),
		press("Bring in-house"), browsertest.Until(`document.querySelectorAll('[data-outcome="new"]').length === 4`))
	assert.Contains(t, text(t, ctx), "Only a part of the face")
}
