package store

import (
	"context"
	"database/sql"
	"errors"
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
