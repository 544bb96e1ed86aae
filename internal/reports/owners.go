package reports

import (
	"context"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/reportdb"
)

// Whom the due list can be narrowed to besides an e-mail address.
const (
	ownerMe   = "me"
	ownerNone = "none"
)

// owners are to whom items are assigned, and whose are asked for: an e-mail address, ownerNone,
// or anybody's for none.
type owners struct {
	byItem map[string]store.DueOwner
	wanted string
}

// ownersOf reads them. Asked may be for an e-mail address, "me" or "none"; nil for all.
func ownersOf(ctx context.Context, r *Reports, p *store.Person, asked *string) (*owners, error) {
	found, err := reportdb.In(r.store).DueOwners(ctx)
	if err != nil {
		return nil, err
	}
	all := &owners{byItem: make(map[string]store.DueOwner, len(found))}
	for _, o := range found {
		all.byItem[o.Item] = o
	}
	if asked != nil {
		all.wanted = strings.ToLower(strings.TrimSpace(*asked))
	}
	if all.wanted == ownerMe {
		all.wanted = strings.ToLower(p.Email)
	}
	return all, r.knownOwner(ctx, p, all.wanted)
}

// of returns to whom an item is assigned, nil for nobody, and whether it is asked for.
func (all *owners) of(key string) (*api.Ref, bool) {
	o, assigned := all.byItem[key]
	if !assigned {
		return nil, all.wanted == "" || all.wanted == ownerNone
	}
	return &api.Ref{Id: o.PersonID, Name: o.Person.Name}, all.wanted == "" || all.wanted == strings.ToLower(o.Person.Email)
}

// knownOwner refuses an address that nothing can be assigned to. Viewers do not learn who has
// an account; to them nothing is assigned to such an address.
func (r *Reports) knownOwner(ctx context.Context, p *store.Person, address string) error {
	if address == "" || address == ownerNone || address == strings.ToLower(p.Email) || p.Role == string(api.RoleViewer) {
		return nil
	}
	people, err := reportdb.In(r.store).Assignable(ctx)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(people, func(o store.Person) bool { return strings.ToLower(o.Email) == address }) {
		return app.InvalidField("owner", "no-such-owner", "No editor or admin has the e-mail address %q. Use an address, %q or %q.", address, ownerMe, ownerNone)
	}
	return nil
}

// Owners returns the people to whom an item can be assigned.
func (r *Reports) Owners(ctx context.Context, p *store.Person) ([]api.Owner, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	found, err := reportdb.In(r.store).Assignable(ctx)
	if err != nil {
		return nil, err
	}
	return app.Each(found, func(o store.Person) api.Owner { return api.Owner{Id: o.ID, Name: o.Name, Email: o.Email} }), nil
}

// Assign assigns an item of the due list to a person, in place of whom it was assigned to.
func (r *Reports) Assign(ctx context.Context, p *store.Person, key string, person int64) error {
	i, err := r.item(ctx, p, key)
	if err != nil {
		return err
	}
	people, err := reportdb.In(r.store).Assignable(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(people, func(o store.Person) bool { return o.ID == person })
	if at < 0 {
		return app.InvalidField("person", "no-such-owner", "Choose an editor or admin whose account is open.")
	}
	now := r.now()
	return r.store.Tx(ctx, func(tx *store.Store) error {
		if err := reportdb.In(tx).PutDueOwner(ctx, &store.DueOwner{Item: key, PersonID: person, At: now}, now.AddDate(-2, 0, 0)); err != nil {
			return err
		}
		return r.note(ctx, tx, p, "assigned", i.Message, "to "+people[at].Name)
	})
}

// Unassign unassigns an item of the due list.
func (r *Reports) Unassign(ctx context.Context, p *store.Person, key string) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return reportdb.In(r.store).EndDueOwner(ctx, key)
}
