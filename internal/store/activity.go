package store

import (
	"context"
	"time"
)

// Activity is one line of who did what, when. Names are kept as they were.
type Activity struct {
	ID                              int64
	At                              time.Time
	Person, Action, Subject, Detail string
}

// AddActivity adds a line.
func (s *Store) AddActivity(ctx context.Context, a *Activity) error { return add(s, ctx, a) }

// Activities gives a page, newest first.
func (s *Store) Activities(ctx context.Context, p Page) ([]Activity, error) {
	return list[Activity](p.newest(s.db.WithContext(ctx)))
}
