package usage

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
)

// Everywhere is what all sites use, weighed in one pass.
type Everywhere struct {
	*Evidence
	Sites    map[int64]*store.Site
	Families map[int64]*store.Family // that are used
	Uses     []Use
	Signed   []store.SignOff // newest first
	grounds  map[[2]int64]string
	Book     RuleBook
}

// Use is a family on a site, and the verdict on it.
type Use struct {
	Site    *store.Site
	Family  *store.Family
	Verdict license.Verdict
	SignOff *store.SignOff
	Recipe  *reshape.Recipe
	Sends   Selection
}

// Everywhere reads what all sites use and weighs it.
func (c *Usage) Everywhere(ctx context.Context) (*Everywhere, error) {
	s := &Everywhere{Sites: map[int64]*store.Site{}, Families: map[int64]*store.Family{}, grounds: map[[2]int64]string{}}
	var err error
	if s.Evidence, err = c.Weigh(ctx, nil); err != nil {
		return nil, err
	}
	sites, err := usagedb.In(c.store).AllSites(ctx, 0)
	if err != nil {
		return nil, err
	}
	for i := range sites {
		s.Sites[sites[i].ID] = &sites[i]
	}
	families, err := usagedb.In(c.store).UsedFamilies(ctx)
	if err != nil {
		return nil, err
	}
	for i := range families {
		s.Families[families[i].ID] = &families[i]
	}
	if s.Signed, err = sitedb.In(c.store).AllSignOffs(ctx); err != nil {
		return nil, err
	}
	signed := map[int64][]store.SignOff{}
	for _, o := range s.Signed {
		signed[o.SiteID] = append(signed[o.SiteID], o)
	}
	uses, err := usagedb.In(c.store).Uses(ctx, nil)
	if err != nil {
		return nil, err
	}
	if s.Book, err = c.Rules(ctx); err != nil {
		return nil, err
	}
	all := slices.Collect(maps.Values(s.Sites))
	if err := c.readStays(ctx, s.Evidence, all); err != nil {
		return nil, err
	}
	if err := c.PlaceFaces(ctx, s.Evidence, placedFamilies(all)); err != nil {
		return nil, err
	}
	for _, u := range uses {
		one := Use{Site: s.Sites[u.SiteID], Family: s.Families[u.FamilyID]}
		if one.Site == nil || one.Family == nil {
			continue // taken away while this was read
		}
		recipe, err := RecipeOf(u.Recipe)
		if err != nil {
			return nil, err
		}
		question, sends := s.On(one.Site, one.Family, s.Book.Of(one.Site).Rules, ChangesOf(recipe))
		one.Recipe, one.Sends = recipe, sends
		one.Verdict = s.Judge(question)
		if of := signed[u.SiteID]; one.Verdict.State != license.Cleared && len(of) > 0 {
			one.SignOff = Holding(of, u.FamilyID, one.Verdict, s.Day)
			s.grounds[[2]int64{u.SiteID, u.FamilyID}] = one.Verdict.Grounds()
		}
		s.Uses = append(s.Uses, one)
	}
	return s, nil
}

// placedFamilies are the families that do something on some sites.
func placedFamilies(sites []*store.Site) []int64 {
	var out []int64
	for i := range sites {
		for _, p := range sites[i].RoleAssignments {
			out = append(out, p.FamilyID)
		}
		for _, p := range sites[i].Replacements {
			out = append(out, p.FamilyID)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Of says how a sign-off stands.
func (s *Everywhere) Of(o store.SignOff) api.SignOffState {
	switch {
	case o.RevokedAt != nil:
		return api.SignOffRevoked
	case !o.Holds(s.Day):
		return api.SignOffEnded
	case s.grounds[[2]int64{o.SiteID, o.FamilyID}] != o.Grounds:
		return api.SignOffOvertaken
	}
	return api.SignOffHolds
}

// Elsewhere returns what packs need of a family that is served from somebody else's
// stylesheets: these, and its faces as they describe them, each once.
func Elsewhere(family string, sheets []store.HostedStylesheet) (out []pack.Sheet, faces []pack.Face) {
	seen := map[string]bool{}
	for _, s := range sheets {
		one := pack.Sheet{Host: s.Host, Address: s.URL}
		for _, h := range s.Faces {
			one.Rules = append(one.Rules, h.Rule())
			key := fmt.Sprint(h.WeightMin, h.WeightMax, h.Style, h.Stretch)
			if seen[key] { // another part of its characters
				continue
			}
			seen[key] = true
			faces = append(faces, pack.Face{Metadata: metadataOf(family, h), Style: styleOf(h)})
		}
		out = append(out, one)
	}
	return out, faces
}
