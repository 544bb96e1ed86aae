package service_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/eot"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

// text returns what a person reads on the page.
func text(t testing.TB, ctx context.Context) string { //nolint:revive // t first
	t.Helper()
	return browsertest.Eval[string](t, ctx, `document.body.innerText`)
}

// fill types into the field behind a label.
func fill(label, value string) browsertest.Step {
	return browsertest.Type(`//*[@aria-label="`+label+`"]/descendant-or-self::input`, value)
}

// refill types into the field behind a label in place of what is in it.
func refill(label, value string) browsertest.Step {
	return chromedp.Steps(browsertest.Until(`document.querySelector('input[aria-label="`+label+`"]')?.select() === undefined`), fill(label, value))
}

func TestNewPersonSetsAPasswordFirst(t *testing.T) {
	s := open(t)
	added, err := s.admin.AddPersonWithResponse(t.Context(), api.NewPerson{Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Role: api.RoleEditor})
	require.NoError(t, err)
	ctx := tab(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites"), browsertest.Visible("#email"),
		browsertest.Type("#email", "tomas@lanternjaw.example"), browsertest.Type("#password", "guess\r"), browsertest.Visible(".trouble"))
	assert.Contains(t, text(t, ctx), "The e-mail address or the password is wrong.")
	browsertest.Eval[bool](t, ctx, `(p => { p.value = ""; return p.dispatchEvent(new Event("input")) })(document.querySelector("#password"))`)
	browsertest.Do(t, ctx, browsertest.Type("#password", added.JSON201.OneTimePassword+"\r"), browsertest.Visible("#current"))
	assert.Contains(t, text(t, ctx), "Welcome, Tomas Lindqvist.")
	browsertest.Do(t, ctx, browsertest.Type("#current", added.JSON201.OneTimePassword), browsertest.Type("#next", "short\r"), browsertest.Visible(".trouble"))
	assert.Contains(t, text(t, ctx), "A password needs at least 15 characters")
	browsertest.Do(t, ctx, browsertest.Type("#next", " but longer now\r"), browsertest.Visible("header nav"))
	assert.Equal(t, "/sites", browsertest.Eval[string](t, ctx, `location.pathname`), "the page asked for at first")
	browsertest.Do(t, ctx, press("Sign out"), browsertest.Visible("#email"))
}

func TestFindingAndSettingInOnesOwnWords(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor, "/families")
	browsertest.Do(t, ctx, browsertest.Until(`document.querySelectorAll(".strip").length === 4`), fill("Find", "umbriskdisplay-rg"),
		browsertest.Until(`document.querySelectorAll(".strip").length === 1 && location.search === "?q=umbriskdisplay-rg"`), allSet()) // the address holds the query
	assert.Contains(t, text(t, ctx), "Tonight: the Rings of Saturn")
	browsertest.Do(t, ctx, browsertest.Type(`//span[text()="Sample text"]/following::input[1]`, "Saturn at nine"), browsertest.Until(`document.body.innerText.includes("Saturn at nine")`))
	browsertest.Do(t, ctx, chromedp.Reload(), browsertest.Visible(".strip"), allSet())
	assert.Equal(t, 1.0, browsertest.Eval[float64](t, ctx, `document.querySelectorAll(".strip").length`), "a reload keeps the query")
	assert.Contains(t, text(t, ctx), "Saturn at nine", "and the words")
	browsertest.Do(t, ctx, fill("Find", "zzz"), browsertest.Until(`document.body.innerText.includes("No family matches.")`))
}

func TestNamesAreCopiedWithOnePress(t *testing.T) {
	s := open(t)
	s.family(foundry.Display())
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleViewer)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/1"), openFace("Regular"), openTab("Names and code"), browsertest.Click(`//button[@aria-label="Copy PostScript name"]`),
		browsertest.Visible(`//button[@aria-label="Copy PostScript name"][text()="Copied"]`))
	// What was copied is what a paste brings.
	browsertest.Eval[bool](t, ctx, `(() => { const a = document.createElement("textarea"); a.id = "paste"; document.body.prepend(a); a.focus(); return document.execCommand("paste") || true })()`)
	browsertest.Do(t, ctx, chromedp.KeyEvent("v", chromedp.KeyModifiers(chromedp.ModifierCtrl)), browsertest.Until(`document.querySelector("#paste").value === "UmbriskDisplay-Rg"`))
}

