package catalog

import (
	"context"
	"errors"
	"strconv"

	"sparecrate/api"
	"sparecrate/internal/store"
)

// Clients gives the studio and its clients.
func (c *Catalog) Clients(ctx context.Context, p *store.Person) ([]api.StudioClient, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	clients, err := c.store.Clients(ctx)
	return each(clients, clientView), err
}

// AddClient adds a client.
func (c *Catalog) AddClient(ctx context.Context, p *store.Person, name string) (*api.StudioClient, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := required("name", name)
	if err != nil {
		return nil, err
	}
	added := store.Client{Name: name}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		added.ID = 0
		if err := tx.AddClient(ctx, &added); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "added client", name, "")
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, invalid("name", "name-taken", "There is a client named %q already.", name)
	}
	if err != nil {
		return nil, err
	}
	v := clientView(added)
	return &v, nil
}

// findClient gives a client by number or name; the studio for an empty text.
func (c *Catalog) findClient(ctx context.Context, text string) (*store.Client, error) {
	if text == "" {
		return c.store.Studio(ctx)
	}
	found, err := c.store.ClientByName(ctx, text)
	if errors.Is(err, store.ErrNotFound) {
		if id, bad := strconv.ParseInt(text, 10, 64); bad == nil {
			found, err = c.store.Client(ctx, id)
		}
	}
	if errors.Is(err, store.ErrNotFound) {
		return nil, invalid("client", "unknown-client", "There is no client %q. Add it first, or correct the name.", text)
	}
	return found, err
}

// client gives a client by number, for a field of something else.
func (c *Catalog) client(ctx context.Context, field string, id int64) (*store.Client, error) {
	if id == 0 {
		return nil, invalid(field, "missing-client", "Say which client this is for.")
	}
	found, err := c.store.Client(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, invalid(field, "unknown-client", "There is no client with the number %d.", id)
	}
	return found, err
}

func clientView(c store.Client) api.StudioClient {
	return api.StudioClient{Id: c.ID, Name: c.Name, Studio: c.Studio}
}

func clientRef(c store.Client) api.Ref { return api.Ref{Id: c.ID, Name: c.Name} }

// Activity gives who did what, newest first.
func (c *Catalog) Activity(ctx context.Context, p *store.Person, cursor *string, limit *int) (*api.ActivityPage, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := page(cursor, limit)
	if err != nil {
		return nil, err
	}
	items, err := c.store.Activities(ctx, at)
	if err != nil {
		return nil, err
	}
	items, next := turn(items, at, func(a store.Activity) (string, int64) { return "", a.ID })
	return &api.ActivityPage{Next: next, Items: each(items, func(a store.Activity) api.Activity {
		return api.Activity{Id: a.ID, At: a.At, Person: a.Person, Action: a.Action, Subject: a.Subject, Detail: a.Detail}
	})}, nil
}
