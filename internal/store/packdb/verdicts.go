package packdb

import (
	"context"

	"sparecrate/internal/store"
)

// LastPacks returns the newest pack of each site that has one, by site.
func (s Queries) LastPacks(ctx context.Context) (map[int64]store.Pack, error) {
	found, err := store.List[store.Pack](s.On(ctx).Where("id IN (SELECT MAX(id) FROM packs GROUP BY site_id)"))
	out := map[int64]store.Pack{}
	for _, p := range found {
		out[p.SiteID] = p
	}
	return out, err
}
