package store

import (
	"context"
	"time"
)

// LiveSheet is a secret address under which a site's stylesheet and fonts are served.
type LiveSheet struct {
	ID, SiteID  int64
	Hash        string // of its secret
	CreatedAt   time.Time
	CreatedBy   string
	WithdrawnAt *time.Time
}

// AddLiveSheet adds a live sheet.
func (s *Store) AddLiveSheet(ctx context.Context, l *LiveSheet) error { return add(s, ctx, l) }

// LiveSheets gives a site's live sheets that work, newest first.
func (s *Store) LiveSheets(ctx context.Context, site int64) ([]LiveSheet, error) {
	return list[LiveSheet](s.db.WithContext(ctx).Where("site_id = ? AND withdrawn_at IS NULL", site).Order("id DESC"))
}

// LiveSheetByHash gives the live sheet with a secret that hashes to this, if it works.
func (s *Store) LiveSheetByHash(ctx context.Context, hash string) (*LiveSheet, error) {
	return first[LiveSheet](s.db.WithContext(ctx).Where("hash = ? AND withdrawn_at IS NULL", hash))
}

// WithdrawLiveSheet ends a live sheet of a site; ErrNotFound where there is none.
func (s *Store) WithdrawLiveSheet(ctx context.Context, site, id int64, at time.Time) error {
	r := s.db.WithContext(ctx).Model(&LiveSheet{}).Where("id = ? AND site_id = ? AND withdrawn_at IS NULL", id, site).Update("withdrawn_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return told(r.Error)
}

// LiveDay is how many visitors read the live sheets of a site on a day.
type LiveDay struct {
	SiteID   int64
	Day      time.Time
	Visitors int64
}

// CountVisitor counts a visitor of a site's live sheets, once a day.
func (s *Store) CountVisitor(ctx context.Context, site int64, day time.Time, visitor string) error {
	r := s.db.WithContext(ctx).Exec("INSERT IGNORE INTO live_visitors (site_id, day, visitor) VALUES (?, ?, ?)", site, day.Format(time.DateOnly), visitor)
	if r.Error != nil || r.RowsAffected == 0 {
		return told(r.Error)
	}
	r = s.db.WithContext(ctx).Exec("INSERT INTO live_days (site_id, day, visitors) VALUES (?, ?, 1) ON DUPLICATE KEY UPDATE visitors = visitors + 1", site, day.Format(time.DateOnly))
	if r.Error != nil {
		return told(r.Error)
	}
	return s.Changed(ctx)
}

// LiveDays returns the days on which live sheets were read, of the sites given or of all
// where the list is nil, in order.
func (s *Store) LiveDays(ctx context.Context, sites []int64) ([]LiveDay, error) {
	q := s.db.WithContext(ctx).Order("site_id, day")
	if sites != nil {
		q = q.Where("site_id IN ?", sites)
	}
	return list[LiveDay](q)
}

// ForgetVisitors removes who the visitors of days before one were; their count stays.
func (s *Store) ForgetVisitors(ctx context.Context, before time.Time) error {
	return told(s.db.WithContext(ctx).Exec("DELETE FROM live_visitors WHERE day < ?", before.Format(time.DateOnly)).Error)
}
