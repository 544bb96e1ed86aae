package reportdb

import (
	"context"

	"sparecrate/internal/store"
)

// DeliveriesMoved says how deliveries stand, by number: each is the same as long as
// nothing of it is added, read, decided or changed. Those that are not there are left
// out. However much a delivery holds, it is one look into an index.
func (s Queries) DeliveriesMoved(ctx context.Context, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID    int64
		Stood string
	}
	err := s.On(ctx).Raw(`SELECT d.id, CONCAT_WS(' ', d.state, d.moved, (SELECT MAX(i.id) FROM delivery_items i WHERE i.delivery_id = d.id)) AS stood
		FROM deliveries d WHERE d.id IN ?`, ids).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.Stood
	}
	return out, store.Told(err)
}
