package service_test

import (
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
)

// TestFamilyPacksAreSignedOff signs a family off for a builder without a site: what needs a
// look by an editor, what is blocked by an admin, for this builder alone and until it is
// revoked.
func TestFamilyPacksAreSignedOff(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	editor, viewer := s.Client(t, api.RoleEditor), s.Client(t, api.RoleViewer)
	pack := func(c *api.ClientWithResponses, family int64, kind string) *api.GetFamilyPackResponse {
		r, err := c.GetFamilyPackWithResponse(ctx, family, &api.GetFamilyPackParams{Builder: kind})
		require.NoError(t, err)
		return r
	}
	sign := func(c *api.ClientWithResponses, family int64, kind, reason string) *api.AddFamilySignOffResponse {
		r, err := c.AddFamilySignOffWithResponse(ctx, family, api.NewFamilySignOff{Builder: kind, Reason: reason})
		require.NoError(t, err)
		return r
	}
	d := *foundry.Signage()[0]
	d.License = ""
	sans, poster := s.family(&d), s.family(foundry.Poster())

	r := pack(editor, sans, "desktop")
	problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
	assert.Contains(t, r.ApplicationproblemJSONDefault.Detail, "sparecrate sign-offs add --builder desktop")
	for _, wrong := range []struct {
		by           *api.ClientWithResponses
		family       int64
		kind, reason string
		status       int
		code         string
	}{
		{viewer, sans, "desktop", "Because", http.StatusForbidden, "role-too-low"},
		{editor, sans, "desktop", "  ", http.StatusUnprocessableEntity, "missing-value"},
		{editor, sans, "nothing", "Because", http.StatusNotFound, "not-found"},
		{editor, 999, "desktop", "Because", http.StatusNotFound, "not-found"},
		{editor, poster, "self-hosted", "Because", http.StatusForbidden, "role-too-low"},
	} {
		r := sign(wrong.by, wrong.family, wrong.kind, wrong.reason)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, wrong.status, wrong.code)
	}
	signed := sign(editor, sans, "desktop", "For the pitch on Friday")
	require.NotNil(t, signed.JSON201, "%s", signed.Body)
	assert.Nil(t, signed.JSON201.Site)
	assert.Equal(t, "desktop", *signed.JSON201.Builder)
	got := pack(editor, sans, "desktop")
	require.Equal(t, http.StatusOK, got.StatusCode(), "%s", got.Body)
	assert.Contains(t, inZip(t, got.Body)["license-note.txt"], ": For the pitch on Friday")
	assert.Equal(t, "not-clear", pack(editor, sans, "self-hosted").ApplicationproblemJSONDefault.Code, "signed off for another builder")
	assert.Equal(t, http.StatusCreated, sign(s.admin, poster, "self-hosted", "The maker agreed by letter").StatusCode())
	assert.Equal(t, http.StatusOK, pack(editor, poster, "self-hosted").StatusCode())

	list, err := viewer.ListSignOffsWithResponse(ctx, &api.ListSignOffsParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 2)
	assert.Equal(t, 2, list.JSON200.Holding)
	site := s.site("Pages", 1, sans)
	assert.Equal(t, api.Review, s.getSite(site).Families[0].Verdict)
	assert.Nil(t, s.getSite(site).Families[0].SignOff, "it says nothing of sites")
	withdrawn, err := editor.RevokeSignOffWithResponse(ctx, signed.JSON201.Id)
	require.NoError(t, err)
	require.NotNil(t, withdrawn.JSON200, "%s", withdrawn.Body)
	assert.Equal(t, "not-clear", pack(editor, sans, "desktop").ApplicationproblemJSONDefault.Code)

	// What it was given for is otherwise now.
	s.document(s.license(1, nil, poster).Id)
	list, err = viewer.ListSignOffsWithResponse(ctx, &api.ListSignOffsParams{})
	require.NoError(t, err)
	assert.Equal(t, api.SignOffOvertaken, list.JSON200.Items[0].Standing)
	nothing := sign(s.admin, poster, "self-hosted", "Again")
	problemOf(t, nothing.HTTPResponse, nothing.ApplicationproblemJSONDefault, http.StatusConflict, "nothing-to-sign")
}

func (s *studio) getSite(id int64) *api.Site {
	s.t.Helper()
	r, err := s.admin.GetSiteWithResponse(s.t.Context(), id)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200
}

// TestAFamilyPackIsSignedOffInTheConsole is refused a pack, signs it off where that is said,
// and gets it.
func TestAFamilyPackIsSignedOffInTheConsole(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Poster())
	downloads := t.TempDir()
	ctx := tab(t, downloads)
	signIn(t, ctx, s.Service, api.RoleAdmin)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/"+itoa(family)), press("Pack without a site"), says("needs review"),
		press("Sign off for this builder"), browsertest.Type("#why", "The maker agreed by letter"), press("Sign off"))
	require.Eventually(t, func() bool {
		found, _ := filepath.Glob(filepath.Join(downloads, "*.zip"))
		return len(found) == 1
	}, time.Minute, 50*time.Millisecond)
	found, err := filepath.Glob(filepath.Join(downloads, "*.zip"))
	require.NoError(t, err)
	data, err := os.ReadFile(found[0])
	require.NoError(t, err)
	assert.Contains(t, inZip(t, data)["license-note.txt"], "The maker agreed by letter")
}
