package packdb

import (
	"context"
	"strings"

	"sparecrate/internal/store"
)

// Recipes gives the recipes of a site's families, by family.
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

// AddPack keeps a built pack, and the files it was made from.
func (s Queries) AddPack(ctx context.Context, p *store.Pack, files []int64) error {
	if err := store.Add(ctx, s.Store, p); err != nil {
		return err
	}
	if len(files) == 0 {
		return nil
	}
	rows := make([]string, len(files))
	values := make([]any, 0, 2*len(files))
	for i, f := range files {
		rows[i] = "(?, ?)"
		values = append(values, p.ID, f)
	}
	return store.Told(s.On(ctx).Exec("INSERT IGNORE INTO pack_files (pack_id, file_id) VALUES "+strings.Join(rows, ", "), values...).Error)
}

// PackedFaces gives the faces that a pack was made of.
func (s Queries) PackedFaces(ctx context.Context, pack int64) ([]int64, error) {
	var out []int64
	err := s.On(ctx).Raw("SELECT DISTINCT f.face_id FROM face_files f JOIN pack_files p ON p.file_id = f.file_id WHERE p.pack_id = ? ORDER BY f.face_id", pack).Scan(&out).Error
	return out, store.Told(err)
}

// Pack gives a pack by its number.
func (s Queries) Pack(ctx context.Context, id int64) (*store.Pack, error) {
	return store.First[store.Pack](s.On(ctx).Where("id = ?", id))
}

// Packs gives a site's packs, newest first.
func (s Queries) Packs(ctx context.Context, site int64) ([]store.Pack, error) {
	return store.List[store.Pack](s.On(ctx).Where("site_id = ?", site).Order("id DESC").Limit(200))
}
