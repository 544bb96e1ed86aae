// Package backupdb holds the statements about backups that were made.
package backupdb

import (
	"context"
	"errors"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// Add notes a backup.
func (s Queries) Add(ctx context.Context, b *store.Backup) error { return store.Add(ctx, s.Store, b) }

// Last returns the newest backup with everything in it; nil where none was made.
func (s Queries) Last(ctx context.Context) (*store.Backup, error) { return s.newest(ctx, "lost = 0") }

// LastOfAny returns the newest backup, also where files that the service had lost are not in it.
func (s Queries) LastOfAny(ctx context.Context) (*store.Backup, error) { return s.newest(ctx, "TRUE") }

func (s Queries) newest(ctx context.Context, where string) (*store.Backup, error) {
	found, err := store.First[store.Backup](s.On(ctx).Where(where).Order("made_at DESC, id DESC"))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return found, err
}
