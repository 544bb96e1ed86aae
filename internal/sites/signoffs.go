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
func (dir *Directory) SignOff(ctx context.Context, p *store.Person, site int64, n api.NewSignOff) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(d.Uses, func(u usage.SiteFamily) bool { return u.Family.ID == n.Family }) {
		return nil, app.InvalidField("family", "not-on-site", "The site %s does not use this family.", d.Name)
	}
	if _, err := dir.signOff(ctx, p, d, n, d.Name); err != nil {
		return nil, err
	}
	return dir.Site(ctx, p, site)
}

// SignOffFamily takes responsibility for a family in packs for a builder that are for no site.
func (dir *Directory) SignOffFamily(ctx context.Context, p *store.Person, family int64, n api.NewFamilySignOff) (*api.SignOff, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	f, err := familydb.In(dir.store).Family(ctx, family)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	rules, err := dir.usage.RulesOf(ctx, n.Builder)
	if err != nil {
		return nil, err
	}
	d, err := dir.usage.WithoutSite(ctx, f.Name, f.Client, *rules, family)
	if err != nil {
		return nil, err
	}
	o, err := dir.signOff(ctx, p, d, api.NewSignOff{Family: family, Reason: n.Reason, Until: n.Until}, "packs for "+rules.Name)
	if err != nil {
		return nil, err
	}
	v := dir.usage.SignOffView(*o, nil, f, api.SignOffHolds)
	return &v, nil
}

// signOff keeps a sign-off of one of the families that a pack holds; where says for what.
func (dir *Directory) signOff(ctx context.Context, p *store.Person, d *usage.Site, n api.NewSignOff, where string) (*store.SignOff, error) {
	reason := app.Shorten(strings.TrimSpace(n.Reason), 2000)
	if reason == "" {
		return nil, app.InvalidField("reason", "missing-value", "Write down why this may go out; the reason is kept with your name.")
	}
	until := app.DateOf(n.Until)
	if until != nil && until.Before(dir.now().UTC().Truncate(24*time.Hour)) {
		return nil, app.InvalidField("until", "day-past", "The sign-off would end on %s, which is past. Choose a day to come, or none.", until.Format(time.DateOnly))
	}
	u := d.Uses[slices.IndexFunc(d.Uses, func(u usage.SiteFamily) bool { return u.Family.ID == n.Family })]
	switch u.Verdict.State {
	case license.Cleared:
		return nil, app.Problem(app.Conflict, "nothing-to-sign", "%s is clear for %s; no sign-off is needed.", u.Family.Name, where)
	case license.Blocked:
		if err := app.Require(p, api.RoleAdmin); err != nil {
			return nil, err
		}
	}
	o := store.SignOff{SiteID: d.ID, FamilyID: n.Family, State: string(u.Verdict.State), Grounds: u.Verdict.Grounds(), Reason: reason, Person: p.Name, Role: p.Role, At: dir.now(), Ends: until}
	if d.ID == 0 {
		o.Builder = d.Builder
	}
	err := dir.store.Tx(ctx, func(tx *store.Store) error {
		o.ID = 0
		if err := sitedb.In(tx).AddSignOff(ctx, &o); err != nil {
			return err
		}
		said := fmt.Sprintf("%s (%s)", u.Family.Name, u.Verdict.State)
		if until != nil {
			said += " until " + until.Format(time.DateOnly)
		}
		return dir.note(ctx, tx, p, "signed off", where, said+": "+reason)
	})
	return &o, err
}

// RevokeSignOff revokes a sign-off. It takes the role of the one who gave it.
func (dir *Directory) RevokeSignOff(ctx context.Context, p *store.Person, id int64) (*api.SignOff, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	o, err := sitedb.In(dir.store).SignOff(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "sign-off")
	}
	if app.Require(p, api.Role(o.Role)) != nil {
		return nil, app.Problem(app.Forbidden, "role-too-low", "%s gave this sign-off as %s; only somebody with that role can revoke it.", o.Person, o.Role)
	}
	var s *store.Site
	where := "packs for " + o.Builder
	if o.SiteID != 0 {
		if s, err = sitedb.In(dir.store).Site(ctx, o.SiteID); err != nil {
			return nil, app.Explain(err, "site")
		}
		where = s.Name
	}
	f, err := familydb.In(dir.store).Family(ctx, o.FamilyID)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	now := dir.now()
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		if err := sitedb.In(tx).RevokeSignOff(ctx, id, now, p.Name); err != nil {
			return err
		}
		return dir.note(ctx, tx, p, "revoked sign-off", where, fmt.Sprintf("%s, by %s: %s", f.Name, o.Person, o.Reason))
	})
	if errors.Is(err, store.ErrStale) {
		return nil, app.Problem(app.Conflict, "revoked-already", "This sign-off was revoked already.")
	}
	if err != nil {
		return nil, err
	}
	o.RevokedAt, o.RevokedBy = &now, p.Name
	v := dir.usage.SignOffView(*o, s, f, api.SignOffRevoked)
	return &v, nil
}

// SignOffs returns the sign-offs of a site, or of all, newest first.
func (dir *Directory) SignOffs(ctx context.Context, p *store.Person, q api.ListSignOffsParams) (*api.SignOffList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if q.State != nil && !q.State.Valid() {
		return nil, app.InvalidField("state", "bad-state", "%q is no state of a sign-off; choose holds, ended, revoked or overtaken.", *q.State)
	}
	standing, err := dir.usage.Everywhere(ctx)
	if err != nil {
		return nil, err
	}
	out := &api.SignOffList{Items: []api.SignOff{}}
	for _, o := range standing.Signed {
		s, f := standing.Sites[o.SiteID], standing.Families[o.FamilyID]
		if s == nil && o.SiteID != 0 || q.Site != nil && *q.Site != o.SiteID {
			continue
		}
		if f == nil {
			if f, err = familydb.In(dir.store).Family(ctx, o.FamilyID); err != nil {
				f = &store.Family{ID: o.FamilyID, Name: "a family that is gone"}
			}
		}
		state := standing.Of(o)
		if s == nil {
			if state, err = dir.standsWithoutSite(ctx, o, f); err != nil {
				return nil, err
			}
		}
		if state == api.SignOffHolds {
			out.Holding++
		}
		if q.State == nil || *q.State == state {
			out.Items = append(out.Items, dir.usage.SignOffView(o, s, f, state))
		}
	}
	return out, nil
}

// standsWithoutSite says how a sign-off for packs without a site stands.
func (dir *Directory) standsWithoutSite(ctx context.Context, o store.SignOff, f *store.Family) (api.SignOffState, error) {
	switch {
	case o.RevokedAt != nil:
		return api.SignOffRevoked, nil
	case !o.Holds(dir.now()):
		return api.SignOffEnded, nil
	case f.ClientID == 0: // gone
		return api.SignOffOvertaken, nil
	}
	rules, err := dir.usage.RulesOf(ctx, o.Builder)
	if err != nil {
		return api.SignOffOvertaken, nil //nolint:nilerr // the builder is gone
	}
	d, err := dir.usage.WithoutSite(ctx, f.Name, f.Client, *rules, f.ID)
	if err != nil {
		return "", err
	}
	if d.Uses[0].Verdict.Grounds() != o.Grounds {
		return api.SignOffOvertaken, nil
	}
	return api.SignOffHolds, nil
}
