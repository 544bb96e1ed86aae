package service_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// wholeZip reads a zip, and holds its checksums and the links of its pages against what is in it.
func wholeZip(t *testing.T, data []byte) map[string][]byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, f := range z.File {
		require.True(t, filepath.IsLocal(f.Name), f.Name)
		r, err := f.Open()
		require.NoError(t, err)
		out[f.Name], err = io.ReadAll(r)
		require.NoError(t, err)
	}
	lines := strings.Split(strings.TrimSpace(string(out["SHA256SUMS"])), "\n")
	assert.Len(t, lines, len(out)-1)
	for _, line := range lines {
		sum, name, ok := strings.Cut(line, "  ")
		require.True(t, ok, line)
		got := sha256.Sum256(out[name])
		assert.Equal(t, sum, hex.EncodeToString(got[:]), name)
	}
	for name, page := range out {
		if path.Ext(name) == ".html" && !strings.HasPrefix(name, "sites/") {
			for _, link := range regexp.MustCompile(`href="([^"]+)"`).FindAllSubmatch(page, -1) {
				at, err := url.PathUnescape(string(link[1]))
				require.NoError(t, err)
				assert.Contains(t, out, at)
				assert.NotContains(t, string(link[1]), "#")
			}
		}
	}
	return out
}

// TestAClientIsArchivedClosedAndOpened archives a client with fonts, documents, licenses, sites
// and packs; fonts and licenses of another client stay out. Closed, it takes part in nothing;
// opened, all is as it was.
func TestAClientIsArchivedClosedAndOpened(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	editor, viewer := s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	ferries, hall := s.client("Holmvik Ferries"), s.client("Orrery Hall")
	sans := s.family(foundry.Signage()[0], "client", "Holmvik Ferries")
	poster := s.family(foundry.Poster(), "client", "Orrery Hall")
	mine := s.license(ferries, nil, sans)
	s.document(mine.Id)
	kind, odd := upload(t, "100% <b>#1</b> order?.txt", []byte("Order 8"))
	_, err := s.admin.AddDocumentWithBodyWithResponse(ctx, mine.Id, kind, odd)
	require.NoError(t, err)
	theirs := s.license(hall, nil, poster)
	s.document(theirs.Id)
	site := s.site("Quay pages", ferries, sans)
	s.built(site)
	_, err = s.admin.AddSiteFamilyWithResponse(ctx, site, poster, api.FamilyOnSite{})
	require.NoError(t, err)
	_, err = editor.AddSitePagesWithResponse(ctx, site, api.NewSitePages{Pages: []api.NewSitePage{{Url: "/prices"}}})
	require.NoError(t, err)

	archive := func(c *api.ClientWithResponses, id int64) *api.ArchiveClientResponse {
		r, err := c.ArchiveClientWithResponse(ctx, id)
		require.NoError(t, err)
		return r
	}
	closing := func(c *api.ClientWithResponses, id int64) *api.CloseClientResponse {
		r, err := c.CloseClientWithResponse(ctx, id)
		require.NoError(t, err)
		return r
	}
	r := archive(viewer, ferries)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	r = archive(editor, 999)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	c := closing(s.admin, ferries)
	problemOf(t, c.HTTPResponse, c.ApplicationproblemJSONDefault, http.StatusConflict, "not-archived")
	first := archive(editor, ferries)
	require.Equal(t, http.StatusOK, first.StatusCode(), "%s", first.Body)
	assert.Equal(t, first.Body, archive(editor, ferries).Body, "the same bytes for the same client")
	all := wholeZip(t, first.Body)
	var index struct {
		Families []struct {
			Name, LeftOut string
			Files         []struct{ Path string }
		}
		Licenses []struct {
			ID        int64
			Documents []struct{ Path string }
		}
		Sites []struct {
			Name  string
			Packs []struct{ Path string }
			Pages []struct{ URL string }
		}
	}
	require.NoError(t, json.Unmarshal(all["index.json"], &index))
	require.Len(t, index.Families, 2)
	assert.Equal(t, drawn(t, foundry.Signage()[0], font.TTF), all[index.Families[0].Files[0].Path], "the original file")
	assert.Contains(t, index.Families[1].LeftOut, "belong to Orrery Hall")
	assert.Empty(t, index.Families[1].Files[0].Path)
	require.Len(t, index.Licenses, 1, "not what another client was granted")
	assert.Equal(t, mine.Id, index.Licenses[0].ID)
	assert.Equal(t, "Order 7", string(all[index.Licenses[0].Documents[0].Path]))
	require.Len(t, index.Sites, 1)
	require.Len(t, index.Sites[0].Packs, 1)
	assert.Contains(t, inZip(t, all[index.Sites[0].Packs[0].Path]), "upload-slip.html")
	assert.Equal(t, "/prices", index.Sites[0].Pages[0].URL)

	// The index is read in a browser, away from the service.
	folder := t.TempDir()
	for name, data := range all {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(folder, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), data, 0o600))
	}
	page := tab(t, "")
	browsertest.Do(t, page, chromedp.Navigate(serve(t, folder)+"/index.html"), says("Fonts, licenses, sites and packs"), says("Files not in this archive"), says("/prices"))

	c = closing(editor, ferries)
	problemOf(t, c.HTTPResponse, c.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	c = closing(s.admin, 1)
	problemOf(t, c.HTTPResponse, c.ApplicationproblemJSONDefault, http.StatusConflict, "the-studio")
	c = closing(s.admin, ferries)
	require.NotNil(t, c.JSON200, "%s", c.Body)
	assert.NotNil(t, c.JSON200.ClosedAt)
	c = closing(s.admin, ferries)
	problemOf(t, c.HTTPResponse, c.ApplicationproblemJSONDefault, http.StatusConflict, "closed-already")

	sites, err := viewer.ListSitesWithResponse(ctx, nil)
	require.NoError(t, err)
	assert.Empty(t, sites.JSON200.Items)
	due, err := viewer.ListDueWithResponse(ctx, nil)
	require.NoError(t, err)
	for _, i := range due.JSON200.Items {
		assert.NotEqual(t, "Holmvik Ferries", i.Client.Name, i.Message)
	}
	status := func(id int64) api.FamilyStatus {
		f, err := viewer.GetFamilyWithResponse(ctx, id)
		require.NoError(t, err)
		return f.JSON200.Status
	}
	assert.EqualValues(t, "retired", status(sans))
	assert.EqualValues(t, "active", status(poster))
	for what, answer := range map[string]func() (*http.Response, *api.Problem){
		"pack": func() (*http.Response, *api.Problem) {
			r, err := s.admin.BuildPackWithResponse(ctx, site, nil)
			require.NoError(t, err)
			return r.HTTPResponse, r.ApplicationproblemJSONDefault
		},
		"site": func() (*http.Response, *api.Problem) {
			r, err := s.admin.AddSiteWithResponse(ctx, api.SiteTerms{Name: "New", Client: ferries, Builder: "self-hosted"})
			require.NoError(t, err)
			return r.HTTPResponse, r.ApplicationproblemJSONDefault
		},
		"license": func() (*http.Response, *api.Problem) {
			r, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: ferries, Uses: []api.Use{api.UseWeb}, Families: []int64{poster}})
			require.NoError(t, err)
			return r.HTTPResponse, r.ApplicationproblemJSONDefault
		},
		"family on site": func() (*http.Response, *api.Problem) {
			r, err := s.admin.RemoveSiteFamilyWithResponse(ctx, site, poster)
			require.NoError(t, err)
			return r.HTTPResponse, r.ApplicationproblemJSONDefault
		},
		"everything for a machine": func() (*http.Response, *api.Problem) {
			r, err := s.admin.BuildClientPackWithResponse(ctx, ferries, api.NewClientPack{Builder: "desktop"})
			require.NoError(t, err)
			return r.HTTPResponse, r.ApplicationproblemJSONDefault
		},
	} {
		response, problem := answer()
		t.Log(what)
		problemOf(t, response, problem, http.StatusConflict, "client-closed")
	}
	// Opened in the console, and archived there.
	downloads := t.TempDir()
	page = tab(t, downloads)
	signIn(t, page, s.Service, api.RoleAdmin)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/clients"), browsertest.Click(`//a[.="Holmvik Ferries"]`), says("closed by"), browsertest.Click(`//button[@aria-label="Reopen Holmvik Ferries"]`), browsertest.Visible(`//button[@aria-label="Close Holmvik Ferries"]`),
		browsertest.Click(`//button[@aria-label="Archive Holmvik Ferries"]`))
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(downloads, "*.zip"))
		return len(found) == 1
	}, wait, tick)
	assert.EqualValues(t, "active", status(sans))
	opened, err := s.admin.OpenClientWithResponse(ctx, ferries)
	require.NoError(t, err)
	problemOf(t, opened.HTTPResponse, opened.ApplicationproblemJSONDefault, http.StatusConflict, "closed-already")
}

