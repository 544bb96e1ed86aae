package service_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/console"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/fakes/published"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service/servicetest"
)

func TestMain(m *testing.M) {
	os.Exit(mariadbtest.Run(func() int { return browsertest.Run(m.Run) }))
}

// looking holds the tests that have a tab open. A tab waits for its service as often as it
// works, so two of them keep two cores busy; more would only get in each other's way.
var looking = make(chan struct{}, 2)

// lookers are the tests that have a tab already.
var lookers sync.Map

// tab opens a tab for the console.
func tab(t testing.TB, downloads string) context.Context {
	t.Helper()
	test, _, _ := strings.Cut(t.Name(), "/")
	if _, has := lookers.LoadOrStore(test, true); !has {
		looking <- struct{}{}
		t.Cleanup(func() { lookers.Delete(test); <-looking })
	}
	if !console.Built() {
		t.Fatal("the console is not built; run make console")
	}
	return browsertest.New(t, downloads)
}

// signIn brings a tab from nothing into the console, to a page of it: the list of
// sites, which is quickly drawn, where none is given. The form for it has tests of its own.
func signIn(t testing.TB, ctx context.Context, s *servicetest.Service, role api.Role, page ...string) { //nolint:revive // t first
	t.Helper()
	who, err := json.Marshal(s.As(role))
	require.NoError(t, err)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/mark.svg"))
	in := browsertest.Eval[int](t, ctx, fmt.Sprintf(`(who => fetch("/api/v1/session", {
		method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ email: who.Email, password: who.Password }),
	}).then(answer => answer.status))(%s)`, who))
	require.Equal(t, http.StatusOK, in)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+strings.Join(append(page, "/sites")[:1], "")), browsertest.Visible("header nav"))
}

// openFace opens the page of a face from the page of its family.
func openFace(style string) browsertest.Step {
	return browsertest.Click(fmt.Sprintf(`//li[contains(@class,"face")]//a[normalize-space()=%q]`, style))
}

// openTab opens a tab of the page of a face.
func openTab(label string) browsertest.Step {
	return browsertest.Click(fmt.Sprintf(`//nav[contains(@class,"tabs")]/a[normalize-space()=%q]`, label))
}

// says waits until the page says something.
func says(words string) browsertest.Step {
	return browsertest.Until(fmt.Sprintf("document.body.innerText.includes(%q)", words))
}

// catalogFonts are the fonts that a page has of the catalog, besides the console's own typeface.
const catalogFonts = `[...document.fonts].filter(f => !f.family.includes("Public Sans"))`

// allSet waits until every sample in view is set in its own font.
func allSet() browsertest.Step {
	return browsertest.Until(`document.querySelectorAll('[data-state="ready"]').length > 0 && document.querySelectorAll('[data-state="waiting"]').length === 0`)
}

