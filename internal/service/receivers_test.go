package service_test

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/builder"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/fakes/platform"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
)

// import is a site whose pack a person takes to a platform.
type receiving struct {
	*studio
	site int64
	r    *platform.Platform
	pack map[string][]byte
	slip *html.Node
}

// build builds the pack and unpacks it, with its slip.
func (d *receiving) build() {
	d.t.Helper()
	built, err := d.admin.BuildPackWithResponse(d.t.Context(), d.site, nil)
	require.NoError(d.t, err)
	require.NotNil(d.t, built.JSON201, "%s", built.Body)
	content, err := d.admin.GetPackContentWithResponse(d.t.Context(), built.JSON201.Id)
	require.NoError(d.t, err)
	z, err := zip.NewReader(bytes.NewReader(content.Body), int64(len(content.Body)))
	require.NoError(d.t, err)
	d.pack = map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(d.t, err)
		d.pack[f.Name], err = io.ReadAll(r)
		require.NoError(d.t, err)
	}
	d.slip, err = html.Parse(bytes.NewReader(d.pack["upload-slip.html"]))
	require.NoError(d.t, err)
}

// all returns the elements of the slip that have an attribute, below n.
func all(n *html.Node, attribute string) (out []*html.Node) {
	for one := range n.Descendants() {
		if one.Type == html.ElementNode && slices.ContainsFunc(one.Attr, func(a html.Attribute) bool { return a.Key == attribute }) {
			out = append(out, one)
		}
	}
	return out
}

func value(n *html.Node, attribute string) string {
	for _, a := range n.Attr {
		if a.Key == attribute {
			return a.Val
		}
	}
	return ""
}

func words(n *html.Node) string {
	var s strings.Builder
	for one := range n.Descendants() {
		if one.Type == html.TextNode {
			s.WriteString(one.Data)
		}
	}
	return s.String()
}

// file finds a file of the pack by the name the slip gives.
func (d *receiving) file(name string) platform.File {
	d.t.Helper()
	for at, data := range d.pack {
		if path.Base(at) == name {
			return platform.File{Name: name, Data: data}
		}
	}
	d.t.Fatalf("the slip names %s, which is not in the pack", name)
	return platform.File{}
}

// step returns a step of the slip.
func (d *receiving) step(name string) *html.Node {
	d.t.Helper()
	for _, n := range all(d.slip, "data-step") {
		if value(n, "data-step") == name {
			return n
		}
	}
	d.t.Fatalf("the slip has no step %q", name)
	return nil
}

// upload does the first step of the slip line by line, and gives the addresses.
func (d *receiving) upload() []string {
	d.t.Helper()
	step := d.step("upload")
	var addresses []string
	lines := all(step, "data-face")
	if len(lines) == 0 { // a folder goes up as it is
		for at, data := range d.pack {
			if strings.HasPrefix(at, "fonts/") || at == "fonts.css" {
				_, err := d.r.Upload([]platform.File{{Name: at, Data: data}}, nil)
				require.NoError(d.t, err)
			}
		}
		return nil
	}
	for _, line := range lines {
		var files []platform.File
		for _, f := range all(line, "data-file") {
			files = append(files, d.file(value(f, "data-file")))
		}
		typed := map[string]string{}
		for _, f := range all(line, "data-field") {
			typed[value(f, "data-field")] = words(f)
		}
		got, err := d.r.Upload(files, typed)
		require.NoError(d.t, err, "as the slip says")
		addresses = append(addresses, got...)
		if len(all(step, "data-save")) > 0 {
			require.NoError(d.t, d.r.Save())
		}
	}
	return addresses
}

// bring brings addresses back, as a list that was copied, and builds the pack anew.
func (d *receiving) bring(base string, addresses []string) {
	d.t.Helper()
	var text strings.Builder
	for _, a := range addresses {
		text.WriteString("Copied: " + base + a + "\n")
	}
	got, err := d.admin.AddFileURLsWithResponse(d.t.Context(), d.site, api.NewFileURLs{Text: text.String()})
	require.NoError(d.t, err)
	require.NotNil(d.t, got.JSON200, "%s", got.Body)
	assert.Empty(d.t, got.JSON200.Notes)
	d.build()
}

