package reportdb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// AddFeed adds a feed.
func (s Queries) AddFeed(ctx context.Context, f *store.Feed) error { return store.Add(ctx, s.Store, f) }

// Feeds returns a person's feeds that work, newest first.
func (s Queries) Feeds(ctx context.Context, person int64) ([]store.Feed, error) {
	return store.List[store.Feed](s.On(ctx).Where("person_id = ? AND revoked_at IS NULL", person).Order("id DESC"))
}

// FeedByHash returns the feed with a secret that hashes to this, if it works.
func (s Queries) FeedByHash(ctx context.Context, hash string) (*store.Feed, error) {
	return store.First[store.Feed](s.On(ctx).Where("hash = ? AND revoked_at IS NULL", hash))
}

// FeedRead notes that a feed was read.
func (s Queries) FeedRead(ctx context.Context, id int64, at time.Time) error {
	return store.Told(s.On(ctx).Model(&store.Feed{}).Where("id = ?", id).Update("read_at", at).Error)
}

// RevokeFeed ends a feed of a person; ErrNotFound where there is none.
func (s Queries) RevokeFeed(ctx context.Context, person, id int64, at time.Time) error {
	r := s.On(ctx).Model(&store.Feed{}).Where("id = ? AND person_id = ? AND revoked_at IS NULL", id, person).Update("revoked_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}

// SetWeekly says whether a person gets the due list by e-mail.
func (s Queries) SetWeekly(ctx context.Context, person int64, weekly bool) error {
	return store.Told(s.On(ctx).Model(&store.Person{}).Where("id = ?", person).Update("weekly", weekly).Error)
}

// mailing says that a person was sent a week's e-mail.
type mailing struct {
	PersonID int64
	Week     string
	At       time.Time
}

// ClaimMailing takes a week's e-mail to a person upon this process; false where it
// was sent or is being sent.
func (s Queries) ClaimMailing(ctx context.Context, person int64, week string, at time.Time) (bool, error) {
	r := s.On(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Create(&mailing{person, week, at})
	return r.RowsAffected > 0, store.Told(r.Error)
}

// ReleaseMailing gives it back: it was not sent.
func (s Queries) ReleaseMailing(ctx context.Context, person int64, week string) error {
	return store.Told(s.On(ctx).Where("person_id = ? AND week = ?", person, week).Delete(&mailing{}).Error)
}
