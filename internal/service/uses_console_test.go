package service_test

import (
	"testing"

	"github.com/chromedp/chromedp"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/service/servicetest"
)

// TestVerdictsByUseInTheConsole looks at what a family may be used for, use by use, and at the
// people of its client.
func TestVerdictsByUseInTheConsole(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleViewer, "/families/2")
	browsertest.Do(t, ctx, browsertest.Visible(`.uses button[aria-pressed="true"]`), browsertest.Until(`document.querySelectorAll(".uses button").length === 6`),
		browsertest.Until(`document.querySelector(".uses button[aria-pressed=true]").innerText.startsWith("Web, self-hosted")`),
		browsertest.Click(`//div[contains(@class,"uses")]//button[starts-with(normalize-space(),"App")]`), browsertest.Until(`document.querySelector(".judged").innerText.includes("App, for Orrery Hall") && document.querySelector(".judged").innerText.includes("does not cover the use")`),
		chromedp.Navigate(s.Address+"/clients/2"), browsertest.Visible(`//h2[text()="People"]`), says("last active here"))
}
