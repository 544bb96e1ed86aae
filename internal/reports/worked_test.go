package reports_test

import (
	"bytes"
	"mime/multipart"
	"testing"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/reports"
	"sparecrate/internal/service/servicetest"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

// TestOnesOwnChangesShowAtOnce reads what needs attention where that takes long to work out: what
// oneself did shows at once, what others did a little later, and nothing stays old.
func TestOnesOwnChangesShowAtOnce(t *testing.T) {
	servicetest.Alone(t)
	defer reports.Slow()()
	s := servicetest.Start(t, nil)
	admin, editor := s.Client(t, api.RoleAdmin), s.Client(t, api.RoleEditor)
	ctx := t.Context()
	data, err := foundry.Build(foundry.Poster(), font.TTF)
	require.NoError(t, err)
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "poster.ttf")
	require.NoError(t, err)
	_, err = part.Write(data)
	require.NoError(t, err)
	require.NoError(t, form.Close())
	added, err := admin.AddFileWithBodyWithResponse(ctx, form.FormDataContentType(), &body)
	require.NoError(t, err)
	require.NotNil(t, added.JSON200, "%s", added.Body)
	family := added.JSON200.Family.Id
	ends := &openapi.Date{Time: time.Now().AddDate(0, 0, 5)}
	license := func(as *api.ClientWithResponses) {
		r, err := as.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Until: ends, Families: []int64{family}})
		require.NoError(t, err)
		require.NotNil(t, r.JSON201, "%s", r.Body)
	}
	seen := func(as *api.ClientWithResponses) int {
		r, err := as.ListDueWithResponse(ctx, &api.ListDueParams{})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return len(r.JSON200.Items)
	}
	require.Zero(t, seen(admin))
	license(admin)
	assert.Equal(t, 1, seen(admin), "one's own change")
	for n := 2; n < 6; n++ {
		license(editor)
		assert.Equal(t, n, seen(editor), "one's own change")
		require.Eventually(t, func() bool { return seen(admin) == n }, 10*time.Second, 5*time.Millisecond, "a change of somebody else")
	}
	// What belongs to one person, or is hidden for all, is not remembered.
	due, err := admin.ListDueWithResponse(ctx, &api.ListDueParams{})
	require.NoError(t, err)
	snoozed, err := editor.SnoozeDueWithResponse(ctx, due.JSON200.Items[0].Key, api.NewSnooze{Until: openapi.Date{Time: time.Now().AddDate(0, 0, 2)}})
	require.NoError(t, err)
	require.Less(t, snoozed.StatusCode(), 300, "%s", snoozed.Body)
	assert.Equal(t, 4, seen(admin))
}
