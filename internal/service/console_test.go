package service_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/catalog"
	"sparecrate/internal/demo"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service/servicetest"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func demoStudio(ctx context.Context, c *catalog.Catalog, data, oneTime string) (email, password string, err error) {
	in, err := demo.Fill(ctx, c, data, oneTime)
	if err != nil {
		return "", "", err
	}
	return in.Email, in.Password, nil
}

// signIn brings a tab from nothing into the console.
func signIn(t testing.TB, ctx context.Context, s *servicetest.Service, role api.Role) { //nolint:revive // t first
	t.Helper()
	who := s.As(role)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address), chromedp.WaitVisible("#email"),
		chromedp.SendKeys("#email", who.Email), chromedp.SendKeys("#password", who.Password+"\r"),
		chromedp.WaitVisible("header nav"))
}

// allSet waits until every sample in view is set in its own font.
func allSet() browsertest.Step {
	return browsertest.Until(`document.querySelectorAll('[data-state="ready"]').length > 0 && document.querySelectorAll('[data-state="waiting"]').length === 0`)
}

// TestScreens writes the pictures of docs/screenshots; it runs where
// SPARECRATE_SCREENS names the folder to write to.
func TestScreens(t *testing.T) {
	folder := os.Getenv("SPARECRATE_SCREENS")
	if folder == "" {
		t.Skip("SPARECRATE_SCREENS names no folder")
	}
	s := servicetest.Start(t, demoStudio)
	ctx := browsertest.New(t, "")
	shot := func(name string, steps ...browsertest.Step) {
		browsertest.Do(t, ctx, append(steps, chromedp.Sleep(400*time.Millisecond))...)
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name+".png"), png, 0o600))
	}
	shot("sign-in", chromedp.Navigate(s.Address), chromedp.WaitVisible("#email"))
	signIn(t, ctx, s, api.RoleAdmin)
	shot("catalog", allSet())
	shot("catalog-dark", chromedp.Click(`//button[normalize-space()="Dark"]`), allSet())
	browsertest.Do(t, ctx, chromedp.Click(`//button[normalize-space()="Light"]`))
	shot("family", chromedp.Navigate(s.Address+"/families/1"), chromedp.WaitVisible("section.face"), allSet(), chromedp.Click("section.face details summary"))
	shot("intake", chromedp.Navigate(s.Address+"/intake"), chromedp.WaitVisible(".zone"), dropDemo(t), chromedp.WaitVisible(`[data-outcome="refused"]`), chromedp.WaitNotPresent(".arrival:not([data-outcome])"))
	shot("licenses", chromedp.Navigate(s.Address+"/licenses"), chromedp.WaitVisible(".license"))
	shot("license-form", chromedp.Click(`//button[normalize-space()="Record a license"]`), chromedp.WaitVisible(".el-dialog"))
	shot("sites", chromedp.Navigate(s.Address+"/sites"), chromedp.WaitVisible(".site"))
	shot("site-stopped", chromedp.Click(`//a[text()="Growers' almanac"]`), chromedp.WaitVisible("table.plain"))
	shot("site", chromedp.Navigate(s.Address+"/sites/1"), chromedp.WaitVisible("table.plain"))
	shot("activity", chromedp.Navigate(s.Address+"/activity"), chromedp.WaitVisible(".line"))
	shot("access", chromedp.Navigate(s.Address+"/access"), chromedp.WaitVisible("table.plain"))
	shot("phone", chromedp.EmulateViewport(390, 800, chromedp.EmulateMobile), chromedp.Navigate(s.Address+"/families"), allSet())
	shot("phone-family", chromedp.Navigate(s.Address+"/families/2"), chromedp.WaitVisible("section.face"), allSet())
	shot("phone-site", chromedp.Navigate(s.Address+"/sites/3"), chromedp.WaitVisible("table.plain"))
}

// dropDemo drops a font of the demo, a font that is there already, and a page
// that is none into the intake.
func dropDemo(t testing.TB) browsertest.Step {
	t.Helper()
	folder := t.TempDir()
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	var paths []string
	for name, data := range map[string][]byte{
		"SkerrowSans-Bold.ttf": fonts[2].Data,
		"download.woff2":       []byte("<!doctype html><title>Sign in</title>"),
		"damaged.ttf":          fonts[0].Data[:9000],
	} {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path, data, 0o600))
		paths = append(paths, path)
	}
	return chromedp.SetUploadFiles(`.zone input[type="file"]`, paths)
}
