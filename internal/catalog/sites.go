package catalog

import (
	"context"
	"errors"
	"regexp"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// Builders gives the kinds of builders.
func (c *Catalog) Builders(p *store.Person) ([]api.Builder, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return each(pack.Builders, builderView), nil
}

func builderView(b pack.Builder) api.Builder {
	return api.Builder{Kind: b.Kind, Name: b.Name, Takes: b.Takes}
}

// Sites gives a page of sites by name.
func (c *Catalog) Sites(ctx context.Context, p *store.Person, cursor *string, limit *int) (*api.SitePage, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := page(cursor, limit)
	if err != nil {
		return nil, err
	}
	items, err := c.store.Sites(ctx, at)
	if err != nil {
		return nil, err
	}
	items, next := turn(items, at, func(s store.Site) (string, int64) { return s.Name, s.ID })
	out := &api.SitePage{Items: make([]api.Site, 0, len(items)), Next: next}
	for i := range items {
		used, err := c.using(ctx, &items[i])
		if err != nil {
			return nil, err
		}
		out.Items = append(out.Items, siteView(&items[i], used))
	}
	return out, nil
}

// Site gives a site with the verdict on each of its families.
func (c *Catalog) Site(ctx context.Context, p *store.Person, id int64) (*api.Site, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s, used, err := c.site(ctx, id)
	if err != nil {
		return nil, err
	}
	v := siteView(s, used)
	return &v, nil
}

func (c *Catalog) site(ctx context.Context, id int64) (*store.Site, []usedFamily, error) {
	s, err := c.store.Site(ctx, id)
	if err != nil {
		return nil, nil, explain(err, "site")
	}
	used, err := c.using(ctx, s)
	return s, used, err
}

// usedFamily is a family on a site with what may be done.
type usedFamily struct {
	family   *store.Family
	licenses []store.License
	verdict  license.Verdict
	signOff  *store.SignOff  // one that holds for the verdict's reasons as they stand
	recipe   *reshape.Recipe // what packs do to it, nil for nothing
}

func (u *usedFamily) mayGoOut() bool { return u.verdict.State == license.Clear || u.signOff != nil }

// using weighs every family of a site.
func (c *Catalog) using(ctx context.Context, s *store.Site) ([]usedFamily, error) {
	if len(s.Families) == 0 {
		return nil, nil
	}
	licenses, err := c.store.LicensesOf(ctx, each(s.Families, func(f store.Family) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	signOffs, err := c.store.SignOffs(ctx, s.ID)
	if err != nil {
		return nil, err
	}
	recipes, err := c.store.Recipes(ctx, s.ID)
	if err != nil {
		return nil, err
	}
	out := make([]usedFamily, 0, len(s.Families))
	for _, ref := range s.Families {
		f, err := c.store.Family(ctx, ref.ID)
		if err != nil {
			return nil, explain(err, "family any more as one that is in here")
		}
		recipe, err := recipeOf(recipes[f.ID])
		if err != nil {
			return nil, err
		}
		u := usedFamily{family: f, licenses: covering(licenses, f.ID), verdict: c.judge(f, s.Client.Name, licenses, recipe), recipe: recipe}
		grounds := u.verdict.Grounds()
		if i := slices.IndexFunc(signOffs, func(o store.SignOff) bool { return o.FamilyID == f.ID && o.Grounds == grounds }); i >= 0 && u.verdict.State != license.Clear {
			u.signOff = &signOffs[i]
		}
		out = append(out, u)
	}
	return out, nil
}

func siteView(s *store.Site, used []usedFamily) api.Site {
	b, _ := pack.BuilderOf(s.Builder)
	return api.Site{
		Id: s.ID, Name: s.Name, Client: clientRef(s.Client), Domains: append([]string{}, s.Domains...), Builder: builderView(b),
		Etag: etag(s.Version),
		Families: each(used, func(u usedFamily) api.SiteFamily {
			v := api.SiteFamily{
				Family: api.Ref{Id: u.family.ID, Name: u.family.Name}, Faces: len(u.family.Faces),
				Verdict: api.VerdictState(u.verdict.State), MayGoOut: u.mayGoOut(),
				Reasons: reasonViews(u.verdict.Reasons),
			}
			if !u.recipe.Empty() {
				words := u.recipe.Words()
				v.Recipe, v.Reshaped = u.recipe, &words
			}
			if o := u.signOff; o != nil {
				v.SignOff = &api.SignOff{Reason: o.Reason, By: o.Person, At: o.At, State: api.VerdictState(o.State)}
			}
			return v
		}),
	}
}

// AddSite adds a site.
func (c *Catalog) AddSite(ctx context.Context, p *store.Person, t api.SiteTerms) (*api.Site, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, err := c.siteTerms(ctx, t)
	if err != nil {
		return nil, err
	}
	s.Version = 1
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		s.ID = 0
		if err := tx.AddSite(ctx, s); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "added site", s.Name, s.Builder+" "+strings.Join(s.Domains, ", "))
	})
	if err != nil {
		return nil, siteTaken(err, s)
	}
	return c.Site(ctx, p, s.ID)
}

// ChangeSite replaces a site's terms.
func (c *Catalog) ChangeSite(ctx context.Context, p *store.Person, id int64, ifMatch string, t api.SiteTerms) (*api.Site, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := matched(ifMatch)
	if err != nil {
		return nil, err
	}
	s, err := c.siteTerms(ctx, t)
	if err != nil {
		return nil, err
	}
	s.ID, s.Version = id, version
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		before, err := tx.Site(ctx, id)
		if err != nil {
			return err
		}
		if err := tx.ChangeSite(ctx, s); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed site", s.Name, "was: "+before.Name+" "+before.Builder+" "+strings.Join(before.Domains, ", "))
	})
	if err != nil {
		return nil, siteTaken(explain(err, "site"), s)
	}
	return c.Site(ctx, p, id)
}

