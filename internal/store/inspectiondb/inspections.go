// Package inspectiondb holds the statements about inspections of published pages: what
// they saw, what they found, and when the next ones are due.
package inspectiondb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// AddInspection keeps an inspection that was asked for, and gives it its number.
func (s Queries) AddInspection(ctx context.Context, i *store.Inspection) error {
	return store.Told(s.On(ctx).Create(i).Error)
}

// Inspection returns one inspection.
func (s Queries) Inspection(ctx context.Context, id int64) (*store.Inspection, error) {
	return store.First[store.Inspection](s.On(ctx).Where("id = ?", id))
}

// Inspections returns the inspections of a site without their summaries, newest first.
func (s Queries) Inspections(ctx context.Context, site int64, most int) ([]store.Inspection, error) {
	return store.List[store.Inspection](s.On(ctx).Omit("summary").Where("site_id = ?", site).Order("id DESC").Limit(most))
}

// UnderWay returns how many inspections of a site that were asked for since a time have not
// ended.
func (s Queries) UnderWay(ctx context.Context, site int64, since time.Time) (int64, error) {
	var n int64
	err := s.On(ctx).Model(&store.Inspection{}).Where("site_id = ? AND ended_at IS NULL AND asked_at > ?", site, since).Count(&n).Error
	return n, store.Told(err)
}

// Newest returns the newest inspection of each site that came to its end without an error.
func (s Queries) Newest(ctx context.Context) (map[int64]store.Inspection, error) {
	found, err := store.List[store.Inspection](s.On(ctx).Omit("summary").
		Where("id IN (SELECT MAX(id) FROM inspections WHERE ended_at IS NOT NULL AND error = '' GROUP BY site_id)"))
	out := map[int64]store.Inspection{}
	for _, i := range found {
		out[i.SiteID] = i
	}
	return out, err
}

// NewestOf returns the number of the newest inspection of a site that came to its end
// without an error; 0 where there is none.
func (s Queries) NewestOf(ctx context.Context, site int64) (int64, error) {
	var id int64
	err := s.On(ctx).Raw("SELECT COALESCE(MAX(id), 0) FROM inspections WHERE site_id = ? AND ended_at IS NOT NULL AND error = ''", site).Scan(&id).Error
	return id, store.Told(err)
}

// EndInspection writes how an inspection ended.
func (s Queries) EndInspection(ctx context.Context, i *store.Inspection) error {
	return store.Told(s.On(ctx).Model(i).Select("ended_at", "error", "pages", "bytes", "errors", "warnings", "notes", "accepted", "fresh", "gone", "summary").Updates(i).Error)
}

// PutPage keeps what an inspection saw on a page, and counts it.
func (s Queries) PutPage(ctx context.Context, p *store.InspectedPage) error {
	if err := s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(p).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Exec("UPDATE inspections SET pages = ? WHERE id = ?", p.Place+1, p.InspectionID).Error)
}

// ChangeReport keeps another report of a page, and how many findings it has.
func (s Queries) ChangeReport(ctx context.Context, p *store.InspectedPage) error {
	return store.Told(s.On(ctx).Model(p).Select("report", "errors", "warnings", "notes").Updates(p).Error)
}

// RemovePages forgets the pages of an inspection, as before it begins anew.
func (s Queries) RemovePages(ctx context.Context, inspection int64) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM inspected_pages WHERE inspection_id = ?", inspection).Error)
}

// Pages returns the pages of an inspection without their pictures, in order.
func (s Queries) Pages(ctx context.Context, inspection int64) ([]store.InspectedPage, error) {
	return store.List[store.InspectedPage](s.On(ctx).Omit("picture").Where("inspection_id = ?", inspection).Order("place"))
}

// Picture returns the picture of a page; ErrNotFound where it is not kept.
func (s Queries) Picture(ctx context.Context, inspection int64, place int) ([]byte, error) {
	p, err := store.First[store.InspectedPage](s.On(ctx).Select("picture").Where("inspection_id = ? AND place = ? AND pictured", inspection, place))
	if err != nil {
		return nil, err
	}
	return p.Picture, nil
}

// Thin forgets the pictures of all but the newest inspections of a site, and inspections
// beyond a number.
func (s Queries) Thin(ctx context.Context, site int64, pictures, inspections int) error {
	older := "SELECT id FROM (SELECT id FROM inspections WHERE site_id = ? ORDER BY id DESC LIMIT 1000 OFFSET ?) old"
	if err := s.On(ctx).Exec("UPDATE inspected_pages SET picture = NULL, pictured = FALSE WHERE pictured AND inspection_id IN ("+older+")", site, pictures).Error; err != nil {
		return store.Told(err)
	}
	if err := s.On(ctx).Exec("DELETE FROM inspected_pages WHERE inspection_id IN ("+older+")", site, inspections).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Exec("DELETE FROM inspections WHERE ended_at IS NOT NULL AND id IN ("+older+")", site, inspections).Error)
}

// Schedule returns how often a site is inspected; ErrNotFound where it is not.
func (s Queries) Schedule(ctx context.Context, site int64) (*store.InspectionSchedule, error) {
	return store.First[store.InspectionSchedule](s.On(ctx).Where("site_id = ?", site))
}

// PutSchedule says how often a site is inspected.
func (s Queries) PutSchedule(ctx context.Context, i *store.InspectionSchedule) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(i).Error)
}

// DeleteSchedule says that a site is not inspected any more.
func (s Queries) DeleteSchedule(ctx context.Context, site int64) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM inspection_schedules WHERE site_id = ?", site).Error)
}

// DueSchedules returns the schedules whose next inspection is due.
func (s Queries) DueSchedules(ctx context.Context, now time.Time) ([]store.InspectionSchedule, error) {
	return store.List[store.InspectionSchedule](s.On(ctx).Where("next_at <= ?", now).Order("next_at").Limit(100))
}

// ClaimSchedule moves a schedule on to its next time; of several processes one does it.
func (s Queries) ClaimSchedule(ctx context.Context, was *store.InspectionSchedule, next time.Time) (bool, error) {
	r := s.On(ctx).Exec("UPDATE inspection_schedules SET next_at = ? WHERE site_id = ? AND next_at = ?", next, was.SiteID, was.NextAt)
	return r.RowsAffected == 1, store.Told(r.Error)
}
