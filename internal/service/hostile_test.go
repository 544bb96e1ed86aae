package service_test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/builder"
	"sparecrate/internal/demo/foundry"
)

// TestHostileNamesRunNowhere gives a font, a client, a site and its roles names that try
// to become code, builds a pack for every builder, and opens everything in the browser:
// the pack's pages, what is to be pasted, the console's pages, the register, the page of
// a shared link. Nothing runs.
func TestHostileNamesRunNowhere(t *testing.T) {
	const payload = `</style></title></textarea><script>owned=1</script><img src=x onerror=owned=2>'"` + "`" + `;owned=3//*/\`
	s := open(t)
	ctx := t.Context()
	d := *foundry.Signage()[1]
	d.Family, d.PostScript = "Evil "+payload, "Evil"+payload
	added := s.add("evil"+payload+".ttf", drawn(t, &d, font.TTF))
	require.NotNil(t, added.JSON200, "%s", added.Body)
	family := added.JSON200.Family.Id
	client := s.client("Client " + payload)
	changed, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	_, err = s.admin.ChangeFamilyWithResponse(ctx, family, &api.ChangeFamilyParams{IfMatch: changed.JSON200.Etag}, api.FamilyChange{Client: &client, Note: ptr(payload), Tags: &[]string{payload[:40]}})
	require.NoError(t, err)
	yes := api.ConsentYes
	license, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: client, Licensor: ptr(payload), Reference: ptr(payload), Note: ptr(payload),
		Uses: []api.Use{api.UseWeb, api.UseApp, api.UseDesktop}, Families: []int64{family}, Changes: &api.LicensedChanges{Subset: &yes, Outlines: &yes, Name: &yes}})
	require.NoError(t, err)
	require.NotNil(t, license.JSON201, "%s", license.Body)
	s.document(license.JSON201.Id)

	folder := t.TempDir()
	var pages []string
	write := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(folder, name)), 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600))
		pages = append(pages, name)
	}
	for _, r := range builder.Shipped() {
		terms := api.SiteTerms{Name: r.Kind + " " + payload, Client: client, Builder: r.Kind, SampleText: ptr("Words " + payload)}
		added, err := s.admin.AddSiteWithResponse(ctx, terms)
		require.NoError(t, err)
		require.NotNil(t, added.JSON201, "%s", added.Body)
		id := added.JSON201.Id
		used, err := s.admin.AddSiteFamilyWithResponse(ctx, id, family, api.FamilyOnSite{})
		require.NoError(t, err)
		require.NotNil(t, used.JSON200, "%s", used.Body)
		placed, err := s.admin.AssignRolesWithResponse(ctx, id, &api.AssignRolesParams{IfMatch: used.JSON200.Etag}, api.RoleAssignments{
			Assignments:  []api.RoleAssignment{{Role: "body", Family: family, Weight: 400, Slope: "normal", Fallbacks: []string{"serif"}}, {Role: "own", Name: ptr(payload[:60]), Selector: ptr(".own"), Family: family, Weight: 700, Slope: "normal", Fallbacks: []string{}}},
			Replacements: []api.Replacement{{Name: "Evil</style><script>owned=4</script>", Family: family, Weight: 400, Slope: "normal"}},
		})
		require.NoError(t, err)
		require.NotNil(t, placed.JSON200, "%s", placed.Body)
		d := &receiving{studio: s, site: id}
		d.build()
		for name, data := range d.pack {
			at := r.Kind + "/" + name
			switch filepath.Ext(name) {
			case ".html":
				write(at, string(data))
			case ".css":
				write(at+".page.html", "<!doctype html><style>"+string(data)+"</style><p>Text")
			case ".js":
				write(at+".page.html", "<!doctype html><script>"+string(data)+"</script><p>Text")
			}
		}
		plan, err := planned(ctx, s.admin, id, nil)
		require.NoError(t, err)
		for i, p := range plan.JSON200.Pastes {
			write(fmt.Sprintf("%s/paste-%d.html", r.Kind, i), "<!doctype html><body>"+p.Text)
			write(fmt.Sprintf("%s/paste-%d-style.html", r.Kind, i), "<!doctype html><style>"+strings.ReplaceAll(p.Text, "<style>", "")+"</style>")
		}
	}
	server := serve(t, folder)
	tab := tab(t, "")
	visit := func(address string) {
		t.Helper()
		browsertest.Do(t, tab, chromedp.Navigate(address), browsertest.Until(`document.readyState === "complete"`))
		assert.Equal(t, "undefined", browsertest.Eval[string](t, tab, "typeof owned"), "%s ran something", address)
	}
	for _, page := range pages {
		visit(server + "/" + strings.ReplaceAll(page, " ", "%20"))
	}
	assert.Greater(t, len(pages), 20)

	signIn(t, tab, s.Service, api.RoleAdmin)
	for _, page := range []string{"/", "/families", fmt.Sprintf("/families/%d", family), "/sites", "/sites/1", "/licenses", "/activity", "/settings", "/clients", "/clients/2", fmt.Sprintf("/families/%d/faces/1?tab=metadata", family), "/register/print"} {
		visit(s.Address + page)
	}
	list, err := s.admin.AddShortlistWithResponse(ctx, api.NewShortlist{Client: ptr("Client " + payload), Name: "List " + payload[:50]})
	require.NoError(t, err)
	require.NotNil(t, list.JSON201, "%s", list.Body)
	_, err = s.admin.ChangeShortlistWithResponse(ctx, list.JSON201.Id, &api.ChangeShortlistParams{IfMatch: list.JSON201.Etag}, api.ShortlistChange{Families: &[]int64{family}})
	require.NoError(t, err)
	shared, err := s.admin.ShareShortlistWithResponse(ctx, list.JSON201.Id, api.NewShare{Days: ptr(7), SampleText: ptr(payload)})
	require.NoError(t, err)
	require.NotNil(t, shared.JSON201, "%s", shared.Body)
	visit(s.Address + shared.JSON201.Path)

	feed, err := s.admin.AddFeedWithResponse(ctx)
	require.NoError(t, err)
	status, _, calendar := s.as("", "GET", feed.JSON201.Path, "")
	require.Equal(t, http.StatusOK, status)
	assert.NotRegexp(t, `[^\r]\n|\r[^\n]`, calendar, "lines end as they are to")
}
