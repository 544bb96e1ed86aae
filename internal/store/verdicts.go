package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Bearing gives the number under which what verdicts need of a face is kept. Most
// faces of a family bear the same, so each is kept once.
func (s *Store) Bearing(ctx context.Context, body string) (int64, error) {
	sum := sha256.Sum256([]byte(body))
	hash := hex.EncodeToString(sum[:])
	var id int64
	look := func(lock string) error {
		return told(s.db.WithContext(ctx).Raw("SELECT id FROM bearings WHERE hash = ?"+lock, hash).Scan(&id).Error)
	}
	if err := look(""); err != nil || id != 0 {
		return id, err
	}
	if err := s.db.WithContext(ctx).Exec("INSERT IGNORE INTO bearings (hash, body) VALUES (?, ?)", hash, body).Error; err != nil {
		return 0, told(err)
	}
	return id, look(" LOCK IN SHARE MODE")
}

// BearingFace is a face as verdicts need it.
type BearingFace struct {
	ID, FamilyID int64
	FullName     string
	Bearing      int64
	Variable     bool
}

// FaceStyle is a face's place in its family.
type FaceStyle struct {
	ID, FamilyID         int64
	Style                string
	Width                float64
	Weight               int
	Slope                string
	WeightMin, WeightMax int
}

// Bearing gives a face as verdicts need it.
func (f *Face) Bearing() BearingFace {
	return BearingFace{ID: f.ID, FamilyID: f.FamilyID, FullName: f.Listing.FullName, Bearing: f.Listing.Bearing, Variable: f.Listing.Variable}
}

// Standing gives a face's place in its family.
func (f *Face) Standing() FaceStyle {
	return FaceStyle{ID: f.ID, FamilyID: f.FamilyID, Style: f.Style, Width: f.Width, Weight: f.Weight, Slope: f.Slope,
		WeightMin: f.Listing.WeightMin, WeightMax: f.Listing.WeightMax}
}

// FaceStyles gives the places of the faces of families, by face.
func (s *Store) FaceStyles(ctx context.Context, families []int64) (map[int64]FaceStyle, error) {
	out := map[int64]FaceStyle{}
	if len(families) == 0 {
		return out, nil
	}
	var found []FaceStyle
	err := s.db.WithContext(ctx).Table("faces").Select("id, family_id, style, width, weight, slope, weight_min, weight_max").
		Where("file_id <> 0 AND family_id IN ?", families).Scan(&found).Error
	for _, f := range found {
		out[f.ID] = f
	}
	return out, told(err)
}

// BearingFaces gives the faces of families in their order; of all families that
// sites use for none.
func (s *Store) BearingFaces(ctx context.Context, families []int64) ([]BearingFace, error) {
	q := s.db.WithContext(ctx).Table("faces").Select("id, family_id, full_name, bearing, variable").Where("file_id <> 0").Order("family_id, width, weight, slope DESC, id")
	if families != nil {
		q = q.Where("family_id IN ?", families)
	} else {
		q = q.Where("family_id IN (SELECT family_id FROM site_families)")
	}
	// Read by hand: there are tens of thousands, and GORM takes twice the time for each.
	rows, err := q.Rows()
	if err != nil {
		return nil, told(err)
	}
	defer func() { _ = rows.Close() }()
	var out []BearingFace
	for rows.Next() {
		var f BearingFace
		if err := rows.Scan(&f.ID, &f.FamilyID, &f.FullName, &f.Bearing, &f.Variable); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Bearings gives what verdicts need by number; of all faces for none.
func (s *Store) Bearings(ctx context.Context, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID   int64
		Body string
	}
	err := s.db.WithContext(ctx).Table("bearings").Select("id, body").Where("id IN ?", ids).Scan(&rows).Error
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Body
	}
	return out, told(err)
}

// Kept is the text of a document or paper, and what was found in it.
type Kept struct {
	SHA256   string `gorm:"column:sha256;primaryKey"`
	Body     string
	Findings string
	Reader   int // catalog's version of how texts are read
}

// TableName keeps GORM from guessing.
func (Kept) TableName() string { return "texts" }

// KeepText keeps a text, in place of one that an older version read.
func (s *Store) KeepText(ctx context.Context, t *Kept) error {
	return told(s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(t).Error)
}

// UnreadTexts gives the hashes and names of documents and papers that were not read
// by a version, at most n.
func (s *Store) UnreadTexts(ctx context.Context, reader, n int) ([]Document, error) {
	var out []Document
	err := s.db.WithContext(ctx).Raw(`SELECT a.sha256, MIN(a.name) AS name FROM (SELECT sha256, name FROM documents UNION SELECT sha256, name FROM papers) a
		LEFT JOIN texts t ON t.sha256 = a.sha256 WHERE t.sha256 IS NULL OR t.reader < ? GROUP BY a.sha256 ORDER BY a.sha256 LIMIT ?`, reader, n).Scan(&out).Error
	return out, told(err)
}

