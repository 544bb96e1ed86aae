package service_test

import (
	"encoding/csv"
	"strings"
	"testing"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/service/servicetest"
)

// TestActivityIsNarrowedAndExported narrows who did what by each filter, and reads the file
// of the same.
func TestActivityIsNarrowedAndExported(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleViewer)
	list := func(q api.ListActivityParams) *api.ActivityPage {
		t.Helper()
		q.Limit = new(200)
		r, err := c.ListActivityWithResponse(t.Context(), &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	all := list(api.ListActivityParams{Choices: new(true)})
	assert.Contains(t, *all.Actions, "added file")
	require.NotEmpty(t, *all.People)
	assert.Nil(t, list(api.ListActivityParams{}).People)

	added := list(api.ListActivityParams{Action: new("added file")})
	require.NotEmpty(t, added.Items)
	assert.Less(t, len(added.Items), len(all.Items))
	for _, a := range added.Items {
		assert.Equal(t, "added file", a.Action)
	}
	for _, a := range list(api.ListActivityParams{Q: new("skerrow")}).Items {
		assert.Contains(t, strings.ToLower(a.Subject+a.Detail), "skerrow")
	}
	assert.Empty(t, list(api.ListActivityParams{Q: new("%")}).Items, "signs of patterns are letters like others")
	assert.Empty(t, list(api.ListActivityParams{Person: new("Nobody")}).Items)
	assert.Len(t, list(api.ListActivityParams{Person: &added.Items[0].Person, Action: new("added file")}).Items, len(added.Items))
	day := func(at time.Time) *openapi.Date { return &openapi.Date{Time: at.UTC().Truncate(24 * time.Hour)} }
	first, last := all.Items[len(all.Items)-1].At, all.Items[0].At
	assert.Len(t, list(api.ListActivityParams{From: day(first), To: day(last)}).Items, len(all.Items), "both days count")
	assert.Empty(t, list(api.ListActivityParams{To: day(first.AddDate(0, 0, -1))}).Items)
	assert.Empty(t, list(api.ListActivityParams{From: day(last.AddDate(0, 0, 1))}).Items)
	// What belongs to a client, by the client's number.
	of := map[string]bool{}
	ferries := int64(2)
	for _, a := range list(api.ListActivityParams{Client: &ferries}).Items {
		of[a.Subject] = true
	}
	assert.True(t, of["Holmvik Ferries"] && of["Skerrow Sans"] && of["Holmvik timetable"] && of["license 1, Lanternjaw Type, LJ-2026-014"], "%v", of)
	assert.False(t, of["Umbrisk Display"] || of["Orrery Hall visitor site"])
	bad, err := c.ListActivityWithResponse(t.Context(), &api.ListActivityParams{From: day(last), To: day(last.AddDate(0, 0, -3))})
	require.NoError(t, err)
	assert.Equal(t, "bad-range", bad.ApplicationproblemJSONDefault.Code)

	file, err := c.GetActivityFileWithResponse(t.Context(), &api.GetActivityFileParams{Action: new("added file")})
	require.NoError(t, err)
	assert.Contains(t, file.HTTPResponse.Header.Get("Content-Disposition"), "activity-")
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(file.Body), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, len(added.Items)+1)
	assert.Equal(t, []string{"Time (UTC)", "Person", "Action", "Subject", "Details"}, rows[0])
	assert.Equal(t, added.Items[0].Subject, rows[1][3])
}
