package catalog

import (
	"cmp"
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
)

// Verdict says whether a family, or a face of it, may be used for a client or on a
// site, and why.
func (c *Catalog) Verdict(ctx context.Context, p *store.Person, id int64, q api.GetVerdictParams) (*api.Verdict, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, err := c.store.Family(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	a := asked{family: f, client: f.Client.Name}
	client := f.Client
	if q.Use != nil {
		if !q.Use.Valid() {
			return nil, badUse("use", *q.Use)
		}
		a.use = license.Use(*q.Use)
	}
	if q.Client != nil {
		found, err := app.ClientOf(ctx, c.store, "client", *q.Client)
		if err != nil {
			return nil, err
		}
		client = *found
	}
	var recipe string
	var book ruleBook
	if q.Site != nil {
		if book, err = c.rules(ctx); err != nil {
			return nil, err
		}
		s, err := c.store.Site(ctx, *q.Site)
		if err != nil {
			return nil, app.Explain(err, "site")
		}
		if q.Client != nil && *q.Client != s.ClientID {
			return nil, app.InvalidField("client", "other-client", "The site %s is %s's; leave the client out, or choose another site.", s.Name, s.Client.Name)
		}
		client, a.site = s.Client, s
		recipes, err := c.store.Recipes(ctx, s.ID)
		if err != nil {
			return nil, err
		}
		recipe = recipes[f.ID]
	}
	a.client = client.Name
	if q.Change != nil {
		for _, change := range *q.Change {
			if !slices.Contains(license.Changes, license.Change(change)) {
				return nil, app.InvalidField("change", "bad-change", "%q is no change; choose subset, outlines or name.", change)
			}
			a.changes = append(a.changes, license.Change(change))
		}
	} else if recipe != "" { // as its packs do
		r, err := recipeOf(recipe)
		if err != nil {
			return nil, err
		}
		a.changes = changesOf(r)
	}
	if q.Face != nil {
		if a.face = *q.Face; !slices.ContainsFunc(f.Faces, func(face store.Face) bool { return face.ID == a.face }) {
			return nil, app.InvalidField("face", "unknown-face", "%s has no face with the number %d.", f.Name, a.face)
		}
	}
	a.day = app.DateOf(q.Day)
	s, err := c.weigh(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	if a.site != nil { // as its packs are made, but for what was asked otherwise
		as, _ := s.on(a.site, f, book.of(a.site).Rules, a.changes)
		a.faces = as.faces
		if q.Change == nil {
			a.changes = as.changes
		}
		if q.Use == nil {
			a.use = as.use
		}
	}
	a.use = cmp.Or(a.use, s.usual(id))
	v := verdictView(f, client, a, s.judge(a), s.day)
	if a.site != nil {
		signed, err := c.store.SignOffs(ctx, []int64{a.site.ID})
		if err != nil {
			return nil, err
		}
		if o := holding(signed[a.site.ID], f.ID, s.judge(a), s.day); o != nil {
			view := c.signOffView(*o, a.site, f, api.SignOffHolds)
			v.SignOff, v.MayGoOut = &view, true
		}
	}
	return v, nil
}
