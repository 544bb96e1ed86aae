package auth

import (
	"context"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sessiondb"
)

// Sessions returns where a person is signed in, or where everybody is for an admin. current
// is what the session that asks is kept under.
func (c *Auth) Sessions(ctx context.Context, p *store.Person, current string, everyone bool) ([]api.SignedIn, error) {
	of := p.ID
	if everyone {
		if err := app.Require(p, api.RoleAdmin); err != nil {
			return nil, err
		}
		of = 0
	}
	found, err := sessiondb.In(c.store).Sessions(ctx, of, c.now())
	if err != nil {
		return nil, err
	}
	return app.Each(found, func(s store.Session) api.SignedIn {
		return api.SignedIn{
			Id: s.ID, Person: api.Ref{Id: s.PersonID, Name: s.Person.Name}, StartedAt: s.StartedAt, SeenAt: s.SeenAt, EndsAt: s.Expiry,
			Browser: s.Browser, Address: s.Address, Current: s.Token == current,
		}
	}), nil
}

// EndSession ends a session of a person's own, or anybody's for an admin.
func (c *Auth) EndSession(ctx context.Context, p *store.Person, id int64) error {
	s, err := sessiondb.In(c.store).SessionByNumber(ctx, id)
	if err == nil && s.PersonID != p.ID && app.Require(p, api.RoleAdmin) != nil {
		err = store.ErrNotFound // whose it is, is nobody else's business
	}
	if err != nil {
		return app.Explain(err, "session")
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		if err := sessiondb.In(tx).DeleteSession(ctx, s.Token, c.now()); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "ended session", s.Person.Name, s.Browser)
	})
}

// SessionNumber returns the number that people know a session by; 0 where there is none yet.
func (c *Auth) SessionNumber(ctx context.Context, key string) int64 {
	if key == "" {
		return 0
	}
	s, err := sessiondb.In(c.store).Session(ctx, key, c.now())
	if err != nil {
		return 0
	}
	return s.ID
}
