package usage

import (
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
)

// Site is a site with the rules of its builder and what may be done with its
// families.
type Site struct {
	*store.Site
	Rules BuilderRules
	Uses  []SiteFamily
}

// LoadSite returns a site with all its families weighed.
func (c *Usage) LoadSite(ctx context.Context, id int64) (*Site, error) {
	return c.loadSite(ctx, id, false)
}

// SiteOverview returns a site with all its families weighed, and the faces that are sent.
func (c *Usage) SiteOverview(ctx context.Context, id int64) (*Site, error) {
	return c.loadSite(ctx, id, true)
}

func (c *Usage) loadSite(ctx context.Context, id int64, sentOnly bool) (*Site, error) {
	s, err := sitedb.In(c.store).Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	book, err := c.Rules(ctx)
	if err != nil {
		return nil, err
	}
	d, err := c.weighSites(ctx, []*Site{{Site: s, Rules: book.Of(s)}}, nil, sentOnly)
	if err != nil {
		return nil, err
	}
	return d[0], nil
}

// SiteFamily is a family on a site with what may be done.
type SiteFamily struct {
	Family   *store.Family
	Licenses []store.License
	Open     []license.Proposal // open licenses that its files and documents point to
	Verdict  license.Verdict
	SignOff  *store.SignOff  // one that holds for the verdict's reasons as they stand
	Recipe   *reshape.Recipe // what packs do to it, nil for nothing
	Sends    Selection
	Sheets   []store.HostedStylesheet // that it is served from, of a family without files
	Faces    int                      // how many the family has, also where only those that are sent are in Family
}

// MayGoOut reports whether packs may hold the family.
func (u *SiteFamily) MayGoOut() bool { return u.Verdict.State == license.Cleared || u.SignOff != nil }

// WeighSite weighs every family of a site for a platform; as a pack holds them where
// one is given.
func (c *Usage) WeighSite(ctx context.Context, s *store.Site, rules BuilderRules, pack *PackContents) (*Site, error) {
	d, err := c.WeighSites(ctx, []*Site{{Site: s, Rules: rules}}, pack)
	if err != nil {
		return nil, err
	}
	return d[0], nil
}

// WeighSites weighs every family of some sites for the platforms, all of them at once,
// and gives the sites.
func (c *Usage) WeighSites(ctx context.Context, sites []*Site, pack *PackContents) ([]*Site, error) {
	return c.weighSites(ctx, sites, pack, false)
}

// Overview weighs every family of some sites; the families have those faces only that are sent.
// A family may have a hundred, of which a site sends three.
func (c *Usage) Overview(ctx context.Context, sites []*Site) ([]*Site, error) {
	return c.weighSites(ctx, sites, nil, true)
}

func (c *Usage) weighSites(ctx context.Context, sites []*Site, pack *PackContents, sentOnly bool) ([]*Site, error) {
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
	// Where faces stand in their families is what roles choose by.
	weighed, err := c.weigh(ctx, ids, placedFamilies(app.Each(sites, func(d *Site) *store.Site { return d.Site })))
	if err != nil {
		return nil, err
	}
	if err := c.readStays(ctx, weighed, app.Each(sites, func(d *Site) *store.Site { return d.Site })); err != nil {
		return nil, err
	}
	signOffs, err := sitedb.In(c.store).SignOffs(ctx, on)
	if err != nil {
		return nil, err
	}
	for _, d := range sites {
		if d.ID == 0 { // a pack without a site
			if signOffs[0], err = sitedb.In(c.store).SignOffsFor(ctx, d.Builder, ids); err != nil {
				return nil, err
			}
		}
	}
	using, err := usagedb.In(c.store).Uses(ctx, on)
	if err != nil {
		return nil, err
	}
	recipes := map[[2]int64]string{}
	for _, u := range using {
		recipes[[2]int64{u.SiteID, u.FamilyID}] = u.Recipe
	}
	var families []store.Family
	if sentOnly {
		var sent []int64
		for _, d := range sites {
			for _, f := range d.Families {
				recipe, err := RecipeOf(recipes[[2]int64{d.ID, f.ID}])
				if err != nil {
					return nil, err
				}
				sent = append(sent, weighed.sends(d.Site, f.ID, f.Name, d.Rules.Rules, len(ChangesOf(recipe)) > 0).Sent...)
			}
		}
		slices.Sort(sent)
		families, err = familydb.FamiliesWith(ctx, c.store, ids, slices.Compact(sent))
	} else {
		families, err = familydb.In(c.store).WholeFamilies(ctx, ids)
	}
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
			recipe, err := RecipeOf(recipes[key])
			if err != nil {
				return nil, err
			}
			u := SiteFamily{Family: weighed.staying(d.Site, f), Licenses: weighed.LicensesOf(f.ID), Recipe: recipe, Sheets: weighed.Sheets[f.ID], Open: license.Propose(weighed.Said(f.ID)), Faces: len(f.Faces)}
			if sentOnly {
				u.Faces = len(weighed.Styles[f.ID])
			}
			question, sends := weighed.On(d.Site, f, d.Rules.Rules, ChangesOf(recipe))
			if pack != nil {
				question = weighed.asHeld(d.Site, f, d.Rules.Rules, ChangesOf(recipe), pack)
				sends = Selection{Sent: question.Faces}
			}
			u.Verdict, u.Sends = weighed.Judge(question), sends
			u.SignOff = Holding(signOffs[d.ID], f.ID, u.Verdict, weighed.Day)
			d.Uses = append(d.Uses, u)
		}
	}
	return sites, nil
}

// readStays reads the files that sites stay on.
func (c *Usage) readStays(ctx context.Context, s *Evidence, sites []*store.Site) (err error) {
	var stays []store.PinnedFile
	for _, site := range sites {
		stays = append(stays, site.Choices.Pinned...)
	}
	s.Stays, err = usagedb.In(c.store).StayedOn(ctx, stays)
	return err
}

// WithoutSite weighs families as a pack for a builder holds them that is for no site, but for
// a client.
func (c *Usage) WithoutSite(ctx context.Context, name string, client store.Client, rules BuilderRules, families ...int64) (*Site, error) {
	s := &store.Site{Name: name, ClientID: client.ID, Client: client, Builder: rules.Kind}
	for _, id := range families {
		s.Families = append(s.Families, store.Family{ID: id})
	}
	return c.WeighSite(ctx, s, rules, nil)
}

// SignOffView shows a sign-off; s is nil for packs without a site.
func (c *Usage) SignOffView(o store.SignOff, s *store.Site, f *store.Family, standing api.SignOffState) api.SignOff {
	v := api.SignOff{Id: o.ID, Family: api.Ref{Id: f.ID, Name: f.Name}, Reason: o.Reason, By: o.Person, At: o.At,
		Until: app.Day(o.Ends), State: api.VerdictState(o.State), Standing: standing, RevokedAt: o.RevokedAt}
	if s != nil {
		v.Site = &api.Ref{Id: s.ID, Name: s.Name}
	} else {
		v.Builder = &o.Builder
	}
	if o.RevokedBy != "" {
		v.RevokedBy = &o.RevokedBy
	}
	return v
}
