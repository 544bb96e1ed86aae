package schema

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"gorm.io/gorm"
)

// MigrateTo brings an empty database to the state after the migration last. If it is
// interrupted, every statement is followed by all before it of its migration once more, as
// after a crash.
func MigrateTo(ctx context.Context, dsn, last string, interrupted bool) (err error) {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	if _, err := db.ExecContext(ctx, "CREATE TABLE migrations (id VARCHAR(255) PRIMARY KEY)"); err != nil {
		return err
	}
	for i, m := range migrations {
		for k := range scripts[i] {
			from := k
			if interrupted {
				from = 0
			}
			for _, s := range scripts[i][from : k+1] {
				if _, err := db.ExecContext(ctx, s); err != nil {
					return err
				}
			}
		}
		if _, err := db.ExecContext(ctx, "INSERT INTO migrations (id) VALUES (?)", m.ID); err != nil {
			return err
		}
		if m.ID == last {
			break
		}
	}
	return nil
}

// OwnFor has updates of the tables owned for a shorter time than usual, until the end of a test.
func OwnFor(d time.Duration) (restore func()) {
	owned, renew := ownedFor, renewEvery
	ownedFor, renewEvery = d, d/5
	return func() { ownedFor, renewEvery = owned, renew }
}

// Owning runs do as a process does that updates the tables.
func Owning(ctx context.Context, db *gorm.DB, do func(ctx context.Context) error) error {
	return owning(ctx, db, do)
}
