package usagedb

import (
	"context"
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm"

	"sparecrate/internal/store"
)

// Bearing returns the number under which what verdicts need of a face is kept. Most
// faces of a family bear the same, so each is kept once.
func (s Queries) Bearing(ctx context.Context, body string) (int64, error) {
	sum := sha256.Sum256([]byte(body))
	hash := hex.EncodeToString(sum[:])
	var id int64
	look := func(lock string) error {
		return store.Told(s.On(ctx).Raw("SELECT id FROM bearings WHERE hash = ?"+lock, hash).Scan(&id).Error)
	}
	if err := look(""); err != nil || id != 0 {
		return id, err
	}
	if err := s.On(ctx).Exec("INSERT IGNORE INTO bearings (hash, body) VALUES (?, ?)", hash, body).Error; err != nil {
		return 0, store.Told(err)
	}
	return id, look(" LOCK IN SHARE MODE")
}

// FaceStyles returns the places of the faces of families, by face.
func (s Queries) FaceStyles(ctx context.Context, families []int64) (map[int64]store.FaceStyle, error) {
	out := map[int64]store.FaceStyle{}
	if len(families) == 0 {
		return out, nil
	}
	// Read by hand: there are thousands, and GORM takes twice the time for each.
	rows, err := s.On(ctx).Table("faces").Select("id, family_id, style, width, weight, slope, weight_min, weight_max").
		Where("file_id <> 0 AND family_id IN ?", families).Rows()
	if err != nil {
		return nil, store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var f store.FaceStyle
		if err := rows.Scan(&f.ID, &f.FamilyID, &f.Style, &f.Width, &f.Weight, &f.Slope, &f.WeightMin, &f.WeightMax); err != nil {
			return nil, err
		}
		out[f.ID] = f
	}
	return out, rows.Err()
}

// BearingFaces returns the faces of families in their order; of all families that
// sites use for none.
func (s Queries) BearingFaces(ctx context.Context, families []int64) ([]store.BearingFace, error) {
	q := s.On(ctx).Table("faces").Select("id, family_id, full_name, bearing, variable, supplied").Where("file_id <> 0").Order("family_id, width, weight, slope DESC, id")
	if families != nil {
		q = q.Where("family_id IN ?", families)
	} else {
		q = q.Where("family_id IN (SELECT family_id FROM site_families)")
	}
	// Read by hand: there are tens of thousands, and GORM takes twice the time for each.
	rows, err := q.Rows()
	if err != nil {
		return nil, store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	var out []store.BearingFace
	for rows.Next() {
		var f store.BearingFace
		if err := rows.Scan(&f.ID, &f.FamilyID, &f.FullName, &f.Bearing, &f.Variable, &f.Supplied); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Bearings returns what verdicts need by number; of all faces for none.
func (s Queries) Bearings(ctx context.Context, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID   int64
		Body string
	}
	err := s.On(ctx).Table("bearings").Select("id, body").Where("id IN ?", ids).Scan(&rows).Error
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Body
	}
	return out, store.Told(err)
}

// DocumentFindings returns what was found in the documents of families; of all that sites
// use for none.
func (s Queries) DocumentFindings(ctx context.Context, families []int64) ([]store.DocumentFindings, error) {
	q := store.FindingsInDocuments(s.On(ctx)).Order("d.id")
	if families != nil {
		q = q.Where("d.family_id IN ?", families)
	} else {
		q = q.Where("d.family_id IN (SELECT family_id FROM site_families)")
	}
	var out []store.DocumentFindings
	return out, store.Told(q.Scan(&out).Error)
}

// Uses returns which sites use which families; of all sites for none.
func (s Queries) Uses(ctx context.Context, sites []int64) ([]store.Using, error) {
	q := store.SitesUsing(s.On(ctx)).Order("sites.name, site_families.site_id, site_families.family_id")
	if sites != nil {
		q = q.Where("site_families.site_id IN ?", sites)
	}
	var out []store.Using
	return out, store.Told(q.Scan(&out).Error)
}

// AllSites returns all sites, or a client's, by name, without their families.
func (s Queries) AllSites(ctx context.Context, client int64) ([]store.Site, error) {
	q := s.On(ctx).Preload("Client").Preload("RoleAssignments", func(q *gorm.DB) *gorm.DB { return q.Order("id") }).Preload("Replacements").Order("name, id")
	if client != 0 {
		q = q.Where("client_id = ?", client)
	}
	return store.List[store.Site](q)
}

// UsedFamilies returns the families that sites use, without their faces.
func (s Queries) UsedFamilies(ctx context.Context) ([]store.Family, error) {
	return store.List[store.Family](s.On(ctx).Where("id IN (SELECT family_id FROM site_families)").Order("name, id"))
}

// SiteViews returns the page views of sites by month; of all sites for none.
func (s Queries) SiteViews(ctx context.Context, sites []int64) ([]store.Views, error) {
	q := s.On(ctx).Order("site_id, month")
	if sites != nil {
		q = q.Where("site_id IN ?", sites)
	}
	return store.List[store.Views](q)
}

// StayedOn returns the files that sites stay on, with their faces' metadata; those that were
// removed are none.
func (s Queries) StayedOn(ctx context.Context, stays []store.PinnedFile) (map[store.PinnedFile]store.FaceFile, error) {
	out := map[store.PinnedFile]store.FaceFile{}
	if len(stays) == 0 {
		return out, nil
	}
	pairs := make([][]any, len(stays))
	for i, one := range stays {
		pairs[i] = []any{one.Face, one.File}
	}
	found, err := store.List[store.FaceFile](s.On(ctx).Preload("File").Where("(face_id, file_id) IN ? AND removed_at IS NULL", pairs))
	for _, l := range found {
		out[store.PinnedFile{Face: l.FaceID, File: l.FileID}] = l
	}
	return out, err
}

// Covers returns the families that licenses with a limit of page views cover, by license.
func (s Queries) Covers(ctx context.Context) (map[int64][]int64, error) {
	var rows []struct{ LicenseID, FamilyID int64 }
	err := s.On(ctx).Table("license_families").Select("license_id, family_id").Where("license_id IN (SELECT id FROM licenses WHERE page_views IS NOT NULL)").Scan(&rows).Error
	out := map[int64][]int64{}
	for _, r := range rows {
		out[r.LicenseID] = append(out[r.LicenseID], r.FamilyID)
	}
	return out, store.Told(err)
}
