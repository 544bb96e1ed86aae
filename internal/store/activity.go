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

// LastActivity gives the number of what was noted last, 0 where nothing was.
func (s *Store) LastActivity(ctx context.Context) (id int64, err error) {
	err = s.db.WithContext(ctx).Model(&Activity{}).Select("COALESCE(MAX(id), 0)").Scan(&id).Error
	return id, told(err)
}

// Activities gives a page, newest first.
func (s *Store) Activities(ctx context.Context, p Page) ([]Activity, error) {
	return list[Activity](p.newest(s.db.WithContext(ctx)))
}
