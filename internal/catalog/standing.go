package catalog

import (
	"context"
	"fmt"
	"slices"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// standing is what all sites use, weighed in one pass.
type standing struct {
	*scales
	sites    map[int64]*store.Site
	families map[int64]*store.Family // that are used
	uses     []used
	signed   []store.SignOff // newest first
	grounds  map[[2]int64]string
	book     ruleBook
}

// used is a family on a site, and the verdict on it.
type used struct {
	site    *store.Site
	family  *store.Family
	verdict license.Verdict
	signOff *store.SignOff
	recipe  *reshape.Recipe
	sends   sending
}

func (c *Catalog) standing(ctx context.Context) (*standing, error) {
	s := &standing{sites: map[int64]*store.Site{}, families: map[int64]*store.Family{}, grounds: map[[2]int64]string{}}
	var err error
	if s.scales, err = c.weigh(ctx, nil); err != nil {
		return nil, err
	}
	sites, err := c.store.AllSites(ctx, 0)
	if err != nil {
		return nil, err
	}
	for i := range sites {
		s.sites[sites[i].ID] = &sites[i]
	}
	families, err := c.store.UsedFamilies(ctx)
	if err != nil {
		return nil, err
	}
	for i := range families {
		s.families[families[i].ID] = &families[i]
	}
	if s.signed, err = c.store.AllSignOffs(ctx); err != nil {
		return nil, err
	}
	signed := map[int64][]store.SignOff{}
	for _, o := range s.signed {
		signed[o.SiteID] = append(signed[o.SiteID], o)
	}
	uses, err := c.store.Uses(ctx, nil)
	if err != nil {
		return nil, err
	}
	if s.book, err = c.rules(ctx); err != nil {
		return nil, err
	}
	if err := c.placeFaces(ctx, s.scales, placedFamilies(sites)); err != nil {
		return nil, err
	}
	for _, u := range uses {
		one := used{site: s.sites[u.SiteID], family: s.families[u.FamilyID]}
		if one.site == nil || one.family == nil {
			continue // taken away while this was read
		}
		recipe, err := recipeOf(u.Recipe)
		if err != nil {
			return nil, err
		}
		question, sends := s.on(one.site, one.family, s.book.of(one.site).Rules, changesOf(recipe))
		one.recipe, one.sends = recipe, sends
		one.verdict = s.judge(question)
		if of := signed[u.SiteID]; one.verdict.State != license.Clear && len(of) > 0 {
			one.signOff = holding(of, u.FamilyID, one.verdict, s.day)
			s.grounds[[2]int64{u.SiteID, u.FamilyID}] = one.verdict.Grounds()
		}
		s.uses = append(s.uses, one)
	}
	return s, nil
}

// placedFamilies are the families that do something on some sites.
func placedFamilies(sites []store.Site) []int64 {
	var out []int64
	for i := range sites {
		for _, p := range sites[i].Placements {
			out = append(out, p.FamilyID)
		}
		for _, p := range sites[i].StandIns {
			out = append(out, p.FamilyID)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// of says how a sign-off stands.
func (s *standing) of(o store.SignOff) api.SignOffState {
	switch {
	case o.WithdrawnAt != nil:
		return api.SignOffWithdrawn
	case !o.Holds(s.day):
		return api.SignOffEnded
	case s.grounds[[2]int64{o.SiteID, o.FamilyID}] != o.Grounds:
		return api.SignOffOvertaken
	}
	return api.SignOffHolds
}

// elsewhere gives what packs need of a family that is served from somebody else's
// stylesheets: these, and its faces as they describe them, each once.
func elsewhere(family string, sheets []store.HostedSheet) (out []pack.Sheet, faces []pack.Face) {
	seen := map[string]bool{}
	for _, s := range sheets {
		one := pack.Sheet{Host: s.Host, Address: s.Address}
		for _, h := range s.Faces {
			if s.Address == "" {
				one.Rules = append(one.Rules, h.Rule())
			}
			key := fmt.Sprint(h.WeightMin, h.WeightMax, h.Style, h.Stretch)
			if seen[key] { // another part of its characters
				continue
			}
			seen[key] = true
			faces = append(faces, pack.Face{Facts: factsOf(family, h), Style: styleOf(h)})
		}
		out = append(out, one)
	}
	return out, faces
}
