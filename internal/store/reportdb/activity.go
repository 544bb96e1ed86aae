package reportdb

import (
	"context"
	"time"

	"gorm.io/gorm"

	"sparecrate/internal/store"
)

// ActivityFilter narrows activity; what is empty does not.
type ActivityFilter struct {
	Person, Action string
	Words          string    // in the subject or the details
	Client         int64     // done to what belongs to a client
	From, Before   time.Time // from a time up to, not including, another
}

func (f ActivityFilter) on(q *gorm.DB) *gorm.DB {
	if f.Person != "" {
		q = q.Where("person = ?", f.Person)
	}
	if f.Action != "" {
		q = q.Where("action = ?", f.Action)
	}
	if f.Words != "" {
		q = q.Where("(LOCATE(?, subject) > 0 OR LOCATE(?, detail) > 0)", f.Words, f.Words)
	}
	if f.Client != 0 {
		q = q.Where("client_id = ?", f.Client)
	}
	if !f.From.IsZero() {
		q = q.Where("at >= ?", f.From)
	}
	if !f.Before.IsZero() {
		q = q.Where("at < ?", f.Before)
	}
	return q
}

// Activities returns a page of activity, newest first.
func (s Queries) Activities(ctx context.Context, f ActivityFilter, p store.Page) ([]store.Activity, error) {
	return store.List[store.Activity](p.Newest(f.on(s.On(ctx))))
}

// ActivityChoices returns the names of all who did anything, and all that was done.
func (s Queries) ActivityChoices(ctx context.Context) (people, actions []string, err error) {
	if err = s.On(ctx).Model(&store.Activity{}).Distinct().Order("person").Limit(500).Pluck("person", &people).Error; err != nil {
		return nil, nil, store.Told(err)
	}
	err = s.On(ctx).Model(&store.Activity{}).Distinct().Order("action").Limit(500).Pluck("action", &actions).Error
	return people, actions, store.Told(err)
}

// DidSince says whether a person did something after an activity of a number.
func (s Queries) DidSince(ctx context.Context, person string, id int64) (did bool, err error) {
	err = s.On(ctx).Raw("SELECT EXISTS (SELECT 1 FROM activities WHERE id > ? AND person = ?)", id, person).Scan(&did).Error
	return did, store.Told(err)
}
