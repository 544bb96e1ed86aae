package importdb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// KeepArrived keeps what was read of a font.
func (s Queries) KeepArrived(ctx context.Context, a *store.Arrived) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(a).Error)
}

// Arrived returns what was read of a font; ErrNotFound where nothing is kept.
func (s Queries) Arrived(ctx context.Context, hash string) (*store.Arrived, error) {
	return store.First[store.Arrived](s.On(ctx).Where("sha256 = ?", hash))
}

// ForgetArrived forgets what was read of fonts that are taken in.
func (s Queries) ForgetArrived(ctx context.Context, hashes []string) error {
	return store.Told(s.On(ctx).Where("sha256 IN ?", hashes).Delete(&store.Arrived{}).Error)
}

// ForgetArrivedBefore forgets what was read before a time and never taken in; it is read
// again where somebody takes it in after all.
func (s Queries) ForgetArrivedBefore(ctx context.Context, before time.Time) error {
	return store.Told(s.On(ctx).Where("at < ?", before).Delete(&store.Arrived{}).Error)
}
