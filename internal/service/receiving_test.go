package service_test

import (
	"fmt"
	"os"
	"path/filepath"
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

// act presses a button by its label for those who cannot see it, wherever it is.
func act(label string) browsertest.Step {
	return browsertest.Until(fmt.Sprintf(`(b => (b?.click(), !!b))(document.querySelector('[aria-label=%q]'))`, label))
}

// write puts a text into a field in place of what is there.
func write(label, value string) browsertest.Step {
	return browsertest.Until(fmt.Sprintf(`(f => { if (!f) return false; f.focus(); Object.getOwnPropertyDescriptor(Object.getPrototypeOf(f), "value").set.call(f, %q); f.dispatchEvent(new Event("input", {bubbles: true})); return true })(document.querySelector('input[aria-label=%[2]q], textarea[aria-label=%[2]q]'))`, value, label))
}

// TestDeliveringInTheConsole does in the console what a person without code does for
// a membership platform: roles, the plan with its choices, the pack, addresses back,
// the finished block, pages ticked; then a role changes and the pack is out of date.
func TestDeliveringInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	downloads := t.TempDir()
	ctx := tab(t, downloads)
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/4/roles"), browsertest.Visible(".role"), allSet(), says("Italic text in body text will be faux italic"),
		press("Assign a font"), browsertest.Visible(".el-dialog"), choose("Role", "Links"), choose("Weight", "700"), press("Save"), browsertest.Hidden(".el-dialog"),
		says("Links (a) also catches links styled as buttons"))
	browsertest.Do(t, ctx, act("Change Links"), browsertest.Visible(".el-dialog"), press("Remove"), browsertest.Hidden(".el-dialog"),
		browsertest.Until(`!document.body.innerText.includes("made of links")`),
		press("Assign a font"), browsertest.Visible(".el-dialog"), choose("Role", "Custom role"), browsertest.Type(`//input[@placeholder="Timetable cells"]`, "Fare table"),
		press("Save"), says("No selector: a role of your own needs a selector"), browsertest.Type(`//input[@placeholder=".timetable td"]`, ".fares td"), press("Save"), browsertest.Hidden(".el-dialog"), says(".fares td"))
	browsertest.Do(t, ctx, write("Font in the design", "Pilothouse Draft"), choose("Replacement family", "Skerrow Sans"), press("Add replacement"), says("Pilothouse Draft replaced by Skerrow Sans"), says("Every text set in Pilothouse Draft on the site changes"),
		act("Remove the replacement of Pilothouse Draft"), browsertest.Until(`!document.body.innerText.includes("replaced by Skerrow Sans")`))
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Style guide"]`), browsertest.Visible(".guide"), allSet(), says("Your season ticket is valid until 31 October"))

	// The plan, changed on the spot.
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Pack"]`), browsertest.Visible("table.plain"), says("heading 1, bold in body text"),
		act("Include Skerrow Sans Light"), browsertest.Visible(`//td[text()="fonts/skerrow-sans-light.woff2"]`),
		act("Include Skerrow Sans Light"), browsertest.Gone(`//td[text()="fonts/skerrow-sans-light.woff2"]`))
	browsertest.Do(t, ctx, browsertest.Until(`![...document.querySelectorAll("button")].find(b => b.innerText === "Build and download").disabled`), press("Build and download"), browsertest.Visible(".built"))
	require.Eventually(t, func() bool {
		_, err := os.Stat(filepath.Join(downloads, "holmvik-members-pages-live-fonts.zip"))
		return err == nil
	}, time.Minute, 50*time.Millisecond)

	// Addresses come back, one by one and all at once.
	browsertest.Do(t, ctx, write("URL of fonts/skerrow-sans-bold.woff2", "skerrow-sans-bold.woff2"), browsertest.Until(`(b => (b?.click(), !!b))([...document.querySelectorAll(".one")].find(li => li.innerText.includes("bold")).querySelector("button:not([disabled])"))`),
		says("there are 0"), write("File URLs", `<a href="https://files.example/8a/skerrow-sans-regular.woff2">, https://files.example/8b/skerrow-sans-bold.woff2`), press("Match URLs"),
		says("Finished"), says(`url("https://files.example/8a/skerrow-sans-regular.woff2")`), says(".fares td {"))
	browsertest.Do(t, ctx, act("Remove the URL of fonts/skerrow-sans-bold.woff2"), says("Missing"), browsertest.Until(`!document.body.innerText.includes("Finished")`))

	browsertest.Do(t, ctx, write("Page URLs", "/prices"), press("Add pages"), says("/prices"), says("0 of 4 done"),
		browsertest.Until(`(document.querySelector('[aria-label="Pages"] input[type="checkbox"]').click(), true)`), says("1 of 4 done"), says("The editor,"))

	// A role changes: the pack is out of date, and says how.
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Fonts and roles"]`), act("Change Heading 1"), browsertest.Visible(".el-dialog"), choose("Weight", "300"), press("Save"), browsertest.Hidden(".el-dialog"),
		says("is out of date."), says("Heading 1 is Skerrow Sans, weight 300"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/"), says("The pack of Holmvik members' pages for live"))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/1"), says("Holmvik members' pages: Body text, Heading 1, Lists"), press("Pack without a site"))
	require.Eventually(t, func() bool {
		_, err := os.Stat(filepath.Join(downloads, "Skerrow Sans for desktop.zip"))
		return err == nil
	}, time.Minute, 50*time.Millisecond)
}