func TestABarredFamilyIsSignedOffByAnAdminOnly(t *testing.T) {
	s := open(t)
	poster := s.family(foundry.Poster())
	s.site("Almanac", 1, poster)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1/pack"), browsertest.Visible(".verdict.blocked"), browsertest.Visible("table.plain"))
	assert.Contains(t, text(t, ctx), "Stopped: Tidegarth Poster is blocked.")
	assert.True(t, browsertest.Eval[bool](t, ctx, `[...document.querySelectorAll("button")].find(b => b.innerText === "Build and download").disabled`))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1"), browsertest.Visible(".verdict.blocked"))
	assert.NotContains(t, text(t, ctx), "Sign off", "an editor is not offered what only an admin may")
	browsertest.Do(t, ctx, press("Sign out"), browsertest.Visible("#email"))
	signIn(t, ctx, s.Service, api.RoleAdmin)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/1"), browsertest.Visible(".verdict.blocked"), press("Sign off"), browsertest.Visible("#why"),
		browsertest.Type("#why", "The maker agreed by letter"), browsertest.Click(`.el-dialog button[type="submit"]`), browsertest.Visible(".signed"))
	page := text(t, ctx)
	assert.Contains(t, page, "“The maker agreed by letter”")
	assert.Contains(t, page, "Signed off by Ines Varga")
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Pack"]`), browsertest.Visible("table.plain"), browsertest.Until(`![...document.querySelectorAll("button")].find(b => b.innerText === "Build and download").disabled`))
}

// TestAnEditIsNotLost changes a license that somebody else changed meanwhile.
func TestAnEditIsNotLost(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	l := s.license(1, nil, family)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/licenses"), browsertest.Visible(".license"), press("Change"), browsertest.Visible(".el-dialog"))
	other, err := s.admin.ChangeLicenseWithResponse(t.Context(), l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag},
		api.LicenseTerms{Kind: api.KindOpen, GrantedTo: 1, Uses: []api.Use{api.UseApp}, Families: []int64{family}})
	require.NoError(t, err)
	require.NotNil(t, other.JSON200, "%s", other.Body)
	browsertest.Do(t, ctx, press("Save"), browsertest.Visible(`.el-dialog [role="alert"]`))
	assert.Contains(t, text(t, ctx), "Someone else changed this license while you were editing it.")
	now, err := s.admin.GetLicenseWithResponse(t.Context(), l.Id)
	require.NoError(t, err)
	assert.Equal(t, api.KindOpen, now.JSON200.Kind, "what the other wrote stands")
}

// TestAFacePageTellsAll opens what is folded on a family's page and fetches a
// format that nobody asked for before.
func TestAFacePageTellsAll(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	downloads := t.TempDir()
	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/2"), openFace("Regular"), openTab("Formats"),
		browsertest.Until(`document.querySelectorAll('[data-state="made"]').length === 2`)) // what packs need is made without being asked for
	page := text(t, ctx)
	browsertest.Do(t, ctx, openTab("Languages"), press("and 106 more"))
	page += text(t, ctx)
	browsertest.Do(t, ctx, openTab("Layout features"), browsertest.Visible(".feature"))
	page += text(t, ctx)
	browsertest.Do(t, ctx, openTab("History"), browsertest.Visible(".event"))
	page += text(t, ctx)
	for _, want := range []string{
		"umbrisk_display_v2_FINAL.otf", "Upload forms that require them to match", "Latin 193 of 1481", "130 complete", "English, Spanish, German", "Zulu",
		"missing Ș ș Ț ț", "kerning", `font-feature-settings: "kern" 1`, "added the file umbrisk_display_v2_FINAL.otf", "All activity of Umbrisk Display", "original", "on request", "For a site, download its pack",
	} {
		assert.Contains(t, page, want)
	}
	browsertest.Do(t, ctx, openTab("Characters"), browsertest.Visible(".map .grid button"), chooseAmong("Block, script or language", "Romanian"), says("4 letters missing for Romanian"),
		chooseAmong("Block, script or language", "Latin Extended-A"), browsertest.Until(`document.querySelector(".map .grid button")?.title.startsWith("U+0100")`))
	browsertest.Do(t, ctx, openTab("Formats"), browsertest.Click(`//a[text()="EOT"]`))
	path := filepath.Join(downloads, "umbrisk_display_v2_FINAL.eot")
	require.Eventually(t, func() bool { _, err := os.Stat(path); return err == nil }, time.Minute, 50*time.Millisecond)
	require.Eventually(t, func() bool { b, err := os.ReadFile(path); return err == nil && eot.Is(b) }, time.Minute, 50*time.Millisecond)
	browsertest.Do(t, ctx, openTab("Metadata"), browsertest.Click(`//summary[contains(text(), "records")]`))
	page = text(t, ctx)
	for _, want := range []string{"PostScript outlines, no hinting, 1000 units per em", "Windows\t960\t260\t0\tOS/2 typographic", "Commissioned by Orrery Hall", "en-US"} {
		assert.Contains(t, page, want)
	}
}

