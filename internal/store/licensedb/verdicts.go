package licensedb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// KeepText keeps a text, in place of one that an older version read.
func (s Queries) KeepText(ctx context.Context, t *store.Kept) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(t).Error)
}

// UnreadTexts returns the hashes and names of documents and documents that were not read
// by a version, at most n.
func (s Queries) UnreadTexts(ctx context.Context, reader, n int) ([]store.Document, error) {
	var out []store.Document
	err := s.On(ctx).Raw(`SELECT a.sha256, MIN(a.name) AS name FROM (SELECT sha256, name FROM documents UNION SELECT sha256, name FROM family_documents) a
		LEFT JOIN texts t ON t.sha256 = a.sha256 WHERE t.sha256 IS NULL OR t.reader < ? GROUP BY a.sha256 ORDER BY a.sha256 LIMIT ?`, reader, n).Scan(&out).Error
	return out, store.Told(err)
}

// RegisterFamilies returns families with their clients, without faces: all in the
// catalog, and those set aside that a site uses or a license covers.
func (s Queries) RegisterFamilies(ctx context.Context, client int64) ([]store.Family, error) {
	q := s.On(ctx).Preload("Client").Order("name, id").
		Where("gone = 0 AND (status = 'active' OR id IN (SELECT family_id FROM site_families) OR id IN (SELECT family_id FROM license_families))")
	if client != 0 {
		q = q.Where("client_id = ? OR id IN (SELECT f.family_id FROM site_families f JOIN sites s ON s.id = f.site_id WHERE s.client_id = ?) OR id IN (SELECT f.family_id FROM license_families f JOIN licenses l ON l.id = f.license_id WHERE l.granted_to_id = ?)", client, client, client)
	}
	return store.List[store.Family](q)
}

// SetViews writes page views of months, in place of those that are there.
func (s Queries) SetViews(ctx context.Context, v []store.Views) error {
	if len(v) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(v, 500).Error)
}

// TextsOf returns the texts of the documents of licenses and of the documents of families that
// have one, in the order they came in.
func (s Queries) TextsOf(ctx context.Context, families, licenses []int64) ([]store.FoundDocument, error) {
	var out []store.FoundDocument
	if len(families) == 0 && len(licenses) == 0 {
		return out, nil
	}
	err := s.On(ctx).Raw(`SELECT a.id, a.license_id, a.family_id, a.name, a.sha256, a.bytes, t.body FROM (
		SELECT id, license_id, 0 AS family_id, name, sha256, bytes FROM documents WHERE license_id IN ?
		UNION ALL SELECT id, 0, family_id, name, sha256, bytes FROM family_documents WHERE family_id IN ?) a
		JOIN texts t ON t.sha256 = a.sha256 WHERE t.body <> '' ORDER BY a.family_id, a.id`, append([]int64{0}, licenses...), append([]int64{0}, families...)).Scan(&out).Error
	return out, store.Told(err)
}

// FamilyNames returns the numbers and names of all families that were not deleted.
func (s Queries) FamilyNames(ctx context.Context) ([]store.Family, error) {
	return store.List[store.Family](s.On(ctx).Select("id, name").Where("status <> ?", store.Deleted).Order("name, id"))
}
