package sitedb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Builders returns all sets of rules that are kept, by name.
func (s Queries) Builders(ctx context.Context) ([]store.Builder, error) {
	return store.List[store.Builder](s.On(ctx).Order("name, id"))
}

// Builder returns the set of rules of a kind; ErrNotFound where none is kept.
func (s Queries) Builder(ctx context.Context, kind string) (*store.Builder, error) {
	return store.First[store.Builder](s.On(ctx).Where("kind = ?", kind))
}

// PutBuilder keeps a set of rules as a new version; before is the version it was
// changed from, 0 for a new kind. ErrStale where that stands no more, ErrTaken
// where the kind is there.
func (s Queries) PutBuilder(ctx context.Context, b *store.Builder, before int) error {
	db := s.On(ctx)
	b.Version = before + 1
	r := db.Model(&store.Builder{}).Where("kind = ? AND version = ?", b.Kind, before).
		Updates(map[string]any{"name": b.Name, "rules": b.Rules, "version": b.Version, "changed_at": b.ChangedAt, "changed_by": b.ChangedBy})
	if r.Error != nil {
		return store.Told(r.Error)
	}
	if r.RowsAffected == 0 {
		if before > 1 {
			return store.ErrStale
		}
		// A kind that was taken away goes on counting where it stopped.
		var last int
		if err := db.Model(&store.BuilderVersion{}).Select("COALESCE(MAX(version), 0)").Where("kind = ?", b.Kind).Scan(&last).Error; err != nil {
			return store.Told(err)
		}
		b.Version = max(b.Version, last+1)
		if err := db.Create(b).Error; err != nil {
			return store.Told(err)
		}
	}
	return store.Told(db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&store.BuilderVersion{Kind: b.Kind, Version: b.Version, Rules: b.Rules, At: b.ChangedAt, Person: b.ChangedBy}).Error)
}

// DeleteBuilder takes a set of rules away; its versions stay.
func (s Queries) DeleteBuilder(ctx context.Context, kind string) (bool, error) {
	r := s.On(ctx).Where("kind = ?", kind).Delete(&store.Builder{})
	return r.RowsAffected > 0, store.Told(r.Error)
}

// BuilderVersions returns the versions of a kind, newest first.
func (s Queries) BuilderVersions(ctx context.Context, kind string) ([]store.BuilderVersion, error) {
	return store.List[store.BuilderVersion](s.On(ctx).Where("kind = ?", kind).Order("version DESC"))
}

// SitesWith returns the sites delivered to a kind of builder.
func (s Queries) SitesWith(ctx context.Context, kind string) ([]store.Site, error) {
	return store.List[store.Site](s.On(ctx).Where("builder = ?", kind).Order("name, id"))
}
