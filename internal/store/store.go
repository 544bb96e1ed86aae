// Package store keeps the records in MariaDB through GORM: record types, numbered
// migrations, and what all statements share. The statements themselves are in the
// packages below it, one for each subject (accountdb, familydb, sitedb and so on); a
// package of the service imports those whose statements it runs.
//
// Text is compared without regard to case and accents by the database's
// collation. Times are UTC. A Store is either the whole database or one
// transaction of it; Tx makes the second from the first and runs it again when
// the database asks for that.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"sparecrate/internal/store/nodes"
	"sparecrate/internal/store/schema"
	"sparecrate/internal/store/scope"
)

// What a caller may want to tell apart.
var (
	// ErrNotFound says that there is no such record.
	ErrNotFound = errors.New("no such record")
	// ErrTaken says that a name or address is used already.
	ErrTaken = errors.New("taken already")
	// ErrStale says that a record was changed since it was read.
	ErrStale = errors.New("changed since it was read")
)

// duplicateKey is the number of the error MariaDB answers with for a key that is there.
const duplicateKey = 1062

// Store gives access to the records.
type Store struct {
	db *gorm.DB
	// patience is how long another node is looked for when one is lost; 0 where there is
	// only one.
	patience time.Duration
	// nodes is how its servers are reached.
	nodes []*driver.Config
}

// Open connects to a database and brings its tables up to date. The name of a cluster has
// several hosts, tcp(HOST:PORT,HOST:PORT); the first that answers serves.
func Open(ctx context.Context, dsn string) (*Store, error) {
	all, err := nodesFor(dsn)
	if err != nil {
		return nil, err
	}
	clustered, err := migrateBy(ctx, all)
	if err != nil {
		return nil, err
	}
	for _, c := range all {
		c.ReadTimeout, c.WriteTimeout = answerPatience, answerPatience
		// A process that stands still in the middle of a transaction keeps others waiting so long.
		c.Params["idle_write_transaction_timeout"] = strconv.Itoa(lockWait)
		if clustered {
			c.Params["wsrep_sync_wait"] = "1" // what was written on one node is read on any
			c.Params["idle_write_transaction_timeout"] = strconv.Itoa(clusterIdle)
		}
	}
	return connect(ctx, all)
}

// nodesFor returns how the nodes of a database are connected to.
func nodesFor(dsn string) ([]*driver.Config, error) {
	all, err := nodes.Of(dsn)
	if err != nil {
		return nil, err
	}
	for _, c := range all {
		c.ParseTime, c.Loc = true, time.UTC
		if c.Collation == "" {
			c.Collation = "utf8mb4_unicode_520_ci"
		}
		c.InterpolateParams = true // one journey to the database for each statement, not three
		c.ClientFoundRows = true   // an update that changes nothing still found its row
		if c.Params == nil {
			c.Params = map[string]string{}
		}
		c.Params["time_zone"] = "'+00:00'"
		c.Params["innodb_lock_wait_timeout"] = strconv.Itoa(lockWait)
		c.Timeout = connectPatience
	}
	return all, nil
}

