package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// License is a license with its terms. Begins and Ends are days; nil means
// always and perpetual.
type License struct {
	ID                  int64
	Kind                string
	GrantedToID         int64
	GrantedTo           Client
	Licensor, Reference string
	Uses                []string `gorm:"serializer:json"`
	Begins, Ends        *time.Time
	Note                string
	Changes             map[string]string `gorm:"serializer:json"`                 // consent by change
	SPDX                string            `gorm:"column:spdx"`                     // of an open license
	Domains             []string          `gorm:"serializer:json"`                 // nil for any
	FaceIDs             []int64           `gorm:"serializer:json;column:face_ids"` // nil for all faces
	PageViews           *int64            // caps; nil for none
	Seats, Apps         *int64
	Price               *int64 // in hundredths of the currency
	Currency            string // ISO 4217
	Renewal             string
	Version             int
	CreatedAt           time.Time
	CreatedBy           string
	ApprovedAt          *time.Time // by an admin; nil where none did
	ApprovedBy          string
	Families            []Family `gorm:"many2many:license_families"`
	Documents           []Document
	Places              []Place
}

// Place is a seat or an app that a license is used for.
type Place struct {
	ID, LicenseID int64
	Measure, Name string
	Since         time.Time
	Person        string
}

// TableName keeps GORM from guessing.
func (Place) TableName() string { return "license_places" }

// LicenseVersion is a license's terms as they were recorded once.
type LicenseVersion struct {
	LicenseID int64 `gorm:"primaryKey"`
	Version   int   `gorm:"primaryKey"`
	Terms     string
	At        time.Time
	Person    string
}

// Template is a usual kind of license.
type Template struct {
	ID        int64
	Name      string
	Terms     string
	CreatedAt time.Time
	CreatedBy string
}

// TableName keeps GORM from guessing.
func (Template) TableName() string { return "license_templates" }

// Document is a piece of evidence; its bytes are in the bucket.
type Document struct {
	ID, LicenseID int64
	Name          string
	SHA256        string `gorm:"column:sha256"`
	Bytes         int64
	AddedAt       time.Time
	AddedBy       string
}

func (s *Store) licenses(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Preload("GrantedTo").Preload("Documents").Preload("Places", func(q *gorm.DB) *gorm.DB { return q.Order("measure, name") }).
		Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") })
}

// License gives a license with its families, their faces and its documents.
func (s *Store) License(ctx context.Context, id int64) (*License, error) {
	return first[License](s.licenses(ctx).Preload("Families.Faces").Where("id = ?", id))
}

// Licenses gives a page of the register, newest first.
func (s *Store) Licenses(ctx context.Context, p Page) ([]License, error) {
	return list[License](p.newest(s.licenses(ctx)))
}

// LicensesOf gives all licenses that cover any of the families, oldest first.
func (s *Store) LicensesOf(ctx context.Context, families []int64) ([]License, error) {
	return list[License](s.licenses(ctx).Order("id").
		Where("id IN (SELECT license_id FROM license_families WHERE family_id IN ?)", families))
}

// AddLicense adds a license and what it covers.
func (s *Store) AddLicense(ctx context.Context, l *License, families []int64) error {
	if err := s.db.WithContext(ctx).Omit(clause.Associations).Create(l).Error; err != nil {
		return told(err)
	}
	return s.cover(ctx, l.ID, families)
}

// ChangeLicense writes the terms if the version still stands, and what is covered.
func (s *Store) ChangeLicense(ctx context.Context, l *License, families []int64) error {
	// GORM's serializers do not apply to maps of columns, so the record itself is written.
	r := s.db.WithContext(ctx).Model(&License{}).Where("id = ? AND version = ?", l.ID, l.Version).
		Select("Kind", "GrantedToID", "Licensor", "Reference", "Uses", "Begins", "Ends", "Note", "Changes", "SPDX", "Domains", "FaceIDs",
			"PageViews", "Seats", "Apps", "Price", "Currency", "Renewal", "ApprovedAt", "ApprovedBy", "Version").
		Updates(&License{Kind: l.Kind, GrantedToID: l.GrantedToID, Licensor: l.Licensor, Reference: l.Reference,
			Uses: l.Uses, Begins: l.Begins, Ends: l.Ends, Note: l.Note, Changes: l.Changes, SPDX: l.SPDX, Domains: l.Domains, FaceIDs: l.FaceIDs,
			PageViews: l.PageViews, Seats: l.Seats, Apps: l.Apps, Price: l.Price, Currency: l.Currency, Renewal: l.Renewal, ApprovedAt: l.ApprovedAt, ApprovedBy: l.ApprovedBy, Version: l.Version + 1})
	if r.Error != nil {
		return told(r.Error)
	}
	if r.RowsAffected == 0 {
		return ErrStale
	}
	if err := s.db.WithContext(ctx).Exec("DELETE FROM license_families WHERE license_id = ?", l.ID).Error; err != nil {
		return err
	}
	return s.cover(ctx, l.ID, families)
}

