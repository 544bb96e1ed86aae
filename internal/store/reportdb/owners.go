package reportdb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// DueOwners returns to whom items of the due list are assigned, without those who can no
// longer act on it.
func (s Queries) DueOwners(ctx context.Context) ([]store.DueOwner, error) {
	return store.List[store.DueOwner](s.On(ctx).Joins("Person").Where("Person.closed_at IS NULL AND Person.role <> 'viewer'"))
}

// Assignable returns the people who can act on the due list, by name.
func (s Queries) Assignable(ctx context.Context) ([]store.Person, error) {
	return store.List[store.Person](s.On(ctx).Where("closed_at IS NULL AND role <> 'viewer'").Order("name, id"))
}

// PutDueOwner assigns an item in place of whom it was assigned to, and forgets those assigned
// before a moment.
func (s Queries) PutDueOwner(ctx context.Context, o *store.DueOwner, before time.Time) error {
	if err := s.On(ctx).Where("at < ?", before).Delete(&store.DueOwner{}).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Omit("Person").Clauses(clause.OnConflict{UpdateAll: true}).Create(o).Error)
}

// EndDueOwner takes an item from whom it is assigned to, if it is to anybody.
func (s Queries) EndDueOwner(ctx context.Context, item string) error {
	return store.Told(s.On(ctx).Where("item = ?", item).Delete(&store.DueOwner{}).Error)
}
