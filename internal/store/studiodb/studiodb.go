// Package studiodb counts what the studio has, for internal/studio.
package studiodb

import (
	"context"

	"sparecrate/internal/store"
)

// Queries are the statements over records, or over one transaction of them.
type Queries struct{ *store.Store }

// In returns the statements over records.
func In(s *store.Store) Queries { return Queries{s} }

// Counts is how much of everything there is.
type Counts struct{ Clients, Families, Licenses, Sites, Packs int }

// Counts counts clients without the studio, families with a face that are not deleted,
// licenses, sites and packs.
func (s Queries) Counts(ctx context.Context) (c Counts, err error) {
	err = s.On(ctx).Raw(`SELECT (SELECT COUNT(*) FROM clients WHERE NOT studio) AS clients,
		(SELECT COUNT(*) FROM families f WHERE f.status <> 'deleted' AND EXISTS (SELECT 1 FROM faces WHERE family_id = f.id)) AS families,
		(SELECT COUNT(*) FROM licenses) AS licenses, (SELECT COUNT(*) FROM sites) AS sites, (SELECT COUNT(*) FROM packs) AS packs`).Scan(&c).Error
	return c, store.Told(err)
}

// Stored is how many files of a kind are kept, and their bytes.
type Stored struct {
	What  string
	Files int
	Bytes int64
}

// Stored counts the files that are kept by what they are: originals, documents, converted
// files and packs. The same bytes are kept once and counted once within a kind.
func (s Queries) Stored(ctx context.Context) (found []Stored, err error) {
	err = s.On(ctx).Raw(`SELECT 'originals' AS what, COUNT(*) AS files, COALESCE(SUM(bytes), 0) AS bytes FROM files
		UNION ALL SELECT 'documents', COUNT(*), COALESCE(SUM(bytes), 0) FROM (SELECT sha256, MAX(bytes) AS bytes FROM documents GROUP BY sha256) d
		UNION ALL SELECT 'converted', COUNT(*), COALESCE(SUM(bytes), 0) FROM (SELECT hash, MAX(bytes) AS bytes FROM derived WHERE hash <> '' GROUP BY hash) v
		UNION ALL SELECT 'packs', COUNT(*), COALESCE(SUM(bytes), 0) FROM (SELECT sha256, MAX(bytes) AS bytes FROM packs GROUP BY sha256) p`).Scan(&found).Error
	return found, store.Told(err)
}

// Weekly counts the people who subscribed to the weekly e-mail.
func (s Queries) Weekly(ctx context.Context) (n int64, err error) {
	err = s.On(ctx).Model(&store.Person{}).Where("weekly AND closed_at IS NULL").Count(&n).Error
	return n, store.Told(err)
}

// Inspections returns the sites that are inspected by a schedule, the next first.
func (s Queries) Inspections(ctx context.Context) ([]store.InspectionSchedule, error) {
	return store.List[store.InspectionSchedule](s.On(ctx).Order("next_at, site_id"))
}
