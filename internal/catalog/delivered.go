package catalog

import (
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
)

// delivered is a site with the rules of its builder and what may be done with its
// families.
type delivered struct {
	*store.Site
	rules booked
	used  []usedFamily
}

func (c *Catalog) site(ctx context.Context, id int64) (*delivered, error) {
	s, err := c.store.Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	book, err := c.rules(ctx)
	if err != nil {
		return nil, err
	}
	return c.delivers(ctx, s, book.of(s), nil)
}

// usedFamily is a family on a site with what may be done.
type usedFamily struct {
	family   *store.Family
	licenses []store.License
	verdict  license.Verdict
	signOff  *store.SignOff  // one that holds for the verdict's reasons as they stand
	recipe   *reshape.Recipe // what packs do to it, nil for nothing
	sends    sending
	sheets   []store.HostedSheet // that it is served from, of a family without files
}

func (u *usedFamily) mayGoOut() bool { return u.verdict.State == license.Clear || u.signOff != nil }

// delivers weighs every family of a site for a receiver; as a pack holds them where
// one is given.
func (c *Catalog) delivers(ctx context.Context, s *store.Site, rules booked, pack *held) (*delivered, error) {
	d, err := c.deliver(ctx, []*delivered{{Site: s, rules: rules}}, pack)
	if err != nil {
		return nil, err
	}
	return d[0], nil
}

// deliver weighs every family of some sites for the receivers, all of them at once,
// and gives the sites.
func (c *Catalog) deliver(ctx context.Context, sites []*delivered, pack *held) ([]*delivered, error) {
	var ids, on []int64
	uses := map[[2]int64]bool{}
	for _, d := range sites {
		on = append(on, d.ID)
		for _, f := range d.Families {
			ids = append(ids, f.ID)
			uses[[2]int64{d.ID, f.ID}] = true
		}
	}
	if len(ids) == 0 {
		return sites, nil
	}
	slices.Sort(ids)
	ids = slices.Compact(ids)
	weighed, err := c.weigh(ctx, ids)
	if err != nil {
		return nil, err
	}
	signOffs, err := c.store.SignOffs(ctx, on)
	if err != nil {
		return nil, err
	}
	using, err := c.store.Uses(ctx, on)
	if err != nil {
		return nil, err
	}
	recipes := map[[2]int64]string{}
	for _, u := range using {
		recipes[[2]int64{u.SiteID, u.FamilyID}] = u.Recipe
	}
	families, err := c.store.WholeFamilies(ctx, ids)
	if err != nil {
		return nil, app.Explain(err, "family any more as one that is in here")
	}
	for _, d := range sites {
		for i := range families {
			f := &families[i]
			key := [2]int64{d.ID, f.ID}
			if !uses[key] {
				continue
			}
			recipe, err := recipeOf(recipes[key])
			if err != nil {
				return nil, err
			}
			u := usedFamily{family: f, licenses: weighed.licensesOf(f.ID), recipe: recipe, sheets: weighed.sheets[f.ID]}
			question, sends := weighed.on(d.Site, f, d.rules.Rules, changesOf(recipe))
			if pack != nil {
				question = weighed.asHeld(d.Site, f, d.rules.Rules, changesOf(recipe), pack)
				sends = sending{sent: question.faces}
			}
			u.verdict, u.sends = weighed.judge(question), sends
			u.signOff = holding(signOffs[d.ID], f.ID, u.verdict, weighed.day)
			d.used = append(d.used, u)
		}
	}
	return sites, nil
}

func (c *Catalog) signOffView(o store.SignOff, s *store.Site, f *store.Family, standing api.SignOffState) api.SignOff {
	v := api.SignOff{Id: o.ID, Site: api.Ref{Id: s.ID, Name: s.Name}, Family: api.Ref{Id: f.ID, Name: f.Name}, Reason: o.Reason, By: o.Person, At: o.At,
		Until: app.Day(o.Ends), State: api.VerdictState(o.State), Standing: standing, WithdrawnAt: o.WithdrawnAt}
	if o.WithdrawnBy != "" {
		v.WithdrawnBy = &o.WithdrawnBy
	}
	return v
}
