package store

import "context"

// Client is a brand or organisation; one is the studio itself.
type Client struct {
	ID     int64
	Name   string
	Studio bool
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
