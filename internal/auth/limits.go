package auth

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"

	openapi "github.com/oapi-codegen/runtime/types"
)

// narrowed gives a person no more than the token that it acts through has: of the clients
// that both are limited to, and with the rights that both have.
func narrowed(p *store.Person, t *store.Token) {
	p.Prices, p.Documents = p.Prices && t.Prices, p.Documents && t.Documents
	switch {
	case !t.Limited:
	case !p.Limited:
		p.Limited, p.Clients = true, t.Clients
	default:
		p.Clients = slices.DeleteFunc(slices.Clone(p.Clients), func(c store.Client) bool {
			return !slices.ContainsFunc(t.Clients, func(o store.Client) bool { return o.ID == c.ID })
		})
	}
}

// over says whether the last day of an account has passed.
func over(p *store.Person, now time.Time) bool { return p.EndsAt != nil && !now.Before(*p.EndsAt) }

// endOf returns when an account with a last day ends: with that day, in UTC.
func endOf(day openapi.Date) *time.Time {
	end := day.UTC().Truncate(24*time.Hour).AddDate(0, 0, 1)
	return &end
}

// lastDay returns the last day of an account, nil where it has none.
func lastDay(p store.Person) *openapi.Date {
	if p.EndsAt == nil {
		return nil
	}
	return &openapi.Date{Time: p.EndsAt.Add(-time.Nanosecond).UTC().Truncate(24 * time.Hour)}
}

// clientsOf returns clients by their numbers; each must be there.
func clientsOf(ctx context.Context, s *store.Store, ids []int64) ([]store.Client, error) {
	out := []store.Client{}
	for _, id := range ids {
		if slices.ContainsFunc(out, func(c store.Client) bool { return c.ID == id }) {
			continue
		}
		c, err := app.ClientOf(ctx, s, "clients", id)
		if err != nil {
			return nil, err
		}
		out = append(out, *c)
	}
	return out, nil
}

// limits sets what a new person sees: all clients, or those given.
func limits(ctx context.Context, c *Auth, to *store.Person, n api.NewPerson) error {
	if n.Clients != nil {
		found, err := clientsOf(ctx, c.store, *n.Clients)
		if err != nil {
			return err
		}
		to.Limited, to.Clients = true, found
	}
	to.Prices, to.Documents = !to.Limited, !to.Limited
	app.SetTo(&to.Prices, n.Prices)
	app.SetTo(&to.Documents, n.Documents)
	if n.EndsOn != nil {
		to.EndsAt = endOf(*n.EndsOn)
	}
	return fits(c, to)
}

// changeLimits sets what a change says of a person's limits.
func changeLimits(ctx context.Context, c *Auth, tx *store.Store, to *store.Person, change api.PersonChange) error {
	all := change.AllClients != nil && *change.AllClients
	noEnd := change.NoEnd != nil && *change.NoEnd
	if all && change.Clients != nil {
		return app.InvalidField("allClients", "contradiction", "Give clients to limit the person to, or lift the limit, not both.")
	}
	if noEnd && change.EndsOn != nil {
		return app.InvalidField("noEnd", "contradiction", "Give the account a last day, or none, not both.")
	}
	switch {
	case all:
		to.Limited, to.Clients = false, nil
	case change.Clients != nil:
		found, err := clientsOf(ctx, tx, *change.Clients)
		if err != nil {
			return err
		}
		to.Limited, to.Clients = true, found
	}
	app.SetTo(&to.Prices, change.Prices)
	app.SetTo(&to.Documents, change.Documents)
	switch {
	case noEnd:
		to.EndsAt = nil
	case change.EndsOn != nil:
		to.EndsAt = endOf(*change.EndsOn)
	}
	return fits(c, to)
}

