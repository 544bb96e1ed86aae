package service_test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestGuestsInTheConsole has an admin add a guest and a person who sees one client, and change
// what that one sees; the guest then reads the client's fonts and nothing else.
func TestGuestsInTheConsole(t *testing.T) {
	s := open(t)
	b := s.furnish("Amberly", foundry.Signage()[0])
	roles := must(s.admin.AssignRolesWithResponse(t.Context(), b.of["sites"], &api.AssignRolesParams{IfMatch: s.getSite(b.of["sites"]).Etag}, api.RoleAssignments{
		Assignments: []api.RoleAssignment{{Role: "body", Family: b.of["families"], Weight: 400, Slope: "normal", Fallbacks: []string{}}}, Replacements: []api.Replacement{}}))(t)
	require.Less(t, roles.StatusCode(), 300, "%s", roles.Body)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin, "/settings?tab=people")
	says := func(text string) browsertest.Step {
		return browsertest.Until(`document.body.innerText.includes("` + text + `")`)
	}
	browsertest.Do(t, ctx, fill("Name", "Nell Amber"), fill("E-mail", "nell@amberly.example"), choose("Role", "guest"), chooseAmong("Clients that the person sees", "Amberly Works"),
		press("Add the person"), says("with the one-time password"), says("Amberly Works, no prices, no documents"))
	one := browsertest.Eval[string](t, ctx, `document.body.innerText.match(/one-time password ([A-Z0-9]+)/)[1]`)
	browsertest.Do(t, ctx, browsertest.Click(`//button[@aria-label="Change The editor"]`), browsertest.Visible(".el-dialog"),
		chooseAmong("Clients that The editor sees", "Amberly Works"), browsertest.Click(`//div[contains(@class,"el-dialog")]//label[normalize-space()="Prices"]`), press("Save"),
		browsertest.Until(`[...document.querySelectorAll("tr")].some(r => r.innerText.includes("The editor") && r.innerText.includes("Amberly Works, no documents"))`))
	people := must(s.admin.ListPeopleWithResponse(t.Context()))(t).JSON200
	for _, p := range people.Items {
		if p.Name == "The editor" {
			assert.True(t, p.Limited && p.Prices && !p.Documents)
		}
	}

	guest := tab(t, "")
	browsertest.Do(t, guest, chromedp.Navigate(s.Address+"/families"), browsertest.Visible("#email"), browsertest.Type("#email", "nell@amberly.example"), browsertest.Type("#password", one), press("Sign in"),
		browsertest.Visible("#current"))
	browsertest.Do(t, guest, browsertest.Type("#current", one), browsertest.Type("#next", "quiet water at nine"), press("Set password"),
		browsertest.Until(`location.pathname === "/guest"`), browsertest.Visible("article.site"), browsertest.Until(`document.body.innerText.includes("Amberly choices")`))
	said := text(t, guest)
	for _, part := range []string{"Fonts of Amberly Works", "Amberly pages", "Amberly choices", "For Amberly"} {
		assert.Contains(t, said, part)
	}
	assert.Equal(t, 1, browsertest.Eval[int](t, guest, `document.querySelectorAll("header nav a").length`), "one page in the menu")
	assert.Positive(t, browsertest.Eval[int](t, guest, `document.querySelectorAll('a[href*="/packs/"]').length`))
	browsertest.Do(t, guest, browsertest.Click(`//a[normalize-space()="Style guide"]`), browsertest.Visible("article.guide"), browsertest.Until(`[...document.images].every(i => i.complete && i.naturalWidth > 0)`))
	browsertest.Do(t, guest, chromedp.Navigate(s.Address+"/licenses"), browsertest.Until(`location.pathname === "/guest"`))
}