// TestTheProofOfAFamily has licenses, documents, where a family is used since when, counts and
// sign-offs on a page to print and in a zip, and no fonts.
func TestTheProofOfAFamily(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	viewer := s.Client(t, api.RoleViewer)
	sans := s.family(foundry.Signage()[0])
	l := s.license(1, nil, sans)
	s.document(l.Id)
	site, other := s.site("Quay pages", 1, sans), s.site("<b>Pier</b>", 1, sans)
	s.built(site)
	_, err := s.admin.SetViewsWithResponse(ctx, site, api.NewViews{Items: []api.MonthViews{{Month: monthsAgo(1), Views: 1234}}})
	require.NoError(t, err)
	r, err := viewer.GetFamilyProofWithResponse(ctx, sans)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, r.StatusCode(), "%s", r.Body)
	all := wholeZip(t, r.Body)
	for name := range all {
		assert.NotContains(t, []string{".ttf", ".woff2"}, path.Ext(name))
	}
	page := string(all["proof.html"])
	for _, says := range []string{"Skerrow Sans: proof of use", "Order number", "Quay pages", "1 pack, the last on", "1234", "in none yet", "&lt;b&gt;Pier"} {
		if says == "Order number" {
			says = "order.txt"
		}
		assert.Contains(t, page, says)
	}
	assert.NotContains(t, page, "<b>Pier")
	_ = other
	gone, err := viewer.GetFamilyProofWithResponse(ctx, 999)
	require.NoError(t, err)
	problemOf(t, gone.HTTPResponse, gone.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	assert.Equal(t, http.StatusUnauthorized, request(t, http.DefaultClient, "GET", s.Address+"/proof/"+itoa(sans), "").StatusCode)
	browser := tab(t, "")
	signIn(t, browser, s.Service, api.RoleViewer)
	browsertest.Do(t, browser, chromedp.Navigate(s.Address+"/proof/"+itoa(sans)), says("What Lanternjaw Studio may use this family for"))
}
