package schema_test

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

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
	gone, first, second := mariadbtest.NewNode(t, dsn), mariadbtest.NewNode(t, dsn).Run(), mariadbtest.NewNode(t, dsn).Run()
	s := open(t, mariadbtest.Through(t, dsn, gone, first, second))
	require.NoError(t, s.Ready(t.Context()))
	assert.Positive(t, first.Served.Load())
	assert.LessOrEqual(t, second.Served.Load(), int32(2), "it is looked at only")
	first.Kill()
	require.Eventually(t, func() bool { return s.Ready(t.Context()) == nil }, 5*time.Second, 10*time.Millisecond)
	assert.Greater(t, second.Served.Load(), int32(2))
	for _, bad := range []string{"x:y@tcp(127.0.0.1:1,127.0.0.1:2)/z", "x:y@tcp(127.0.0.1:1,)z"} {
		_, err := store.Open(t.Context(), bad)
		require.ErrorContains(t, err, "the database", bad)
	}
}
