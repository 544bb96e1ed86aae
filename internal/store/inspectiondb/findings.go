package inspectiondb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Findings returns the findings of a site: those that are there, and those that an
// inspection did not find any more where that is given, 0 for none, -1 for all.
func (s Queries) Findings(ctx context.Context, site, goneIn int64) ([]store.Finding, error) {
	q := s.On(ctx).Where("site_id = ?", site)
	switch {
	case goneIn == 0:
		q = q.Where("gone_id IS NULL")
	case goneIn > 0:
		q = q.Where("gone_id IS NULL OR gone_id = ?", goneIn)
	}
	return store.List[store.Finding](q.Order("FIELD(severity, 'error', 'warning', 'note'), code, page, id").Limit(mostFindings))
}

// mostFindings bounds the findings of a site that are read at once.
const mostFindings = 5000

// OpenFindings returns the findings of all sites that are there, notes left out.
func (s Queries) OpenFindings(ctx context.Context) ([]store.Finding, error) {
	return store.List[store.Finding](s.On(ctx).Where("gone_id IS NULL AND severity IN ('error', 'warning')").Order("site_id, FIELD(severity, 'error', 'warning'), id").Limit(mostFindings))
}

// Finding returns one finding, locked for a change.
func (s Queries) Finding(ctx context.Context, id int64) (*store.Finding, error) {
	return store.First[store.Finding](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id))
}

// PutFinding keeps a finding as it stands now.
func (s Queries) PutFinding(ctx context.Context, f *store.Finding) error {
	return store.Told(s.On(ctx).Save(f).Error)
}

// ForgetGone forgets findings that are gone, all but the newest so many of a site.
func (s Queries) ForgetGone(ctx context.Context, site int64, most int) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM findings WHERE site_id = ? AND id IN (SELECT id FROM (SELECT id FROM findings WHERE site_id = ? AND gone_id IS NOT NULL ORDER BY gone_id DESC, id DESC LIMIT 100000 OFFSET ?) old)",
		site, site, most).Error)
}
