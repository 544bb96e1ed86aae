package accountdb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Attempt counts a try of a subject, such as an account, and says whether it is within
// a limit of so many in a window; else how long until the window ends. Windows begin
// with their first try.
func (s Queries) Attempt(ctx context.Context, subject string, limit int, window time.Duration) (wait time.Duration, err error) {
	// MariaDB sets columns one after the other: tries is 1 exactly where the window is new.
	err = s.On(ctx).Exec(`INSERT INTO attempts (subject, tries, since) VALUES (?, 1, NOW(6)) ON DUPLICATE KEY UPDATE
		tries = IF(since < NOW(6) - INTERVAL ? SECOND OR since > NOW(6), 1, tries + 1), since = IF(tries = 1, NOW(6), since)`, subject, int(window.Seconds())).Error
	if err != nil {
		return 0, store.Told(err)
	}
	var now struct {
		Tries int
		Since float64 // seconds ago
	}
	err = s.On(ctx).Raw("SELECT tries, TIMESTAMPDIFF(MICROSECOND, since, NOW(6)) / 1e6 AS since FROM attempts WHERE subject = ?", subject).Scan(&now).Error
	if err != nil || now.Tries <= limit {
		return 0, store.Told(err)
	}
	return max(time.Second, window-time.Duration(now.Since*float64(time.Second))), nil
}

// Succeeded takes a try of a subject back: it was right.
func (s Queries) Succeeded(ctx context.Context, subject string) error {
	return store.Told(s.On(ctx).Exec("UPDATE attempts SET tries = GREATEST(tries - 1, 0) WHERE subject = ?", subject).Error)
}

// ForgetAttempts removes the count of a subject.
func (s Queries) ForgetAttempts(ctx context.Context, subject string) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM attempts WHERE subject = ?", subject).Error)
}

// SweepAttempts removes counts and known places that are older than an age.
func (s Queries) SweepAttempts(ctx context.Context, counts, places time.Duration) error {
	if err := s.On(ctx).Exec("DELETE FROM attempts WHERE since < NOW(6) - INTERVAL ? SECOND", int(counts.Seconds())).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Exec("DELETE FROM sign_in_places WHERE at < NOW(6) - INTERVAL ? SECOND", int(places.Seconds())).Error)
}

// signInPlace is a network address from which a person signed in.
type signInPlace struct {
	PersonID int64
	Place    string // hash of the address
	At       time.Time
}

// KnownPlace reports whether a person signed in from a place before.
func (s Queries) KnownPlace(ctx context.Context, person int64, place string) (bool, error) {
	var n int64
	err := s.On(ctx).Model(&signInPlace{}).Where("person_id = ? AND place = ?", person, place).Count(&n).Error
	return n > 0, store.Told(err)
}

// KeepPlace notes that a person signed in from a place.
func (s Queries) KeepPlace(ctx context.Context, person int64, place string, at time.Time) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&signInPlace{person, place, at}).Error)
}
