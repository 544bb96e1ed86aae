package service_test

import (
	"bytes"
	"context"
	"database/sql"
	"log/slog"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/imports"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/rooms"
	"sparecrate/internal/service"
)

// formats returns the states of a family's first face.
func (s *studio) formats(family int64) map[api.FileFormat]api.FaceFormat {
	s.t.Helper()
	r, err := s.admin.GetFamilyWithResponse(s.t.Context(), family)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	all := map[api.FileFormat]api.FaceFormat{}
	for _, m := range r.JSON200.Faces[0].Formats {
		all[m.Format] = m
	}
	return all
}

func (s *studio) content(file int64, to api.FileFormat) *api.GetFileContentResponse {
	s.t.Helper()
	r, err := s.admin.GetFileContentWithResponse(s.t.Context(), file, &api.GetFileContentParams{Format: &to})
	require.NoError(s.t, err)
	return r
}

// TestFormatsAreMadeAhead expects what packs are made of to be there without
// anybody asking, and the rest when it is asked for, each made once.
func TestFormatsAreMadeAhead(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[1])
	require.Eventually(t, func() bool {
		all := s.formats(family)
		return all[api.WOFF2].State == api.Made && all[api.WOFF].State == api.Made
	}, time.Minute, 50*time.Millisecond)
	all := s.formats(family)
	assert.Equal(t, api.AsItCame, all[api.TTF].State)
	assert.Equal(t, api.OnRequest, all[api.EOT].State)
	assert.Nil(t, all[api.EOT].Bytes)
	assert.NotContains(t, all, api.OTF, "the outlines are not PostScript's")
	r, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	file := r.JSON200.Faces[0].Files[0].Id
	for _, to := range []api.FileFormat{api.WOFF2, api.WOFF, api.EOT, api.SVG, api.TTF} {
		got := s.content(file, to)
		require.Equal(t, http.StatusOK, got.StatusCode(), "%s", got.Body)
		assert.Contains(t, got.HTTPResponse.Header.Get("Content-Disposition"), "SkerrowSans-Regular."+string(to))
		assert.EqualValues(t, len(got.Body), *s.formats(family)[to].Bytes)
		if to != api.SVG {
			read, err := metadata.Read(got.Body)
			require.NoError(t, err)
			assert.EqualValues(t, to, read[0].Container)
		}
	}
	jobs, err := s.admin.ListJobsWithResponse(t.Context(), &api.ListJobsParams{})
	require.NoError(t, err)
	require.Len(t, jobs.JSON200.Items, 4, "one for each format that was not there")
	for _, j := range jobs.JSON200.Items {
		assert.Equal(t, api.JobDone, j.State)
		assert.Equal(t, 1, j.Attempts)
		assert.Contains(t, j.Title, "SkerrowSans-Regular.ttf as ")
	}
	wrong := api.JobState("asleep")
	bad, err := s.admin.ListJobsWithResponse(t.Context(), &api.ListJobsParams{State: &wrong})
	require.NoError(t, err)
	problemOf(t, bad.HTTPResponse, bad.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-state")
}

// TestAnEOTFromAnOldSite takes in what browsers of today do not read, and shows
// and packs it all the same.
func TestAnEOTFromAnOldSite(t *testing.T) {
	s := open(t)
	r := s.add("skerrow.eot", drawn(t, foundry.Signage()[1], font.EOT))
	require.NotNil(t, r.JSON200, "%s", r.Body)
	assert.Equal(t, api.OutcomeNew, r.JSON200.Outcome)
	plan, err := planned(t.Context(), s.admin, s.site("Archive", 1, r.JSON200.Family.Id), nil)
	require.NoError(t, err)
	require.NotNil(t, plan.JSON200, "%s", plan.Body)
	assert.Equal(t, "fonts/skerrow-sans-regular.woff2", plan.JSON200.Files[0].Path)
	assert.Equal(t, api.AsItCame, s.formats(r.JSON200.Family.Id)[api.EOT].State)
	better := s.add("Skerrow Sans.ttf", drawn(t, foundry.Signage()[1], font.TTF))
	assert.Equal(t, api.OutcomeSibling, better.JSON200.Outcome, "%s", better.Body)
	assert.Equal(t, api.AsItCame, s.formats(r.JSON200.Family.Id)[api.TTF].State, "packs take the plain one from now on")
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleEditor, "/families")
	browsertest.Do(t, ctx, browsertest.Visible(".strip"), allSet())
}

