package sites

import (
	"context"
	"errors"
	"maps"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/conversion"
	"sparecrate/internal/fingerprint"
	"sparecrate/internal/library"
	"sparecrate/internal/pack"
	"sparecrate/internal/packaging"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Sites returns a page of sites by name.
func (dir *Directory) Sites(ctx context.Context, p *store.Person, cursor *string, limit *int, client *int64, closed bool) (*api.SitePage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	items, err := sitedb.In(dir.store).Sites(ctx, at, client, closed)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(s store.Site) (string, int64) { return s.Name, s.ID })
	book, err := dir.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	sites := make([]*usage.Site, len(items))
	for i := range items {
		sites[i] = &usage.Site{Site: &items[i], Rules: book.Of(&items[i])}
	}
	if sites, err = dir.usage.Overview(ctx, sites); err != nil {
		return nil, err
	}
	views, err := dir.siteViews(ctx, sites)
	return &api.SitePage{Items: views, Next: next}, err
}

// Site returns a site with the verdict on each of its families.
func (dir *Directory) Site(ctx context.Context, p *store.Person, id int64) (*api.Site, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := dir.usage.SiteOverview(ctx, id)
	if err != nil {
		return nil, err
	}
	return dir.siteView(ctx, d)
}

func builderView(b usage.BuilderRules) api.Builder {
	return api.Builder{Kind: b.Kind, Name: b.Name, Takes: b.About}
}

func (dir *Directory) siteView(ctx context.Context, d *usage.Site) (*api.Site, error) {
	v, err := dir.siteViews(ctx, []*usage.Site{d})
	if err != nil {
		return nil, err
	}
	return &v[0], nil
}

func (dir *Directory) siteViews(ctx context.Context, sites []*usage.Site) ([]api.Site, error) {
	outdated, err := fingerprint.Outdated(ctx, dir.store, sites)
	if err != nil {
		return nil, err
	}
	outlets, err := dir.outletsBeside(ctx, app.Each(sites, func(d *usage.Site) *store.Site { return d.Site }))
	if err != nil {
		return nil, err
	}
	book, err := dir.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	return app.Each(sites, func(d *usage.Site) api.Site {
		v := dir.viewOf(d, outdated[d.ID])
		v.Outlets = app.Each(outlets[parentOf(d.Site)], func(o store.Site) api.Outlet {
			return api.Outlet{Id: o.ID, Name: o.Outlet, Builder: builderView(book.Of(&o))}
		})
		return v
	}), nil
}

func (dir *Directory) viewOf(d *usage.Site, outdated []api.OutdatedPack) api.Site {
	s := d.Site
	v := api.Site{
		Id: s.ID, Name: s.Name, Client: app.ClientRef(s.Client), Domains: append([]string{}, s.Domains...), Builder: builderView(d.Rules),
		Environments: app.Each(s.Environments, environmentView), SampleText: s.SampleText, Etag: app.ETag(s.Version), Choices: choicesView(s.Choices),
		Roles: roleViews(d), Replacements: app.Each(s.Replacements, replacementView), Warnings: []api.SiteWarning{}, Outdated: append([]api.OutdatedPack{}, outdated...),
		Families: app.Each(d.Uses, func(u usage.SiteFamily) api.SiteFamily {
			v := api.SiteFamily{
				Family: api.Ref{Id: u.Family.ID, Name: u.Family.Name}, Faces: u.Faces,
				Verdict: api.VerdictState(u.Verdict.State), MayGoOut: u.MayGoOut(),
				Reasons: usage.ReasonViews(u.Verdict.Reasons), Hosts: []string{}, Sheets: []string{},
			}
			for _, s := range u.Sheets {
				v.Hosts = append(v.Hosts, s.Host)
				if s.URL != "" {
					v.Sheets = append(v.Sheets, s.URL)
				}
			}
			if !u.Recipe.Empty() {
				words := u.Recipe.Words()
				v.Recipe, v.Reshaped = u.Recipe, &words
			}
			if o := u.SignOff; o != nil {
				view := dir.usage.SignOffView(*o, s, u.Family, api.SignOffHolds)
				v.SignOff = &view
			}
			return v
		}),
	}
	if s.ParentID != nil {
		site, _, _ := strings.Cut(s.Name, store.OutletMark)
		v.Outlet, v.OutletOf = &s.Outlet, &api.Ref{Id: *s.ParentID, Name: site}
	}
	if len(s.RoleAssignments)+len(s.Replacements) > 0 || slices.ContainsFunc(d.Uses, func(u usage.SiteFamily) bool { return len(u.Sheets) > 0 }) {
		v.Warnings = app.Each(pack.Warnings(packaging.InputFor(d, "").Input), packaging.WarningView)
	}
	return v
}

// AddSite adds a site.
func (dir *Directory) AddSite(ctx context.Context, p *store.Person, t api.SiteTerms) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, err := dir.siteTerms(ctx, t)
	if err != nil {
		return nil, err
	}
	s.Version = 1
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		s.ID = 0
		if err := sitedb.In(tx).AddSite(ctx, s); err != nil {
			return err
		}
		return dir.note(ctx, tx, p, "added site", s.Name, s.Builder+" "+strings.Join(s.Domains, ", "))
	})
	if err != nil {
		return nil, siteTaken(err, s)
	}
	return dir.Site(ctx, p, s.ID)
}

