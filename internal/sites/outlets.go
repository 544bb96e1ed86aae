package sites

import (
	"context"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sitedb"
)

// A site goes out through one builder or several: its pages take a stylesheet, member posts an
// HTML block, its app a bundle. Each further way is an outlet, a record of a site with a parent.
// It has a builder, environments, pages, file URLs, packs and sign-offs of its own; client,
// domains, families and roles are the site's, and are written to its outlets in the
// transaction that changes the site.

const maxOutlets = 30 // of a site

// AddOutlet adds an outlet to a site.
func AddOutlet(ctx context.Context, c *Directory, p *store.Person, site int64, in api.NewOutlet) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := outletName(in.Name)
	if err != nil {
		return nil, err
	}
	if err := c.knownBuilder(ctx, in.Builder); err != nil {
		return nil, err
	}
	var o store.Site
	err = c.store.Tx(ctx, func(tx *store.Store) error {
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
		had, err := sitedb.In(tx).Outlets(ctx, []int64{site})
		if err != nil {
			return err
		}
		if len(had[site]) >= maxOutlets {
			return app.Problem(app.Conflict, "too-many-outlets", "%s has %d outlets, and that is the most. Delete one first.", s.Name, maxOutlets)
		}
		o = store.Site{ClientID: s.ClientID, Client: s.Client, ParentID: &s.ID, Outlet: name, Name: s.Name + store.OutletMark + name, Domains: s.Domains, SampleText: s.SampleText, Builder: in.Builder, Environments: []store.Environment{}, Version: 1}
		if err := sitedb.In(tx).AddSite(ctx, &o); err != nil {
			return err
		}
		if err := sitedb.In(tx).Follow(ctx, site); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "added outlet", o.Name, in.Builder)
	})
	if err != nil {
		return nil, siteTaken(err, &o)
	}
	return c.Site(ctx, p, o.ID)
}

// DeleteOutlet deletes an outlet with its pages, file URLs and packs.
func DeleteOutlet(ctx context.Context, c *Directory, p *store.Person, site, outlet int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		o, err := sitedb.In(tx).Site(ctx, outlet)
		if err != nil {
			return app.Explain(err, "outlet of this site")
		}
		if err := sitedb.In(tx).DeleteOutlet(ctx, site, outlet); err != nil {
			return app.Explain(err, "outlet of this site")
		}
		return c.note(ctx, tx, p, "deleted outlet", o.Name, o.Builder)
	})
}

// outletName reads the name of an outlet, which stands behind its site's.
func outletName(text string) (string, error) {
	name, err := app.RequiredText("name", text)
	if err != nil {
		return "", err
	}
	if len([]rune(name)) > 60 || strings.Contains(name, strings.TrimSpace(store.OutletMark)) {
		return "", app.InvalidField("name", "bad-name", "The name of an outlet has at most 60 letters and no %s; write it like App or Member posts.", strings.TrimSpace(store.OutletMark))
	}
	return name, nil
}

// notOfOutlet refuses what is the site's to an outlet of it.
func notOfOutlet(o *store.Site) error {
	site, _, _ := strings.Cut(o.Name, store.OutletMark)
	return app.Problem(app.Conflict, "outlet", "%s is an outlet of %s: families, roles and replacements are the site's. Change them there.", o.Name, site)
}

// asOutlet gives the terms of an outlet what is its site's.
func asOutlet(s, before *store.Site, name string) error {
	site, _, _ := strings.Cut(before.Name, store.OutletMark)
	outlet, err := outletName(strings.TrimPrefix(name, site+store.OutletMark))
	if err != nil {
		return err
	}
	s.ParentID, s.Outlet, s.Name = before.ParentID, outlet, site+store.OutletMark+outlet
	s.ClientID, s.Client, s.Domains, s.SampleText = before.ClientID, before.Client, before.Domains, before.SampleText
	return nil
}

// outletsBeside returns the outlets of some sites and of the sites that some are outlets of,
// by the number of the site whose they are.
func (dir *Directory) outletsBeside(ctx context.Context, sites []*store.Site) (map[int64][]store.Site, error) {
	var of []int64
	for _, s := range sites {
		of = append(of, parentOf(s))
	}
	return sitedb.In(dir.store).Outlets(ctx, of)
}

// parentOf returns the number of the site that a record is or is an outlet of.
func parentOf(s *store.Site) int64 {
	if s.ParentID != nil {
		return *s.ParentID
	}
	return s.ID
}
