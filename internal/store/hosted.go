package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/css"
)

// HostedSheet is somebody else's stylesheet that a family is served from, with the
// family's faces in it. Where the rules themselves were given, Address is empty.
type HostedSheet struct {
	ID, FamilyID int64
	Address      string
	AddressHash  string
	Host         string       // of the sheet, or of the fonts
	Faces        []css.Hosted `gorm:"serializer:json"`
	ReadAt       time.Time
	ReadBy       string
}

// PutHostedSheet keeps what a sheet says of a family; the same address again
// replaces it.
func (s *Store) PutHostedSheet(ctx context.Context, h *HostedSheet) error {
	sum := sha256.Sum256([]byte(h.Host + "\n" + h.Address))
	h.AddressHash = hex.EncodeToString(sum[:])
	return told(s.db.WithContext(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"faces", "read_at", "read_by"})}).Create(h).Error)
}

// HostedSheets gives the sheets a family is served from.
func (s *Store) HostedSheets(ctx context.Context, family int64) ([]HostedSheet, error) {
	return list[HostedSheet](s.db.WithContext(ctx).Where("family_id = ?", family).Order("host, id"))
}

// SheetsOf gives the sheets of families that have no files, by family: of those
// given, or for nil of all that sites use.
func (s *Store) SheetsOf(ctx context.Context, families []int64) (map[int64][]HostedSheet, error) {
	q := s.db.WithContext(ctx).Where("NOT EXISTS (SELECT 1 FROM faces WHERE faces.family_id = hosted_sheets.family_id)").Order("host, id")
	if families == nil {
		q = q.Where("family_id IN (SELECT family_id FROM site_families)")
	} else {
		q = q.Where("family_id IN ?", families)
	}
	found, err := list[HostedSheet](q)
	out := map[int64][]HostedSheet{}
	for _, h := range found {
		out[h.FamilyID] = append(out[h.FamilyID], h)
	}
	return out, err
}

// HostedSheet gives a sheet by its number.
func (s *Store) HostedSheet(ctx context.Context, id int64) (*HostedSheet, error) {
	return first[HostedSheet](s.db.WithContext(ctx).Where("id = ?", id))
}

// DropHostedSheet takes a sheet away from its family.
func (s *Store) DropHostedSheet(ctx context.Context, id int64) error {
	return told(s.db.WithContext(ctx).Delete(&HostedSheet{ID: id}).Error)
}

// Hosts gives, for each of the families, the servers it is served from.
func (s *Store) Hosts(ctx context.Context, families []int64) (map[int64][]string, error) {
	var rows []struct {
		FamilyID int64
		Host     string
	}
	out := map[int64][]string{}
	if len(families) == 0 {
		return out, nil
	}
	err := s.db.WithContext(ctx).Raw("SELECT DISTINCT family_id, host FROM hosted_sheets WHERE family_id IN ? ORDER BY host", families).Scan(&rows).Error
	for _, r := range rows {
		out[r.FamilyID] = append(out[r.FamilyID], r.Host)
	}
	return out, told(err)
}
