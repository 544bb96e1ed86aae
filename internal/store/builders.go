package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// Builder is a set of builder rules as the studio has it: its own, or a shipped
// one that was changed.
type Builder struct {
	ID         int64
	Kind, Name string
	Rules      string // JSON
	Version    int    // the shipped rules are version 1
	ChangedAt  time.Time
	ChangedBy  string
}

// BuilderVersion is a set of rules as it was once.
type BuilderVersion struct {
	Kind    string
	Version int
	Rules   string
	At      time.Time
	Person  string
}

// Builders gives all sets of rules that are kept, by name.
func (s *Store) Builders(ctx context.Context) ([]Builder, error) {
	return list[Builder](s.db.WithContext(ctx).Order("name, id"))
}

// Builder gives the set of rules of a kind; ErrNotFound where none is kept.
func (s *Store) Builder(ctx context.Context, kind string) (*Builder, error) {
	return first[Builder](s.db.WithContext(ctx).Where("kind = ?", kind))
}

// PutBuilder keeps a set of rules as a new version; before is the version it was
// changed from, 0 for a new kind. ErrStale where that stands no more, ErrTaken
// where the kind is there.
func (s *Store) PutBuilder(ctx context.Context, b *Builder, before int) error {
	db := s.db.WithContext(ctx)
	b.Version = before + 1
	r := db.Model(&Builder{}).Where("kind = ? AND version = ?", b.Kind, before).
		Updates(map[string]any{"name": b.Name, "rules": b.Rules, "version": b.Version, "changed_at": b.ChangedAt, "changed_by": b.ChangedBy})
	if r.Error != nil {
		return told(r.Error)
	}
	if r.RowsAffected == 0 {
		if before > 1 {
			return ErrStale
		}
		// A kind that was taken away goes on counting where it stopped.
		var last int
		if err := db.Model(&BuilderVersion{}).Select("COALESCE(MAX(version), 0)").Where("kind = ?", b.Kind).Scan(&last).Error; err != nil {
			return told(err)
		}
		b.Version = max(b.Version, last+1)
		if err := db.Create(b).Error; err != nil {
			return told(err)
		}
	}
	return told(db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&BuilderVersion{b.Kind, b.Version, b.Rules, b.ChangedAt, b.ChangedBy}).Error)
}

// DropBuilder takes a set of rules away; its versions stay.
func (s *Store) DropBuilder(ctx context.Context, kind string) (bool, error) {
	r := s.db.WithContext(ctx).Where("kind = ?", kind).Delete(&Builder{})
	return r.RowsAffected > 0, told(r.Error)
}

// BuilderVersions gives the versions of a kind, newest first.
func (s *Store) BuilderVersions(ctx context.Context, kind string) ([]BuilderVersion, error) {
	return list[BuilderVersion](s.db.WithContext(ctx).Where("kind = ?", kind).Order("version DESC"))
}

// SitesWith gives the sites delivered to a kind of builder.
func (s *Store) SitesWith(ctx context.Context, kind string) ([]Site, error) {
	return list[Site](s.db.WithContext(ctx).Where("builder = ?", kind).Order("name, id"))
}