func siteTaken(err error, s *store.Site) error {
	if errors.Is(err, store.ErrTaken) {
		return invalid("name", "name-taken", "%s has a site named %q already.", s.Client.Name, s.Name)
	}
	return err
}

// domain matches a host name, as people paste it after an address was cut down to it.
var domain = regexp.MustCompile(`^[\pL\pN]([\pL\pN-]*[\pL\pN])?(\.[\pL\pN]([\pL\pN-]*[\pL\pN])?)*$`)

func (c *Catalog) siteTerms(ctx context.Context, t api.SiteTerms) (*store.Site, error) {
	name, err := required("name", t.Name)
	if err != nil {
		return nil, err
	}
	client, err := c.client(ctx, "client", t.Client)
	if err != nil {
		return nil, err
	}
	if _, ok := pack.BuilderOf(t.Builder); !ok {
		kinds := each(pack.Builders, func(b pack.Builder) string { return b.Kind })
		return nil, invalid("builder", "unknown-builder", "There is no builder %q; choose one of %s.", t.Builder, strings.Join(kinds, ", "))
	}
	s := &store.Site{Name: name, ClientID: client.ID, Client: *client, Builder: t.Builder, Domains: []string{}}
	if t.Domains != nil {
		for _, d := range *t.Domains {
			host := strings.ToLower(strings.TrimSpace(d))
			if _, rest, ok := strings.Cut(host, "://"); ok { // a whole address was pasted
				host = rest
			}
			host, _, _ = strings.Cut(host, "/")
			if host == "" {
				continue
			}
			if len(host) > 253 || !domain.MatchString(host) {
				return nil, invalid("domains", "bad-domain", "%q is not a domain; write it like holmvik.example.", d)
			}
			if !slices.Contains(s.Domains, host) {
				s.Domains = append(s.Domains, host)
			}
		}
	}
	return s, nil
}

// UseFamily says that a site uses a family, and how its packs reshape it; nil or
// an empty recipe for not at all.
func (c *Catalog) UseFamily(ctx context.Context, p *store.Person, site, family int64, recipe *reshape.Recipe) (*api.Site, error) {
	text, action := "", "put on site"
	if !recipe.Empty() {
		if err := checked(recipe); err != nil {
			return nil, err
		}
		text, action = recipe.Key(), "reshapes on site"
	}
	return c.setUse(ctx, p, site, family, action, func(s *store.Store, ctx context.Context, site, family int64) (bool, error) {
		return s.UseFamily(ctx, site, family, text)
	})
}

const actionDrop = "took off site"

// DropFamily says that a site no longer uses a family.
func (c *Catalog) DropFamily(ctx context.Context, p *store.Person, site, family int64) (*api.Site, error) {
	return c.setUse(ctx, p, site, family, actionDrop, (*store.Store).DropFamily)
}

func (c *Catalog) setUse(ctx context.Context, p *store.Person, site, family int64, action string,
	set func(*store.Store, context.Context, int64, int64) (bool, error)) (*api.Site, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		s, err := tx.Site(ctx, site)
		if err != nil {
			return explain(err, "site")
		}
		f, err := tx.Family(ctx, family)
		if err != nil {
			return explain(err, "family")
		}
		if action != actionDrop {
			if err := offered(f); err != nil && !slices.ContainsFunc(s.Families, func(on store.Family) bool { return on.ID == f.ID }) {
				return err
			}
		}
		changed, err := set(tx, ctx, site, family)
		if err != nil || !changed {
			return err
		}
		return c.note(ctx, tx, p, action, s.Name, f.Name)
	})
	if err != nil {
		return nil, err
	}
	return c.Site(ctx, p, site)
}

// SignOff takes responsibility for a family on a site: an editor for a query,
// an admin for a bar. It holds for the reasons that stand at this moment.
func (c *Catalog) SignOff(ctx context.Context, p *store.Person, site int64, n api.NewSignOff) (*api.Site, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	reason := cut(strings.TrimSpace(n.Reason), 2000)
	if reason == "" {
		return nil, invalid("reason", "missing-value", "Write down why this may go out; the reason is kept with your name.")
	}
	s, used, err := c.site(ctx, site)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(used, func(u usedFamily) bool { return u.family.ID == n.Family })
	if i < 0 {
		return nil, invalid("family", "not-on-site", "The site %s does not use this family.", s.Name)
	}
	u := used[i]
	switch u.verdict.State {
	case license.Clear:
		return nil, problem(Conflict, "nothing-to-sign", "%s is clear for %s; no sign-off is needed.", u.family.Name, s.Name)
	case license.Barred:
		if err := must(p, api.RoleAdmin); err != nil {
			return nil, err
		}
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		o := store.SignOff{SiteID: site, FamilyID: n.Family, State: string(u.verdict.State), Grounds: u.verdict.Grounds(), Reason: reason, Person: p.Name, At: c.now()}
		if err := tx.AddSignOff(ctx, &o); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "signed off", s.Name, u.family.Name+" ("+string(u.verdict.State)+"): "+reason)
	})
	if err != nil {
		return nil, err
	}
	return c.Site(ctx, p, site)
}