// TestScreens writes the pictures of docs/screenshots; it runs where
// SPARECRATE_SCREENS names the folder to write to.
func TestScreens(t *testing.T) {
	folder := os.Getenv("SPARECRATE_SCREENS")
	if folder == "" {
		t.Skip("SPARECRATE_SCREENS names no folder")
	}
	s := servicetest.Start(t, servicetest.WholeDemo)
	ctx := tab(t, "")
	shot := func(name string, steps ...browsertest.Step) {
		browsertest.Do(t, ctx, append(steps, chromedp.Sleep(400*time.Millisecond))...)
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name+".png"), png, 0o600))
	}
	signIn(t, ctx, s, api.RoleAdmin, "/families?view=grid")
	shot("catalog", allSet())
	shot("home", chromedp.Navigate(s.Address+"/"), browsertest.Visible(".item"))
	shot("register", chromedp.Navigate(s.Address+"/register/print"))
	shot("page-views", chromedp.Navigate(s.Address+"/sites/2"), browsertest.Visible(".chart svg"), scrollTo(".chart"), browsertest.Until(`(scrollBy(0, -150), true)`))
	shot("family", chromedp.Navigate(s.Address+"/families/7"), browsertest.Visible(".face"), allSet())
	shot("imports", chromedp.Navigate(s.Address+"/imports/1"), browsertest.Until(`document.querySelectorAll('[data-outcome="refused"]').length >= 1 && document.querySelectorAll('[data-outcome="new"]').length >= 2`))
	shot("shortlist", chromedp.Navigate(s.Address+"/shortlists/1"), browsertest.Visible(".pick"), allSet())
	shot("people", chromedp.Navigate(s.Address+"/settings?tab=people"), says("Holmvik Ferries, Saltmarsh Seed Exchange"))
	shot("licenses", chromedp.Navigate(s.Address+"/licenses?show=2"), browsertest.Visible(".license"), says("Depends on this license"))
	_, err := s.Client(t, api.RoleAdmin).AddOutletWithResponse(t.Context(), 1, api.NewOutlet{Name: "Ticket app", Builder: "android-app"})
	require.NoError(t, err)
	shot("style-guide", chromedp.Navigate(s.Address+"/sites/6/guide"), browsertest.Visible("article.guide"), allSet())
	shot("roles", chromedp.Navigate(s.Address+"/sites/1/roles"), browsertest.Visible(".role"), allSet())
	shot("builder", chromedp.Navigate(s.Address+"/builders/upload-form"), browsertest.Visible(".example table"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1/pack"), browsertest.Visible("table.plain"), press("Subset or change Skerrow Sans"), browsertest.Visible(".el-dialog"),
		browsertest.Type(`//*[contains(@class,"el-dialog")]//input[@aria-label="Also the characters of this text"]`, "Holmvik – Skerry 16:35 €"))
	shot("pack-plan", press("Save"), browsertest.Until(`document.body.innerText.includes("browser; subset to a text") && !document.body.innerText.includes("converting")`))
	shot("face-reshape", chromedp.Navigate(s.Address+"/families/4"), openFace("Regular"), openTab("Subset and convert"),
		fill("Character sets", "latin\r\t"), browsertest.Visible("[data-tab=changes] .el-tag"), fill("Axis wght", "600\t"),
		browsertest.Until(`document.querySelector('[aria-label="Axis wght"]').getAttribute("aria-valuenow") === "600"`), press("Create file"), browsertest.Until(`document.body.innerText.includes("SemiBold, PostScript")`), scrollTo("[data-made]"))
	pages, err := published.New("")
	require.NoError(t, err)
	host := httptest.NewServer(pages)
	t.Cleanup(host.Close)
	inspected := (&studio{s, t, s.Client(t, api.RoleAdmin)}).inspected(1, api.NewInspection{Pages: &[]string{host.URL + published.Home, host.URL + published.Fares}})
	shot("inspection", chromedp.Navigate(fmt.Sprintf("%s/inspections/%d", s.Address, inspected.Inspection.Id)), browsertest.Visible(".picture img"), scrollTo(".pages"))
	slip := packOf(t, s, 2)
	shot("upload-slip", chromedp.Navigate(slip+"/upload-slip.html"))
	shot("phone", chromedp.EmulateViewport(390, 800, chromedp.EmulateMobile), chromedp.Navigate(s.Address+"/families"), allSet())
}

// scrollTo brings an element to the top of the window.
func scrollTo(selector string) browsertest.Step {
	return browsertest.Until(fmt.Sprintf(`(document.querySelector(%q).scrollIntoView(), true)`, selector))
}

// packOf builds a site's pack and serves it unpacked.
func packOf(t testing.TB, s *servicetest.Service, site int64) string {
	t.Helper()
	c := s.Client(t, api.RoleAdmin)
	built, err := c.BuildPackWithResponse(t.Context(), site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	r, err := c.GetPackContentWithResponse(t.Context(), built.JSON201.Id)
	require.NoError(t, err)
	folder := t.TempDir()
	path := filepath.Join(folder, "pack.zip")
	require.NoError(t, os.WriteFile(path, r.Body, 0o600))
	unzip(t, path, folder)
	return serve(t, folder)
}

func serve(t testing.TB, folder string) string {
	t.Helper()
	server := httptest.NewServer(http.FileServer(http.Dir(folder)))
	t.Cleanup(server.Close)
	return server.URL
}
