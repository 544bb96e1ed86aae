package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Shortlist is a named, ordered pick of families for a client.
type Shortlist struct {
	ID, ClientID int64
	Client       Client
	Name, Note   string
	Version      int
	CreatedAt    time.Time
	CreatedBy    string
	Families     []ShortlistFamily
	Shares       []Share
}

// ShortlistFamily is a family's place on a shortlist.
type ShortlistFamily struct {
	ShortlistID int64 `gorm:"primaryKey"`
	FamilyID    int64 `gorm:"primaryKey"`
	Place       int
	Family      Family
}

// Share is a link by which somebody without an account sees a shortlist.
type Share struct {
	ID, ShortlistID int64
	Hash            string // of its secret
	Words           string // what the families are set in; empty for their own samples
	EndsAt          time.Time
	WithdrawnAt     *time.Time
	Views           int
	ViewedAt        *time.Time
	CreatedAt       time.Time
	CreatedBy       string
}

func (s *Store) shortlists(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Preload("Client").Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("place") }).Preload("Families.Family").
		Preload("Shares", func(q *gorm.DB) *gorm.DB { return q.Order("id DESC") })
}

// Shortlists gives the shortlists of a client, of all for 0, by name.
func (s *Store) Shortlists(ctx context.Context, client int64, p Page) ([]Shortlist, error) {
	q := p.byName(s.shortlists(ctx), "shortlists")
	if client != 0 {
		q = q.Where("client_id = ?", client)
	}
	return list[Shortlist](q)
}

// Shortlist gives a shortlist with its families in order.
func (s *Store) Shortlist(ctx context.Context, id int64) (*Shortlist, error) {
	return first[Shortlist](s.shortlists(ctx).Where("id = ?", id))
}

// AddShortlist adds a shortlist with its families; ErrTaken where the client has
// one of that name.
func (s *Store) AddShortlist(ctx context.Context, l *Shortlist, families []int64) error {
	if err := s.db.WithContext(ctx).Omit(clause.Associations).Create(l).Error; err != nil {
		return told(err)
	}
	return s.placeFamilies(ctx, l.ID, families)
}

// ChangeShortlist writes a shortlist if the version still stands, and its families
// in order where they are given.
func (s *Store) ChangeShortlist(ctx context.Context, l *Shortlist, families []int64) error {
	if err := s.change(ctx, &Shortlist{}, l.ID, l.Version, map[string]any{"name": l.Name, "note": l.Note}); err != nil || families == nil {
		return err
	}
	if err := s.db.WithContext(ctx).Where("shortlist_id = ?", l.ID).Delete(&ShortlistFamily{}).Error; err != nil {
		return told(err)
	}
	return s.placeFamilies(ctx, l.ID, families)
}

func (s *Store) placeFamilies(ctx context.Context, id int64, families []int64) error {
	rows := make([]ShortlistFamily, len(families))
	for i, f := range families {
		rows[i] = ShortlistFamily{ShortlistID: id, FamilyID: f, Place: i}
	}
	if len(rows) == 0 {
		return nil
	}
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(&rows).Error)
}

// DropShortlist ends a shortlist and its links.
func (s *Store) DropShortlist(ctx context.Context, id int64) error {
	for _, q := range []string{"DELETE FROM shares WHERE shortlist_id = @from", "DELETE FROM shortlist_families WHERE shortlist_id = @from", "DELETE FROM shortlists WHERE id = @from"} {
		if err := s.exec(ctx, q, id, 0); err != nil {
			return err
		}
	}
	return nil
}

// AddShare adds a link.
func (s *Store) AddShare(ctx context.Context, h *Share) error { return add(s, ctx, h) }

// ShareByHash finds a link by its secret's hash.
func (s *Store) ShareByHash(ctx context.Context, hash string) (*Share, error) {
	return first[Share](s.db.WithContext(ctx).Where("hash = ?", hash))
}

// WithdrawShare ends a link of a shortlist.
func (s *Store) WithdrawShare(ctx context.Context, list, id int64, at time.Time) error {
	r := s.db.WithContext(ctx).Model(&Share{}).Where("id = ? AND shortlist_id = ? AND withdrawn_at IS NULL", id, list).Update("withdrawn_at", at)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return told(r.Error)
}

// ShareViewed counts that somebody opened a link.
func (s *Store) ShareViewed(ctx context.Context, id int64, at time.Time) error {
	return told(s.db.WithContext(ctx).Exec("UPDATE shares SET views = views + 1, viewed_at = ? WHERE id = ?", at, id).Error)
}
