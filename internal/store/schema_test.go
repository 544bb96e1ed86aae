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
