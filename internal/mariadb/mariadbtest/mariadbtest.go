// Package mariadbtest gives each test package a MariaDB server of its own and
// each test a database of its own on it.
package mariadbtest

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"sync/atomic"
	"testing"

	"golang.org/x/sys/unix"

	"sparecrate/internal/mariadb"
)

var (
	server *mariadb.Server
	count  atomic.Int64
)

// Main runs the tests of a package around a server; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	folder, err := os.MkdirTemp(quick(), "sparecrate-db-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer func() { _ = os.RemoveAll(folder) }()
	server, err = mariadb.Open(context.Background(), folder, slog.New(slog.DiscardHandler), `test\_%`)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer func() { _ = server.Close() }()
	return m.Run()
}

// quick is a folder in memory with room for the server's files; empty, for the usual one,
// where there is none. Making tables waits for the disk otherwise.
func quick() string {
	const memory, room = "/dev/shm", 1 << 30
	var is unix.Statfs_t
	if unix.Statfs(memory, &is) != nil || is.Bavail*uint64(is.Bsize) < room || unix.Access(memory, unix.W_OK) != nil { //nolint:gosec // never negative
		return ""
	}
	return memory
}

// New makes an empty database and gives its data source name.
func New(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("test_%d", count.Add(1))
	db, err := sql.Open("mysql", server.DSN(""))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	if _, err := db.ExecContext(t.Context(), "CREATE DATABASE "+name); err != nil {
		t.Fatal(err)
	}
	return server.DSN(name)
}

// PID returns the process of the package's server.
func PID() int { return server.PID() }
