package packdb

import (
	"context"
	"strings"

	"sparecrate/internal/store"
)

// Recipes returns the recipes of a site's families, by family.
func (s Queries) Recipes(ctx context.Context, site int64) (map[int64]string, error) {
	var rows []struct {
		FamilyID int64
		Recipe   string
	}
	err := s.On(ctx).Table("site_families").Select("family_id, recipe").Where("site_id = ? AND recipe <> ''", site).Scan(&rows).Error
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.FamilyID] = r.Recipe
	}
	return out, err
}

// AddPack keeps a built pack, the families in it, and the files it was made from.
func (s Queries) AddPack(ctx context.Context, p *store.Pack, files []int64) error {
	if err := store.Add(ctx, s.Store, p); err != nil {
		return err
	}
	if err := s.holds(ctx, "pack_families (pack_id, family_id)", p.ID, p.Families); err != nil {
		return err
	}
	return s.holds(ctx, "pack_files (pack_id, file_id)", p.ID, files)
}

// holds writes what a pack holds into a table of two columns.
func (s Queries) holds(ctx context.Context, table string, pack int64, all []int64) error {
	if len(all) == 0 {
		return nil
	}
	values := make([]any, 0, 2*len(all))
	for _, one := range all {
		values = append(values, pack, one)
	}
	return store.Told(s.On(ctx).Exec("INSERT IGNORE INTO "+table+" VALUES (?, ?)"+strings.Repeat(", (?, ?)", len(all)-1), values...).Error)
}

// withFamilies fills in what some packs hold.
func (s Queries) withFamilies(ctx context.Context, packs []store.Pack) error {
	at := make(map[int64]int, len(packs))
	ids := make([]int64, len(packs))
	for i, p := range packs {
		at[p.ID], ids[i] = i, p.ID
	}
	var rows []struct{ PackID, FamilyID int64 }
	if len(ids) > 0 {
		if err := s.On(ctx).Table("pack_families").Where("pack_id IN ?", ids).Order("pack_id, family_id").Scan(&rows).Error; err != nil {
			return store.Told(err)
		}
	}
	for _, r := range rows {
		p := &packs[at[r.PackID]]
		p.Families = append(p.Families, r.FamilyID)
	}
	return nil
}

// PackedFaces returns the faces that a pack was made of.
func (s Queries) PackedFaces(ctx context.Context, pack int64) ([]int64, error) {
	var out []int64
	err := s.On(ctx).Raw("SELECT DISTINCT f.face_id FROM face_files f JOIN pack_files p ON p.file_id = f.file_id WHERE p.pack_id = ? ORDER BY f.face_id", pack).Scan(&out).Error
	return out, store.Told(err)
}

// Pack returns a pack by its number.
func (s Queries) Pack(ctx context.Context, id int64) (*store.Pack, error) {
	p, err := store.First[store.Pack](s.On(ctx).Where("id = ?", id))
	if err != nil {
		return nil, err
	}
	one := []store.Pack{*p}
	return &one[0], s.withFamilies(ctx, one)
}

// Packs returns a site's packs, newest first.
func (s Queries) Packs(ctx context.Context, site int64) ([]store.Pack, error) {
	packs, err := store.List[store.Pack](s.On(ctx).Where("site_id = ?", site).Order("id DESC").Limit(200))
	if err != nil {
		return nil, err
	}
	return packs, s.withFamilies(ctx, packs)
}

// CarriedSince says when the packs of each site that held a family were built.
func (s Queries) CarriedSince(ctx context.Context, family int64) (map[int64]store.CarriedTime, error) {
	var rows []store.CarriedTime
	err := s.On(ctx).Raw(`SELECT p.site_id, MIN(p.created_at) AS first, MAX(p.created_at) AS last, COUNT(*) AS packs
		FROM packs p JOIN pack_families h ON h.pack_id = p.id WHERE h.family_id = ? GROUP BY p.site_id`, family).Scan(&rows).Error
	out := make(map[int64]store.CarriedTime, len(rows))
	for _, r := range rows {
		out[r.SiteID] = r
	}
	return out, store.Told(err)
}
