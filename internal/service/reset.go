package service

import (
	"context"
	"errors"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
)

// ResetAdmin gives an admin a one-time password without signing in: for whoever may
// read the data folder of o, whether or not a service runs on it. With no e-mail
// address it is for the only admin.
func ResetAdmin(ctx context.Context, o Options, email string) (address, password string, err error) {
	dsn, end, err := database(ctx, o)
	if err != nil {
		return "", "", err
	}
	defer func() { err = errors.Join(err, end()) }()
	records, err := store.Open(ctx, dsn)
	if err != nil {
		return "", "", err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	c := rooms.New(records, bucket.InMemory(), func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }, app.DefaultLimits, o.Log)
	return c.Auth.ResetAdmin(ctx, email)
}