// TestAContainerThatCannotBeMade asks for EOT, which repeats a table that this
// font lacks.
func TestAContainerThatCannotBeMade(t *testing.T) {
	s := open(t)
	opened, err := font.Open(drawn(t, foundry.Signage()[1], font.TTF))
	require.NoError(t, err)
	f := opened.Faces[0]
	f.Tables = slices.DeleteFunc(f.Tables, func(t sfnt.Table) bool { return t.Tag == table.TagOS2 })
	added := s.add("Skerrow Sans.ttf", sfnt.Write(f))
	require.NotNil(t, added.JSON200, "%s", added.Body)
	family, err := s.admin.GetFamilyWithResponse(t.Context(), added.JSON200.Family.Id)
	require.NoError(t, err)
	got := s.content(family.JSON200.Faces[0].Files[0].Id, api.EOT)
	problemOf(t, got.HTTPResponse, got.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "format-impossible")
	assert.Contains(t, got.ApplicationproblemJSONDefault.Detail, "Skerrow Sans.ttf cannot be converted to EOT: an EOT file repeats what the font says of its weight")
	eot := s.formats(added.JSON200.Family.Id)[api.EOT]
	assert.Equal(t, api.Failed, eot.State)
	assert.Contains(t, *eot.Why, "OS/2")

	failed := api.JobFailed
	jobs, err := s.admin.ListJobsWithResponse(t.Context(), &api.ListJobsParams{State: &failed})
	require.NoError(t, err)
	require.Len(t, jobs.JSON200.Items, 1)
	assert.Equal(t, 1, jobs.JSON200.Failed)
	id := jobs.JSON200.Items[0].Id
	no, err := s.Client(t, api.RoleViewer).RetryJobWithResponse(t.Context(), id)
	require.NoError(t, err)
	problemOf(t, no.HTTPResponse, no.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	yes, err := s.Client(t, api.RoleEditor).RetryJobWithResponse(t.Context(), id)
	require.NoError(t, err)
	require.NotNil(t, yes.JSON200, "%s", yes.Body)
	require.Eventually(t, func() bool { return s.formats(added.JSON200.Family.Id)[api.EOT].State == api.Failed }, time.Minute, 50*time.Millisecond, "it fails again")
	none, err := s.admin.RetryJobWithResponse(t.Context(), 999)
	require.NoError(t, err)
	problemOf(t, none.HTTPResponse, none.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
}

// TestANewerCoreReadsFilesAgain starts the service on records that an older
// version left, with metadata that lack what is read today.
func TestANewerCoreReadsFilesAgain(t *testing.T) {
	data, dsn := t.TempDir(), mariadbtest.New(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	run := func(prepare func(ctx context.Context, c *rooms.Rooms, password string) error, then func()) {
		ctx, stop := context.WithCancel(context.Background())
		ready, done := make(chan string, 1), make(chan error, 1)
		go func() {
			done <- service.Run(ctx, service.Options{Listen: "127.0.0.1:0", Data: data, Database: dsn, Log: slog.New(slog.DiscardHandler), Prepare: prepare, Ready: func(a string) { ready <- a }})
		}()
		select {
		case <-ready:
			then()
		case err := <-done:
			t.Fatal(err)
		}
		stop()
		require.NoError(t, <-done)
	}
	reader := func() (version, languages int) {
		require.NoError(t, db.QueryRowContext(t.Context(), "SELECT reader, JSON_LENGTH(metadata, '$.coverage.languages') FROM face_files").Scan(&version, &languages))
		return version, languages
	}
	run(demoWith(t), func() {})
	version, languages := reader()
	assert.Equal(t, metadata.Version, version)
	assert.Greater(t, languages, 100)
	_, err = db.ExecContext(t.Context(), `UPDATE face_files SET reader = 1, metadata = JSON_SET(metadata, '$.coverage.languages', JSON_ARRAY(), '$.coverage.scripts', JSON_ARRAY())`)
	require.NoError(t, err)
	// And as a version that did not measure designs left it.
	measured := func() (prints, cells int) {
		require.NoError(t, db.QueryRowContext(t.Context(), "SELECT (SELECT COUNT(*) FROM prints), (SELECT COUNT(*) FROM print_cells)").Scan(&prints, &cells))
		return prints, cells
	}
	prints, cells := measured()
	assert.Equal(t, 1, prints)
	assert.Greater(t, cells, 100)
	for _, table := range []string{"prints", "print_cells"} {
		_, err = db.ExecContext(t.Context(), "DELETE FROM "+table) //nolint:gosec // our own names
		require.NoError(t, err)
	}
	run(nil, func() {
		require.Eventually(t, func() bool {
			version, languages := reader()
			now, found := measured()
			return version == metadata.Version && languages > 100 && now == prints && found == cells
		}, time.Minute, 50*time.Millisecond)
	})
}

// demoWith adds one font before the first request.
func demoWith(t *testing.T) func(ctx context.Context, c *rooms.Rooms, password string) error {
	return func(ctx context.Context, c *rooms.Rooms, password string) error {
		p, err := c.Auth.SignIn(ctx, "", service.DefaultEmail, password)
		if err != nil {
			return err
		}
		if err := c.Auth.ChangePassword(ctx, p, password, "a few words do well"); err != nil {
			return err
		}
		if p, err = c.Auth.SignIn(ctx, "", service.DefaultEmail, "a few words do well"); err != nil {
			return err
		}
		_, err = c.Imports.AddFile(ctx, p, imports.Arrival{Name: "SkerrowSans-Regular.ttf", Bytes: bytes.NewReader(drawn(t, foundry.Signage()[1], font.TTF))})
		return err
	}
}
