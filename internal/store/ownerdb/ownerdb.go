// Package ownerdb finds which client a thing belongs to, by what the API calls it in its
// addresses.
package ownerdb

import (
	"context"

	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

// Queries are the statements over records, or over one transaction of them.
type Queries struct{ *store.Store }

// In returns the statements over records.
func In(s *store.Store) Queries { return Queries{s} }

// kinds are the things that belong to clients: the first part of their addresses, what a
// sentence calls them, and how their client is found. Files belong to whoever has them in a
// family; of several clients, to one that is asked for.
var kinds = map[string]struct{ thing, query string }{
	"clients":          {"client", "SELECT id FROM clients WHERE id = @id"},
	"families":         {"family", "SELECT client_id FROM families WHERE id = @id"},
	"faces":            {"face", "SELECT f.client_id FROM faces a JOIN families f ON f.id = a.family_id WHERE a.id = @id"},
	"files":            {"file", "SELECT f.client_id FROM face_files b JOIN faces a ON a.id = b.face_id JOIN families f ON f.id = a.family_id WHERE b.file_id = @id ORDER BY f.client_id IN @mine DESC, f.client_id LIMIT 1"},
	"family-documents": {"document", "SELECT f.client_id FROM family_documents d JOIN families f ON f.id = d.family_id WHERE d.id = @id"},
	"imports":          {"import", "SELECT client_id FROM imports WHERE id = @id"},
	"licenses":         {"license", "SELECT granted_to_id FROM licenses WHERE id = @id"},
	"documents":        {"document", "SELECT l.granted_to_id FROM documents d JOIN licenses l ON l.id = d.license_id WHERE d.id = @id"},
	"sites":            {"site", "SELECT client_id FROM sites WHERE id = @id"},
	"shortlists":       {"shortlist", "SELECT client_id FROM shortlists WHERE id = @id"},
	"sign-offs":        {"sign-off", "SELECT COALESCE(w.client_id, f.client_id) FROM sign_offs o JOIN families f ON f.id = o.family_id LEFT JOIN sites w ON w.id = o.site_id WHERE o.id = @id"},
	"findings":         {"finding", "SELECT w.client_id FROM findings p JOIN sites w ON w.id = p.site_id WHERE p.id = @id"},
	"inspections":      {"inspection", "SELECT w.client_id FROM inspections i JOIN sites w ON w.id = i.site_id WHERE i.id = @id"},
	"packs":            {"pack", "SELECT w.client_id FROM packs p JOIN sites w ON w.id = p.site_id WHERE p.id = @id"},
	"jobs":             {"job", "SELECT COALESCE(client_id, 0) FROM jobs WHERE id = @id"},
}

// Kinds returns the first parts of addresses of what belongs to clients.
func Kinds() []string {
	var out []string
	for k := range kinds {
		out = append(out, k)
	}
	return out
}

// Thing returns what a sentence calls a thing of a kind; empty for a kind that belongs to
// no client.
func Thing(kind string) string { return kinds[kind].thing }

// Client returns the client that a thing belongs to; ErrNotFound where there is no such
// thing, or none that whoever asks sees.
func (s Queries) Client(ctx context.Context, kind string, id int64) (int64, error) {
	mine := scope.Of(ctx).Clients()
	if len(mine) == 0 {
		mine = []int64{0}
	}
	var found []int64
	err := s.On(ctx).Raw(kinds[kind].query, map[string]any{"id": id, "mine": mine}).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return 0, store.Told(err)
	}
	return found[0], nil
}
