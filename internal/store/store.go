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
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

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

// Numbers of errors MariaDB answers with.
const (
	duplicateKey    = 1062
	deadlock        = 1213
	lockWaitTimeout = 1205
	recordChanged   = 1020 // also a failed certification in a Galera cluster
	txAttempts      = 5
)

// Store gives access to the records.
type Store struct{ db *gorm.DB }

// Open connects to a database and brings its tables up to date.
func Open(ctx context.Context, dsn string) (*Store, error) {
	c, err := driver.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read (it looks like user:password@tcp(host:3306)/name): %w", err)
	}
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
	if err := migrateBy(ctx, *c); err != nil {
		return nil, err
	}
	c.ReadTimeout, c.WriteTimeout = answerPatience, answerPatience
	return connect(ctx, c)
}

// migrateBy brings the tables up to date over a connection of its own, on which a
// statement may take as long as it needs.
func migrateBy(ctx context.Context, c driver.Config) error {
	s, err := connect(ctx, &c)
	if err != nil {
		return err
	}
	return errors.Join(s.migrate(ctx), s.Close())
}

func connect(ctx context.Context, c *driver.Config) (*Store, error) {
	pool, err := sql.Open("mysql", c.FormatDSN())
	if err != nil {
		return nil, fmt.Errorf("reach the database at %s: %w", c.Addr, err)
	}
	db, err := gorm.Open(mysql.New(mysql.Config{Conn: scope.Pool{DB: pool}}), &gorm.Config{
		Logger: counter{logger.Discard}, SkipDefaultTransaction: true,
		NowFunc: func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
	})
	s := &Store{db}
	if err == nil {
		err = s.On(ctx).Exec("SELECT 1").Error
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("reach the database at %s: %w", c.Addr, err), pool.Close())
	}
	pool.SetMaxOpenConns(32)
	pool.SetMaxIdleConns(32) // a connection costs more than a statement
	pool.SetConnMaxLifetime(30 * time.Minute)
	return s, nil
}

// On returns the database, or the transaction, for statements that end with ctx. They see
// what ctx is limited to (package scope).
func (s *Store) On(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

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
func (s *Store) Tx(ctx context.Context, do func(tx *Store) error) error {
	var err error
	for attempt := range txAttempts {
		err = s.On(ctx).Transaction(func(tx *gorm.DB) error { return do(&Store{tx}) })
		if !Again(err) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(10<<attempt) * time.Millisecond):
		}
	}
	return fmt.Errorf("the database gave up after %d attempts: %w", txAttempts, err)
}

// Again says whether a transaction that failed so would do better at another try.
func Again(err error) bool {
	var e *driver.MySQLError
	return errors.As(err, &e) && (e.Number == deadlock || e.Number == lockWaitTimeout || e.Number == recordChanged)
}

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
