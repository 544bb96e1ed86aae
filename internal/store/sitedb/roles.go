package sitedb

import (
	"context"
	"time"

	"sparecrate/internal/store"
)

// AssignRoles replaces what families do on a site, if its version still stands.
func (s Queries) AssignRoles(ctx context.Context, site int64, version int, assignments []store.RoleAssignment, replacements []store.Replacement) error {
	if err := s.nextVersion(ctx, site, version, nil); err != nil {
		return err
	}
	db := s.On(ctx)
	if err := db.Where("site_id = ?", site).Delete(&store.RoleAssignment{}).Error; err != nil {
		return store.Told(err)
	}
	if err := db.Where("site_id = ?", site).Delete(&store.Replacement{}).Error; err != nil {
		return store.Told(err)
	}
	for i := range assignments {
		assignments[i].ID, assignments[i].SiteID = 0, site
	}
	for i := range replacements {
		replacements[i].ID, replacements[i].SiteID = 0, site
	}
	if len(assignments) > 0 {
		if err := db.Create(&assignments).Error; err != nil {
			return store.Told(err)
		}
	}
	if len(replacements) > 0 {
		return store.Told(db.Create(&replacements).Error)
	}
	return nil
}

// SetChoices replaces what was decided about the packs of a site, if its version
// still stands.
func (s Queries) SetChoices(ctx context.Context, site int64, version int, choices store.Choices) error {
	return s.nextVersion(ctx, site, version, &choices)
}

func (s Queries) nextVersion(ctx context.Context, site int64, version int, choices *store.Choices) error {
	change, columns := &store.Site{Version: version + 1}, []any{}
	if choices != nil {
		change.Choices = *choices
		columns = append(columns, "Choices")
	}
	r := s.On(ctx).Model(&store.Site{}).Where("id = ? AND version = ?", site, version).Select("Version", columns...).Updates(change)
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrStale
	}
	return store.Told(r.Error)
}

// SitePages returns the pages of a site in the order they were named.
func (s Queries) SitePages(ctx context.Context, site int64) ([]store.SitePage, error) {
	return store.List[store.SitePage](s.On(ctx).Where("site_id = ?", site).Order("id"))
}

// PagesOf returns the pages of some sites, by site.
func (s Queries) PagesOf(ctx context.Context, sites []int64) (map[int64][]store.SitePage, error) {
	out := map[int64][]store.SitePage{}
	if len(sites) == 0 {
		return out, nil
	}
	found, err := store.List[store.SitePage](s.On(ctx).Where("site_id IN ?", sites).Order("id"))
	for _, p := range found {
		out[p.SiteID] = append(out[p.SiteID], p)
	}
	return out, err
}

// AddSitePage adds a page; ErrTaken where the site has one of that address.
func (s Queries) AddSitePage(ctx context.Context, p *store.SitePage) error {
	return store.Add(ctx, s.Store, p)
}

// MarkSitePage says who did a page and when, for which pack; nil for not done.
func (s Queries) MarkSitePage(ctx context.Context, site, id int64, at *time.Time, by string, pack *int64) error {
	r := s.On(ctx).Model(&store.SitePage{}).Where("id = ? AND site_id = ?", id, site).Updates(map[string]any{"done_at": at, "done_by": by, "done_pack": pack})
	if r.Error == nil && r.RowsAffected == 0 {
		_, err := store.First[store.SitePage](s.On(ctx).Where("id = ? AND site_id = ?", id, site))
		return err
	}
	return store.Told(r.Error)
}

// RemoveSitePage takes a page away; ErrNotFound where there is none.
func (s Queries) RemoveSitePage(ctx context.Context, site, id int64) error {
	r := s.On(ctx).Where("id = ? AND site_id = ?", id, site).Delete(&store.SitePage{})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}
