package library

import (
	"context"
	"errors"
	"fmt"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// Clients returns the studio and its clients.
func (lib *Library) Clients(ctx context.Context, p *store.Person) ([]api.StudioClient, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	clients, err := lib.store.Clients(ctx)
	return app.Each(clients, clientView), err
}

// AddClient adds a client.
func (lib *Library) AddClient(ctx context.Context, p *store.Person, name string) (*api.StudioClient, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", name)
	if err != nil {
		return nil, err
	}
	added := store.Client{Name: name}
	err = lib.store.Tx(ctx, func(tx *store.Store) error {
		added.ID = 0
		if err := tx.AddClient(ctx, &added); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "added client", name, "")
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "There is a client named %q already.", name)
	}
	if err != nil {
		return nil, err
	}
	v := clientView(added)
	return &v, nil
}

// RenameClient renames a client; only admins rename the studio itself. Its families are listed
// anew in the background, so that they are found by the new name.
func RenameClient(ctx context.Context, lib *Library, p *store.Person, id int64, name string) (*api.StudioClient, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", name)
	if err != nil {
		return nil, err
	}
	c, err := lib.store.Client(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "client")
	}
	if c.Studio {
		if err := app.Require(p, api.RoleAdmin); err != nil {
			return nil, err
		}
	}
	was := c.Name
	err = lib.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.RenameClient(ctx, id, name, IndexVersion-1); err != nil {
			return err
		}
		job := work.Job{Kind: jobIndex, Key: fmt.Sprintf("client %d at %d", id, lib.now().UnixNano()), Title: "Families of " + name + " listed for search", Payload: struct{}{}}
		if err := lib.queue.Add(ctx, tx, job); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "renamed client", name, "was "+was)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "There is a client named %q already.", name)
	}
	if err != nil {
		return nil, err
	}
	c.Name = name
	v := clientView(*c)
	return &v, nil
}

func clientView(c store.Client) api.StudioClient {
	v := api.StudioClient{Id: c.ID, Name: c.Name, Studio: c.Studio, ArchivedAt: c.ArchivedAt, ClosedAt: c.ClosedAt}
	if c.ClosedAt != nil {
		v.ClosedBy = &c.ClosedBy
	}
	return v
}
