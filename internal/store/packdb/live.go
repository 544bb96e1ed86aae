package packdb

import (
	"context"
	"time"

	"sparecrate/internal/store"
)

// AddLiveStylesheet adds a live stylesheet.
func (s Queries) AddLiveStylesheet(ctx context.Context, l *store.LiveStylesheet) error {
	return store.Add(ctx, s.Store, l)
}

// LiveStylesheets returns a site's live stylesheets that work, newest first.
func (s Queries) LiveStylesheets(ctx context.Context, site int64) ([]store.LiveStylesheet, error) {
	return store.List[store.LiveStylesheet](s.On(ctx).Where("site_id = ? AND revoked_at IS NULL", site).Order("id DESC"))
}

// LiveStylesheetByHash returns the live stylesheet with a secret that hashes to this, if it works.
func (s Queries) LiveStylesheetByHash(ctx context.Context, hash string) (*store.LiveStylesheet, error) {
	return store.First[store.LiveStylesheet](s.On(ctx).Where("hash = ? AND revoked_at IS NULL", hash))
}

// RevokeLiveStylesheet ends a live stylesheet of a site; ErrNotFound where there is none.
func (s Queries) RevokeLiveStylesheet(ctx context.Context, site, id int64, at time.Time) error {
	r := s.On(ctx).Model(&store.LiveStylesheet{}).Where("id = ? AND site_id = ? AND revoked_at IS NULL", id, site).Update("revoked_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}

// CountVisitor counts a visitor of a site's live stylesheets, once a day.
func (s Queries) CountVisitor(ctx context.Context, site int64, day time.Time, visitor string) error {
	r := s.On(ctx).Exec("INSERT IGNORE INTO live_visitors (site_id, day, visitor) VALUES (?, ?, ?)", site, day.Format(time.DateOnly), visitor)
	if r.Error != nil || r.RowsAffected == 0 {
		return store.Told(r.Error)
	}
	r = s.On(ctx).Exec("INSERT INTO live_days (site_id, day, visitors) VALUES (?, ?, 1) ON DUPLICATE KEY UPDATE visitors = visitors + 1", site, day.Format(time.DateOnly))
	if r.Error != nil {
		return store.Told(r.Error)
	}
	return s.Changed(ctx)
}

// LiveDays returns the days on which live stylesheets were read, of the sites given or of all
// where the list is nil, in order.
func (s Queries) LiveDays(ctx context.Context, sites []int64) ([]store.LiveDay, error) {
	q := s.On(ctx).Order("site_id, day")
	if sites != nil {
		q = q.Where("site_id IN ?", sites)
	}
	return store.List[store.LiveDay](q)
}

// ForgetVisitors removes who the visitors of days before one were; their count stays.
func (s Queries) ForgetVisitors(ctx context.Context, before time.Time) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM live_visitors WHERE day < ?", before.Format(time.DateOnly)).Error)
}
