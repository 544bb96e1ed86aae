package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// Feed is a secret address under which a calendar program reads the due list.
type Feed struct {
	ID, PersonID int64
	Hash         string
	CreatedAt    time.Time
	WithdrawnAt  *time.Time
	ReadAt       *time.Time
}

// AddFeed adds a feed.
func (s *Store) AddFeed(ctx context.Context, f *Feed) error { return add(s, ctx, f) }

// Feeds gives a person's feeds that work, newest first.
func (s *Store) Feeds(ctx context.Context, person int64) ([]Feed, error) {
	return list[Feed](s.db.WithContext(ctx).Where("person_id = ? AND withdrawn_at IS NULL", person).Order("id DESC"))
}

// FeedByHash gives the feed with a secret that hashes to this, if it works.
func (s *Store) FeedByHash(ctx context.Context, hash string) (*Feed, error) {
	return first[Feed](s.db.WithContext(ctx).Where("hash = ? AND withdrawn_at IS NULL", hash))
}

// FeedRead notes that a feed was read.
func (s *Store) FeedRead(ctx context.Context, id int64, at time.Time) error {
	return told(s.db.WithContext(ctx).Model(&Feed{}).Where("id = ?", id).Update("read_at", at).Error)
}

// WithdrawFeed ends a feed of a person; ErrNotFound where there is none.
func (s *Store) WithdrawFeed(ctx context.Context, person, id int64, at time.Time) error {
	r := s.db.WithContext(ctx).Model(&Feed{}).Where("id = ? AND person_id = ? AND withdrawn_at IS NULL", id, person).Update("withdrawn_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return told(r.Error)
}

// SetWeekly says whether a person gets the due list by e-mail.
func (s *Store) SetWeekly(ctx context.Context, person int64, weekly bool) error {
	return told(s.db.WithContext(ctx).Model(&Person{}).Where("id = ?", person).Update("weekly", weekly).Error)
}

// mailing says that a person was sent a week's e-mail.
type mailing struct {
	PersonID int64
	Week     string
	At       time.Time
}

// ClaimMailing takes a week's e-mail to a person upon this process; false where it
// was sent or is being sent.
func (s *Store) ClaimMailing(ctx context.Context, person int64, week string, at time.Time) (bool, error) {
	r := s.db.WithContext(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Create(&mailing{person, week, at})
	return r.RowsAffected > 0, told(r.Error)
}

// ReleaseMailing gives it back: it was not sent.
func (s *Store) ReleaseMailing(ctx context.Context, person int64, week string) error {
	return told(s.db.WithContext(ctx).Where("person_id = ? AND week = ?", person, week).Delete(&mailing{}).Error)
}
