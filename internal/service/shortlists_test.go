package service_test

import (
	"io"
	"net/http"
	"strconv"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// fetchLook gets an address of a link without an account.
func fetchLook(t testing.TB, address string) (int, http.Header, string) {
	t.Helper()
	r, err := http.Get(address) //nolint:gosec,noctx // the test's own service
	require.NoError(t, err)
	defer func() { _ = r.Body.Close() }()
	b, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return r.StatusCode, r.Header, string(b)
}

func order(l *api.Shortlist) []string {
	var out []string
	for _, f := range l.Families {
		out = append(out, f.Name)
	}
	return out
}

func TestShortlists(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	orrery := "Orrery Hall"
	added, err := c.AddShortlistWithResponse(t.Context(), api.NewShortlist{Name: "Dome", Client: &orrery, Families: &[]int64{2, 1, 2}})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	l := added.JSON201
	assert.Equal(t, []string{"Umbrisk Display", "Skerrow Sans"}, order(l), "each once, in the order given")
	change := func(etag string, ch api.ShortlistChange) *api.ChangeShortlistResponse {
		r, err := c.ChangeShortlistWithResponse(t.Context(), l.Id, &api.ChangeShortlistParams{IfMatch: etag}, ch)
		require.NoError(t, err)
		return r
	}
	r := change(l.Etag, api.ShortlistChange{Families: &[]int64{1, 3, 2}})
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, []string{"Skerrow Sans", "Tidegarth Poster", "Umbrisk Display"}, order(r.JSON200))
	assert.Equal(t, "changed-meanwhile", change(l.Etag, api.ShortlistChange{Families: &[]int64{}}).ApplicationproblemJSONDefault.Code)
	assert.Equal(t, "no-such-family", change(r.JSON200.Etag, api.ShortlistChange{Families: &[]int64{99}}).ApplicationproblemJSONDefault.Code)
	r = change(r.JSON200.Etag, api.ShortlistChange{Name: new("Dome and kiosks")})
	assert.Len(t, r.JSON200.Families, 3, "what is not named stays")
	again, err := c.AddShortlistWithResponse(t.Context(), api.NewShortlist{Name: "dome AND kiosks", Client: &orrery})
	require.NoError(t, err)
	assert.Equal(t, "name-taken", again.ApplicationproblemJSONDefault.Code)
	assert.Equal(t, []string{"Skerrow Sans", "Tidegarth Poster", "Umbrisk Display"}, names(t, c, api.ListFamiliesParams{Shortlist: &l.Id}))
	stands, err := c.GetFamilyWithResponse(t.Context(), 3)
	require.NoError(t, err)
	assert.Contains(t, stands.JSON200.Shortlists, api.Ref{Id: l.Id, Name: "Dome and kiosks"})
	listed, err := c.ListShortlistsWithResponse(t.Context(), &api.ListShortlistsParams{Client: &orrery})
	require.NoError(t, err)
	require.Len(t, listed.JSON200.Items, 1)
	viewer := s.Client(t, api.RoleViewer)
	refused, err := viewer.ShareShortlistWithResponse(t.Context(), l.Id, api.NewShare{})
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, refused.StatusCode())

	// What a client sees: Umbrisk is licensed to Orrery Hall and sent as a font, the
	// restricted poster and the ferries' family are pictures.
	long, err := c.ShareShortlistWithResponse(t.Context(), l.Id, api.NewShare{Days: new(400)})
	require.NoError(t, err)
	refusedFor(t, "bad-days", long.ApplicationproblemJSONDefault.Code)
	made, err := c.ShareShortlistWithResponse(t.Context(), l.Id, api.NewShare{SampleText: new(`Night "sky" & <stars>`), Days: new(7)})
	require.NoError(t, err)
	require.NotNil(t, made.JSON201, "%s", made.Body)
	link := s.Address + made.JSON201.Path
	status, header, page := fetchLook(t, link)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "noindex", header.Get("X-Robots-Tag"))
	assert.Contains(t, page, "Night &#34;sky&#34; &amp; &lt;stars&gt;")
	ctx := tab(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate(link), browsertest.Until(`document.fonts.size === 1 && [...document.fonts][0].status === "loaded" && [...document.images].length === 4 && [...document.images].every(i => i.complete && i.naturalWidth > 100)`))
	assert.Equal(t, []string{"Skerrow Sans", "Tidegarth Poster", "Umbrisk Display"}, browsertest.Eval[[]string](t, ctx, `[...document.querySelectorAll("h2")].map(h => h.textContent)`))

	family, err := c.GetFamilyWithResponse(t.Context(), 3)
	require.NoError(t, err)
	face := func(id int64, what string) string {
		f, err := c.GetFamilyWithResponse(t.Context(), id)
		require.NoError(t, err)
		return link + "/" + itoa(f.JSON200.Faces[0].Id) + what
	}
	for address, want := range map[string]int{
		face(2, "/font.woff2"): http.StatusOK, face(2, "/picture.png"): http.StatusOK, face(3, "/picture.png"): http.StatusOK,
		face(3, "/font.woff2"):  http.StatusNotFound, // not licensed
		face(4, "/picture.png"): http.StatusNotFound, // not on the list
		link + "x":              http.StatusNotFound, link + "/x/font.woff2": http.StatusNotFound,
	} {
		status, _, _ := fetchLook(t, address)
		assert.Equal(t, want, status, address)
	}
	now, err := c.GetShortlistWithResponse(t.Context(), l.Id)
	require.NoError(t, err)
	require.Len(t, now.JSON200.Shares, 1)
	assert.Equal(t, api.ShareOpen, now.JSON200.Shares[0].State)
	assert.Equal(t, 2, now.JSON200.Shares[0].Views)
	gone, err := c.DeleteFamilyWithResponse(t.Context(), 3, &api.DeleteFamilyParams{IfMatch: family.JSON200.Etag})
	require.NoError(t, err)
	require.NotNil(t, gone.JSON200)
	_, _, page = fetchLook(t, link)
	assert.NotContains(t, page, "Tidegarth")

	// It ends by itself, or is revoked.
	_, err = later(t, s, 8).Shortlists.Look(t.Context(), made.JSON201.Path[len("/look/"):])
	require.ErrorContains(t, err, "no longer works")
	withdrawn, err := c.RevokeShareWithResponse(t.Context(), l.Id, made.JSON201.Share.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, withdrawn.StatusCode())
	status, _, page = fetchLook(t, link)
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, page, "no longer works. Ask the studio")
	status, _, _ = fetchLook(t, face(2, "/font.woff2"))
	assert.Equal(t, http.StatusNotFound, status, "its fonts neither")
	dropped, err := c.DeleteShortlistWithResponse(t.Context(), l.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, dropped.StatusCode())
	dropped, err = c.DeleteShortlistWithResponse(t.Context(), l.Id)
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, dropped.StatusCode())
}

