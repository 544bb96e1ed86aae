package demo_test

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/demo"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func fresh(t testing.TB, limits app.Limits) (*rooms.Rooms, string) {
	t.Helper()
	s, err := store.Open(context.Background(), mariadbtest.New(t))
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	c := rooms.New(s, bucket.InMemory(), func() time.Time { return time.Now().UTC() }, limits, slog.New(slog.DiscardHandler))
	password, err := c.Auth.FirstStart(t.Context(), demo.Studio, demo.Name, demo.Email)
	require.NoError(t, err)
	require.NotEmpty(t, password)
	return c, password
}

// TestTheDemoHoldsEverySituation looks for what the demo is there to show.
func TestTheDemoHoldsEverySituation(t *testing.T) {
	c, oneTime := fresh(t, app.DefaultLimits)
	folder := t.TempDir()
	in, err := demo.Fill(t.Context(), c, folder, oneTime)
	require.NoError(t, err)
	p, err := c.Auth.SignIn(t.Context(), "", in.Email, in.Password)
	require.NoError(t, err)
	sites, err := c.Sites.Sites(t.Context(), p, nil, nil, nil, false)
	require.NoError(t, err)
	states, codes := map[api.VerdictState]bool{}, map[string]bool{}
	for _, s := range sites.Items {
		for _, f := range s.Families {
			states[f.Verdict] = true
			for _, r := range f.Reasons {
				codes[r.Code] = true
			}
		}
	}
	assert.Equal(t, map[api.VerdictState]bool{api.Cleared: true, api.Review: true, api.Blocked: true}, states)
	for _, code := range []string{"licensed", "ends-soon", "permission-note", "other-client", "permission-restricted", "personal-use"} {
		assert.True(t, codes[code], code)
	}
	families, err := c.Finding.Families(t.Context(), p, api.ListFamiliesParams{})
	require.NoError(t, err)
	origins := map[api.Origin]bool{}
	for _, f := range families.Items {
		origins[f.Origin] = true
	}
	assert.True(t, origins[api.OriginUnknown])

	again, err := demo.Fill(t.Context(), c, folder, "")
	require.NoError(t, err)
	assert.Equal(t, in, again, "a second run only reads the sign-in")
	require.NoError(t, in.Mark(folder, false), "the rest of the demo is being filled in")
	_, err = demo.Fill(t.Context(), c, folder, "")
	require.ErrorContains(t, err, "was interrupted while it was being set up")
	require.NoError(t, in.Mark(folder, true))
	info, err := os.Stat(filepath.Join(folder, "demo-sign-in.json"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads the password")
}

// TestAStudioAfterSomeYears adds the rest of the demo: every shipped builder has a site, licenses
// have earlier terms, and an import waits for decisions.
func TestAStudioAfterSomeYears(t *testing.T) {
	c, oneTime := fresh(t, app.DefaultLimits)
	in, err := demo.Fill(t.Context(), c, t.TempDir(), oneTime)
	require.NoError(t, err)
	require.NoError(t, demo.More(t.Context(), c, in))
	p, err := c.Auth.SignIn(t.Context(), "", in.Email, in.Password)
	require.NoError(t, err)
	builders, err := c.Builders.List(t.Context(), p)
	require.NoError(t, err)
	for _, b := range builders {
		assert.NotEmpty(t, b.Sites, b.Rules.Kind)
	}
	families, err := c.Finding.Families(t.Context(), p, api.ListFamiliesParams{})
	require.NoError(t, err)
	faces := map[string]int{}
	for _, f := range families.Items {
		faces[f.Name] = len(f.Faces)
	}
	assert.Equal(t, map[string]int{"Bollardine Sans": 18, "Quaywright Mono": 2, "Sedgemoot Text": 4, "Skerrow Sans": 3, "Skerrow Sans Variable": 1, "Tidegarth Poster": 1, "Umbrisk Display": 1, "Wrackline Script": 1}, faces)
	licenses, err := c.Licensing.Licenses(t.Context(), p, nil, nil, nil)
	require.NoError(t, err)
	renewed := 0
	for _, l := range licenses.Items {
		if l.Renews != nil {
			renewed++
		}
	}
	assert.Equal(t, 2, renewed)
}

func TestTheDemoDoesNotMixWithOtherData(t *testing.T) {
	// A catalog that takes no font cuts the demo off half-way.
	c, oneTime := fresh(t, app.Limits{FontBytes: 1})
	_, err := demo.Fill(t.Context(), c, t.TempDir(), "")
	require.ErrorContains(t, err, "holds another studio's data")
	folder := t.TempDir()
	_, err = demo.Fill(t.Context(), c, folder, oneTime)
	require.ErrorContains(t, err, "too large")
	_, err = demo.Fill(t.Context(), c, folder, "")
	require.ErrorContains(t, err, "was interrupted while it was being set up; remove that folder and start again")
}