// OpenEmpty makes the tables as they were after some migrations in a database that holds nothing,
// for a restore. Restored ends that; until then Open refuses the database.
func OpenEmpty(ctx context.Context, dsn string, applied []string) (*Store, error) {
	all, err := nodesFor(dsn)
	if err != nil {
		return nil, err
	}
	s, err := connect(ctx, all)
	if err != nil {
		return nil, err
	}
	if err := schema.Begin(ctx, s.On(ctx), applied); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Restored ends what OpenEmpty began.
func (s *Store) Restored(ctx context.Context) error { return schema.End(ctx, s.On(ctx)) }

// migrateBy brings the tables up to date over a connection of its own, on which a
// statement may take as long as it needs, and says whether the database is a cluster.
func migrateBy(ctx context.Context, all []*driver.Config) (clustered bool, err error) {
	s, err := connect(ctx, all)
	if err != nil {
		return false, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if err := s.On(ctx).Raw("SELECT @@GLOBAL.wsrep_on").Scan(&clustered).Error; err != nil {
		clustered = false // a server that is built without
	}
	return clustered, schema.Update(ctx, s.On(ctx))
}

// Unhurried returns the same records over connections of their own, on which a statement may take
// as long as it needs, as one that reads all of them does. Close ends them.
func (s *Store) Unhurried(ctx context.Context) (*Store, error) {
	all := make([]*driver.Config, len(s.nodes))
	for i, c := range s.nodes {
		all[i] = c.Clone()
		all[i].ReadTimeout, all[i].WriteTimeout = 0, 0
	}
	return connect(ctx, all)
}

func connect(ctx context.Context, all []*driver.Config) (*Store, error) {
	var pool *sql.DB
	made := make(chan struct{})
	n, err := nodes.New(all, func() { <-made; forget(pool) })
	if err != nil {
		return nil, err
	}
	pool = sql.OpenDB(n)
	close(made)
	db, err := gorm.Open(mysql.New(mysql.Config{Conn: scope.Pool{DB: pool}}), &gorm.Config{
		Logger: counter{logger.Discard, func() { forget(pool) }, n.Avoid}, SkipDefaultTransaction: true,
		NowFunc: func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
	})
	s := &Store{db: db, nodes: all}
	if n.Several() {
		s.patience = nodePatience
	}
	if err == nil {
		err = s.On(ctx).Exec("SELECT 1").Error
	}
	if err != nil {
		where := make([]string, len(all))
		for i, c := range all {
			where[i] = c.Addr
		}
		return nil, errors.Join(fmt.Errorf("reach the database at %s: %w", strings.Join(where, ", "), err), pool.Close())
	}
	pool.SetMaxOpenConns(mostConnections)
	pool.SetMaxIdleConns(mostConnections) // a connection costs more than a statement
	pool.SetConnMaxLifetime(30 * time.Minute)
	return s, nil
}

const mostConnections = 32

// forget closes the connections that nobody uses: the node behind them does not serve any more,
// and the next ones are made to another.
func forget(pool *sql.DB) {
	pool.SetMaxIdleConns(0)
	pool.SetMaxIdleConns(mostConnections)
}

// On returns the database, or the transaction, for statements that end with ctx. They see
// what ctx is limited to (package scope).
func (s *Store) On(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

// Pool returns the connections, for what measures them.
func (s *Store) Pool() (*sql.DB, error) { return s.db.DB() }

// Close ends all connections.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// Tx runs do in one transaction, again from the start when the database gives
// it up for a deadlock or, in a cluster, for a conflict. do must not keep
// anything from an attempt that failed.
//
// Also run again is one whose node was lost before its end was asked for. Whether a lost
// commit took place is not known, so that is told.
func (s *Store) Tx(ctx context.Context, do func(tx *Store) error) error {
	for start := time.Now(); ; {
		committing := false
		err := nodes.Retry(ctx, func() error {
			committing = false
			return s.On(ctx).Transaction(func(tx *gorm.DB) error {
				err := do(&Store{db: tx})
				committing = err == nil
				return err
			})
		})
		if err == nil || committing || !s.ElsewhereAfter(ctx, err, start) {
			return err
		}
	}
}

// ElsewhereAfter waits a moment and says whether what began at start, changed nothing and failed so
// may be done again on another node: that one was lost, has no room, or waited in vain for what
// other nodes do.
func (s *Store) ElsewhereAfter(ctx context.Context, err error, start time.Time) bool {
	if !nodes.Lost(err) && !nodes.Full(err) && !nodes.Again(err) || time.Since(start) > s.patience {
		return false
	}
	select {
	case <-ctx.Done():
		return false
	case <-time.After(nodeAgain):
		return true
	}
}

// Again says whether a transaction that failed so would do better at another try.
func Again(err error) bool { return nodes.Again(err) }

// Exec runs a statement that moves what belongs to one record to another.
func (s *Store) Exec(ctx context.Context, query string, from, to int64) error {
	return Told(s.On(ctx).Exec(query, map[string]any{"from": from, "to": to}).Error)
}

// Told turns the database's errors into ours.
func Told(err error) error {
	var e *driver.MySQLError
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case errors.As(err, &e) && e.Number == duplicateKey:
		return fmt.Errorf("%w: %w", ErrTaken, err)
	}
	return err
}

// First returns the one record a query finds.
func First[T any](q *gorm.DB) (*T, error) {
	var t T
	if err := q.Take(&t).Error; err != nil {
		return nil, Told(err)
	}
	return &t, nil
}

// List returns all records a query finds.
func List[T any](q *gorm.DB) ([]T, error) {
	out := []T{}
	return out, Told(q.Find(&out).Error)
}

// Add writes a new record and sets its ID.
func Add[T any](ctx context.Context, s *Store, t *T) error {
	return Told(s.On(ctx).Create(t).Error)
}

// Change writes the given columns of a record if its version is still the one
// read, and raises the version. The error is ErrStale where it is not.
func (s *Store) Change(ctx context.Context, model any, id int64, version int, columns map[string]any) error {
	columns["version"] = version + 1
	r := s.On(ctx).Model(model).Where("id = ? AND version = ?", id, version).Updates(columns)
	if r.Error != nil {
		return Told(r.Error)
	}
	if r.RowsAffected == 0 {
		return ErrStale
	}
	return nil
}

// Page asks for the records after a place in a list, at most Limit.
type Page struct {
	AfterName string
	AfterID   int64
	Limit     int
}

// ByName orders a query by name and starts it behind the page's place.
func (p Page) ByName(q *gorm.DB, table string) *gorm.DB {
	if p.AfterID != 0 {
		q = q.Where("("+table+".name, "+table+".id) > (?, ?)", p.AfterName, p.AfterID)
	}
	return q.Order(table + ".name, " + table + ".id").Limit(p.Limit)
}

// Newest orders a query from the newest record and starts it behind the page's place.
func (p Page) Newest(q *gorm.DB) *gorm.DB {
	if p.AfterID != 0 {
		q = q.Where("id < ?", p.AfterID)
	}
	return q.Order("id DESC").Limit(p.Limit)
}
