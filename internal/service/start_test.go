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

// TestFirstSteps leads a new studio from nothing to the plan of its first pack.
func TestFirstSteps(t *testing.T) {
	s := open(t)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin, "/")
	browsertest.Do(t, ctx, says("0 of 5 done"), browsertest.Click(`//a[normalize-space()="Continue"]`), browsertest.Until(`location.pathname === "/start"`),
		fill("Client name", "Orrery Hall\r"), says("Orrery Hall is added."), browsertest.Visible(".zone"))
	clients, err := s.admin.ListClientsWithResponse(t.Context())
	require.NoError(t, err)
	client := clients.JSON200.Items[len(clients.JSON200.Items)-1]
	require.Equal(t, "Orrery Hall", client.Name)
	// Fonts and licenses have pages of their own; what is done there is done here.
	family := s.family(foundry.Signage()[1], "client", "Orrery Hall")
	browsertest.Do(t, ctx, says("is in the catalog."), press("Record a license"), browsertest.Visible(".el-dialog"))
	s.license(client.Id, nil, family)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/start"), says("Licenses are recorded."),
		press("Add a site"), browsertest.Visible(".el-dialog"), browsertest.Type(`//label[normalize-space()="Name"]/following::input[1]`, "Kiosks"), choose("Client", "Orrery Hall"), press("Add"),
		press("Add Skerrow Sans to Kiosks"), says("Kiosks has fonts."), browsertest.Click(`//a[normalize-space()="Plan the pack of Kiosks"]`), browsertest.Visible("table.plain"))
	assert.Contains(t, browsertest.Eval[string](t, ctx, `location.pathname`), "/pack")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/"), says("Needs attention"), browsertest.Until(`!document.body.innerText.includes("of 5 done")`))
}
