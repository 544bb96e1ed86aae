package reportdb

import (
	"context"

	"sparecrate/internal/store"
)

// FamiliesToLookAt returns a page of the families of the catalog by name, with their
// clients: those that fonts of a import went into, and those of a client, where these
// are not 0.
func (s Queries) FamiliesToLookAt(ctx context.Context, imp, client int64, p store.Page) ([]store.Family, error) {
	q := s.On(ctx).Preload("Client").Where("status = ?", store.Active)
	if imp != 0 {
		q = q.Where("id IN (SELECT family_id FROM import_items WHERE import_id = ?)", imp)
	}
	if client != 0 {
		q = q.Where("client_id = ?", client)
	}
	if p.AfterID != 0 {
		q = q.Where("(name, id) > (?, ?)", p.AfterName, p.AfterID)
	}
	return store.List[store.Family](q.Order("name, id").Limit(p.Limit))
}

// UnsettledFiles counts the files of families of which somebody has to say which counts.
func (s Queries) UnsettledFiles(ctx context.Context, families []int64) (map[int64]int, error) {
	out := map[int64]int{}
	if len(families) == 0 {
		return out, nil
	}
	var rows []struct {
		FamilyID int64
		Files    int
	}
	err := s.On(ctx).Raw(`SELECT c.family_id, COUNT(*) AS files FROM face_files l JOIN faces c ON c.id = l.face_id
		WHERE c.family_id IN ? AND `+store.Unsettled+`
		GROUP BY c.family_id`, families).Scan(&rows).Error
	for _, r := range rows {
		out[r.FamilyID] = r.Files
	}
	return out, store.Told(err)
}
