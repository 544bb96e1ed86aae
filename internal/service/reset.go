package service

import (
	"context"
	"errors"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/mariadb"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
)

// ResetAdmin gives an admin a one-time password without signing in: for whoever may
// read the data folder of o, whether or not a service runs on it. With no e-mail
// address it is for the only admin.
func ResetAdmin(ctx context.Context, o Options, email string) (address, password string, err error) {
	dsn := o.Database
	if dsn == "" {
		db, err := mariadb.Open(ctx, DatabaseFolder(o.Data), o.Log)
		switch {
		case err == nil:
			defer func() { _ = db.Close() }()
			dsn = db.DSN("")
		case errors.Is(err, mariadb.ErrInUse):
			if dsn, err = mariadb.Running(ctx, DatabaseFolder(o.Data)); err != nil {
				return "", "", err
			}
		default:
			return "", "", err
		}
	}
	records, err := store.Open(ctx, dsn)
	if err != nil {
		return "", "", err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	c := rooms.New(records, bucket.InMemory(), func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }, app.DefaultLimits, o.Log)
	return c.Auth.ResetAdmin(ctx, email)
}
