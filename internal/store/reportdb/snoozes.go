package reportdb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Snoozes returns the snoozes that have not ended on a day.
func (s Queries) Snoozes(ctx context.Context, day time.Time) ([]store.Snooze, error) {
	return store.List[store.Snooze](s.On(ctx).Where("until > ?", day))
}

// PutSnooze records a snooze in place of the one that the item has, and forgets those that
// ended before a day.
func (s Queries) PutSnooze(ctx context.Context, z *store.Snooze, day time.Time) error {
	if err := s.On(ctx).Where("until <= ?", day).Delete(&store.Snooze{}).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(z).Error)
}

// EndSnooze ends the snooze of an item, if it has one.
func (s Queries) EndSnooze(ctx context.Context, item string) error {
	return store.Told(s.On(ctx).Where("item = ?", item).Delete(&store.Snooze{}).Error)
}