// TestWhatWasGivenUpIsTriedAgain shows a job that failed, with its reason, to
// those who may have it done again.
func TestWhatWasGivenUpIsTriedAgain(t *testing.T) {
	s := open(t)
	opened, err := font.Open(drawn(t, foundry.Signage()[1], font.TTF))
	require.NoError(t, err)
	f := opened.Faces[0]
	f.Tables = slices.DeleteFunc(f.Tables, func(t sfnt.Table) bool { return t.Tag == table.TagOS2 })
	added := s.add("Skerrow Sans.ttf", sfnt.Write(f))
	require.NotNil(t, added.JSON200, "%s", added.Body)
	assert.Equal(t, 422, s.content(1, api.EOT).StatusCode())
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/activity"), browsertest.Visible(".job"))
	assert.Contains(t, text(t, ctx), "1 failed")
	assert.Contains(t, text(t, ctx), "Skerrow Sans.ttf as EOT")
	browsertest.Do(t, ctx, press("Retry"), browsertest.Until(`document.body.innerText.includes("The editor retried job: Skerrow Sans.ttf as EOT")`))
}

func TestImportSaysWhatIsWrong(t *testing.T) {
	s := open(t)
	folder := t.TempDir()
	var paths []string
	for name, data := range map[string][]byte{"page.woff": []byte("<html>"), "archive.ttf": []byte("PK\x03\x04aaaaaaaaaaaa"), "empty.otf": nil} {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path, data, 0o600))
		paths = append(paths, path)
	}
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/imports"), browsertest.Visible(".zone"), browsertest.Upload(`.zone input[type="file"]`, paths...),
		browsertest.Until(`document.querySelectorAll('[data-outcome="refused"]').length === 3`))
	page := text(t, ctx)
	for _, want := range []string{"This is a web page saved as a font", "This is a zip archive, not a font; unpack it", "This file is empty", "3 unreadable"} {
		assert.Contains(t, page, want)
	}
	browsertest.Do(t, ctx, press("Discard"), browsertest.Visible(".el-message-box"), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Discard"]`), browsertest.Until(`document.body.innerText.includes("Discarded")`))
	assert.Equal(t, 0.0, browsertest.Eval[float64](t, ctx, `document.querySelectorAll(".zone").length`), "nothing more goes into it")
}

// TestADeliveryInTheConsole drops a folder's files and a zip, moves the fonts to
// a client and a family of a better name, leaves one out, takes the others in, and
// keeps the document that came along as evidence.
func TestADeliveryInTheConsole(t *testing.T) {
	s := open(t)
	_, err := s.admin.AddClientWithResponse(t.Context(), api.AddClientJSONRequestBody{Name: "Orrery Hall"})
	require.NoError(t, err)
	folder := t.TempDir()
	path := filepath.Join(folder, "shop.zip")
	require.NoError(t, os.WriteFile(path, shopZip(t), 0o600))
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/imports"), browsertest.Visible(".zone"), browsertest.Upload(`.zone input[type="file"]`, path),
		browsertest.Until(`document.querySelectorAll('[data-outcome="new"]').length === 3 && !document.body.innerText.includes("being unpacked")`))
	page := text(t, ctx)
	for _, want := range []string{"shop.zip", "3 fonts: 3 selected, 0 already imported. Also 1 document, 2 skipped, 1 unreadable.", "It belongs to a demo page.", "New: Skerrow Sans Bold.", "a new family"} {
		assert.Contains(t, page, want)
	}
	browsertest.Do(t, ctx, press("Change"), choose("Client of these fonts", "Orrery Hall"), choose("Origin of these fonts", "Bought"),
		browsertest.Until(`document.querySelector('input[aria-label="Family of these fonts"]').select() === undefined`), browsertest.Type(`input[aria-label="Family of these fonts"]`, "Dome Sans"),
		press("Change 3 fonts"), browsertest.Visible(`[data-family="Dome Sans"]`),
		browsertest.Click(`//li[.//strong[text()="SkerrowSans-Light.ttf"]]//label`), browsertest.Until(`document.body.innerText.includes("2 selected")`))
	browsertest.Do(t, ctx, press("Import 2 fonts"), browsertest.Until(`document.querySelectorAll('[data-taken="true"]').length === 2 && document.body.innerText.includes("2 already imported")`))
	browsertest.Do(t, ctx, browsertest.Click(`//h2/a[text()="Dome Sans"]`), browsertest.Visible(".face"))
	page = text(t, ctx)
	for _, want := range []string{"Orrery Hall", "LICENSE.txt", "Regular", "Bold"} {
		assert.Contains(t, page, want)
	}
	assert.NotContains(t, page, "SkerrowSans-Light")
	browsertest.Do(t, ctx, press("Record a license"), browsertest.Visible(".el-dialog"), press("Record"), browsertest.Hidden(".el-dialog"),
		choose("Keep LICENSE.txt as document of", "License 1"), browsertest.Until(`document.body.innerText.includes("document of license 1")`))
	browsertest.Do(t, ctx, browsertest.Click("details.moving summary"), fill("Faces to move", "Bold\r\t"), fill("Into the family", "Dome Signs\t"),
		press("Split off 1 face"), browsertest.Visible(`//h1[text()="Dome Signs"]`))
	assert.Contains(t, text(t, ctx), "license 1")
}