// TestRulesInTheConsole changes builder rules beside their live example, copies them,
// tries an upload and reads the versions; a viewer only reads.
func TestRulesInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, t.TempDir())
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, browsertest.Click(`//nav/a[text()="Builders"]`), browsertest.Click(`//a[text()="Content management system with an upload form, one file a face"]`),
		browsertest.Visible(`//td[contains(.,"fonts/Brackmoor Sans Bold.woff2")]`),
		press("3. Upload and names"), choose("File names", "Lower case, digits and hyphens"), browsertest.Visible(`//td[contains(.,"fonts/brackmoor-sans-bold.woff2")]`),
		choose("Upload", "The folder as a whole"), says("A form takes files one at a time"),
		browsertest.Until(`[...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Save as version")).disabled`),
		choose("Upload", "One file at a time"), browsertest.Until(`!document.body.innerText.includes("A form takes files one at a time")`),
		press("Save as version 2"), says("Shipped, changed: version 2"))
	browsertest.Do(t, ctx, browsertest.Until(`([...document.querySelectorAll("summary")].find(s => s.innerText === "Versions").click(), true)`), says("files.named: full → hyphens"))
	woff2 := filepath.Join(t.TempDir(), "Skerrow Sans.woff2")
	require.NoError(t, os.WriteFile(woff2, drawn(t, foundry.Signage()[2], font.WOFF2), 0o600))
	browsertest.Do(t, ctx, write("Value for Weight", "400"), browsertest.Upload(`input[aria-label="Files to try"]`, woff2), says("“Weight” is 400, but the font is 700"), says("“Font name” is empty"),
		write("Value for Weight", ""), browsertest.Until(`!document.body.innerText.includes("“Weight” says 400")`), says("Skerrow Sans.woff2: refused"), says("lower-case letters, digits and hyphens are accepted"))
	browsertest.Do(t, ctx, write("Name of the copy", "Harbour CMS"), press("Copy"), says("Your own, version 1"), browsertest.Until(`location.pathname === "/builders/harbour-cms"`))
	file := filepath.Join(t.TempDir(), "rules.json")
	require.NoError(t, os.WriteFile(file, []byte("not JSON"), 0o600))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/builders"), says("Harbour CMS"), browsertest.Upload(`input[aria-label="Builder rules, a file"]`, file), says("The file is not JSON"))
	// Five questions find the rules of a platform.
	answer := func(label string) browsertest.Step {
		return browsertest.Click(`//label[contains(@class,"el-radio")][normalize-space()="` + label + `"]`)
	}
	browsertest.Do(t, ctx, press("Which builder is mine?"), browsertest.Visible(".el-dialog"), answer("A website"), answer("In an HTML box on each page"), answer("Yes, after the upload"),
		browsertest.Until(`document.querySelector(".fitting .best strong")?.innerText === "Funnel or membership platform with an HTML box on each page"`),
		chromedp.Navigate(s.Address+"/builders"), says("Harbour CMS"))
	browsertest.Do(t, ctx, press("Sign out"), browsertest.Visible("#email"))
	signIn(t, ctx, s, api.RoleViewer)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/builders/harbour-cms"), browsertest.Visible(".example table"))
	assert.False(t, browsertest.Eval[bool](t, ctx, `document.body.innerText.includes("Save as version")`))
}
