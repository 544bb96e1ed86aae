package service_test

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// labelled is a button by what it is called for those who do not see it.
func labelled(label string) browsertest.Step {
	return browsertest.Click(`//button[@aria-label="` + label + `"]`)
}

// TestFilesInTheConsole settles a conflict in a import, changes many fonts at once, chooses,
// removes and brings back files, records a mislabeled one, and mends what families lack.
func TestFilesInTheConsole(t *testing.T) {
	s := open(t)
	was := regularOf(t, "1.000")
	family := s.taken(t, "was.ttf", of(t, was, font.TTF)).Family.Id
	bold := *foundry.Signage()[2]
	bold.Family, bold.Style, bold.PostScript, bold.Weight = foundry.Signage()[1].Family, "Regular", foundry.Signage()[1].PostScript, 400
	s.taken(t, "bold.ttf", of(t, foundrytest.Face(t, &bold, font.TTF), font.TTF))
	site := s.site("Timetable", 1, family)
	id := s.deliver("")
	s.put(id, "other.ttf", of(t, otherwise(was, "other"), font.TTF))
	s.put(id, "display.ttf", of(t, foundrytest.Face(t, foundry.Display(), font.TTF), font.TTF))
	s.rested(id)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor, "/imports/"+itoa(id))
	waiting := `document.querySelector('[data-concern="decide"]')`
	browsertest.Do(t, ctx, browsertest.Until(waiting+` === document.querySelector("[data-family]")`), says("Choose which of the two to use"),
		labelled("Use other.ttf"), says("Use this file."), browsertest.Until(waiting+" === null"))

	// Both families are chosen and marked with a word.
	browsertest.Do(t, ctx, browsertest.Click(`//label[contains(normalize-space(), "Select all shown")]/input`), says("2 families, 2 fonts"),
		browsertest.Type(`//input[@aria-label="Tags of selected fonts"]`, "harbour"), press("Apply"),
		browsertest.Until(`[...document.querySelectorAll("[data-family]")].every((g) => g.innerText.includes("harbour"))`),
		press("Import 2 fonts"), browsertest.Until(`document.querySelectorAll('[data-taken="true"]').length === 2`))
	assert.Equal(t, []string{"harbour"}, s.get(family).Tags)

	browsertest.Do(t, ctx, browsertest.Click(`//a[normalize-space()="Missing details of its families"]`), says("Families of the import"),
		browsertest.Until(`document.querySelectorAll("tr[data-gaps]").length === 2`),
		browsertest.Click(`//input[@aria-label="Select all shown"]`), choose("Origin of selected fonts", "Commissioned"), press("Set origin"),
		says("Done for 2 families."), browsertest.Until(`![...document.querySelectorAll("tr[data-gaps]")].some((r) => r.dataset.gaps.includes("origin"))`))
	assert.Equal(t, api.OriginCommissioned, s.get(family).Origin)

	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/"+itoa(family)), says("conflict to resolve"), openFace("Regular"), openTab("Files"),
		says("which looks like Bold"), labelled("Record bold.ttf as Bold"), browsertest.Until(`!document.body.innerText.includes("which looks like Bold")`))
	browsertest.Do(t, ctx, labelled("Use was.ttf in packs"), says("chose it; a newer version does not take its place"),
		labelled("Use the newest in packs"), browsertest.Until(`!document.body.innerText.includes("chose it")`),
		labelled("Remove other.ttf"), says("which is on Timetable"), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Remove"]`), says("Removed files that can be restored"),
		labelled("Restore other.ttf"), browsertest.Until(`!document.body.innerText.includes("can be restored:")`))
	assert.Equal(t, "other.ttf", s.inUse(t, family, "Regular"))

	// The site stays on the one before, and says so.
	s.document(s.license(1, nil, family).Id)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/pack"),
		choose("Which file of Skerrow Sans Regular", "pin to Version 1.000, was.ttf"), says("stays on was.ttf"),
		choose("Which files to include", "converted files"),
		browsertest.Until(`document.body.innerText.includes("converted files")`))
	require.Eventually(t, func() bool {
		r, err := s.admin.GetSiteWithResponse(t.Context(), site)
		require.NoError(t, err)
		return r.JSON200.Choices.Source != nil && *r.JSON200.Choices.Source == api.SourceConverted
	}, time.Minute, 50*time.Millisecond)
	plan := s.plan(site, nil)
	assert.True(t, plan.Faces[0].Pinned)
}
