package librarydb

import (
	"context"
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// PutHostedStylesheet keeps what a sheet says of a family; the same address again
// replaces it.
func (s Queries) PutHostedStylesheet(ctx context.Context, h *store.HostedStylesheet) error {
	sum := sha256.Sum256([]byte(h.Host + "\n" + h.URL))
	h.URLHash = hex.EncodeToString(sum[:])
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"faces", "read_at", "read_by"})}).Create(h).Error)
}

// HostedStylesheets returns the sheets a family is served from.
func (s Queries) HostedStylesheets(ctx context.Context, family int64) ([]store.HostedStylesheet, error) {
	return store.List[store.HostedStylesheet](s.On(ctx).Where("family_id = ?", family).Order("host, id"))
}

// SheetsOf returns the sheets of families that have no files, by family: of those
// given, or for nil of all that sites use.
func (s Queries) SheetsOf(ctx context.Context, families []int64) (map[int64][]store.HostedStylesheet, error) {
	q := s.On(ctx).Where("NOT EXISTS (SELECT 1 FROM faces WHERE faces.family_id = hosted_stylesheets.family_id)").Order("host, id")
	if families == nil {
		q = q.Where("family_id IN (SELECT family_id FROM site_families)")
	} else {
		q = q.Where("family_id IN ?", families)
	}
	found, err := store.List[store.HostedStylesheet](q)
	out := map[int64][]store.HostedStylesheet{}
	for _, h := range found {
		out[h.FamilyID] = append(out[h.FamilyID], h)
	}
	return out, err
}

// HostedStylesheet returns a sheet by its number.
func (s Queries) HostedStylesheet(ctx context.Context, id int64) (*store.HostedStylesheet, error) {
	return store.First[store.HostedStylesheet](s.On(ctx).Where("id = ?", id))
}

// RemoveHostedStylesheet takes a sheet away from its family.
func (s Queries) RemoveHostedStylesheet(ctx context.Context, id int64) error {
	return store.Told(s.On(ctx).Delete(&store.HostedStylesheet{ID: id}).Error)
}

// Hosts gives, for each of the families, the servers it is served from.
func (s Queries) Hosts(ctx context.Context, families []int64) (map[int64][]string, error) {
	var rows []struct {
		FamilyID int64
		Host     string
	}
	out := map[int64][]string{}
	if len(families) == 0 {
		return out, nil
	}
	err := s.On(ctx).Raw("SELECT DISTINCT family_id, host FROM hosted_stylesheets WHERE family_id IN ? ORDER BY host", families).Scan(&rows).Error
	for _, r := range rows {
		out[r.FamilyID] = append(out[r.FamilyID], r.Host)
	}
	return out, store.Told(err)
}
