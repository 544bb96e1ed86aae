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
	Changes             map[string]string `gorm:"serializer:json"` // consent by change
	Version             int
	CreatedAt           time.Time
	CreatedBy           string
	Families            []Family `gorm:"many2many:license_families"`
	Documents           []Document
}

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
	return s.db.WithContext(ctx).Preload("GrantedTo").Preload("Documents").
		Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") })
}

// License gives a license with its families and documents.
func (s *Store) License(ctx context.Context, id int64) (*License, error) {
	return first[License](s.licenses(ctx).Where("id = ?", id))
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
		Select("Kind", "GrantedToID", "Licensor", "Reference", "Uses", "Begins", "Ends", "Note", "Changes", "Version").
		Updates(&License{Kind: l.Kind, GrantedToID: l.GrantedToID, Licensor: l.Licensor, Reference: l.Reference,
			Uses: l.Uses, Begins: l.Begins, Ends: l.Ends, Note: l.Note, Changes: l.Changes, Version: l.Version + 1})
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
