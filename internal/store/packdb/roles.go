package packdb

import (
	"context"
	"slices"
	"strings"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// UploadedAt returns the addresses of a site's files in an environment, by path.
func (s Queries) UploadedAt(ctx context.Context, site int64, environment string) (map[string]store.FileURL, error) {
	found, err := store.List[store.FileURL](s.On(ctx).Where("site_id = ? AND environment = ?", site, environment).Order("path"))
	out := make(map[string]store.FileURL, len(found))
	for _, l := range found {
		out[l.Path] = l
	}
	return out, err
}

// FileURLsOf returns all addresses of a site's files, of every environment.
func (s Queries) FileURLsOf(ctx context.Context, site int64) ([]store.FileURL, error) {
	return store.List[store.FileURL](s.On(ctx).Where("site_id = ?", site).Order("environment, path"))
}

// PutFileURL keeps the address of a file, in place of the one before.
func (s Queries) PutFileURL(ctx context.Context, l *store.FileURL) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(l).Error)
}

// RemoveFileURLs forgets the address of a file, or of all where path is empty; it
// gives how many there were.
func (s Queries) RemoveFileURLs(ctx context.Context, site int64, environment, path string) (int64, error) {
	q := s.On(ctx).Where("site_id = ? AND environment = ?", site, environment)
	if path != "" {
		q = q.Where("path = ?", path)
	}
	r := q.Delete(&store.FileURL{})
	return r.RowsAffected, store.Told(r.Error)
}

// LatestPacks returns the last pack of each of some sites and environments.
func (s Queries) LatestPacks(ctx context.Context, sites []int64) ([]store.Pack, error) {
	if len(sites) == 0 {
		return nil, nil
	}
	return store.List[store.Pack](s.On(ctx).Where("id IN (SELECT MAX(id) FROM packs WHERE site_id IN ? GROUP BY site_id, environment)", sites).Order("id DESC"))
}

// CurrentSources returns the SHA-256 of the files in use of each face of the families on
// some sites, by face (see SourceOf).
func (s Queries) CurrentSources(ctx context.Context, sites []int64) (map[int64]string, error) {
	out := map[int64]string{}
	if len(sites) == 0 {
		return out, nil
	}
	rows, err := s.On(ctx).Raw(`SELECT f.id, l.sha256 FROM faces f JOIN files l ON l.id = f.file_id
		WHERE f.family_id IN (SELECT family_id FROM site_families WHERE site_id IN @sites)
		UNION ALL SELECT b.face_id, l.sha256 FROM face_files b JOIN files l ON l.id = b.file_id JOIN faces f ON f.id = b.face_id
		WHERE b.beside AND b.removed_at IS NULL AND f.family_id IN (SELECT family_id FROM site_families WHERE site_id IN @sites)`, map[string]any{"sites": sites}).Rows()
	if err != nil {
		return nil, store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	all := map[int64][]string{}
	for rows.Next() {
		var face int64
		var hash string
		if err := rows.Scan(&face, &hash); err != nil {
			return nil, err
		}
		all[face] = append(all[face], hash)
	}
	for face, hashes := range all {
		out[face] = SourceOf(hashes)
	}
	return out, rows.Err()
}

// SourceOf writes which files a face goes out from: one hash, or those of its parts.
func SourceOf(hashes []string) string {
	slices.Sort(hashes)
	return strings.Join(hashes, " ")
}