// paste returns the file of the pack that the slip says to paste.
func (d *receiving) paste() string {
	d.t.Helper()
	found := all(d.step("styles"), "data-paste-file")
	require.Len(d.t, found, 1)
	return string(d.file(words(found[0])).Data)
}

// choose chooses fonts in the platform's settings.
func (d *receiving) choose() {
	d.t.Helper()
	for _, line := range all(d.step("choose"), "data-choose") {
		said := func(attribute string) string {
			if found := all(line, attribute); len(found) > 0 {
				return words(found[0])
			}
			return ""
		}
		require.NoError(d.t, d.r.Choose(value(line, "data-choose"), said("data-font"), said("data-weight"), said("data-style")))
	}
}

// shown is what the browser set a text in.
type shown struct {
	font   string // PostScript name
	custom bool   // sent by the page
}

// fontsOf reads from the browser which fonts an element's own text is really set in.
func fontsOf(t testing.TB, ctx context.Context, selector string) []shown { //nolint:revive // t first, as in testing
	t.Helper()
	var out []shown
	for _, f := range browsertest.Fonts(t, ctx, selector) {
		out = append(out, shown{f.PostScriptName, f.IsCustomFont})
	}
	return out
}

// wrongWith returns the errors and warnings of an inspection of a page, but for those that tell
// how long the machine took.
func wrongWith(t testing.TB, b *browse.Browser, address string) []string {
	t.Helper()
	p, err := b.Inspect(t.Context(), address, browse.Plan{})
	require.NoError(t, err)
	var out []string
	for _, f := range p.Findings {
		if f.Severity != inspect.Note && f.Code != "text-invisible" {
			if !slices.Contains(out, f.Code) {
				out = append(out, f.Code)
			}
		}
	}
	return out
}

// ownFaults are what platforms do of themselves, whatever is delivered to them: those that
// know no weights make bold words up, and one takes no compressed file.
var ownFaults = map[string][]string{
	"fields-only": {"faux-bold"},
	"app-form":    {"faux-bold", "uncompressed"},
	"prototype":   {"weight-mislabeled"}, // a bold in the place of a family of another name
}

