package familydb

import (
	"context"
	"errors"

	"sparecrate/internal/store"
)

// ForgetDerived removes the records of a derived file by the hash of its bytes, and
// says how many there were. A hash that is an original's too is left alone.
func (s Queries) ForgetDerived(ctx context.Context, hash string) (int64, error) {
	r := s.On(ctx).Exec("DELETE FROM derived WHERE hash = ? AND hash NOT IN (SELECT sha256 FROM files WHERE sha256 = ?)", hash, hash)
	return r.RowsAffected, store.Told(r.Error)
}

// NameOfHash returns what people call the original with these bytes: a font's file
// name or a document's; empty where there is none.
func (s Queries) NameOfHash(ctx context.Context, hash string) (string, error) {
	var names []string
	err := s.On(ctx).Raw(`SELECT name FROM files WHERE sha256 = @h UNION ALL SELECT name FROM documents WHERE sha256 = @h
		UNION ALL SELECT name FROM family_documents WHERE sha256 = @h UNION ALL SELECT name FROM packs WHERE sha256 = @h LIMIT 1`, map[string]any{"h": hash}).Scan(&names).Error
	if err != nil || len(names) == 0 {
		return "", store.Told(err)
	}
	return names[0], nil
}

// NamedHashes returns those of some hashes that a record names.
func (s Queries) NamedHashes(ctx context.Context, hashes []string) (map[string]bool, error) {
	out := map[string]bool{}
	if len(hashes) == 0 {
		return out, nil
	}
	for _, from := range []string{"sha256 FROM files WHERE sha256", "hash FROM derived WHERE hash", "sha256 FROM documents WHERE sha256",
		"sha256 FROM family_documents WHERE sha256", "sha256 FROM packs WHERE sha256", "sha256 FROM import_items WHERE sha256"} {
		var found []string
		if err := s.On(ctx).Raw("SELECT "+from+" IN ?", hashes).Scan(&found).Error; err != nil && !errors.Is(store.Told(err), store.ErrNotFound) {
			return nil, store.Told(err)
		}
		for _, h := range found {
			out[h] = true
		}
	}
	return out, nil
}
