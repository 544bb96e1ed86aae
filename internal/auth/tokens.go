package auth

import (
	"context"
	"crypto/rand"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
)

const (
	tokenDays    = 90
	maxTokenDays = 365
)

// scopes are in the order of what they allow.
var scopes = []api.TokenScope{api.ScopeRead, api.ScopeWrite, api.ScopeAdmin}

// Tokens returns a person's own tokens, or everybody's for an admin.
func (c *Auth) Tokens(ctx context.Context, p *store.Person, everyone bool) ([]api.Token, error) {
	role := api.RoleViewer
	if everyone {
		role = api.RoleAdmin
	}
	if err := app.Require(p, role); err != nil {
		return nil, err
	}
	if everyone {
		tokens, err := accountdb.In(c.store).AllTokens(ctx)
		if err != nil {
			return nil, err
		}
		return c.tokenViews(ctx, tokens)
	}
	tokens, err := accountdb.In(c.store).Tokens(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	for i := range tokens {
		tokens[i].Person = *p
	}
	return c.tokenViews(ctx, tokens)
}

// AddToken makes a token; the secret is returned this once. A token makes only tokens of
// a narrower scope, which end no later than itself, and end with it.
func (c *Auth) AddToken(ctx context.Context, p *store.Person, n api.NewToken) (*api.AddedToken, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	days := tokenDays
	if n.Days != nil {
		days = *n.Days
	}
	if days < 1 || days > maxTokenDays {
		return nil, app.InvalidField("days", "bad-days", "A token lasts from 1 to %d days.", maxTokenDays)
	}
	scope := api.ScopeWrite
	if n.Scope != nil && *n.Scope != "" {
		scope = *n.Scope
	}
	if !scope.Valid() {
		return nil, app.InvalidField("scope", "bad-scope", "%q is not a scope; choose read, write or admin.", scope)
	}
	if scope == api.ScopeAdmin {
		if err := app.Require(p, api.RoleAdmin); err != nil {
			return nil, err
		}
	}
	t := store.Token{PersonID: p.ID, Name: name, Scope: string(scope), CreatedAt: c.now(), ExpiresAt: c.now().Add(time.Duration(days) * 24 * time.Hour), Person: *p}
	if by := p.Token; by != nil {
		if slices.Index(scopes, scope) >= slices.Index(scopes, api.TokenScope(by.Scope)) {
			return nil, needsPassword("A token with the scope %s makes only tokens with a narrower scope, not %s.", by.Scope, scope)
		}
		if t.ExpiresAt.After(by.ExpiresAt) {
			if n.Days != nil {
				return nil, needsPassword("A token cannot create a token that is valid longer; this one ends on %s. Choose fewer days, or sign in with your password.", by.ExpiresAt.Format("2 January 2006"))
			}
			t.ExpiresAt = by.ExpiresAt
		}
		t.ParentID = &by.ID
	}
	if err := tokenLimits(ctx, c, p, &t, n); err != nil {
		return nil, err
	}
	secret := secretPrefix + rand.Text() + rand.Text()
	t.Hash = SecretHash(secret)
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		t.ID = 0
		if err := accountdb.In(tx).AddToken(ctx, &t); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "created token", name, strings.Trim(string(scope)+", until "+t.ExpiresAt.Format(time.DateOnly)+", "+sees(t.Limited, t.Clients, t.Prices, t.Documents, nil), ", "))
	})
	if err != nil {
		return nil, err
	}
	return &api.AddedToken{Token: tokenView(t), Secret: secret}, nil
}

// RevokeToken ends one of a person's own tokens, or anybody's for an admin, with
// those that were made with it.
func (c *Auth) RevokeToken(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return err
	}
	return app.Explain(c.store.Tx(ctx, func(tx *store.Store) error {
		t, err := accountdb.In(tx).Token(ctx, id)
		if err != nil {
			return err
		}
		if t.PersonID != p.ID && app.Require(p, api.RoleAdmin) != nil {
			return store.ErrNotFound // of others, only admins know
		}
		if err := accountdb.In(tx).DeleteToken(ctx, id); err != nil {
			return err
		}
		of := ""
		if t.PersonID != p.ID {
			of = "of " + t.Person.Name
		}
		return c.note(ctx, tx, p, "revoked token", t.Name, of)
	}), "token")
}

// needsPassword refuses what a token may not do for its person, who may do it when signed
// in with the password.
func needsPassword(format string, args ...any) error {
	return app.Problem(app.Forbidden, "password-needed", format, args...)
}

// tokenViews shows tokens with the clients that they are limited to.
func (c *Auth) tokenViews(ctx context.Context, tokens []store.Token) ([]api.Token, error) {
	limited, err := accountdb.In(c.store).ClientsOfTokens(ctx, app.Each(tokens, func(t store.Token) int64 { return t.ID }))
	for i := range tokens {
		tokens[i].Clients = limited[tokens[i].ID]
	}
	return app.Each(tokens, tokenView), err
}

func tokenView(t store.Token) api.Token {
	return api.Token{
		Id: t.ID, Name: t.Name, Scope: api.TokenScope(t.Scope), Person: api.Ref{Id: t.PersonID, Name: t.Person.Name},
		CreatedAt: t.CreatedAt, ExpiresAt: t.ExpiresAt, LastUsedAt: t.LastUsedAt,
		Limited: t.Limited, Clients: app.Each(t.Clients, app.ClientRef), Prices: t.Prices, Documents: t.Documents,
	}
}
