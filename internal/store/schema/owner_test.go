package schema_test

import (
	"context"
	"database/sql"
	"errors"
	"io"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/schema"
)

// TestOneProcessUpdatesTheTables has many want to update the tables at once: one after the other
// does. One that died is followed; one whose row another has taken stops.
func TestOneProcessUpdatesTheTables(t *testing.T) {
	defer schema.OwnFor(2 * time.Second)()
	dsn := mariadbtest.New(t)
	s := open(t, dsn)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	var inside, most, ran atomic.Int32
	var all sync.WaitGroup
	for range 6 {
		all.Go(func() {
			assert.NoError(t, schema.Owning(t.Context(), s.On(t.Context()), func(context.Context) error {
				most.Store(max(most.Load(), inside.Add(1)))
				time.Sleep(20 * time.Millisecond)
				inside.Add(-1)
				ran.Add(1)
				return nil
			}))
		})
	}
	all.Wait()
	assert.EqualValues(t, 6, ran.Load())
	assert.EqualValues(t, 1, most.Load())

	_, err = db.ExecContext(t.Context(), "UPDATE migration_owner SET holder = 'one that died', until = NOW(6) + INTERVAL 1 SECOND")
	require.NoError(t, err)
	start := time.Now()
	require.NoError(t, schema.Owning(t.Context(), s.On(t.Context()), func(context.Context) error { return nil }))
	assert.Greater(t, time.Since(start), 500*time.Millisecond, "it was waited for")

	err = schema.Owning(t.Context(), s.On(t.Context()), func(ctx context.Context) error {
		_, err := db.ExecContext(ctx, "UPDATE migration_owner SET holder = 'another'")
		require.NoError(t, err)
		<-ctx.Done()
		return ctx.Err()
	})
	require.ErrorContains(t, err, "start again")
	failed := errors.New("what was done failed")
	_, err = db.ExecContext(t.Context(), "UPDATE migration_owner SET holder = ''")
	require.NoError(t, err)
	require.ErrorIs(t, schema.Owning(t.Context(), s.On(t.Context()), func(context.Context) error { return failed }), failed)
	require.NoError(t, schema.Owning(t.Context(), s.On(t.Context()), func(context.Context) error { return nil }), "it is free again at once")
}

// TestTablesForACluster looks for what a cluster of several nodes does not take: tables without
// a primary key, locks of one node, transactions that are not tried again.
func TestTablesForACluster(t *testing.T) {
	dsn := mariadbtest.New(t)
	open(t, dsn)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	var without sql.NullString
	require.NoError(t, db.QueryRowContext(t.Context(), `SELECT GROUP_CONCAT(t.table_name) FROM information_schema.tables t
		LEFT JOIN information_schema.table_constraints c ON c.table_schema = t.table_schema AND c.table_name = t.table_name AND c.constraint_type = 'PRIMARY KEY'
		WHERE t.table_schema = DATABASE() AND t.table_type = 'BASE TABLE' AND (c.table_name IS NULL OR t.engine <> 'InnoDB')`).Scan(&without))
	assert.Empty(t, without.String, "tables without a primary key, or not kept by InnoDB")
	require.NoError(t, filepath.WalkDir("../../..", func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && d.Name() == "node_modules" {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "internal/store/store.go") || strings.Contains(path, "internal/store/scope/") {
			return nil
		}
		text, err := os.ReadFile(path)
		for _, bad := range []string{"GET_LOCK(\"", "LOCK TABLES", ".Transaction(func", ".BeginTx(", ".Begin()"} {
			assert.NotContains(t, string(text), bad, path)
		}
		return err
	}))
}

// TestTheNextNodeServes opens a database by several addresses, of which the first is nobody's, and
// goes on when the one that serves goes away.
func TestTheNextNodeServes(t *testing.T) {
	dsn := mariadbtest.New(t)
	c, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	// node passes connections on to the server, until it is killed.
	node := func() (address string, kill func(), served *atomic.Int32) {
		l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed below
		require.NoError(t, err)
		served = &atomic.Int32{}
		var mu sync.Mutex
		var open []net.Conn
		go func() {
			for {
				in, err := l.Accept()
				if err != nil {
					return
				}
				out, err := net.Dial("unix", c.Addr) //nolint:noctx // closed below
				if err != nil {
					return
				}
				served.Add(1)
				mu.Lock()
				open = append(open, in, out)
				mu.Unlock()
				go func() { _, _ = io.Copy(out, in); _ = out.Close() }()
				go func() { _, _ = io.Copy(in, out); _ = in.Close() }()
			}
		}()
		kill = func() {
			_ = l.Close()
			mu.Lock()
			defer mu.Unlock()
			for _, one := range open {
				_ = one.Close()
			}
		}
		t.Cleanup(kill)
		return l.Addr().String(), kill, served
	}
	gone, kill, _ := node()
	kill()
	first, killFirst, servedFirst := node()
	second, _, servedSecond := node()
	several := strings.Replace(dsn, c.Net+"("+c.Addr+")", "tcp("+gone+", "+first+","+second+")", 1)
	require.NotEqual(t, dsn, several)
	s := open(t, several)
	require.NoError(t, s.Ready(t.Context()))
	assert.Positive(t, servedFirst.Load())
	assert.Zero(t, servedSecond.Load(), "the others wait")
	killFirst()
	require.Eventually(t, func() bool { return s.Ready(t.Context()) == nil }, 5*time.Second, 10*time.Millisecond)
	assert.Positive(t, servedSecond.Load())
	for _, bad := range []string{"x:y@tcp(127.0.0.1:1,127.0.0.1:2)/z", "x:y@tcp(127.0.0.1:1,)z"} {
		_, err := store.Open(t.Context(), bad)
		require.ErrorContains(t, err, "the database", bad)
	}
}
