package library

import (
	"context"
	"errors"
	"fmt"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/librarydb"
)

// CloseClient closes a client once it was archived: its families are retired, its sites get no
// packs, nothing of it is due, and nothing is added to it until it is opened again. What is
// published, live stylesheets among it, goes on.
func CloseClient(ctx context.Context, c *Library, p *store.Person, id int64) (*api.StudioClient, error) {
	return c.setClosed(ctx, p, id, true)
}

// OpenClient opens a client that was closed: its families and sites are as they were.
func OpenClient(ctx context.Context, c *Library, p *store.Person, id int64) (*api.StudioClient, error) {
	return c.setClosed(ctx, p, id, false)
}

func (lib *Library) setClosed(ctx context.Context, p *store.Person, id int64, closed bool) (*api.StudioClient, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	err := lib.store.Tx(ctx, func(tx *store.Store) error {
		client, err := tx.Client(ctx, id)
		if err != nil {
			return app.Explain(err, "client")
		}
		now := lib.now()
		at, action := &now, "closed client"
		switch {
		case client.Studio:
			return app.Problem(app.Conflict, "the-studio", "%s is the studio itself and cannot be closed.", client.Name)
		case closed && client.ArchivedAt == nil:
			return app.Problem(app.Conflict, "not-archived", "%s was never archived. Make its archive first, so that nothing of it is lost: `sparecrate client archive`, or Archive on the page Access.", client.Name)
		case !closed:
			at, action = nil, "reopened client"
		}
		if err := tx.SetClosed(ctx, id, at, p.Name); errors.Is(err, store.ErrStale) {
			return app.Problem(app.Conflict, "closed-already", "%s is %s already.", client.Name, map[bool]string{true: "closed", false: "open"}[closed])
		} else if err != nil {
			return err
		}
		families, err := librarydb.In(tx).SetAsideWith(ctx, id, closed, now, p.Name)
		if err != nil {
			return err
		}
		return lib.note(ctx, tx, p, action, client.Name, fmt.Sprintf("families: %d", len(families)))
	})
	if err != nil {
		return nil, err
	}
	client, err := lib.store.Client(ctx, id)
	if err != nil {
		return nil, err
	}
	v := clientView(*client)
	return &v, nil
}