// TestPlatforms takes a pack to each kind of platform that publishes pages, does what
// the slip says and nothing else, and looks at the page on a machine without these
// fonts: each role has the face that was placed, none is faked, no request failed and
// none went elsewhere.
func TestPlatforms(t *testing.T) {
	s := open(t)
	client := s.client("Holmvik Ferries")
	var sans int64
	for _, d := range foundry.Signage() {
		sans = s.family(d, "client", "Holmvik Ferries", "origin", "commissioned")
	}
	otf, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(t, err)
	added := s.add("umbrisk.otf", otf, "client", "Holmvik Ferries", "origin", "bought")
	require.NotNil(t, added.JSON200, "%s", added.Body)
	display := added.JSON200.Family.Id
	yes := api.ConsentYes
	license, err := s.admin.AddLicenseWithResponse(t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: client, Uses: []api.Use{api.UseWeb, api.UseApp, api.UseDesktop},
		Families: []int64{sans, display}, Changes: &api.LicensedChanges{Subset: &yes, Outlines: &yes, Name: &yes}})
	require.NoError(t, err)
	require.NotNil(t, license.JSON201, "%s", license.Body)
	s.document(license.JSON201.Id)

	tried := map[string]bool{}
	at := func(t *testing.T, kind string) *receiving {
		t.Helper()
		tried[kind] = true
		s := &studio{s.Service, t, s.admin}
		site, err := s.admin.AddSiteWithResponse(t.Context(), api.SiteTerms{Name: "To " + kind, Client: client, Builder: kind})
		require.NoError(t, err)
		require.NotNil(t, site.JSON201, "%s", site.Body)
		place := func(role string, family int64, weight int) api.RoleAssignment {
			return api.RoleAssignment{Role: role, Family: family, Weight: weight, Slope: api.StyleNormal, Fallbacks: []string{"sans-serif"}}
		}
		in := api.RoleAssignments{Assignments: []api.RoleAssignment{place("body", sans, 400), place("heading-1", sans, 700), place("heading-2", display, 400)}, Replacements: []api.Replacement{}}
		if kind == "prototype" {
			in = api.RoleAssignments{Assignments: []api.RoleAssignment{}, Replacements: []api.Replacement{{Name: "Georgia", Family: sans, Weight: 700, Slope: api.StyleNormal}}}
		}
		placed, err := s.admin.AssignRolesWithResponse(t.Context(), site.JSON201.Id, &api.AssignRolesParams{IfMatch: site.JSON201.Etag}, in)
		require.NoError(t, err)
		require.NotNil(t, placed.JSON200, "%s", placed.Body)
		one, err := platform.New(kind)
		if err != nil {
			one = nil // a bundle or an install
		}
		d := &receiving{s, site.JSON201.Id, one, nil, nil}
		d.build()
		return d
	}
	browser := tab(t, "")
	inspector, err := browse.Start(t.Context(), browse.Options{Private: true})
	require.NoError(t, err)
	t.Cleanup(inspector.Close)
	const regular, bold, headline = "SkerrowSans-Regular", "SkerrowSans-Bold", "UmbriskDisplay-Rg"
	for kind, do := range map[string]func(d *receiving, base string){
		"self-hosted": func(d *receiving, _ string) {
			d.upload()
			d.r.Head(words(all(d.step("styles"), "data-paste")[0]))
		},
		"bundler": func(d *receiving, _ string) {
			d.upload()
			d.r.MainSheet(words(all(d.step("styles"), "data-paste")[0]))
		},
		"upload-form":         func(d *receiving, _ string) { d.upload(); d.choose() },
		"upload-form-several": func(d *receiving, _ string) { d.upload(); d.choose() },
		"fields-only":         func(d *receiving, _ string) { d.upload(); d.choose() },
		"app-form":            func(d *receiving, _ string) { d.upload(); d.choose() },
		"style-box": func(d *receiving, base string) {
			d.bring(base, d.upload())
			require.NoError(d.t, d.r.StyleBox(d.paste()))
		},
		"page-block": func(d *receiving, base string) {
			pages := api.NewSitePages{}
			for _, address := range platform.Pages {
				pages.Pages = append(pages.Pages, api.NewSitePage{Url: address})
			}
			named, err := d.admin.AddSitePagesWithResponse(d.t.Context(), d.site, pages)
			require.NoError(d.t, err)
			require.NotNil(d.t, named.JSON200, "%s", named.Body)
			d.bring(base, d.upload())
			lines := all(d.step("pages"), "data-page")
			require.Len(d.t, lines, len(platform.Pages))
			for _, line := range lines {
				require.NoError(d.t, d.r.PageBox(value(line, "data-page"), d.paste()))
			}
		},
		"linked-stylesheet": func(d *receiving, base string) {
			d.bring(base, d.upload())
			got, err := d.r.Upload([]platform.File{d.file("fonts.css")}, nil)
			require.NoError(d.t, err)
			d.bring(base, got)
			require.NoError(d.t, d.r.SheetSetting(words(all(d.step("styles"), "data-paste")[0])))
		},
		"face-stylesheets": func(d *receiving, base string) {
			d.bring(base, d.upload())
			var up []platform.File
			for _, line := range all(d.step("styles"), "data-sheet") {
				up = append(up, d.file(path.Base(value(line, "data-sheet"))))
			}
			got, err := d.r.Upload(up, nil)
			require.NoError(d.t, err)
			d.bring(base, got) // all in one paste
			for _, line := range all(d.step("styles"), "data-sheet") {
				family := ""
				if named := all(line, "data-family"); len(named) > 0 {
					family = words(named[0])
				}
				require.NoError(d.t, d.r.ListFont(words(all(line, "data-paste")[0]), family))
			}
		},
		"course-script": func(d *receiving, base string) {
			d.bring(base, d.upload())
			require.NoError(d.t, d.r.ScriptBox(d.paste()))
		},
		"prototype": func(d *receiving, base string) {
			d.bring(base, d.upload())
			for _, line := range all(d.step("styles"), "data-swap") {
				require.NoError(d.t, d.r.Swap(value(line, "data-swap"), words(all(line, "data-url")[0])))
			}
		},
	} {
		t.Run(kind, func(t *testing.T) {
			d := at(t, kind)
			var botched atomic.Bool
			server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				if botched.Load() && slices.Contains([]string{".woff2", ".woff", ".ttf", ".otf"}, path.Ext(r.URL.Path)) {
					http.NotFound(w, r) // what went up was put somewhere else
					return
				}
				d.r.ServeHTTP(w, r)
			}))
			defer server.Close()
			do(d, server.URL)
			d.r.Publish()
			want := map[string]string{"h1": bold, ".words": regular, "strong": bold, "li": regular, "h2": headline}
			switch kind {
			case "app-form": // it knows no second heading
				delete(want, "h2")
				delete(want, "strong") // and no weights
			case "fields-only":
				delete(want, "strong")
			case "prototype":
				want = map[string]string{".swapped": bold}
			}
			for _, page := range platform.Pages {
				browsertest.Do(t, browser, chromedp.Navigate(server.URL+page), browsertest.Until("document.fonts.status === 'loaded'"))
				browsertest.Eval[bool](t, browser, "document.fonts.ready.then(() => true)")
				for selector, font := range want {
					found := fontsOf(t, browser, selector)
					if selector == ".words" { // its bold word counts among its own
						found = slices.DeleteFunc(found, func(f shown) bool { return f.font == bold })
					}
					assert.Equal(t, []shown{{font, true}}, found, "%s on %s", selector, page)
				}
				elsewhere := browsertest.Eval[[]string](t, browser, `performance.getEntriesByType("resource").filter((r) => !r.name.startsWith(location.origin + "/") || r.responseStatus >= 400).map((r) => r.name)`)
				assert.Empty(t, elsewhere, "requests that failed or went elsewhere")
			}
			assert.ElementsMatch(t, ownFaults[kind], wrongWith(t, inspector, server.URL+platform.Pages[0]), "an inspection of a good import")
			botched.Store(true)
			assert.Contains(t, wrongWith(t, inspector, server.URL+platform.Pages[0]), "font-404", "an inspection of a botched one")
		})
	}

	t.Run("apple-app", func(t *testing.T) {
		d := at(t, "apple-app")
		bundle := map[string][]byte{}
		for name, data := range d.pack {
			if strings.HasPrefix(name, "fonts/") {
				bundle[path.Base(name)] = data
			}
		}
		names, err := platform.AppleFonts(d.pack["Info-fonts.plist"], bundle)
		require.NoError(t, err)
		assert.ElementsMatch(t, []string{regular, bold, headline}, names)
		for _, name := range names {
			assert.Contains(t, string(d.pack["FontNames.swift"]), `"`+name+`"`)
		}
	})
	t.Run("android-app", func(t *testing.T) {
		d := at(t, "android-app")
		resources := map[string][]byte{}
		for name, data := range d.pack {
			if strings.HasPrefix(name, "res/font/") {
				resources[path.Base(name)] = data
			}
		}
		families, err := platform.AndroidFonts(resources)
		require.NoError(t, err)
		assert.ElementsMatch(t, []platform.Resource{{PostScript: regular, Weight: 400, Style: "normal"}, {PostScript: bold, Weight: 700, Style: "normal"}}, families["skerrow_sans"])
		assert.Len(t, families["umbrisk_display"], 1)
	})
	t.Run("desktop", func(t *testing.T) {
		d := at(t, "desktop")
		folder := t.TempDir()
		installed := filepath.Join(folder, "installed")
		require.NoError(t, os.Mkdir(installed, 0o700))
		for _, f := range all(d.step("upload"), "data-file") {
			one := d.file(value(f, "data-file"))
			require.NoError(t, os.WriteFile(filepath.Join(installed, one.Name), one.Data, 0o600))
		}
		config := filepath.Join(folder, "fonts.conf")
		require.NoError(t, os.WriteFile(config, []byte("<fontconfig><dir>"+installed+"</dir><cachedir>"+folder+"/cache</cachedir></fontconfig>"), 0o600))
		for pattern, want := range map[string]string{"Skerrow Sans:bold": bold, "Skerrow Sans": regular, "Umbrisk Display": headline} {
			find := exec.CommandContext(t.Context(), "fc-match", "--format=%{postscriptname}", pattern)
			find.Env = append(os.Environ(), "FONTCONFIG_FILE="+config)
			got, err := find.Output()
			require.NoError(t, err)
			assert.Equal(t, want, string(got), pattern)
		}
	})
	t.Run("every kind that is shipped", func(t *testing.T) {
		for _, r := range builder.Shipped() {
			assert.True(t, tried[r.Kind], "%s is shipped, and its packs in use nowhere above", r.Kind)
		}
	})
}
