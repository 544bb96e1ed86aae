package auth

import (
	"context"
	"errors"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
)

// Arrival is somebody whom a sign-on provider has sent, with what they may do.
type Arrival struct {
	Subject     string // stands for who it is at the provider
	Name, Email string
	Role        api.Role
	Limited     bool
	Clients     []store.Client
}

// Arrive returns the account of somebody who arrives, which is made at the first time and
// follows what the provider says at each. An account with the same address that was made here
// becomes theirs: whoever runs the service trusts the provider with addresses.
func (c *Auth) Arrive(ctx context.Context, a Arrival) (*store.Person, error) {
	var person *store.Person
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		p, err := accountdb.In(tx).PersonBySubject(ctx, a.Subject)
		if errors.Is(err, store.ErrNotFound) {
			p, err = accountdb.In(tx).PersonByEmail(ctx, a.Email)
			if err == nil && p.Subject != nil {
				return app.Problem(app.Conflict, "address-taken", "The address %s belongs to another account of the sign-on provider. Ask an admin of the studio.", a.Email)
			}
		}
		fresh := errors.Is(err, store.ErrNotFound)
		switch {
		case fresh:
			p = &store.Person{CreatedAt: c.now(), Prices: !a.Limited && a.Role != api.RoleGuest, Documents: !a.Limited && a.Role != api.RoleGuest}
		case err != nil:
			return err
		case p.ClosedAt != nil:
			return app.Problem(app.Unauthenticated, "account-closed", "Your account is closed. Ask an admin of the studio.")
		case over(p, c.now()):
			return app.Problem(app.Unauthenticated, "account-ended", "This account ended on %s. Ask the studio to prolong it.", lastDay(*p).Format("2 January 2006"))
		default:
			if p, err = c.withLimits(ctx, p); err != nil {
				return err
			}
		}
		was := *p
		name, err := app.RequiredText("name", app.Shorten(a.Name, 200))
		if err != nil {
			return err
		}
		p.Name, p.Email, p.Role, p.Subject = name, strings.TrimSpace(a.Email), string(a.Role), &a.Subject
		p.Limited, p.Clients = a.Limited, a.Clients
		switch a.Role {
		case api.RoleAdmin:
			p.Prices, p.Documents, p.EndsAt = true, true, nil
		case api.RoleGuest:
			p.Prices, p.Documents = false, false
		}
		person = p
		if fresh {
			if err := accountdb.In(tx).AddPerson(ctx, p); err != nil {
				return err
			}
			return c.note(ctx, tx, p, "added person", p.Name, strings.Trim("by sign-on, "+string(a.Role)+", "+seenBy(p), ", "))
		}
		if was.Role == string(api.RoleAdmin) && p.Role != was.Role {
			admins, err := accountdb.In(tx).OpenAdmins(ctx)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(admins, func(o store.Person) bool { return o.ID != p.ID }) {
				p.Role, p.Limited, p.Clients = was.Role, false, nil // there is always an admin
			}
		}
		if was.Name == p.Name && was.Email == p.Email && was.Role == p.Role && was.Subject != nil && sameLimits(&was, p) {
			return nil
		}
		if err := accountdb.In(tx).Follow(ctx, p); err != nil {
			return err
		}
		if !sameLimits(&was, p) {
			if err := accountdb.In(tx).SetLimits(ctx, p); err != nil {
				return err
			}
			p.Turn++
		}
		return c.note(ctx, tx, p, "changed person", p.Name, strings.Trim("by sign-on, "+accountChanges(&was, p)+", "+seenBy(p), ", "))
	})
	return person, err
}
