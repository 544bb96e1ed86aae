package service_test

import (
	"os"
	"path/filepath"
	"slices"
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

// TestWhatAPackSendsIsChosenInTheConsole leaves a face at home, sends it after all,
// asks for old browsers, and has the stylesheet called in another way; the plan
// follows each.
func TestWhatAPackSendsIsChosenInTheConsole(t *testing.T) {
	s := open(t)
	regular := s.family(foundry.Signage()[0])
	bold := s.family(foundry.Signage()[2])
	require.Equal(t, regular, bold, "two faces of a family")
	s.license(1, nil, regular)
	site := s.site("Timetable", 1, regular)
	plan := func() *api.Plan {
		r, err := planned(t.Context(), s.admin, site, nil)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	require.Len(t, plan().Faces, 2)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin)
	box := `input[aria-label="Include Skerrow Sans Bold"]`
	checked := func(on string) browsertest.Step {
		return browsertest.Until(`document.querySelector('` + box + `')?.checked === ` + on + ` && !document.querySelector(".stale")`)
	}
	lists := func(words string, on bool) browsertest.Step {
		said := `document.body.innerText.includes("` + words + `")`
		if !on {
			said = "!" + said
		}
		return browsertest.Until(said)
	}
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/"+itoa(site)+"/pack"), checked("true"), lists("skerrow-sans-bold.woff2", true),
		browsertest.Click(box), checked("false"), lists("skerrow-sans-bold.woff2", false))
	left := plan()
	require.NotNil(t, left.Site.Choices.Exclude)
	assert.Len(t, *left.Site.Choices.Exclude, 1)
	assert.False(t, left.Faces[slices.IndexFunc(left.Faces, func(f api.PlanFace) bool { return f.Full == "Skerrow Sans Bold" })].Included)
	browsertest.Do(t, ctx, browsertest.Click(box), checked("true"), lists("skerrow-sans-bold.woff2", true),
		browsertest.Click(`//label[contains(normalize-space(),"Include legacy formats (EOT, SVG, WOFF) for Internet Explorer and early phones")]/input`), lists("skerrow-sans-bold.eot", true))
	assert.True(t, *plan().Site.Choices.LegacyFormats)
	browsertest.Do(t, ctx, choose("How pages load the stylesheet", "an import rule"))
	require.Eventually(t, func() bool { call := plan().Site.Choices.Load; return call != nil && *call == "import" }, time.Minute, 50*time.Millisecond)
	browsertest.Do(t, ctx, lists("@import", true))
}

// TestPageViewsComeInByFile reads an export of a counter in the console, and one that
// holds no numbers.
func TestPageViewsComeInByFile(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	folder := t.TempDir()
	good, bad := filepath.Join(folder, "views.csv"), filepath.Join(folder, "words.csv")
	require.NoError(t, os.WriteFile(good, []byte("Day,Visitors,Views\n2025-03-01,10,40\n2025-03-02,11,60\n2025-04-01,5,7\nTotal,26,107\n"), 0o600))
	require.NoError(t, os.WriteFile(bad, []byte("one,two\nthree,four\n"), 0o600))
	field := `input[aria-label="CSV file with page views"]`
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/sites/2"), browsertest.Upload(field, bad), browsertest.Visible(".el-message"),
		browsertest.Upload(field, good))
	months := func() map[string]int64 {
		r, err := c.GetViewsWithResponse(t.Context(), 2)
		require.NoError(t, err)
		out := map[string]int64{}
		for _, m := range r.JSON200.Months {
			out[m.Month] = m.Views
		}
		return out
	}
	require.Eventually(t, func() bool { return months()["2025-03"] > 0 }, time.Minute, 50*time.Millisecond)
	assert.Equal(t, int64(100), months()["2025-03"])
	assert.Equal(t, int64(7), months()["2025-04"])
}

// TestAnOpenLicenseIsConfirmedInTheConsole brings fonts with the text of their license
// beside them, reads what it says of them, and confirms it.
func TestAnOpenLicenseIsConfirmedInTheConsole(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	opened, err := s.admin.StartImportWithResponse(t.Context(), api.NewImport{})
	require.NoError(t, err)
	for name, data := range map[string][]byte{"SkerrowSans-Bold.ttf": drawn(t, foundry.Signage()[2], font.TTF), "OFL.txt": []byte(openText)} {
		kind, body := upload(t, name, data)
		r, err := s.admin.AddImportItemWithBodyWithResponse(t.Context(), opened.JSON201.Id, kind, body)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	deliver(t, s, opened.JSON201.Id)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/"+itoa(family)), says("License proposals"), says("OFL-1.1"), press("Confirm OFL-1.1"), says("recorded as license"))
	list, err := s.admin.ListLicensesWithResponse(t.Context(), &api.ListLicensesParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.Equal(t, api.KindOpen, list.JSON200.Items[0].Kind)
	assert.Len(t, list.JSON200.Items[0].Documents, 1, "its text is the evidence")
}

// TestWhatANewVersionChangedShowsInTheConsole brings a later version of a face.
func TestWhatANewVersionChangedShowsInTheConsole(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	newer := *foundry.Signage()[0]
	newer.Version = "1.300"
	s.family(&newer)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/"+itoa(family)), openFace("Light"), openTab("Files"),
		browsertest.Click("details.since summary"), browsertest.Until(`document.querySelector("details.since dl")?.innerText.includes("1.300")`))
}
