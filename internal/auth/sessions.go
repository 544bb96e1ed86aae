package auth

import (
	"context"
	"errors"
	"fmt"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
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

// NeedsFactor says whether the studio asks somebody for a second factor.
func (c *Auth) NeedsFactor(p *store.Person) bool {
	switch c.factor {
	case app.FactorForAll:
		return true
	case app.FactorForAdmins:
		return p.Role == string(api.RoleAdmin)
	}
	return false
}

// MayTryCode counts a try of a code and refuses one too many.
func (c *Auth) MayTryCode(ctx context.Context, person int64) error {
	return c.mayTry(ctx, "Too many codes were tried.", codeTries(person))
}

// CodeTaken forgets the tries of before a right code.
func (c *Auth) CodeTaken(ctx context.Context, person int64) error {
	return accountdb.In(c.store).Succeeded(ctx, codeTries(person).subject)
}

func codeTries(person int64) attempt {
	return attempt{SecretHash(fmt.Sprintf("code of %d", person)), pairTries, pairWindow}
}

// MayTryFrom counts a try to come in from a network address and refuses one too many.
func (c *Auth) MayTryFrom(ctx context.Context, place string) error {
	place = SecretHash("place " + PlaceOf(place))
	return c.mayTry(ctx, "Too many attempts to sign in.", attempt{SecretHash("passkey from " + place), placeTries, placeWindow})
}

// Open returns somebody whose account lets in.
func (c *Auth) Open(ctx context.Context, id int64) (*store.Person, error) {
	p, err := accountdb.In(c.store).Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || p != nil && (p.ClosedAt != nil || over(p, c.now())) {
		return nil, app.Problem(app.Unauthenticated, "wrong-sign-in", "This account is not open.")
	}
	return p, err
}

// EndSessionsOf ends all sessions of somebody.
func (c *Auth) EndSessionsOf(ctx context.Context, tx *store.Store, id int64) (*store.Person, error) {
	p, err := accountdb.In(tx).Person(ctx, id)
	if err != nil {
		return nil, err
	}
	return p, accountdb.In(tx).NextTurn(ctx, id)
}

// ConfirmPassword checks the own password once more, before something that matters.
func (c *Auth) ConfirmPassword(ctx context.Context, p *store.Person, password string) error {
	if p == nil {
		return app.Require(p, api.RoleViewer)
	}
	if p.Token != nil {
		return needsPassword("A token cannot confirm the password. Sign in with the password, in the console.")
	}
	return c.ownPassword(ctx, p, "password", password)
}

// ownPassword checks somebody's own password, given in a field.
func (c *Auth) ownPassword(ctx context.Context, p *store.Person, field, password string) error {
	tries := attempt{SecretHash(fmt.Sprintf("password of %d", p.ID)), pairTries, pairWindow}
	if err := c.mayTry(ctx, "Too many attempts with a wrong password.", tries); err != nil {
		return err
	}
	right, err := isSecret(ctx, password, p.PasswordHash)
	if err != nil {
		return err
	}
	if !right {
		return app.InvalidField(field, "wrong-password", "The current password is wrong.")
	}
	return accountdb.In(c.store).Succeeded(ctx, tries.subject)
}