// ChangeSite replaces a site's terms.
func (dir *Directory) ChangeSite(ctx context.Context, p *store.Person, id int64, ifMatch string, t api.SiteTerms) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	s, err := dir.siteTerms(ctx, t)
	if err != nil {
		return nil, err
	}
	s.ID, s.Version = id, version
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		before, err := sitedb.In(tx).Site(ctx, id)
		if err != nil {
			return err
		}
		if t.SampleText == nil {
			s.SampleText = before.SampleText
		}
		if t.Environments == nil {
			s.Environments = before.Environments
		}
		if before.ParentID != nil {
			if err := asOutlet(s, before, s.Name); err != nil {
				return err
			}
		}
		if err := sitedb.In(tx).ChangeSite(ctx, s); err != nil {
			return err
		}
		if err := sitedb.In(tx).Follow(ctx, id); err != nil {
			return err
		}
		return dir.note(ctx, tx, p, "changed site", s.Name, "was: "+before.Name+" "+before.Builder+" "+strings.Join(before.Domains, ", "))
	})
	if err != nil {
		return nil, siteTaken(app.Explain(err, "site"), s)
	}
	return dir.Site(ctx, p, id)
}

func siteTaken(err error, s *store.Site) error {
	if errors.Is(err, store.ErrTaken) {
		return app.InvalidField("name", "name-taken", "%s has a site named %q already.", s.Client.Name, s.Name)
	}
	return err
}

func (dir *Directory) siteTerms(ctx context.Context, t api.SiteTerms) (*store.Site, error) {
	name, err := app.RequiredText("name", t.Name)
	if err != nil {
		return nil, err
	}
	client, err := app.OpenClientOf(ctx, dir.store, "client", t.Client)
	if err != nil {
		return nil, err
	}
	if err := dir.knownBuilder(ctx, t.Builder); err != nil {
		return nil, err
	}
	s := &store.Site{Name: name, ClientID: client.ID, Client: *client, Builder: t.Builder, Domains: []string{}}
	if t.Domains != nil {
		if s.Domains, err = app.Domains(*t.Domains); err != nil {
			return nil, err
		}
	}
	if t.SampleText != nil {
		s.SampleText = app.Shorten(strings.TrimSpace(*t.SampleText), 500)
	}
	if t.Environments != nil {
		s.Environments, err = environmentsOf(*t.Environments)
	}
	return s, err
}

// knownBuilder reports as an error that there are no rules for a kind of builder.
func (dir *Directory) knownBuilder(ctx context.Context, kind string) error {
	book, err := dir.usage.Rules(ctx)
	if err != nil {
		return err
	}
	if _, ok := book[kind]; !ok {
		return app.InvalidField("builder", "unknown-builder", "There is no builder %q; choose one of %s.", kind, strings.Join(slices.Sorted(maps.Keys(book)), ", "))
	}
	return nil
}

// AddSiteFamily says that a site uses a family, and how its packs reshape it; nil or
// an empty recipe for not at all.
func (dir *Directory) AddSiteFamily(ctx context.Context, p *store.Person, site, family int64, recipe *reshape.Recipe) (*api.Site, error) {
	text, action := "", "added family to site"
	if !recipe.Empty() {
		if err := conversion.Checked(recipe); err != nil {
			return nil, err
		}
		text, action = recipe.Key(), "reshapes on site"
	}
	return dir.setUse(ctx, p, site, family, action, func(s sitedb.Queries, ctx context.Context, site, family int64) (bool, error) {
		return s.AddSiteFamily(ctx, site, family, text)
	})
}

const actionDrop = "removed family from site"

// RemoveSiteFamily says that a site no longer uses a family.
func (dir *Directory) RemoveSiteFamily(ctx context.Context, p *store.Person, site, family int64) (*api.Site, error) {
	return dir.setUse(ctx, p, site, family, actionDrop, sitedb.Queries.RemoveSiteFamily)
}

func (dir *Directory) setUse(ctx context.Context, p *store.Person, site, family int64, action string,
	set func(sitedb.Queries, context.Context, int64, int64) (bool, error)) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := dir.store.Tx(ctx, func(tx *store.Store) error {
		s, err := sitedb.In(tx).Site(ctx, site)
		if err != nil {
			return app.Explain(err, "site")
		}
		if s.ParentID != nil {
			return notOfOutlet(s)
		}
		if err := app.Open(&s.Client); err != nil {
			return err
		}
		f, err := familydb.In(tx).Family(ctx, family)
		if err != nil {
			return app.Explain(err, "family")
		}
		if action != actionDrop {
			if err := library.Usable(ctx, tx, f); err != nil && !slices.ContainsFunc(s.Families, func(on store.Family) bool { return on.ID == f.ID }) {
				return err
			}
		}
		changed, err := set(sitedb.In(tx), ctx, site, family)
		if err != nil || !changed {
			return err
		}
		if err := sitedb.In(tx).Follow(ctx, site); err != nil {
			return err
		}
		return dir.note(ctx, tx, p, action, s.Name, f.Name)
	})
	if err != nil {
		return nil, err
	}
	return dir.Site(ctx, p, site)
}
