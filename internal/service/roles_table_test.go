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

// TestManyRolesAtOnce places body text, all headings and the menu in one table, and sends
// one face alone of a family by one press.
func TestManyRolesAtOnce(t *testing.T) {
	s := open(t)
	var family int64
	for _, d := range foundry.Signage() {
		family = s.family(d)
	}
	site := s.site("Pages", 1, family)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/pack"), browsertest.Click(`//*[@aria-label="Include only Skerrow Sans Light"]`),
		browsertest.Until(`document.querySelectorAll("tr.left").length === 2`))
	assert.Len(t, *s.getSite(site).Choices.Exclude, 2)

	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/roles"), browsertest.Visible(".role"),
		choose("Font for Body text", "Skerrow Sans Regular"), choose("Font for Heading 1", "Skerrow Sans Bold"), press("Same for all headings"),
		choose("Font for Navigation", "Skerrow Sans Light"), press("Save roles"), browsertest.Visible(`//button[@aria-label="Change Heading 6"]`))
	roles := map[string]int{}
	for _, r := range s.getSite(site).Roles {
		require.NotNil(t, r.Assignment.Face)
		roles[r.Assignment.Role] = r.Assignment.Weight
	}
	assert.Equal(t, map[string]int{"body": 400, "heading-1": 700, "heading-2": 700, "heading-3": 700, "heading-4": 700, "heading-5": 700, "heading-6": 700, "navigation": 300}, roles)
}