// ApproveLicense notes who approved a license, if its version is still the one read.
func (s *Store) ApproveLicense(ctx context.Context, id int64, version int, by string, at time.Time) error {
	return s.change(ctx, &License{}, id, version, map[string]any{"approved_by": by, "approved_at": at})
}

func (s *Store) cover(ctx context.Context, license int64, families []int64) error {
	for _, f := range families {
		if err := s.db.WithContext(ctx).Exec("INSERT IGNORE INTO license_families VALUES (?, ?)", license, f).Error; err != nil {
			return err
		}
	}
	return nil
}

// AddDocument adds a document; ErrTaken where the license has the same bytes.
func (s *Store) AddDocument(ctx context.Context, d *Document) error { return add(s, ctx, d) }

// Document gives a document by its number.
func (s *Store) Document(ctx context.Context, id int64) (*Document, error) {
	return first[Document](s.db.WithContext(ctx).Where("id = ?", id))
}

// KeepVersion keeps a license's terms as they now are.
func (s *Store) KeepVersion(ctx context.Context, v *LicenseVersion) error { return add(s, ctx, v) }

// LicenseVersions gives a license's terms as they were recorded, newest first.
func (s *Store) LicenseVersions(ctx context.Context, id int64) ([]LicenseVersion, error) {
	return list[LicenseVersion](s.db.WithContext(ctx).Where("license_id = ?", id).Order("version DESC"))
}

// AllLicenses gives all licenses, or those granted to a client, oldest first.
func (s *Store) AllLicenses(ctx context.Context, client int64) ([]License, error) {
	q := s.licenses(ctx).Order("id")
	if client != 0 {
		q = q.Where("granted_to_id = ?", client)
	}
	return list[License](q)
}

// AddPlace gives a seat or an app to a license; ErrTaken where it has it.
func (s *Store) AddPlace(ctx context.Context, p *Place) error { return add(s, ctx, p) }

// DropPlace takes a seat or an app away; ErrNotFound where the license has none of that number.
func (s *Store) DropPlace(ctx context.Context, license, id int64) (*Place, error) {
	p, err := first[Place](s.db.WithContext(ctx).Where("id = ? AND license_id = ?", id, license))
	if err != nil {
		return nil, err
	}
	return p, told(s.db.WithContext(ctx).Delete(p).Error)
}

// Templates gives the usual kinds of licenses by name.
func (s *Store) Templates(ctx context.Context) ([]Template, error) {
	return list[Template](s.db.WithContext(ctx).Order("name"))
}

// SaveTemplate keeps a usual kind of license, in place of one of the same name.
func (s *Store) SaveTemplate(ctx context.Context, t *Template) error {
	return told(s.db.WithContext(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"terms", "created_at", "created_by"})}).Create(t).Error)
}

// DropTemplate drops one.
func (s *Store) DropTemplate(ctx context.Context, id int64) (*Template, error) {
	t, err := first[Template](s.db.WithContext(ctx).Where("id = ?", id))
	if err != nil {
		return nil, err
	}
	return t, told(s.db.WithContext(ctx).Delete(t).Error)
}

// DocumentsWith gives documents whose text holds words, at most n; the words as
// MariaDB's boolean full-text search has them, and plain for names.
func (s *Store) DocumentsWith(ctx context.Context, words, plain string, n int) ([]FoundDocument, error) {
	var out []FoundDocument
	like := "%" + likeEscape.Replace(plain) + "%"
	err := s.db.WithContext(ctx).Raw(`SELECT d.id, d.license_id, 0 AS family_id, d.name, d.sha256, d.bytes, t.body FROM documents d LEFT JOIN texts t ON t.sha256 = d.sha256
			WHERE d.name LIKE ? OR (? <> '' AND MATCH (t.body) AGAINST (? IN BOOLEAN MODE)) OR t.body LIKE ?
		UNION ALL SELECT p.id, 0, p.family_id, p.name, p.sha256, p.bytes, t.body FROM papers p LEFT JOIN texts t ON t.sha256 = p.sha256
			WHERE p.name LIKE ? OR (? <> '' AND MATCH (t.body) AGAINST (? IN BOOLEAN MODE)) OR t.body LIKE ?
		LIMIT ?`, like, words, words, like, like, words, words, like, n).Scan(&out).Error
	return out, told(err)
}

// FoundDocument is a document of a license or a paper of a family, with its text.
type FoundDocument struct {
	ID, LicenseID, FamilyID int64
	Name                    string
	SHA256                  string `gorm:"column:sha256"`
	Bytes                   int64
	Body                    string
}
