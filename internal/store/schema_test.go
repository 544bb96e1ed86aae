package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/packdb"
)

// TestDatabasesThatDoNotFitAreRefused opens databases that a newer version wrote,
// that are another program's, and of which parts are missing. None is changed.
func TestDatabasesThatDoNotFitAreRefused(t *testing.T) {
	for _, c := range []struct {
		name   string
		fresh  bool // no tables of ours
		spoil  []string
		reason string
	}{
		{"newer", false, []string{"INSERT INTO migrations VALUES ('9999-later')", "UPDATE written_by SET version = 'v9.8.7'"}, "version v9.8.7 or a newer one"},
		{"a migration left out", false, []string{"DELETE FROM migrations WHERE id = '0005-search'"}, "its update is not whole"},
		{"a table missing", false, []string{"DROP TABLE live_sheets"}, "its table live_sheets is missing"},
		{"a column missing", false, []string{"ALTER TABLE people DROP COLUMN turn"}, "the column turn of its table people is missing"},
		{"another program's", true, []string{"CREATE TABLE orders (id INT)"}, "tables of another program (orders among them)"},
		{"another program's with migrations", true, []string{"CREATE TABLE migrations (id INT, name TEXT)"}, "tables of another program"},
	} {
		t.Run(c.name, func(t *testing.T) {
			dsn := mariadbtest.New(t)
			if !c.fresh {
				open(t, dsn)
			}
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			defer func() { _ = db.Close() }()
			for _, statement := range c.spoil {
				_, err := db.ExecContext(t.Context(), statement)
				require.NoError(t, err)
			}
			tables := func() (n int) {
				require.NoError(t, db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()").Scan(&n))
				return n
			}
			before := tables()
			_, err = store.Open(t.Context(), dsn)
			require.ErrorIs(t, err, store.ErrSchema)
			require.ErrorContains(t, err, c.reason)
			assert.Equal(t, before, tables())
		})
	}
}

// TestReadinessTellsTheTruth asks a database that is read-only, frozen and gone.
func TestReadinessTellsTheTruth(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	require.NoError(t, s.Ready(t.Context()))

	pid := mariadbtest.PID()
	require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
	require.Eventually(t, func() bool { // a signal takes a moment to reach all threads
		tasks, err := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/stat", pid))
		for _, task := range tasks {
			if stat, err := os.ReadFile(task); err == nil && !strings.Contains(string(stat), ") T ") {
				return false
			}
		}
		return err == nil && len(tasks) > 0
	}, 5*time.Second, time.Millisecond)
	ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	err := s.Ready(ctx)
	cancel()
	require.NoError(t, syscall.Kill(pid, syscall.SIGCONT))
	require.ErrorContains(t, err, "does not answer")
	assert.True(t, store.IsUnavailable(err))
	require.NoError(t, s.Ready(t.Context()))

	require.NoError(t, s.Close())
	assert.Error(t, s.Ready(t.Context()))
}

// TestErrorsAreToldApart holds errors of the server against those of statements.
func TestErrorsAreToldApart(t *testing.T) {
	for number, want := range map[uint16]bool{1047: true, 1290: true, 1040: true, 1053: true, 1062: false, 1064: false, 1146: false} {
		assert.Equal(t, want, store.IsUnavailable(&mysql.MySQLError{Number: number}), number)
	}
	_, err := store.Open(t.Context(), "x:y@unix("+filepath.Join(t.TempDir(), "none")+")/z")
	assert.True(t, store.IsUnavailable(err), "%v", err)
	_, err = store.Open(t.Context(), "x:y@tcp(127.0.0.1:1)/z")
	assert.True(t, store.IsUnavailable(err), "%v", err)
	assert.True(t, store.IsFull(&os.PathError{Err: syscall.ENOSPC}))
	assert.True(t, store.IsFull(&mysql.MySQLError{Number: 1114}))
	assert.False(t, store.IsFull(&os.PathError{Err: syscall.ENOENT}))
}

// TestPackedTextsBecomeColumns opens a database of the time when the formats of a face
// and the families of a pack were texts.
func TestPackedTextsBecomeColumns(t *testing.T) {
	dsn := mariadbtest.New(t)
	s := open(t, dsn)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	run := func(statements ...string) {
		t.Helper()
		for _, one := range statements {
			_, err := db.ExecContext(t.Context(), one)
			require.NoError(t, err, one)
		}
	}
	run("DELETE FROM migrations WHERE id >= '0015'", "DROP TABLE pack_families",
		"ALTER TABLE packs ADD COLUMN families LONGTEXT NULL",
		"ALTER TABLE faces MODIFY formats VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT ''",
		"INSERT INTO clients (id, name, studio) VALUES (7, 'Holmvik Ferries', FALSE)",
		"INSERT IGNORE INTO families (id, client_id, name, created_at) VALUES (7, 7, 'Skerrow Sans', NOW(6)), (8, 7, 'Skerrow Serif', NOW(6))",
		"INSERT IGNORE INTO faces (id, family_id, face_key, style, width, weight, slope, formats) VALUES (7, 7, 'a', 'Bold', 100, 700, 'upright', ',ttf,woff2,'), (8, 7, 'b', 'Thin', 100, 100, 'upright', '')",
		"INSERT IGNORE INTO sites (id, client_id, name, domains, builder, version) VALUES (7, 7, 'Timetable', '[]', 'self-hosted', 1)",
		"INSERT IGNORE INTO packs (id, site_id, name, sha256, bytes, families, created_at, created_by) VALUES (7, 7, 'a.zip', 'x', 1, '[8, 7]', NOW(6), 'x'), (8, 7, 'b.zip', 'x', 1, '[]', NOW(6), 'x')")
	for range 2 { // a second time it does no harm
		s, err = store.Open(t.Context(), dsn)
		require.NoError(t, err)
		packs, err := packdb.In(s).Packs(t.Context(), 7)
		require.NoError(t, err)
		require.Len(t, packs, 2)
		assert.Empty(t, packs[0].Families)
		assert.Equal(t, []int64{7, 8}, packs[1].Families)
		face, err := familydb.In(s).Face(t.Context(), 7)
		require.NoError(t, err)
		assert.Equal(t, store.Formats{"ttf", "woff2"}, face.Listing.Formats)
		bare, err := familydb.In(s).Face(t.Context(), 8)
		require.NoError(t, err)
		assert.Empty(t, bare.Listing.Formats)
		run("DELETE FROM migrations WHERE id >= '0015'")
	}
	run("DELETE FROM faces")
	require.NoError(t, librarydb.In(s).ShareUses(t.Context(), 7, 9, false))
	require.NoError(t, librarydb.In(s).EndFamily(t.Context(), 7, 9))
	pack, err := packdb.In(s).Pack(t.Context(), 7)
	require.NoError(t, err)
	assert.Equal(t, []int64{8, 9}, pack.Families, "what a family was in, the one that it was joined to is in")
}
