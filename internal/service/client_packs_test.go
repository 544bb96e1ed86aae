package service_test

import (
	"bytes"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestEverythingOfAClientForOneMachine packs what may be installed of a client, installs and
// removes it by the pack's own scripts, and counts seats until none is left.
func TestEverythingOfAClientForOneMachine(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	editor, viewer := s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	var sans int64
	for _, d := range foundry.Signage() {
		sans = s.family(d)
	}
	s.family(foundry.Poster())
	seats := int64(2)
	l := s.license(1, nil, sans)
	terms := api.LicenseTerms{Kind: l.Kind, GrantedTo: 1, Uses: []api.Use{api.UseDesktop}, Families: []int64{sans}, Seats: &seats}
	changed, err := s.admin.ChangeLicenseWithResponse(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	s.document(l.Id)

	build := func(c *api.ClientWithResponses, seat *string) *api.BuildClientPackResponse {
		r, err := c.BuildClientPackWithResponse(ctx, 1, api.NewClientPack{Builder: "desktop", Seat: seat})
		require.NoError(t, err)
		return r
	}
	plan, err := viewer.PlanClientPackWithResponse(ctx, 1, &api.PlanClientPackParams{Builder: "desktop", Seat: new("Marit Sund")})
	require.NoError(t, err)
	require.NotNil(t, plan.JSON200, "%s", plan.Body)
	require.Len(t, plan.JSON200.Families, 1)
	assert.Equal(t, 3, plan.JSON200.Families[0].Faces)
	require.Len(t, plan.JSON200.LeftOut, 1)
	assert.Equal(t, "Tidegarth Poster", plan.JSON200.LeftOut[0].Family)
	require.Len(t, plan.JSON200.Seats, 1)
	assert.Equal(t, 0, plan.JSON200.Seats[0].Used)

	r := build(viewer, nil)
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	first := build(editor, new("Marit Sund"))
	require.Equal(t, http.StatusOK, first.StatusCode(), "%s", first.Body)
	assert.Equal(t, first.Body, build(editor, new("marit sund")).Body, "the same pack, and no second seat")
	now, err := s.admin.GetLicenseWithResponse(ctx, l.Id)
	require.NoError(t, err)
	assert.Len(t, now.JSON200.Allocations, 1)
	r = build(editor, new("  "))
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "missing-value")
	// One seat is left, and three people ask for it at the same time.
	var asking sync.WaitGroup
	var given atomic.Int32
	for _, who := range []string{"Tomas Lindqvist", "Ada Holt", "Runa Holt"} {
		asking.Go(func() {
			if build(editor, &who).StatusCode() == http.StatusOK {
				given.Add(1)
			}
		})
	}
	asking.Wait()
	assert.EqualValues(t, 1, given.Load())
	r = build(editor, new("Ines Varga"))
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "no-seats")
	require.Equal(t, http.StatusOK, build(editor, nil).StatusCode(), "without a seat")
	nothing, err := editor.BuildClientPackWithResponse(ctx, 999, api.NewClientPack{Builder: "desktop"})
	require.NoError(t, err)
	problemOf(t, nothing.HTTPResponse, nothing.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")

	// The pack installs itself, and removes itself and nothing else.
	folder, home := t.TempDir(), t.TempDir()
	zip := filepath.Join(folder, "pack.zip")
	require.NoError(t, os.WriteFile(zip, first.Body, 0o600))
	unzip(t, zip, folder)
	slip, err := os.ReadFile(filepath.Join(folder, "upload-slip.html"))
	require.NoError(t, err)
	assert.Contains(t, string(slip), "<td>Tidegarth Poster</td>")
	run := func(script string) string {
		cmd := exec.CommandContext(ctx, "sh", filepath.Join(folder, script))
		cmd.Env = []string{"HOME=" + home, "PATH=" + os.Getenv("PATH")}
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	for _, system := range []struct{ install, remove, place string }{
		{"install-linux.sh", "remove-linux.sh", ".local/share/fonts/lanternjaw-studio"},
		{"install-mac.command", "remove-mac.command", "Library/Fonts/lanternjaw-studio"},
	} {
		own := filepath.Join(home, filepath.Dir(system.place), "own.ttf")
		require.NoError(t, os.MkdirAll(filepath.Dir(own), 0o755))
		require.NoError(t, os.WriteFile(own, []byte("mine"), 0o600))
		assert.Contains(t, run(system.install), "3 fonts installed")
		there, err := filepath.Glob(filepath.Join(home, system.place, "*.ttf"))
		require.NoError(t, err)
		assert.Len(t, there, 3)
		packed, err := os.ReadFile(filepath.Join(folder, "fonts", filepath.Base(there[0])))
		require.NoError(t, err)
		got, err := os.ReadFile(there[0])
		require.NoError(t, err)
		assert.True(t, bytes.Equal(packed, got))
		run(system.remove)
		assert.NoDirExists(t, filepath.Join(home, system.place))
		assert.FileExists(t, own)
	}
	windows, err := os.ReadFile(filepath.Join(folder, "install-windows.ps1"))
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(windows), "\ufeff"), "read as UTF-8")
	assert.Contains(t, string(windows), "-Name 'Skerrow Sans Bold (TrueType)' -PropertyType String")

	// In the console.
	downloads := t.TempDir()
	page := tab(t, downloads)
	signIn(t, page, s.Service, api.RoleEditor)
	browsertest.Do(t, page, chromedp.Navigate(s.Address+"/sites"), press("Fonts for a computer"), says("Tidegarth Poster"), says("2 of 2 seats in use"),
		press("Build and download"))
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(downloads, "*.zip"))
		return len(found) == 1
	}, wait, tick)
}
