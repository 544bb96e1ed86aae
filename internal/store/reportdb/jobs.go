package reportdb

import (
	"context"

	"sparecrate/internal/store"
)

// JobsMoved says how jobs stand: it is the same as long as none is asked for, begins,
// goes on or ends. Each part is a look into an index.
func (s Queries) JobsMoved(ctx context.Context) (string, error) {
	var stood string
	err := s.On(ctx).Raw("SELECT " + store.JobsStamp).Scan(&stood).Error
	return stood, store.Told(err)
}
