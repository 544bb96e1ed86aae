package reportdb

import (
	"context"

	"sparecrate/internal/store"
)

// ImportsMoved says how imports stand, by number: each is the same as long as
// nothing of it is added, read, decided or changed. Those that are not there are left
// out. However much a import holds, it is one look into an index.
func (s Queries) ImportsMoved(ctx context.Context, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID    int64
		Stood string
	}
	err := s.On(ctx).Raw(`SELECT d.id, CONCAT_WS(' ', d.state, d.moved, (SELECT MAX(i.id) FROM import_items i WHERE i.import_id = d.id)) AS stood
		FROM imports d WHERE d.id IN ?`, ids).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.Stood
	}
	return out, store.Told(err)
}