func TestAccessPage(t *testing.T) {
	s := open(t)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin)
	browsertest.Do(t, ctx, browsertest.Click(`//a[text()="Ines Varga"]`), browsertest.Visible("table.plain"),
		fill("What the token is for", "pipeline"), press("Create a token"), browsertest.Visible(".el-alert"))
	secret := browsertest.Eval[string](t, ctx, `document.querySelector(".el-alert__title").innerText`)
	require.True(t, strings.HasPrefix(secret, "sc_"), secret)
	browsertest.Do(t, ctx, browsertest.Click(`//a[normalize-space()="People"]`), fill("Name", "Mads Birk"), fill("E-mail", "mads@lanternjaw.example"), choose("Role", "editor"), press("Add the person"),
		browsertest.Until(`document.body.innerText.includes("with the one-time password")`))
	people, err := s.admin.ListPeopleWithResponse(t.Context())
	require.NoError(t, err)
	var roles []string
	for _, p := range people.JSON200.Items {
		roles = append(roles, p.Name+" "+string(p.Role))
	}
	assert.Contains(t, roles, "Mads Birk editor")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/nowhere/at/all"), browsertest.Visible(`//h1[text()="Page not found"]`))
}

// TestCharactersBySet reads the characters of a face by block, script and language, and what
// it lacks for a language.
func TestCharactersBySet(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c, ctx := s.Client(t, api.RoleViewer), t.Context()
	family, err := c.GetFamilyWithResponse(ctx, 2)
	require.NoError(t, err)
	file := family.JSON200.Faces[0].Files[0].Id
	sets, err := c.MeasureCoverageWithResponse(ctx, file, nil)
	require.NoError(t, err)
	require.NotNil(t, sets.JSON200, "%s", sets.Body)
	read := func(set string, missing bool) (*api.CharacterPage, string) {
		t.Helper()
		r, err := c.ListCharactersWithResponse(ctx, file, &api.ListCharactersParams{Set: &set, Missing: &missing, Limit: new(2000)})
		require.NoError(t, err)
		if r.JSON200 == nil {
			return nil, r.ApplicationproblemJSONDefault.Code
		}
		return r.JSON200, ""
	}
	whole, err := c.ListCharactersWithResponse(ctx, file, &api.ListCharactersParams{Limit: new(2000)})
	require.NoError(t, err)
	inBlocks := 0
	for _, b := range sets.JSON200.Blocks {
		page, code := read(b.Set, false)
		require.Empty(t, code)
		assert.Len(t, page.Items, b.Covered, b.Name)
		assert.LessOrEqual(t, b.Covered, b.Of)
		inBlocks += b.Covered
	}
	assert.Equal(t, whole.JSON200.Total, inBlocks, "each character is in one block")
	for _, l := range sets.JSON200.Languages {
		if l.Name == "Romanian" || l.Name == "German" {
			page, code := read(l.Set, true)
			require.Empty(t, code)
			assert.Len(t, page.Items, l.Of-l.Covered, l.Name)
		}
	}
	for _, wrong := range []struct {
		set     string
		missing bool
	}{{"block:nowhere", false}, {"klingon", false}, {"language:klingon", true}} {
		_, code := read(wrong.set, wrong.missing)
		assert.Equal(t, "no-set", code, wrong.set)
	}
	_, code := read("block:Arrows", true)
	assert.Equal(t, "no-language", code)
}
