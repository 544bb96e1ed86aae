package mariadb_test

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb"
)

func open(t *testing.T, folder string) *mariadb.Server {
	t.Helper()
	s, err := mariadb.Open(t.Context(), folder, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	return s
}

func exec1(t *testing.T, s *mariadb.Server, query string) {
	t.Helper()
	db, err := sql.Open("mysql", s.DSN(""))
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	_, err = db.ExecContext(t.Context(), query)
	require.NoError(t, err)
}

// TestCrashedRunIsTakenOver starts a server in a process that is killed, and
// expects the next run to find that very server, with its records.
func TestCrashedRunIsTakenOver(t *testing.T) {
	if folder := os.Getenv("MARIADB_TEST_FOLDER"); folder != "" {
		s := open(t, folder)
		exec1(t, s, "CREATE TABLE kept (n INT)")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "ready"), nil, 0o600))
		select {} // until killed
	}
	folder := t.TempDir()
	child := exec.Command(os.Args[0], "-test.run=TestCrashedRunIsTakenOver") //nolint:gosec // this very test
	child.Env = append(os.Environ(), "MARIADB_TEST_FOLDER="+folder)
	require.NoError(t, child.Start())
	require.Eventually(t, func() bool { _, err := os.Stat(filepath.Join(folder, "ready")); return err == nil }, 2*time.Minute, 20*time.Millisecond)

	_, err := mariadb.Open(context.Background(), folder, slog.New(slog.DiscardHandler))
	require.ErrorIs(t, err, mariadb.ErrInUse, "one process at a time has the folder")

	require.NoError(t, child.Process.Kill())
	_ = child.Wait()
	s := open(t, folder)
	first := s.PID()
	exec1(t, s, "INSERT INTO kept VALUES (1)")
	require.NoError(t, s.Close())
	// An ended process may still be listed until its parent has heard of it, but then it has no command line any more.
	left, _ := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", first))
	assert.Empty(t, left, "a closed server is gone")

	again := open(t, folder)
	assert.NotEqual(t, first, again.PID())
	exec1(t, again, "INSERT INTO kept VALUES (2)")
	require.NoError(t, again.Close())
}
