package service_test

import (
	"archive/zip"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

// choose picks an option of a select by its label.
func choose(label, option string) browsertest.Step {
	item := `//div[contains(@class,"el-popper")][@aria-hidden="false"]//li[contains(@class,"item")][contains(normalize-space(),"` + option + `")]`
	return chromedp.Steps(
		browsertest.Click(`//*[@aria-label="`+label+`"]/ancestor::*[contains(concat(" ",@class," ")," el-select ")]`),
		browsertest.Visible(item),
		// The list may still be finding its place beside the field, so the item itself is pressed, not a point on the screen.
		browsertest.Until(`(i => (i?.click(), !!i))(document.evaluate('`+item+`', document, null, XPathResult.FIRST_ORDERED_NODE_TYPE).singleNodeValue)`),
		browsertest.Gone(item),
	)
}

func press(label string) browsertest.Step {
	return browsertest.Click(`//button[normalize-space()="` + label + `"]`)
}

// TestFromSignInToDownloadedPack does in the console, in a browser, what the
// product is for: sign in, drop fonts, record a license with its document, add a
// site, put the family on it, build the pack, and open what was downloaded.
func TestFromSignInToDownloadedPack(t *testing.T) {
	s := servicetest.Start(t, nil)
	work, downloads := t.TempDir(), t.TempDir()
	var fonts []string
	for _, d := range foundry.Signage() {
		path := filepath.Join(work, d.PostScript+".ttf")
		require.NoError(t, os.WriteFile(path, drawn(t, d, font.TTF), 0o600))
		fonts = append(fonts, path)
	}
	doc := filepath.Join(work, "order.txt")
	require.NoError(t, os.WriteFile(doc, []byte("Order 12"), 0o600))

	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Imports"]`), browsertest.Visible(".zone"),
		choose("Origin", "Commissioned"),
		browsertest.Upload(`.zone input[type="file"]`, fonts...),
		browsertest.Until(`document.querySelectorAll('[data-outcome="new"]').length === 3`), press("Import 3 fonts"),
		browsertest.Until(`document.querySelectorAll('[data-taken="true"]').length === 3`))
	browsertest.Do(t, ctx, browsertest.Click(`//a[normalize-space()="Open Skerrow Sans"]`), browsertest.Visible(".face"), allSet())
	page := browsertest.Eval[string](t, ctx, `document.querySelector("main").innerText`)
	for _, want := range []string{"Light", "Regular", "Bold", "No license is recorded"} {
		assert.Contains(t, page, want)
	}
	assert.Equal(t, 3.0, browsertest.Eval[float64](t, ctx, catalogFonts+`.filter(f => f.status === "loaded").length`), "each face is set in itself")

	browsertest.Do(t, ctx, press("Record a license"), browsertest.Visible(".el-dialog"),
		browsertest.Upload(`.el-dialog input[type="file"]`, doc),
		press("Record"), browsertest.Hidden(".el-dialog"), browsertest.Visible(`//a[contains(text(),"order.txt")]`))

	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Sites"]`), press("Add a site"), browsertest.Visible(".el-dialog"),
		browsertest.Type(`//label[normalize-space()="Name"]/following::input[1]`, "Harbour page"),
		choose("Client", "Lanternjaw Studio"),
		browsertest.Type(`//label[normalize-space()="Domains"]/following::input[1]`, "harbour.example"),
		press("Add"), browsertest.Visible(`//h1[text()="Harbour page"]`))
	browsertest.Do(t, ctx, choose("Family to add to this site", "Skerrow Sans"), press("Add to site"), browsertest.Visible(".verdict.cleared"),
		browsertest.Click(`//nav/a[text()="Pack"]`), browsertest.Visible(`//td[text()="fonts/skerrow-sans-bold.woff2"]`))
	browsertest.Do(t, ctx, press("Build and download"), browsertest.Visible(".built"))

	saved := filepath.Join(downloads, "harbour-page-fonts.zip")
	require.Eventually(t, func() bool { _, err := os.Stat(saved); return err == nil }, time.Minute, 50*time.Millisecond)
	unpacked := t.TempDir()
	unzip(t, saved, unpacked)
	packWorks(t, unpacked, 3)
}

func unzip(t testing.TB, path, to string) {
	t.Helper()
	z, err := zip.OpenReader(path)
	require.NoError(t, err)
	defer func() { _ = z.Close() }()
	for _, f := range z.File {
		require.True(t, fs.ValidPath(f.Name), f.Name)
		target := filepath.Join(to, filepath.FromSlash(f.Name))
		require.NoError(t, os.MkdirAll(filepath.Dir(target), 0o700))
		r, err := f.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(target, data, 0o600))
	}
}

// packWorks serves an unpacked pack and looks at its sample page in a browser
// that has none of the fonts: every face loads, and the text is drawn in it.
func packWorks(t testing.TB, folder string, faces int) {
	t.Helper()
	address := serve(t, folder)
	for _, format := range []string{"woff2", "woff"} {
		if format == "woff" { // without the first choice the browser takes the second
			sheet, err := os.ReadFile(filepath.Join(folder, "fonts.css"))
			require.NoError(t, err)
			require.NoError(t, os.WriteFile(filepath.Join(folder, "fonts.css"), []byte(strings.ReplaceAll(string(sheet), `format("woff2")`, `format("none")`)), 0o600))
		}
		ctx := tab(t, "")
		browsertest.Do(t, ctx, chromedp.Navigate(address+"/sample.html"))
		loaded := browsertest.Eval[[]string](t, ctx, `document.fonts.ready.then(fonts => [...fonts].map(f => f.status))`)
		require.Len(t, loaded, faces)
		for _, status := range loaded {
			assert.Equal(t, "loaded", status, format)
		}
		used := browsertest.Fonts(t, ctx, ".large")
		require.Len(t, used, faces)
		for _, f := range used {
			assert.True(t, f.IsCustomFont, "%s is not the font that was sent", f.FamilyName)
			assert.Contains(t, f.PostScriptName, "SkerrowSans-")
		}
		took := browsertest.Eval[string](t, ctx, `performance.getEntriesByType("resource").map(r => r.name).join(" ")`)
		assert.Contains(t, took, "."+format)
	}
}

// TestKeyboardAlone signs in and reaches a family without a mouse.
func TestKeyboardAlone(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	ctx := tab(t, "")
	who := s.As(api.RoleViewer)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families"), browsertest.Visible("#email"),
		chromedp.KeyEvent(who.Email), chromedp.KeyEvent("\t"), chromedp.KeyEvent(who.Password), chromedp.KeyEvent("\r"), browsertest.Visible(".strip"))
	for range 30 {
		browsertest.Do(t, ctx, chromedp.KeyEvent("\t"))
		if browsertest.Eval[string](t, ctx, `document.activeElement.innerText ?? ""`) == "Skerrow Sans" {
			break
		}
	}
	browsertest.Do(t, ctx, chromedp.KeyEvent("\r"), browsertest.Visible(".face"))
	assert.Empty(t, browsertest.Eval[string](t, ctx, `[...document.querySelectorAll("button")].filter(b => b.innerText === "Record a license").join()`), "a viewer is offered nothing to change")
}