// TestShortlistInTheConsole picks families in the catalog, orders them by dragging
// and by key, and finds them first where a family is chosen for the client.
func TestShortlistInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/families")
	check := func(name string) browsertest.Step {
		return browsertest.Click(`//*[@aria-label="Select ` + name + `"]`)
	}
	names := `[...document.querySelectorAll(".pick .name")].map(n => n.textContent).join()`
	browsertest.Do(t, ctx, allSet(), check("Umbrisk Display"), check("Tidegarth Poster"), press("Add to a shortlist"), fill("Name of a new shortlist", "Posters\r"),
		browsertest.Gone(`//button[normalize-space()="Add to a shortlist"]`), chromedp.Navigate(s.Address+"/shortlists"), browsertest.Visible(`//strong[.="Posters"]`), browsertest.Click(`//a[strong[.="Posters"]]`),
		browsertest.Until(names+` === "Umbrisk Display,Tidegarth Poster"`),
		browsertest.Click(`//button[@aria-label="Move Tidegarth Poster up"]`), browsertest.Until(names+` === "Tidegarth Poster,Umbrisk Display"`),
		choose("Family to add", "Skerrow Sans ("), press("Add"), browsertest.Until(names+` === "Tidegarth Poster,Umbrisk Display,Skerrow Sans"`),
		browsertest.Until(`((a, b) => { const go = (e, t) => e.dispatchEvent(new DragEvent(t, { bubbles: true, cancelable: true, dataTransfer: new DataTransfer() })); go(a, "dragstart"); go(b, "dragover"); go(b, "drop"); go(a, "dragend"); return true })(...[2, 0].map(i => document.querySelectorAll(".pick")[i]))`),
		browsertest.Until(names+` === "Skerrow Sans,Tidegarth Poster,Umbrisk Display"`))
	lists, err := s.Client(t, api.RoleViewer).ListShortlistsWithResponse(t.Context(), &api.ListShortlistsParams{})
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		lists, err = s.Client(t, api.RoleViewer).ListShortlistsWithResponse(t.Context(), &api.ListShortlistsParams{})
		return err == nil && order(&lists.JSON200.Items[0])[0] == "Skerrow Sans"
	}, wait, tick, "what was dragged is kept")
	browsertest.Do(t, ctx, press("Make a link"), browsertest.Visible(`//a[.="Open link"]`),
		chromedp.Navigate(s.Address+"/sites/1"), browsertest.Click(`//*[@aria-label="Family to add to this site"]/ancestor::*[contains(concat(" ",@class," ")," el-select ")]`),
		browsertest.Until(`document.querySelector('.el-select-group__title')?.textContent === "Shortlist Winter timetable"`))
}

const (
	wait = time.Minute
	tick = 50 * time.Millisecond
)

func itoa(n int64) string { return strconv.FormatInt(n, 10) }
