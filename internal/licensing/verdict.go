package licensing

import (
	"cmp"
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Verdict says whether a family, or a face of it, may be used for a client or on a
// site, and why.
func (c *Licensing) Verdict(ctx context.Context, p *store.Person, id int64, q api.GetVerdictParams) (*api.Verdict, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, err := familydb.In(c.store).Family(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	a := usage.Question{Family: f, Client: f.Client.Name}
	client := f.Client
	if q.Use != nil {
		if !q.Use.Valid() {
			return nil, badUse("use", *q.Use)
		}
		a.Use = license.Use(*q.Use)
	}
	if q.Client != nil {
		found, err := app.ClientOf(ctx, c.store, "client", *q.Client)
		if err != nil {
			return nil, err
		}
		client = *found
	}
	var recipe string
	var book usage.RuleBook
	if q.Site != nil {
		if book, err = c.usage.Rules(ctx); err != nil {
			return nil, err
		}
		s, err := sitedb.In(c.store).Site(ctx, *q.Site)
		if err != nil {
			return nil, app.Explain(err, "site")
		}
		if q.Client != nil && *q.Client != s.ClientID {
			return nil, app.InvalidField("client", "other-client", "The site %s belongs to %s. Remove the client, or choose another site.", s.Name, s.Client.Name)
		}
		client, a.Site = s.Client, s
		recipes, err := packdb.In(c.store).Recipes(ctx, s.ID)
		if err != nil {
			return nil, err
		}
		recipe = recipes[f.ID]
	}
	a.Client = client.Name
	if q.Change != nil {
		for _, change := range *q.Change {
			if !slices.Contains(license.Changes, license.Change(change)) {
				return nil, app.InvalidField("change", "bad-change", "%q is no change; choose subset, outlines or name.", change)
			}
			a.Changes = append(a.Changes, license.Change(change))
		}
	} else if recipe != "" { // as its packs do
		r, err := usage.RecipeOf(recipe)
		if err != nil {
			return nil, err
		}
		a.Changes = usage.ChangesOf(r)
	}
	if q.Face != nil {
		if a.Face = *q.Face; !slices.ContainsFunc(f.Faces, func(face store.Face) bool { return face.ID == a.Face }) {
			return nil, app.InvalidField("face", "unknown-face", "%s has no face with the number %d.", f.Name, a.Face)
		}
	}
	a.Day = app.DateOf(q.Day)
	s, err := c.usage.Weigh(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	if a.Site != nil { // as its packs are made, but for what was asked otherwise
		as, _ := s.On(a.Site, f, book.Of(a.Site).Rules, a.Changes)
		a.Faces = as.Faces
		if q.Change == nil {
			a.Changes = as.Changes
		}
		if q.Use == nil {
			a.Use = as.Use
		}
	}
	a.Use = cmp.Or(a.Use, s.Usual(id))
	v := usage.VerdictView(f, client, a, s.Judge(a), s.Day)
	if a.Site != nil {
		signed, err := sitedb.In(c.store).SignOffs(ctx, []int64{a.Site.ID})
		if err != nil {
			return nil, err
		}
		if o := usage.Holding(signed[a.Site.ID], f.ID, s.Judge(a), s.Day); o != nil {
			view := c.usage.SignOffView(*o, a.Site, f, api.SignOffHolds)
			v.SignOff, v.MayGoOut = &view, true
		}
	}
	return v, nil
}
