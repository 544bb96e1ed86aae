package shortlistdb

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

func (s Queries) shortlists(ctx context.Context) *gorm.DB {
	return s.On(ctx).Preload("Client").Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("place") }).Preload("Families.Family").
		Preload("Shares", func(q *gorm.DB) *gorm.DB { return q.Order("id DESC") })
}

// Shortlists returns the shortlists of a client, of all for 0, by name.
func (s Queries) Shortlists(ctx context.Context, client int64, p store.Page) ([]store.Shortlist, error) {
	q := p.ByName(s.shortlists(ctx), "shortlists")
	if client != 0 {
		q = q.Where("client_id = ?", client)
	}
	return store.List[store.Shortlist](q)
}

// Shortlist returns a shortlist with its families in order.
func (s Queries) Shortlist(ctx context.Context, id int64) (*store.Shortlist, error) {
	return store.First[store.Shortlist](s.shortlists(ctx).Where("id = ?", id))
}

// AddShortlist adds a shortlist with its families; ErrTaken where the client has
// one of that name.
func (s Queries) AddShortlist(ctx context.Context, l *store.Shortlist, families []int64) error {
	if err := s.On(ctx).Omit(clause.Associations).Create(l).Error; err != nil {
		return store.Told(err)
	}
	return s.placeFamilies(ctx, l.ID, families)
}

// ChangeShortlist writes a shortlist if the version still stands, and its families
// in order where they are given.
func (s Queries) ChangeShortlist(ctx context.Context, l *store.Shortlist, families []int64) error {
	if err := s.Change(ctx, &store.Shortlist{}, l.ID, l.Version, map[string]any{"name": l.Name, "note": l.Note}); err != nil || families == nil {
		return err
	}
	if err := s.On(ctx).Where("shortlist_id = ?", l.ID).Delete(&store.ShortlistFamily{}).Error; err != nil {
		return store.Told(err)
	}
	return s.placeFamilies(ctx, l.ID, families)
}

func (s Queries) placeFamilies(ctx context.Context, id int64, families []int64) error {
	rows := make([]store.ShortlistFamily, len(families))
	for i, f := range families {
		rows[i] = store.ShortlistFamily{ShortlistID: id, FamilyID: f, Place: i}
	}
	if len(rows) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(&rows).Error)
}

// DeleteShortlist ends a shortlist and its links.
func (s Queries) DeleteShortlist(ctx context.Context, id int64) error {
	for _, q := range []string{"DELETE FROM shares WHERE shortlist_id = @from", "DELETE FROM shortlist_families WHERE shortlist_id = @from", "DELETE FROM shortlists WHERE id = @from"} {
		if err := s.Exec(ctx, q, id, 0); err != nil {
			return err
		}
	}
	return nil
}

// AddShare adds a link.
func (s Queries) AddShare(ctx context.Context, h *store.Share) error {
	return store.Add(ctx, s.Store, h)
}

// ShareByHash finds a link by its secret's hash.
func (s Queries) ShareByHash(ctx context.Context, hash string) (*store.Share, error) {
	return store.First[store.Share](s.On(ctx).Where("hash = ?", hash))
}

// RevokeShare ends a link of a shortlist.
func (s Queries) RevokeShare(ctx context.Context, list, id int64, at time.Time) error {
	r := s.On(ctx).Model(&store.Share{}).Where("id = ? AND shortlist_id = ? AND revoked_at IS NULL", id, list).Update("revoked_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}

// ShareViewed counts that somebody opened a link.
func (s Queries) ShareViewed(ctx context.Context, id int64, at time.Time) error {
	return store.Told(s.On(ctx).Exec("UPDATE shares SET views = views + 1, viewed_at = ? WHERE id = ?", at, id).Error)
}
