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

// CountView counts a page view of a site in a month; where somebody entered the
// month's views, that stands.
func (s *Store) CountView(ctx context.Context, site int64, month, at time.Time, source string) error {
	return told(s.db.WithContext(ctx).Exec(`INSERT INTO site_views (site_id, month, views, source, at, person) VALUES (?, ?, 1, ?, ?, 'live sheets')
		ON DUPLICATE KEY UPDATE views = views + IF(source = VALUES(source), 1, 0), at = IF(source = VALUES(source), VALUES(at), at)`, site, month, source, at).Error)
}
