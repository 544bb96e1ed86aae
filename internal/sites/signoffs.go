package sites

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// SignOff takes responsibility for a family on a site: an editor for a query,
// an admin for a bar. It holds for the reasons that stand at this moment, and to the
// end of a day where one is given.
func (c *Directory) SignOff(ctx context.Context, p *store.Person, site int64, n api.NewSignOff) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	reason := app.Shorten(strings.TrimSpace(n.Reason), 2000)
	if reason == "" {
		return nil, app.InvalidField("reason", "missing-value", "Write down why this may go out; the reason is kept with your name.")
	}
	until := app.DateOf(n.Until)
	if until != nil && until.Before(c.now().UTC().Truncate(24*time.Hour)) {
		return nil, app.InvalidField("until", "day-past", "The sign-off would end on %s, which is past. Choose a day to come, or none.", until.Format(time.DateOnly))
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	s, used := d.Site, d.Uses
	i := slices.IndexFunc(used, func(u usage.SiteFamily) bool { return u.Family.ID == n.Family })
	if i < 0 {
		return nil, app.InvalidField("family", "not-on-site", "The site %s does not use this family.", s.Name)
	}
	u := used[i]
	switch u.Verdict.State {
	case license.Clear:
		return nil, app.Problem(app.Conflict, "nothing-to-sign", "%s is clear for %s; no sign-off is needed.", u.Family.Name, s.Name)
	case license.Barred:
		if err := app.Require(p, api.RoleAdmin); err != nil {
			return nil, err
		}
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		o := store.SignOff{SiteID: site, FamilyID: n.Family, State: string(u.Verdict.State), Grounds: u.Verdict.Grounds(), Reason: reason, Person: p.Name, Role: p.Role, At: c.now(), Ends: until}
		if err := sitedb.In(tx).AddSignOff(ctx, &o); err != nil {
			return err
		}
		said := fmt.Sprintf("%s (%s)", u.Family.Name, u.Verdict.State)
		if until != nil {
			said += " until " + until.Format(time.DateOnly)
		}
		return c.note(ctx, tx, p, "signed off", s.Name, said+": "+reason)
	})
	if err != nil {
		return nil, err
	}
	return c.Site(ctx, p, site)
}

// WithdrawSignOff withdraws a sign-off. It takes the role of the one who gave it.
func (c *Directory) WithdrawSignOff(ctx context.Context, p *store.Person, id int64) (*api.SignOff, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	o, err := sitedb.In(c.store).SignOff(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "sign-off")
	}
	if app.Require(p, api.Role(o.Role)) != nil {
		return nil, app.Problem(app.Forbidden, "role-too-low", "%s gave this sign-off as %s; only somebody with that role can withdraw it.", o.Person, o.Role)
	}
	s, err := sitedb.In(c.store).Site(ctx, o.SiteID)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	f, err := familydb.In(c.store).Family(ctx, o.FamilyID)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	now := c.now()
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := sitedb.In(tx).WithdrawSignOff(ctx, id, now, p.Name); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "withdrew sign-off", s.Name, fmt.Sprintf("%s, by %s: %s", f.Name, o.Person, o.Reason))
	})
	if errors.Is(err, store.ErrStale) {
		return nil, app.Problem(app.Conflict, "withdrawn-already", "This sign-off was withdrawn already.")
	}
	if err != nil {
		return nil, err
	}
	o.WithdrawnAt, o.WithdrawnBy = &now, p.Name
	v := c.usage.SignOffView(*o, s, f, api.SignOffWithdrawn)
	return &v, nil
}

// SignOffs returns the sign-offs of a site, or of all, newest first.
func (c *Directory) SignOffs(ctx context.Context, p *store.Person, q api.ListSignOffsParams) (*api.SignOffList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if q.State != nil && !q.State.Valid() {
		return nil, app.InvalidField("state", "bad-state", "%q is no state of a sign-off; choose holds, ended, withdrawn or overtaken.", *q.State)
	}
	standing, err := c.usage.Everywhere(ctx)
	if err != nil {
		return nil, err
	}
	out := &api.SignOffList{Items: []api.SignOff{}}
	for _, o := range standing.Signed {
		s, f := standing.Sites[o.SiteID], standing.Families[o.FamilyID]
		if s == nil || q.Site != nil && *q.Site != o.SiteID {
			continue
		}
		if f == nil {
			if f, err = familydb.In(c.store).Family(ctx, o.FamilyID); err != nil {
				f = &store.Family{ID: o.FamilyID, Name: "a family that is gone"}
			}
		}
		state := standing.Of(o)
		if state == api.SignOffHolds {
			out.Holding++
		}
		if q.State == nil || *q.State == state {
			out.Items = append(out.Items, c.usage.SignOffView(o, s, f, state))
		}
	}
	return out, nil
}
