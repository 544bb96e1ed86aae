package licensedb

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

func (s Queries) licenses(ctx context.Context) *gorm.DB {
	return s.On(ctx).Preload("GrantedTo").Preload("Documents").Preload("Allocations", func(q *gorm.DB) *gorm.DB { return q.Order("measure, name") }).
		Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") })
}

// License returns a license with its families, their faces and its documents.
func (s Queries) License(ctx context.Context, id int64) (*store.License, error) {
	return store.First[store.License](s.licenses(ctx).Preload("Families.Faces").Where("id = ?", id))
}

// Licenses returns a page of the register, newest first.
func (s Queries) Licenses(ctx context.Context, p store.Page, client *int64) ([]store.License, error) {
	q := s.licenses(ctx)
	if client != nil {
		q = q.Where("granted_to_id = ?", *client)
	}
	return store.List[store.License](p.Newest(q))
}

// LicensesOf returns all licenses that cover any of the families, oldest first.
func (s Queries) LicensesOf(ctx context.Context, families []int64) ([]store.License, error) {
	return store.List[store.License](s.licenses(ctx).Order("id").
		Where("id IN (SELECT license_id FROM license_families WHERE family_id IN ?)", families))
}

// AddLicense adds a license and what it covers.
func (s Queries) AddLicense(ctx context.Context, l *store.License, families []int64) error {
	if err := s.On(ctx).Omit(clause.Associations).Create(l).Error; err != nil {
		return store.Told(err)
	}
	return s.cover(ctx, l.ID, families)
}

// ChangeLicense writes the terms if the version still stands, and what is covered.
func (s Queries) ChangeLicense(ctx context.Context, l *store.License, families []int64) error {
	// GORM's serializers do not apply to maps of columns, so the record itself is written.
	r := s.On(ctx).Model(&store.License{}).Where("id = ? AND version = ?", l.ID, l.Version).
		Select("Kind", "GrantedToID", "Licensor", "Reference", "Uses", "Begins", "Ends", "Note", "Changes", "SPDX", "Domains", "FaceIDs",
			"PageViews", "Seats", "Apps", "Price", "Currency", "Renewal", "ApprovedAt", "ApprovedBy", "Version").
		Updates(&store.License{Kind: l.Kind, GrantedToID: l.GrantedToID, Licensor: l.Licensor, Reference: l.Reference,
			Uses: l.Uses, Begins: l.Begins, Ends: l.Ends, Note: l.Note, Changes: l.Changes, SPDX: l.SPDX, Domains: l.Domains, FaceIDs: l.FaceIDs,
			PageViews: l.PageViews, Seats: l.Seats, Apps: l.Apps, Price: l.Price, Currency: l.Currency, Renewal: l.Renewal, ApprovedAt: l.ApprovedAt, ApprovedBy: l.ApprovedBy, Version: l.Version + 1})
	if r.Error != nil {
		return store.Told(r.Error)
	}
	if r.RowsAffected == 0 {
		return store.ErrStale
	}
	if err := s.On(ctx).Exec("UPDATE licenses SET renewed_from = ? WHERE renewed_by = ?", l.Begins, l.ID).Error; err != nil {
		return store.Told(err)
	}
	if err := s.On(ctx).Exec("DELETE FROM license_families WHERE license_id = ?", l.ID).Error; err != nil {
		return err
	}
	return s.cover(ctx, l.ID, families)
}

// Renewed notes that a license goes on from another; ErrStale where one does already.
func (s Queries) Renewed(ctx context.Context, l *store.License) error {
	r := s.On(ctx).Exec("UPDATE licenses SET renewed_by = ?, renewed_from = ? WHERE id = ? AND renewed_by IS NULL", l.ID, l.Begins, l.Renews)
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrStale
	}
	return store.Told(r.Error)
}

// ApproveLicense notes who approved a license, if its version is still the one read.
func (s Queries) ApproveLicense(ctx context.Context, id int64, version int, by string, at time.Time) error {
	return s.Change(ctx, &store.License{}, id, version, map[string]any{"approved_by": by, "approved_at": at})
}

func (s Queries) cover(ctx context.Context, license int64, families []int64) error {
	for _, f := range families {
		if err := s.On(ctx).Exec("INSERT IGNORE INTO license_families VALUES (?, ?)", license, f).Error; err != nil {
			return err
		}
	}
	return nil
}

