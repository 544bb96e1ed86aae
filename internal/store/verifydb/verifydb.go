// Package verifydb holds the statements that look whether what is kept twice agrees.
package verifydb

import (
	"context"
	"time"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// Derived returns the hashes of what was made, in order, from after one of them.
func (s Queries) Derived(ctx context.Context, after string, n int) (hashes []string, err error) {
	err = s.On(ctx).Raw("SELECT DISTINCT hash FROM derived WHERE hash > ? ORDER BY hash LIMIT ?", after, n).Scan(&hashes).Error
	return hashes, store.Told(err)
}

// ForgetDerived has what has a hash be made again when it is wanted.
func (s Queries) ForgetDerived(ctx context.Context, hash string) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM derived WHERE hash = ?", hash).Error)
}

// Names returns what people know a file by: families, packs, documents.
func (s Queries) Names(ctx context.Context, hash string) (names []string, err error) {
	err = s.On(ctx).Raw(`SELECT CONCAT(y.name, ' ', a.style) FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces a ON a.id = l.face_id JOIN families y ON y.id = a.family_id WHERE f.sha256 = @h
		UNION SELECT name FROM packs WHERE sha256 = @h UNION SELECT name FROM documents WHERE sha256 = @h UNION SELECT name FROM family_documents WHERE sha256 = @h
		UNION SELECT path FROM import_items WHERE sha256 = @h LIMIT 20`, map[string]any{"h": hash}).Scan(&names).Error
	return names, store.Told(err)
}

// Family is a family by number and name.
type Family struct {
	ID   int64
	Name string
}

// Misnumbered returns the families that do not know how many faces they have, or that search does
// not find by a word.
func (s Queries) Misnumbered(ctx context.Context) (found []Family, err error) {
	err = s.On(ctx).Raw(`SELECT y.id, y.name FROM families y
		WHERE y.face_count <> (SELECT COUNT(*) FROM faces a WHERE a.family_id = y.id AND a.file_id <> 0)
		OR y.name REGEXP '[A-Za-z]{3}' AND NOT EXISTS (SELECT 1 FROM family_words w WHERE w.family_id = y.id) ORDER BY y.id`).Scan(&found).Error
	return found, store.Told(err)
}

// ListAnew has the service list some families anew, at its next start.
func (s Queries) ListAnew(ctx context.Context, ids []int64) error {
	return store.Told(s.On(ctx).Exec("UPDATE families SET indexer = 0, face_count = (SELECT COUNT(*) FROM faces a WHERE a.family_id = families.id AND a.file_id <> 0) WHERE id IN ?", ids).Error)
}

// Server is what the database says of itself.
type Server struct {
	Version string
	Now     time.Time
	Cluster int // its nodes that have found each other; 0 for a server of its own
}

// Server returns what the database says of itself.
func (s Queries) Server(ctx context.Context) (v Server, err error) {
	if err := s.On(ctx).Raw("SELECT VERSION() AS version, UTC_TIMESTAMP(6) AS now").Scan(&v).Error; err != nil {
		return v, store.Told(err)
	}
	var row struct{ Value int }
	err = s.On(ctx).Raw("SELECT CAST(VARIABLE_VALUE AS INT) AS value FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = 'wsrep_cluster_size' AND @@GLOBAL.wsrep_on").Scan(&row).Error
	v.Cluster = row.Value
	return v, store.Told(err)
}

// Backlog is what is left to do.
type Backlog struct {
	Failed, Waiting int
	Oldest          *time.Time // when the first of those that wait was due
}

// Backlog counts the jobs that failed and those that wait.
func (s Queries) Backlog(ctx context.Context) (b Backlog, err error) {
	err = s.On(ctx).Raw(`SELECT COALESCE(SUM(state = 'failed'), 0) AS failed, COALESCE(SUM(state = 'waiting'), 0) AS waiting,
		MIN(CASE WHEN state = 'waiting' THEN run_at END) AS oldest FROM jobs WHERE state IN ('failed', 'waiting')`).Scan(&b).Error
	return b, store.Told(err)
}

// AdminsWithoutFactor returns the names of open admins who sign in by a password alone.
func (s Queries) AdminsWithoutFactor(ctx context.Context) (names []string, err error) {
	err = s.On(ctx).Raw(`SELECT name FROM people p WHERE role = 'admin' AND closed_at IS NULL AND subject IS NULL
		AND NOT EXISTS (SELECT 1 FROM totps t WHERE t.person_id = p.id AND t.confirmed_at IS NOT NULL)
		AND NOT EXISTS (SELECT 1 FROM passkeys k WHERE k.person_id = p.id) ORDER BY name LIMIT 20`).Scan(&names).Error
	return names, store.Told(err)
}