// fits refuses limits that a role cannot have.
func fits(c *Auth, p *store.Person) error {
	switch api.Role(p.Role) {
	case api.RoleAdmin:
		if p.Limited || !p.Prices || !p.Documents {
			return app.InvalidField("role", "admin-limited", "An admin sees everything. Give the person another role, or no limits.")
		}
		if p.EndsAt != nil {
			return app.InvalidField("endsOn", "admin-ends", "An admin's account has no last day. Close it when it is not needed any more.")
		}
	case api.RoleGuest:
		if !p.Limited || len(p.Clients) != 1 || p.Clients[0].Studio {
			return app.InvalidField("clients", "guest-client", "A guest belongs to one client. Choose which.")
		}
		if p.Prices || p.Documents {
			return app.InvalidField("prices", "guest-rights", "A guest sees neither prices nor documents of licenses.")
		}
	}
	if over(p, c.now()) {
		return app.InvalidField("endsOn", "ended", "The last day of the account is in the past. Choose a later one, or close the account.")
	}
	return nil
}

// sees writes what a person or a token sees, for the activity.
func sees(limited bool, clients []store.Client, prices, documents bool, ends *time.Time) string {
	var said []string
	if limited {
		names := strings.Join(app.Each(clients, func(c store.Client) string { return c.Name }), ", ")
		if names == "" {
			names = "no client"
		}
		said = append(said, "only "+names)
	}
	if !prices {
		said = append(said, "no prices")
	}
	if !documents {
		said = append(said, "no documents")
	}
	if ends != nil {
		said = append(said, "until "+ends.Add(-time.Nanosecond).Format(time.DateOnly))
	}
	return strings.Join(said, ", ")
}

func seenBy(p *store.Person) string {
	return sees(p.Limited, p.Clients, p.Prices, p.Documents, p.EndsAt)
}

func sameLimits(a, b *store.Person) bool { return seenBy(a) == seenBy(b) }

// tokenLimits sets what a new token sees: no more than the person, or the token, that
// makes it.
func tokenLimits(ctx context.Context, c *Auth, p *store.Person, t *store.Token, n api.NewToken) error {
	t.Prices, t.Documents = p.Prices, p.Documents
	if n.Prices != nil && !*n.Prices {
		t.Prices = false
	}
	if n.Documents != nil && !*n.Documents {
		t.Documents = false
	}
	if n.Clients == nil {
		if by := p.Token; by != nil && by.Limited {
			t.Limited, t.Clients = true, p.Clients
		}
		return nil
	}
	found, err := clientsOf(ctx, c.store, *n.Clients)
	if err != nil {
		return err
	}
	for _, one := range found {
		if p.Limited && !slices.ContainsFunc(p.Clients, func(c store.Client) bool { return c.ID == one.ID }) {
			return app.InvalidField("clients", "unknown-client", "There is no client number %d.", one.ID)
		}
	}
	if len(found) == 0 {
		return app.InvalidField("clients", "missing-value", "Give the clients that the token is limited to, or leave them out.")
	}
	t.Limited, t.Clients = true, found
	return nil
}

// Invitation is the e-mail that lets somebody in.
func invitation(by *store.Person, to *store.Person, studio, address, secret string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Hello %s,\n\n%s invites you to the font catalog of %s", to.Name, by.Name, studio)
	if to.Limited && len(to.Clients) == 1 {
		fmt.Fprintf(&b, ", for %s", to.Clients[0].Name)
	}
	b.WriteString(".\n\n")
	if address != "" {
		fmt.Fprintf(&b, "Sign in at   %s/\n", address)
	}
	fmt.Fprintf(&b, "E-mail       %s\nPassword     %s\n\n", to.Email, secret)
	fmt.Fprintf(&b, "The password works once, until %s; you choose your own after that.\n", to.PasswordEnds.Format("2 January 2006"))
	if to.EndsAt != nil {
		fmt.Fprintf(&b, "The account ends with %s.\n", to.EndsAt.Add(-time.Nanosecond).Format("2 January 2006"))
	}
	return b.String()
}

// withLimits reads what a person is limited to.
func (c *Auth) withLimits(ctx context.Context, p *store.Person) (*store.Person, error) {
	if !p.Limited {
		return p, nil
	}
	found, err := accountdb.In(c.store).ClientsOfPeople(ctx, []int64{p.ID})
	p.Clients = found[p.ID]
	return p, err
}
