// Package mariadbtest gives each test package a MariaDB server of its own and
// each test a database of its own on it.
package mariadbtest

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"
	"golang.org/x/sys/unix"

	"sparecrate/internal/mariadb"
)

var (
	server  *mariadb.Server
	atEnd   []func()
	atEndMu sync.Mutex
	count   atomic.Int64
)

// Main runs the tests of a package around a server; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(Run(m.Run))
}

// Run runs tests around a server and returns what run does.
func Run(run func() int) int {
	_ = mysql.SetLogger(&mysql.NopLogger{}) // tests end connections in all ways
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
	defer func() {
		for _, do := range atEnd {
			do()
		}
	}()
	return run()
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

// Clone makes a database with the tables and rows of another one of New's and gives its
// data source name. Nothing may write to the other meanwhile.
func Clone(t testing.TB, dsn string) string {
	t.Helper()
	config, err := mysql.ParseDSN(dsn)
	if err != nil {
		t.Fatal(err)
	}
	copied := New(t)
	db, err := sql.Open("mysql", copied)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	if err := clone(t.Context(), db, config.DBName); err != nil {
		t.Fatal(err)
	}
	return copied
}

func clone(ctx context.Context, db *sql.DB, from string) error {
	conn, err := db.Conn(ctx) // the setting is of one connection
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close() }()
	if _, err := conn.ExecContext(ctx, "SET foreign_key_checks = 0"); err != nil {
		return err
	}
	var tables string
	if err := conn.QueryRowContext(ctx, "SELECT GROUP_CONCAT(table_name) FROM information_schema.tables WHERE table_schema = ?", from).Scan(&tables); err != nil {
		return err
	}
	for table := range strings.SplitSeq(tables, ",") {
		name := "`" + from + "`.`" + table + "`"
		var create string
		if err := conn.QueryRowContext(ctx, "SHOW CREATE TABLE "+name).Scan(&table, &create); err != nil {
			return err
		}
		if _, err := conn.ExecContext(ctx, create); err != nil {
			return err
		}
		if _, err := conn.ExecContext(ctx, "INSERT INTO `"+table+"` SELECT * FROM "+name); err != nil {
			return err
		}
	}
	return nil
}

// AtEnd has something done when all tests of the package have run.
func AtEnd(do func()) {
	atEndMu.Lock()
	defer atEndMu.Unlock()
	atEnd = append(atEnd, do)
}
