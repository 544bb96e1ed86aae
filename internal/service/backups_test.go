package service_test

import (
	"database/sql"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestBackupsBySchedule starts services that back themselves up: one backup is made for each day
// however many of them run, it holds what is there, and admins are told when there is none for
// too long.
func TestBackupsBySchedule(t *testing.T) {
	at := filepath.Join(t.TempDir(), "backups")
	plan := func(o *service.Options) { o.Backup = app.BackupPlan{Place: at, Every: 24 * time.Hour, Keep: 3} }
	s := &studio{servicetest.Start(t, nil, plan), t, nil}
	s.admin = s.Client(t, api.RoleAdmin)
	s.family(foundry.Signage()[0])
	ctx := t.Context()
	place := must(bucket.OpenPlace(ctx, at, true))(t)
	defer func() { _ = place.Close() }()
	db := must(sql.Open("mysql", s.Database))(t)
	defer func() { _ = db.Close() }()
	names := func() []string {
		found, _, err := backup.Names(ctx, place)
		require.NoError(t, err)
		return found
	}
	require.Eventually(t, func() bool { return len(names()) == 1 }, timeToSettle, settleEvery)
	found := must(s.admin.GetSettingsWithResponse(ctx))(t).JSON200
	require.NotNil(t, found.Backup)
	assert.Equal(t, at, found.Backup.Place)
	assert.Positive(t, found.Backup.Records)
	assert.False(t, found.Backup.Encrypted)
	planned := false
	for _, k := range found.Schedules {
		if k.Name == "Backup to "+at {
			planned = true
			assert.Equal(t, "every day", k.Every)
			assert.WithinDuration(t, found.Backup.At.Add(24*time.Hour), *k.Next, time.Second)
		}
	}
	assert.True(t, planned, "%v", found.Schedules)
	assert.Contains(t, s.metrics(), "sparecrate_last_backup_timestamp_seconds ")
	late := func(role api.Role) []string {
		var out []string
		due := must(s.Client(t, role).ListDueWithResponse(ctx, &api.ListDueParams{}))(t)
		require.NotNil(t, due.JSON200, "%s", due.Body)
		for _, i := range due.JSON200.Items {
			if i.Kind == api.DueBackup {
				out = append(out, i.Message)
			}
		}
		return out
	}
	assert.Empty(t, late(api.RoleAdmin))

	// Two days and two hours later, as far as the records say. The services look each minute; a
	// start looks at once, and two start at the same time.
	_, err := db.ExecContext(ctx, "UPDATE backups SET made_at = made_at - INTERVAL 50 HOUR")
	require.NoError(t, err)
	said := late(api.RoleAdmin)
	require.Len(t, said, 1)
	assert.Contains(t, said[0], "2 days ago. One is due every day.")
	assert.Empty(t, late(api.RoleEditor), "only admins can do something about it")
	client := int64(1)
	one := must(s.admin.ListDueWithResponse(ctx, &api.ListDueParams{Client: &client}))(t)
	for _, i := range one.JSON200.Items {
		assert.NotEqual(t, api.DueBackup, i.Kind, "it is of no client")
	}
	for range 2 {
		servicetest.Start(t, nil, plan, func(o *service.Options) { o.Database, o.Bucket = s.Database, filepath.Join(s.Data, "files") })
	}
	require.Eventually(t, func() bool { return len(names()) == 2 }, timeToSettle, settleEvery)
	assert.Empty(t, late(api.RoleAdmin))
	require.Eventually(t, func() bool {
		jobs := must(s.admin.ListJobsWithResponse(ctx, &api.ListJobsParams{}))(t)
		for _, j := range jobs.JSON200.Items {
			if j.Kind == "backup" {
				return j.State == api.JobDone
			}
		}
		return false
	}, timeToSettle, settleEvery)
	assert.Len(t, names(), 2)

	// A file of the service is lost: everything else is backed up, once, and that is told.
	_, err = db.ExecContext(ctx, "UPDATE backups SET made_at = made_at - INTERVAL 50 HOUR")
	require.NoError(t, err)
	lost := s.family(foundry.Poster())
	f := must(s.admin.GetFamilyWithResponse(ctx, lost))(t).JSON200
	hash := f.Faces[0].Files[0].Sha256
	require.NoError(t, os.Remove(filepath.Join(s.Data, "files", hash[:2], hash)))
	servicetest.Start(t, nil, plan, func(o *service.Options) { o.Database, o.Bucket = s.Database, filepath.Join(s.Data, "files") })
	require.Eventually(t, func() bool { return len(names()) == 3 }, timeToSettle, settleEvery)
	require.Eventually(t, func() bool {
		failed := must(s.admin.ListJobsWithResponse(ctx, &api.ListJobsParams{State: ptr(api.JobFailed)}))(t)
		n := 0 // of backups: formats of the lost font may have failed, too
		for _, j := range failed.JSON200.Items {
			if j.Kind == "backup" && strings.Contains(*j.Why, "not in the backup: 1 file;") {
				n++
			}
		}
		return n == 1
	}, timeToSettle, settleEvery)
	assert.Len(t, late(api.RoleAdmin), 1, "the last good one is old")
	opened := must(backup.Open(ctx, place, "", nil))(t)
	require.NoError(t, opened.Check(ctx))
}

// TestALostPlaceOfBackupsIsTold has a service back itself up to a place that cannot be written.
func TestALostPlaceOfBackupsIsTold(t *testing.T) {
	at := filepath.Join("/proc", "backups")
	s := servicetest.Start(t, nil, func(o *service.Options) { o.Backup = app.BackupPlan{Place: at, Every: 24 * time.Hour} })
	due := must(s.Client(t, api.RoleAdmin).ListDueWithResponse(t.Context(), &api.ListDueParams{}))(t).JSON200
	require.Len(t, due.Items, 1)
	assert.Equal(t, "No backup has been made yet. One is due every day. Look at the failed jobs to see why it is not made.", due.Items[0].Message)
	require.Eventually(t, func() bool {
		jobs := must(s.Client(t, api.RoleAdmin).ListJobsWithResponse(t.Context(), &api.ListJobsParams{}))(t).JSON200
		return len(jobs.Items) == 1 && jobs.Items[0].Why != nil && strings.Contains(*jobs.Items[0].Why, at)
	}, timeToSettle, settleEvery)
}

// metrics reads what the service measures.
func (s *studio) metrics() string {
	s.t.Helper()
	r := must(http.NewRequestWithContext(s.t.Context(), http.MethodGet, s.Address+"/metrics", http.NoBody))(s.t)
	r.Header.Set("Authorization", "Bearer "+s.As(api.RoleAdmin).Token)
	answer := must(http.DefaultClient.Do(r))(s.t)
	defer func() { _ = answer.Body.Close() }()
	return string(must(io.ReadAll(answer.Body))(s.t))
}