// AddDocument adds a document; ErrTaken where the license has the same bytes.
func (s Queries) AddDocument(ctx context.Context, d *store.Document) error {
	return store.Add(ctx, s.Store, d)
}

// Document returns a document by its number.
func (s Queries) Document(ctx context.Context, id int64) (*store.Document, error) {
	return store.First[store.Document](s.On(ctx).Where("id = ?", id))
}

// KeepVersion keeps a license's terms as they now are.
func (s Queries) KeepVersion(ctx context.Context, v *store.LicenseVersion) error {
	return store.Add(ctx, s.Store, v)
}

// LicenseVersions returns a license's terms as they were recorded, newest first.
func (s Queries) LicenseVersions(ctx context.Context, id int64) ([]store.LicenseVersion, error) {
	return store.List[store.LicenseVersion](s.On(ctx).Where("license_id = ?", id).Order("version DESC"))
}

// AllLicenses returns all licenses, or those granted to a client, oldest first.
func (s Queries) AllLicenses(ctx context.Context, client int64) ([]store.License, error) {
	q := s.licenses(ctx).Order("id")
	if client != 0 {
		q = q.Where("granted_to_id = ?", client)
	}
	return store.List[store.License](q)
}

// AddAllocation gives a seat or an app to a license; ErrTaken where it has it.
func (s Queries) AddAllocation(ctx context.Context, p *store.Allocation) error {
	return store.Add(ctx, s.Store, p)
}

// LockedPlaces counts the places of a license of one measure, and keeps others from adding
// some until the transaction ends.
func (s Queries) LockedPlaces(ctx context.Context, id int64, measure string) (int64, error) {
	var locked, n int64
	if err := s.On(ctx).Raw("SELECT id FROM licenses WHERE id = ? FOR UPDATE", id).Scan(&locked).Error; err != nil {
		return 0, store.Told(err)
	}
	err := s.On(ctx).Raw("SELECT COUNT(*) FROM allocations WHERE license_id = ? AND measure = ? LOCK IN SHARE MODE", id, measure).Scan(&n).Error
	return n, store.Told(err)
}

// RemoveAllocation takes a seat or an app away; ErrNotFound where the license has none of that number.
func (s Queries) RemoveAllocation(ctx context.Context, license, id int64) (*store.Allocation, error) {
	p, err := store.First[store.Allocation](s.On(ctx).Where("id = ? AND license_id = ?", id, license))
	if err != nil {
		return nil, err
	}
	return p, store.Told(s.On(ctx).Delete(p).Error)
}

// Templates returns the usual kinds of licenses by name.
func (s Queries) Templates(ctx context.Context) ([]store.Template, error) {
	return store.List[store.Template](s.On(ctx).Order("name"))
}

// SaveTemplate keeps a usual kind of license, in place of one of the same name.
func (s Queries) SaveTemplate(ctx context.Context, t *store.Template) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"terms", "created_at", "created_by"})}).Create(t).Error)
}

// DeleteTemplate drops one.
func (s Queries) DeleteTemplate(ctx context.Context, id int64) (*store.Template, error) {
	t, err := store.First[store.Template](s.On(ctx).Where("id = ?", id))
	if err != nil {
		return nil, err
	}
	return t, store.Told(s.On(ctx).Delete(t).Error)
}

// DocumentsWith returns documents whose text holds words, at most n; the words as
// MariaDB's boolean full-text search has them, and plain for names.
func (s Queries) DocumentsWith(ctx context.Context, words, plain string, n int) ([]store.FoundDocument, error) {
	var out []store.FoundDocument
	like := "%" + store.LikeEscape.Replace(plain) + "%"
	err := s.On(ctx).Raw(`SELECT d.id, d.license_id, 0 AS family_id, d.name, d.sha256, d.bytes, t.body FROM documents d LEFT JOIN texts t ON t.sha256 = d.sha256
			WHERE d.name LIKE ? OR (? <> '' AND MATCH (t.body) AGAINST (? IN BOOLEAN MODE)) OR t.body LIKE ?
		UNION ALL SELECT p.id, 0, p.family_id, p.name, p.sha256, p.bytes, t.body FROM family_documents p LEFT JOIN texts t ON t.sha256 = p.sha256
			WHERE p.name LIKE ? OR (? <> '' AND MATCH (t.body) AGAINST (? IN BOOLEAN MODE)) OR t.body LIKE ?
		LIMIT ?`, like, words, words, like, like, words, words, like, n).Scan(&out).Error
	return out, store.Told(err)
}