// PaperFindings is what was found in a paper of a family.
type PaperFindings struct {
	FamilyID int64
	Name     string
	Findings string
}

// papersFindings asks for what was found in papers.
func papersFindings(db *gorm.DB) *gorm.DB {
	return db.Table("papers").Select("papers.id AS paper_id, papers.family_id, papers.name, texts.findings").
		Joins("JOIN texts ON texts.sha256 = papers.sha256").Where("texts.findings <> '[]'")
}

// PaperFindings gives what was found in the papers of families; of all that sites
// use for none.
func (s *Store) PaperFindings(ctx context.Context, families []int64) ([]PaperFindings, error) {
	q := papersFindings(s.db.WithContext(ctx)).Order("papers.id")
	if families != nil {
		q = q.Where("papers.family_id IN ?", families)
	} else {
		q = q.Where("papers.family_id IN (SELECT family_id FROM site_families)")
	}
	var out []PaperFindings
	return out, told(q.Scan(&out).Error)
}

// Using is a family on a site.
type Using struct {
	SiteID, FamilyID, ClientID int64
	Recipe                     string
}

// using asks for which sites use which families.
func using(db *gorm.DB) *gorm.DB {
	return db.Table("site_families").Select("site_families.site_id, site_families.family_id, site_families.recipe, sites.client_id").
		Joins("JOIN sites ON sites.id = site_families.site_id")
}

// Uses gives which sites use which families; of all sites for none.
func (s *Store) Uses(ctx context.Context, sites []int64) ([]Using, error) {
	q := using(s.db.WithContext(ctx)).Order("sites.name, site_families.site_id, site_families.family_id")
	if sites != nil {
		q = q.Where("site_families.site_id IN ?", sites)
	}
	var out []Using
	return out, told(q.Scan(&out).Error)
}

// AllSites gives all sites, or a client's, by name, without their families.
func (s *Store) AllSites(ctx context.Context, client int64) ([]Site, error) {
	q := s.db.WithContext(ctx).Preload("Client").Preload("Placements", func(q *gorm.DB) *gorm.DB { return q.Order("id") }).Preload("StandIns").Order("name, id")
	if client != 0 {
		q = q.Where("client_id = ?", client)
	}
	return list[Site](q)
}

// UsedFamilies gives the families that sites use, without their faces.
func (s *Store) UsedFamilies(ctx context.Context) ([]Family, error) {
	return list[Family](s.db.WithContext(ctx).Where("id IN (SELECT family_id FROM site_families)").Order("name, id"))
}

// RegisterFamilies gives families with their clients, without faces: all in the
// catalog, and those set aside that a site uses or a license covers.
func (s *Store) RegisterFamilies(ctx context.Context, client int64) ([]Family, error) {
	q := s.db.WithContext(ctx).Preload("Client").Order("name, id").
		Where("gone = 0 AND (shelf = 'catalog' OR id IN (SELECT family_id FROM site_families) OR id IN (SELECT family_id FROM license_families))")
	if client != 0 {
		q = q.Where("client_id = ? OR id IN (SELECT f.family_id FROM site_families f JOIN sites s ON s.id = f.site_id WHERE s.client_id = ?) OR id IN (SELECT f.family_id FROM license_families f JOIN licenses l ON l.id = f.license_id WHERE l.granted_to_id = ?)", client, client, client)
	}
	return list[Family](q)
}

// Views is a site's page views in a month.
type Views struct {
	SiteID int64     `gorm:"primaryKey"`
	Month  time.Time `gorm:"primaryKey;type:date"` // its first day
	Views  int64
	Source string
	At     time.Time
	Person string
}

// TableName keeps GORM from guessing.
func (Views) TableName() string { return "site_views" }

// SetViews writes page views of months, in place of those that are there.
func (s *Store) SetViews(ctx context.Context, v []Views) error {
	if len(v) == 0 {
		return nil
	}
	return told(s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(v, 500).Error)
}

// SiteViews gives the page views of sites by month; of all sites for none.
func (s *Store) SiteViews(ctx context.Context, sites []int64) ([]Views, error) {
	q := s.db.WithContext(ctx).Order("site_id, month")
	if sites != nil {
		q = q.Where("site_id IN ?", sites)
	}
	return list[Views](q)
}

// LastPacks gives the newest pack of each site that has one, by site.
func (s *Store) LastPacks(ctx context.Context) (map[int64]Pack, error) {
	found, err := list[Pack](s.db.WithContext(ctx).Where("id IN (SELECT MAX(id) FROM packs GROUP BY site_id)"))
	out := map[int64]Pack{}
	for _, p := range found {
		out[p.SiteID] = p
	}
	return out, err
}
