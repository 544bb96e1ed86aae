package service

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/mariadb"
	"sparecrate/internal/store"
)

// database returns the address of the database of o, for whoever may read its data folder:
// that of a service that runs on it, or one that is started until end is called.
func database(ctx context.Context, o Options) (dsn string, end func() error, err error) {
	end = func() error { return nil }
	if o.Database != "" {
		return o.Database, end, nil
	}
	db, err := mariadb.Open(ctx, DatabaseFolder(o.Data), o.Log)
	switch {
	case err == nil:
		return db.DSN(""), db.Close, nil
	case errors.Is(err, mariadb.ErrInUse):
		dsn, err = mariadb.Running(ctx, DatabaseFolder(o.Data))
		return dsn, end, err
	}
	return "", end, err
}

// files opens the bucket of o.
func files(ctx context.Context, o Options) (*bucket.Bucket, error) {
	return bucket.OpenURL(ctx, cmp.Or(o.Bucket, filepath.Join(o.Data, "files")), filepath.Join(o.Data, "staging"))
}

// Beside runs do over the records and files of a service, whether or not one runs on them.
func Beside(ctx context.Context, o Options, do func(backup.Source) error) (err error) {
	if err := halfRestored(o); err != nil {
		return err
	}
	if _, err := os.Stat(DatabaseFolder(o.Data)); o.Database == "" && errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s holds no service; name the folder of one with --data", o.Data) // to open it would make one
	}
	dsn, end, err := database(ctx, o)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, end()) }()
	records, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	b, err := files(ctx, o)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, b.Close()) }()
	return do(backup.Source{Store: records, Bucket: b, KeyFile: KeyFile(o)})
}

// Restore makes a service of a backup where there is none, and brings its records up to date.
func Restore(ctx context.Context, o Options, from *backup.Backup) (err error) {
	if err := os.MkdirAll(o.Data, 0o700); err != nil {
		return fmt.Errorf("make the data folder: %w", err)
	}
	dsn := o.Database
	if dsn == "" {
		// No service starts in the folder from now on, until it is whole.
		if err := markRestoring(o); err != nil {
			return err
		}
		db, err := mariadb.Open(ctx, DatabaseFolder(o.Data), o.Log)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, db.Close()) }()
		dsn = db.DSN("")
	}
	b, err := files(ctx, o)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, b.Close()) }()
	if err := from.Restore(ctx, backup.Target{DSN: dsn, Bucket: b, KeyFile: KeyFile(o), Marked: func() error { return os.RemoveAll(restoring(o)) }}); err != nil {
		return err
	}
	records, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	return records.Close()
}

// restoring is the file that says that a folder is being made a service of a backup, until its
// database says so itself.
func restoring(o Options) string { return filepath.Join(o.Data, "restoring") }

// markRestoring marks a folder that has no database yet.
func markRestoring(o Options) error {
	if _, err := os.Stat(DatabaseFolder(o.Data)); err == nil {
		return nil
	}
	if err := os.WriteFile(restoring(o), []byte("A restore into this folder has not come to its end.\n"), 0o600); err != nil {
		return fmt.Errorf("begin the restore: %w", err)
	}
	return nil
}

// halfRestored says so where a restore into the folder was broken off.
func halfRestored(o Options) error {
	if _, err := os.Stat(restoring(o)); o.Database != "" || err != nil {
		return nil //nolint:nilerr // there is no mark
	}
	return fmt.Errorf("a restore into %s was broken off; run `sparecrate restore` into it again, or empty the folder", o.Data)
}
