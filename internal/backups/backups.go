// Package backups makes backups of the service on a schedule, and knows when the last good one
// was made.
package backups

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/backupdb"
	"sparecrate/internal/work"
)

const (
	jobKind = "backup"
	jobKey  = "scheduled"

	lookEvery = time.Minute
	// askAgain is when one that failed for good is asked for again.
	askAgain = time.Hour
)

// Backups are the service's backups.
type Backups struct {
	*app.Core
	plan  app.BackupPlan
	asked time.Time // when the last one was asked for by this process
}

// New returns the backups of the service, and says who makes them.
func New(c *app.Core) *Backups {
	b := &Backups{Core: c, plan: c.Limits.Backup}
	if b.plan.Place != "" {
		c.Queue.HandleAside(jobKind, 1, b.make)
	}
	return b
}

// Keep makes the backups that are due until ctx ends. Any number of processes may: one makes
// each.
func (b *Backups) Keep(ctx context.Context, log *slog.Logger) {
	if b.plan.Place == "" {
		return
	}
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		if err := b.Ask(ctx); err != nil && ctx.Err() == nil {
			log.Error("a backup that is due cannot be asked for", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Ask asks for a backup where one is due.
func (b *Backups) Ask(ctx context.Context) error {
	due, err := b.due(ctx)
	if err != nil || !due || b.Now().Sub(b.asked) < askAgain {
		return err
	}
	b.asked = b.Now()
	err = b.Store.Tx(ctx, func(tx *store.Store) error {
		return b.Queue.Add(ctx, tx, work.Job{Kind: jobKind, Key: jobKey, Title: "Backup"})
	})
	b.Queue.Wake()
	return err
}

// Last returns the newest backup with everything in it; nil where none was made.
func (b *Backups) Last(ctx context.Context) (*store.Backup, error) {
	return backupdb.In(b.Store).Last(ctx)
}

// due says whether the last backup is as old as the plan allows. One without a file that the
// service lost counts: another would be the same.
func (b *Backups) due(ctx context.Context) (bool, error) {
	last, err := backupdb.In(b.Store).LastOfAny(ctx)
	if err != nil {
		return false, err
	}
	return last == nil || b.Now().Sub(last.MadeAt) >= b.plan.Every, nil
}

// make makes a backup, unless another process has meanwhile.
func (b *Backups) make(ctx context.Context, _ []byte, _ func(done, total int)) error {
	if due, err := b.due(ctx); err != nil || !due {
		return err
	}
	place, err := bucket.OpenPlace(ctx, b.plan.Place, true)
	if err != nil {
		return err
	}
	defer func() { _ = place.Close() }()
	made, err := Make(ctx, backup.Source{Store: b.Store, Bucket: b.Bucket, KeyFile: b.plan.KeyFile}, place, backup.Options{Recipients: b.plan.Recipients, Keep: b.plan.Keep, Now: b.Now})
	if made != nil && len(made.Lost) > 0 {
		return fmt.Errorf("%w: %w", work.ErrHopeless, err)
	}
	return err
}

// Make makes a backup and notes it in the records of what was backed up. The error names what
// is not in it, which is in made, too.
func Make(ctx context.Context, from backup.Source, place *bucket.Place, o backup.Options) (made *backup.Made, err error) {
	if made, err = backup.Make(ctx, from, place, o); err != nil {
		return made, err
	}
	at, err := backup.TimeOf(made.Name)
	if err != nil {
		return made, err
	}
	err = backupdb.In(from.Store).Add(ctx, &store.Backup{
		Name: made.Name, Place: app.Shorten(made.Place, placeLength), MadeAt: at, Records: made.Made.Rows, Files: made.Made.Files, Bytes: made.Made.Bytes, Lost: len(made.Lost), Encrypted: made.Encrypted,
	})
	if err != nil {
		return made, fmt.Errorf("the backup is made, but cannot be noted in the service: %w", err)
	}
	if n := len(made.Lost); n > 0 {
		return made, fmt.Errorf("missing or damaged in the service, and not in the backup: %s; `sparecrate verify` names what is wrong", app.Number(n, "file"))
	}
	return made, nil
}

// placeLength is how much of a place is kept, characters.
const placeLength = 300
