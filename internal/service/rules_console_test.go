package service_test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// typed puts words in place of those in a field.
func typed(label, words string) browsertest.Step {
	field := `//label[normalize-space()="` + label + `"]/following-sibling::*//input`
	return chromedp.Steps(browsertest.Click(field), chromedp.KeyEvent("a", chromedp.KeyModifiers(2)), chromedp.KeyEvent(kb.Backspace), browsertest.Type(field, words))
}

// TestRulesGoBackInTheConsole changes rules, leaves a change that cannot be, begins
// from an earlier version, and takes a copy away again.
func TestRulesGoBackInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	c := s.Client(t, api.RoleEditor)
	rules := func(kind string) *api.BuilderRecord {
		r, err := c.GetBuilderWithResponse(t.Context(), kind)
		require.NoError(t, err)
		return r.JSON200
	}
	before := rules("upload-form")
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/builders"), says(before.Rules.Name), browsertest.Click(`//a[normalize-space()="`+before.Rules.Name+`"]`),
		browsertest.Visible(".example table"), says("As shipped"),
		typed("Name", "Upload form of the almanac"), says("Save as version 2"), press("Save as version 2"), says("Shipped, changed: version 2"))
	now := rules("upload-form")
	assert.Equal(t, "Upload form of the almanac", now.Rules.Name)
	assert.Equal(t, 2, now.Version)
	assert.Equal(t, before.Rules.Files, now.Rules.Files, "nothing else changed")

	browsertest.Do(t, ctx, press("3. Upload and names"), typed("Folder in the pack", "a/../b"), browsertest.Until(`document.querySelector(".example .wrong")?.innerText.length > 10`),
		browsertest.Until(`[...document.querySelectorAll("button")].some(b => b.innerText.trim() === "Save as version 3" && b.disabled)`),
		press("Discard changes"), browsertest.Until(`!document.querySelector(".example .wrong")`),
		typed("Folder in the pack", "type"), browsertest.Until(`[...document.querySelectorAll(".example td")].some(d => d.innerText.startsWith("type/"))`), press("Discard changes"))
	assert.Equal(t, 2, rules("upload-form").Version, "looking keeps nothing")

	browsertest.Do(t, ctx, browsertest.Click(`//summary[normalize-space()="Versions"]`), says("→ Upload form of the almanac"), press("Start from this version"), says("Save as version 3"),
		press("Save as version 3"), says("changed: version 3"))
	assert.Equal(t, before.Rules.Name, rules("upload-form").Rules.Name)

	browsertest.Do(t, ctx, fill("Name of the copy", "Almanac press"), press("Copy"), browsertest.Until(`location.pathname === "/builders/almanac-press"`), says("Your own, version 1"))
	assert.Equal(t, rules("upload-form").Rules.Files, rules("almanac-press").Rules.Files)
	browsertest.Do(t, ctx, browsertest.Click(`//button[normalize-space()="Delete"]`), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Delete"]`),
		browsertest.Until(`location.pathname === "/builders"`), says("Builders"))
	gone, err := c.GetBuilderWithResponse(t.Context(), "almanac-press")
	require.NoError(t, err)
	assert.Equal(t, 404, gone.StatusCode())
}

// TestTheStyleGuideShowsTheRoles looks at the roles of a site together, set in their
// families, and at a site without any.
func TestTheStyleGuideShowsTheRoles(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	c := s.Client(t, api.RoleViewer)
	sites, err := c.ListSitesWithResponse(t.Context(), &api.ListSitesParams{})
	require.NoError(t, err)
	signIn(t, ctx, s, api.RoleViewer)
	with, without := 0, 0
	for _, site := range sites.JSON200.Items {
		guide := chromedp.Navigate(s.Address + "/sites/" + itoa(site.Id) + "/guide")
		if len(site.Roles) == 0 {
			without++
			browsertest.Do(t, ctx, guide, says("No roles yet."))
			continue
		}
		with++
		browsertest.Do(t, ctx, guide, browsertest.Visible("article.guide"))
		for _, r := range site.Roles {
			browsertest.Do(t, ctx, says(r.Title))
		}
		browsertest.Do(t, ctx, browsertest.Until(`document.querySelectorAll('[data-state="waiting"]').length === 0`))
		assert.Equal(t, len(site.Roles), browsertest.Eval[int](t, ctx, `document.querySelectorAll("article.guide .part").length`))
	}
	assert.Positive(t, with)
	assert.Positive(t, without)
}
