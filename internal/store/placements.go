package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// SetPlacements replaces what families do on a site, if its version still stands.
func (s *Store) SetPlacements(ctx context.Context, site int64, version int, placements []Placement, standIns []StandIn) error {
	if err := s.nextVersion(ctx, site, version, nil); err != nil {
		return err
	}
	db := s.db.WithContext(ctx)
	if err := db.Where("site_id = ?", site).Delete(&Placement{}).Error; err != nil {
		return told(err)
	}
	if err := db.Where("site_id = ?", site).Delete(&StandIn{}).Error; err != nil {
		return told(err)
	}
	for i := range placements {
		placements[i].ID, placements[i].SiteID = 0, site
	}
	for i := range standIns {
		standIns[i].ID, standIns[i].SiteID = 0, site
	}
	if len(placements) > 0 {
		if err := db.Create(&placements).Error; err != nil {
			return told(err)
		}
	}
	if len(standIns) > 0 {
		return told(db.Create(&standIns).Error)
	}
	return nil
}

// SetChoices replaces what was decided about the packs of a site, if its version
// still stands.
func (s *Store) SetChoices(ctx context.Context, site int64, version int, choices Choices) error {
	return s.nextVersion(ctx, site, version, &choices)
}

func (s *Store) nextVersion(ctx context.Context, site int64, version int, choices *Choices) error {
	change, columns := &Site{Version: version + 1}, []any{}
	if choices != nil {
		change.Choices = *choices
		columns = append(columns, "Choices")
	}
	r := s.db.WithContext(ctx).Model(&Site{}).Where("id = ? AND version = ?", site, version).Select("Version", columns...).Updates(change)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrStale
	}
	return told(r.Error)
}

// LandedAt gives the addresses of a site's files in an environment, by path.
func (s *Store) LandedAt(ctx context.Context, site int64, environment string) (map[string]Landed, error) {
	found, err := list[Landed](s.db.WithContext(ctx).Where("site_id = ? AND environment = ?", site, environment).Order("path"))
	out := make(map[string]Landed, len(found))
	for _, l := range found {
		out[l.Path] = l
	}
	return out, err
}

// PutLanded keeps the address of a file, in place of the one before.
func (s *Store) PutLanded(ctx context.Context, l *Landed) error {
	return told(s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(l).Error)
}

// ForgetLanded forgets the address of a file, or of all where path is empty; it
// gives how many there were.
func (s *Store) ForgetLanded(ctx context.Context, site int64, environment, path string) (int64, error) {
	q := s.db.WithContext(ctx).Where("site_id = ? AND environment = ?", site, environment)
	if path != "" {
		q = q.Where("path = ?", path)
	}
	r := q.Delete(&Landed{})
	return r.RowsAffected, told(r.Error)
}

// SitePages gives the pages of a site in the order they were named.
func (s *Store) SitePages(ctx context.Context, site int64) ([]SitePage, error) {
	return list[SitePage](s.db.WithContext(ctx).Where("site_id = ?", site).Order("id"))
}

// PagesOf gives the pages of some sites, by site.
func (s *Store) PagesOf(ctx context.Context, sites []int64) (map[int64][]SitePage, error) {
	out := map[int64][]SitePage{}
	if len(sites) == 0 {
		return out, nil
	}
	found, err := list[SitePage](s.db.WithContext(ctx).Where("site_id IN ?", sites).Order("id"))
	for _, p := range found {
		out[p.SiteID] = append(out[p.SiteID], p)
	}
	return out, err
}

// AddSitePage adds a page; ErrTaken where the site has one of that address.
func (s *Store) AddSitePage(ctx context.Context, p *SitePage) error { return add(s, ctx, p) }

// TickSitePage says who did a page and when, for which pack; nil for not done.
func (s *Store) TickSitePage(ctx context.Context, site, id int64, at *time.Time, by string, pack *int64) error {
	r := s.db.WithContext(ctx).Model(&SitePage{}).Where("id = ? AND site_id = ?", id, site).Updates(map[string]any{"done_at": at, "done_by": by, "done_pack": pack})
	if r.Error == nil && r.RowsAffected == 0 {
		_, err := first[SitePage](s.db.WithContext(ctx).Where("id = ? AND site_id = ?", id, site))
		return err
	}
	return told(r.Error)
}

// DropSitePage takes a page away; ErrNotFound where there is none.
func (s *Store) DropSitePage(ctx context.Context, site, id int64) error {
	r := s.db.WithContext(ctx).Where("id = ? AND site_id = ?", id, site).Delete(&SitePage{})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return told(r.Error)
}

// LatestPacks gives the last pack of each of some sites and environments.
func (s *Store) LatestPacks(ctx context.Context, sites []int64) ([]Pack, error) {
	if len(sites) == 0 {
		return nil, nil
	}
	return list[Pack](s.db.WithContext(ctx).Where("id IN (SELECT MAX(id) FROM packs WHERE site_id IN ? GROUP BY site_id, environment)", sites).Order("id DESC"))
}

// CurrentSources gives the SHA-256 of the current file of each face of the families
// on some sites, by face.
func (s *Store) CurrentSources(ctx context.Context, sites []int64) (map[int64]string, error) {
	out := map[int64]string{}
	if len(sites) == 0 {
		return out, nil
	}
	rows, err := s.db.WithContext(ctx).Raw(`SELECT f.id, l.sha256 FROM faces f JOIN files l ON l.id = f.file_id
		WHERE f.family_id IN (SELECT family_id FROM site_families WHERE site_id IN ?)`, sites).Rows()
	if err != nil {
		return nil, told(err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var face int64
		var hash string
		if err := rows.Scan(&face, &hash); err != nil {
			return nil, err
		}
		out[face] = hash
	}
	return out, rows.Err()
}
