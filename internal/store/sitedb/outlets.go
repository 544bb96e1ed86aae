package sitedb

import (
	"context"

	"sparecrate/internal/store"
)

// Outlets returns the outlets of some sites, by site, in the order they were added.
func (s Queries) Outlets(ctx context.Context, sites []int64) (map[int64][]store.Site, error) {
	out := map[int64][]store.Site{}
	if len(sites) == 0 {
		return out, nil
	}
	found, err := store.List[store.Site](s.On(ctx).Where("parent_id IN ?", sites).Order("id"))
	for _, o := range found {
		out[*o.ParentID] = append(out[*o.ParentID], o)
	}
	return out, err
}

// outletsFollow are the statements that have the outlets of a site carry what the site does:
// its client and domains, its families and their roles.
var outletsFollow = []string{
	"UPDATE sites o JOIN sites s ON s.id = o.parent_id SET o.client_id = s.client_id, o.domains = s.domains, o.sample_text = s.sample_text, o.name = CONCAT(s.name, '" + store.OutletMark + "', o.outlet), o.version = o.version + 1 WHERE o.parent_id = ?",
	"DELETE p FROM role_assignments p JOIN sites o ON o.id = p.site_id WHERE o.parent_id = ?",
	"DELETE r FROM replacements r JOIN sites o ON o.id = r.site_id WHERE o.parent_id = ?",
	"DELETE u FROM site_families u JOIN sites o ON o.id = u.site_id WHERE o.parent_id = ?",
	"INSERT INTO site_families (site_id, family_id, recipe) SELECT o.id, u.family_id, u.recipe FROM site_families u JOIN sites o ON o.parent_id = u.site_id WHERE u.site_id = ?",
	"INSERT INTO role_assignments (site_id, family_id, face_id, role, name, selector, weight, slope, stack, override)" +
		" SELECT o.id, p.family_id, p.face_id, p.role, p.name, p.selector, p.weight, p.slope, p.stack, p.override FROM role_assignments p JOIN sites o ON o.parent_id = p.site_id WHERE p.site_id = ? ORDER BY p.id",
	"INSERT INTO replacements (site_id, family_id, name, weight, slope) SELECT o.id, r.family_id, r.name, r.weight, r.slope FROM replacements r JOIN sites o ON o.parent_id = r.site_id WHERE r.site_id = ? ORDER BY r.id",
}

// Follow has the outlets of a site carry what the site does. It stands in each transaction
// that changes the site.
func (s Queries) Follow(ctx context.Context, site int64) error {
	var locked []int64 // so that of two changes the later one has the outlets follow both
	if err := s.On(ctx).Raw("SELECT id FROM sites WHERE id = ? OR parent_id = ? FOR UPDATE", site, site).Scan(&locked).Error; err != nil || len(locked) < 2 {
		return store.Told(err)
	}
	for _, statement := range outletsFollow {
		if err := s.On(ctx).Exec(statement, site).Error; err != nil {
			return store.Told(err)
		}
	}
	return nil
}

// DeleteOutlet deletes an outlet with its pages, file URLs, packs and what else is its own;
// ErrNotFound where the site has none of that number.
func (s Queries) DeleteOutlet(ctx context.Context, site, outlet int64) error {
	if _, err := store.First[store.Site](s.On(ctx).Where("id = ? AND parent_id = ?", outlet, site)); err != nil {
		return err
	}
	for _, statement := range []string{
		"DELETE h FROM pack_families h JOIN packs p ON p.id = h.pack_id WHERE p.site_id = ?",
		"DELETE h FROM pack_files h JOIN packs p ON p.id = h.pack_id WHERE p.site_id = ?",
		"DELETE g FROM inspected_pages g JOIN inspections i ON i.id = g.inspection_id WHERE i.site_id = ?",
		"DELETE FROM inspections WHERE site_id = ?", "DELETE FROM findings WHERE site_id = ?", "DELETE FROM inspection_schedules WHERE site_id = ?",
		"DELETE FROM packs WHERE site_id = ?", "DELETE FROM pages WHERE site_id = ?", "DELETE FROM file_urls WHERE site_id = ?",
		"DELETE FROM live_stylesheets WHERE site_id = ?", "DELETE FROM live_days WHERE site_id = ?", "DELETE FROM live_visitors WHERE site_id = ?",
		"DELETE FROM site_views WHERE site_id = ?", "DELETE FROM sign_offs WHERE site_id = ?", "DELETE FROM role_assignments WHERE site_id = ?",
		"DELETE FROM replacements WHERE site_id = ?", "DELETE FROM site_families WHERE site_id = ?", "DELETE FROM sites WHERE id = ?",
	} {
		if err := s.On(ctx).Exec(statement, outlet).Error; err != nil {
			return store.Told(err)
		}
	}
	return nil
}
