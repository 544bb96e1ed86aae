package store

import (
	"context"
	"time"
)

// Client is a brand or organisation; one is the studio itself.
type Client struct {
	ID     int64
	Name   string
	Studio bool
	// ArchivedAt is when its last archive was made. A closed client takes part in nothing until
	// it is opened.
	ArchivedAt, ClosedAt *time.Time
	ClosedBy             string
}

// AddClient adds a client; ErrTaken where the name is used.
func (s *Store) AddClient(ctx context.Context, c *Client) error { return Add(ctx, s, c) }

// Clients returns all clients, the studio first, then by name.
func (s *Store) Clients(ctx context.Context) ([]Client, error) {
	return List[Client](s.On(ctx).Order("studio DESC, name, id"))
}

// Client returns a client by its number.
func (s *Store) Client(ctx context.Context, id int64) (*Client, error) {
	return First[Client](s.On(ctx).Where("id = ?", id))
}

// ClientByName returns a client by its name.
func (s *Store) ClientByName(ctx context.Context, name string) (*Client, error) {
	return First[Client](s.On(ctx).Where("name = ?", name))
}

// Studio returns the studio itself.
func (s *Store) Studio(ctx context.Context) (*Client, error) {
	return First[Client](s.On(ctx).Where("studio"))
}

// RenameClient renames a client; ErrTaken where another has the name. Its families count as
// listed by an older version of the catalog, indexer, so that they are listed anew.
func (s *Store) RenameClient(ctx context.Context, id int64, name string, indexer int) error {
	if err := s.On(ctx).Model(&Client{}).Where("id = ?", id).Update("name", name).Error; err != nil {
		return Told(err)
	}
	return Told(s.On(ctx).Model(&Family{}).Where("client_id = ?", id).Update("indexer", indexer).Error)
}

// MarkArchived notes when an archive of a client was made.
func (s *Store) MarkArchived(ctx context.Context, id int64, at time.Time) error {
	return Told(s.On(ctx).Model(&Client{}).Where("id = ?", id).Update("archived_at", at).Error)
}

// SetClosed closes a client, or opens it with no time; ErrStale where it is so already.
func (s *Store) SetClosed(ctx context.Context, id int64, at *time.Time, by string) error {
	was := "closed_at IS NULL"
	if at == nil {
		was = "closed_at IS NOT NULL"
	}
	r := s.On(ctx).Model(&Client{}).Where("id = ? AND "+was, id).Updates(map[string]any{"closed_at": at, "closed_by": by})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrStale
	}
	return Told(r.Error)
}
