package catalog

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"sparecrate/internal/app"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/license"
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

const (
	defaultWithin = 90
	maxWithin     = 366
)

// Due gives what needs somebody: what ends within some days, what is over or near a
// limit, families in use without a license, unknown origins in use, sign-offs that
// end, sites that carry a barred font. The heaviest comes first, then the soonest.
func (c *Catalog) Due(ctx context.Context, p *store.Person, q api.ListDueParams) (*api.DueList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	within := defaultWithin
	if q.Within != nil {
		if within = *q.Within; within < 1 || within > maxWithin {
			return nil, app.InvalidField("within", "bad-days", "Days ahead must be from 1 to %d.", maxWithin)
		}
	}
	var client int64
	if q.Client != nil {
		found, err := app.ClientOf(ctx, c.store, "client", *q.Client)
		if err != nil {
			return nil, err
		}
		client = found.ID
	}
	s, err := c.standing(ctx)
	if err != nil {
		return nil, err
	}
	d := &dueList{standing: s, within: within, client: client, today: s.day.UTC().Truncate(24 * time.Hour)}
	d.sitesAndFamilies()
	if err := c.leftBehind(ctx, d); err != nil {
		return nil, err
	}
	d.licenses()
	d.signOffs()
	views, err := c.reached(ctx, s)
	if err != nil {
		return nil, err
	}
	d.limits(views)
	slices.SortStableFunc(d.items, func(a, b api.DueItem) int {
		weight := map[api.VerdictState]int{api.Barred: 0, api.Query: 1, api.Clear: 2}
		if w := weight[a.State] - weight[b.State]; w != 0 {
			return w
		}
		far := func(i api.DueItem) int {
			if i.Days == nil {
				return maxWithin + 1
			}
			return *i.Days
		}
		return cmp.Or(far(a)-far(b), cmp.Compare(a.Message, b.Message))
	})
	out := &api.DueList{Items: d.items, Counts: []api.DueCount{}, Day: openapi.Date{Time: d.today}, Within: within}
	if out.Items == nil {
		out.Items = []api.DueItem{}
	}
	for _, k := range dueKinds {
		n := 0
		for _, i := range out.Items {
			if i.Kind == k {
				n++
			}
		}
		if n > 0 {
			out.Counts = append(out.Counts, api.DueCount{Kind: k, Count: n})
		}
	}
	return out, nil
}

var dueKinds = []api.DueKind{api.DueBarred, api.DueEnded, api.DueOver, api.DueUnlicensed, api.DueQuery, api.DueUnknown, api.DueEnds, api.DueNear, api.DueSignOff, api.DueRetired, api.DueOutdated}

type dueList struct {
	*standing
	items  []api.DueItem
	within int
	client int64
	today  time.Time
}

func (d *dueList) add(i api.DueItem, client store.Client, day *time.Time) {
	if d.client != 0 && client.ID != d.client {
		return
	}
	if client.ID != 0 {
		ref := app.ClientRef(client)
		i.Client = &ref
	}
	if day != nil {
		days := int(day.UTC().Truncate(24*time.Hour).Sub(d.today).Hours() / 24)
		i.Day, i.Days = app.Day(day), &days
	}
	if i.Families == nil {
		i.Families = []api.Ref{}
	}
	if i.Sites == nil {
		i.Sites = []api.Ref{}
	}
	d.items = append(d.items, i)
}

// sitesAndFamilies says what is on sites and may not be, or nobody knows why.
func (d *dueList) sitesAndFamilies() {
	unknown := map[int64][]api.Ref{}
	var order []used
	for _, u := range d.uses {
		if u.family.Origin == string(api.OriginUnknown) && (d.client == 0 || u.site.ClientID == d.client) {
			if unknown[u.family.ID] == nil {
				order = append(order, u)
			}
			unknown[u.family.ID] = append(unknown[u.family.ID], app.SiteRef(u.site))
		}
		if u.verdict.State == license.Clear || u.signOff != nil {
			continue
		}
		worst := u.verdict.Worst()
		i := api.DueItem{Kind: api.DueQuery, State: api.VerdictState(u.verdict.State), Families: []api.Ref{app.FamilyRef(u.family)}, Sites: []api.Ref{app.SiteRef(u.site)}}
		where := fmt.Sprintf("%s is on %s", u.family.Name, u.site.Name)
		switch {
		case u.verdict.State == license.Barred:
			i.Kind, where = api.DueBarred, where+" and barred"
		case len(d.terms[u.family.ID]) == 0 || slices.Contains([]string{"no-license", "other-client", "other-use", "other-faces", "other-domain", "open-unconfirmed", "terms-unclear"}, worst.Code):
			i.Kind, where = api.DueUnlicensed, where+" without a license"
		}
		i.Message = where + ". " + worst.Message
		if worst.License != 0 {
			i.License = &api.Ref{Id: worst.License, Name: licenseName(d.by[worst.License])}
		}
		d.add(i, u.site.Client, nil)
	}
	for _, u := range order {
		d.add(api.DueItem{Kind: api.DueUnknown, State: api.Query, Families: []api.Ref{app.FamilyRef(u.family)}, Sites: unknown[u.family.ID],
			Message: fmt.Sprintf("Nobody knows where %s came from, and it is in use. Ask who brought it, and write down its origin.", u.family.Name)}, u.site.Client, nil)
	}
}

// carried gives the families that a license covers and sites of its client use, and
// those sites.
func (d *dueList) carried(l store.License) (families, sites []api.Ref) {
	for _, u := range d.uses {
		if l.Kind != string(api.KindOpen) && u.site.ClientID != l.GrantedToID || !slices.ContainsFunc(l.Families, func(f store.Family) bool { return f.ID == u.family.ID }) {
			continue
		}
		if r := app.FamilyRef(u.family); !slices.Contains(families, r) {
			families = append(families, r)
		}
		if r := app.SiteRef(u.site); !slices.Contains(sites, r) {
			sites = append(sites, r)
		}
	}
	return families, sites
}

func names(refs []api.Ref) string {
	out := app.Each(refs, func(r api.Ref) string { return r.Name })
	if len(out) > 3 {
		out = append(out[:2], fmt.Sprintf("%d more", len(out)-2))
	}
	return strings.Join(out, ", ")
}

// licenses says which end soon, and which have ended while what they cover is in use
// and nothing took their place.
func (d *dueList) licenses() {
	for _, l := range d.inOrder() {
		if l.Ends == nil {
			continue
		}
		families, sites := d.carried(l)
		i := api.DueItem{State: api.Clear, Families: families, Sites: sites, License: &api.Ref{Id: l.ID, Name: licenseName(l)}}
		days := int(l.Ends.Sub(d.today).Hours() / 24)
		what := "nothing in use"
		if len(sites) > 0 {
			what = names(families) + " on " + names(sites)
		}
		switch {
		case days < 0:
			// The bar it leads to is said with the site; here is what to renew.
			if i.Families = d.unreplaced(l); len(sites) == 0 || len(i.Families) == 0 {
				continue
			}
			i.Kind, i.State = api.DueEnded, api.Barred
			i.Message = fmt.Sprintf("%s of %s ended on %s and covers %s on %s. Renew it, or take them off.", titled(licenseName(l)), l.GrantedTo.Name, l.Ends.Format(time.DateOnly), names(i.Families), names(sites))
		case days <= d.within:
			i.Kind = api.DueEnds
			if days <= license.WarnDays && len(sites) > 0 {
				i.State = api.Query
			}
			how := map[string]string{string(api.RenewalAutomatic): " It renews by itself; enter the new term when it has.", string(api.RenewalNone): " It is not to be renewed; plan what takes its place."}[l.Renewal]
			if how == "" {
				how = " Renew it or plan what takes its place."
			}
			i.Message = fmt.Sprintf("%s of %s ends on %s; it covers %s.%s", titled(licenseName(l)), l.GrantedTo.Name, l.Ends.Format(time.DateOnly), what, how)
		default:
			continue
		}
		d.add(i, l.GrantedTo, l.Ends)
	}
}

func titled(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// unreplaced gives the families in use that a license which has ended covers and
// whose verdict names it.
func (d *dueList) unreplaced(l store.License) []api.Ref {
	var out []api.Ref
	for _, u := range d.uses {
		if slices.ContainsFunc(u.verdict.Reasons, func(r license.Reason) bool { return r.License == l.ID && r.Code == "expired" }) {
			if r := app.FamilyRef(u.family); !slices.Contains(out, r) {
				out = append(out, r)
			}
		}
	}
	return out
}

func (s *scales) inOrder() []store.License {
	out := make([]store.License, 0, len(s.by))
	for _, l := range s.by {
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b store.License) int { return cmp.Compare(a.ID, b.ID) })
	return out
}

func (d *dueList) signOffs() {
	for _, u := range d.uses {
		if u.signOff == nil || u.signOff.Ends == nil || u.signOff.Ends.Sub(d.today) > time.Duration(d.within)*24*time.Hour {
			continue
		}
		d.add(api.DueItem{Kind: api.DueSignOff, State: api.Query, Families: []api.Ref{app.FamilyRef(u.family)}, Sites: []api.Ref{app.SiteRef(u.site)}, SignOff: &u.signOff.ID,
			Message: fmt.Sprintf("The sign-off of %s on %s by %s ends on %s. Then it is %s again.", u.family.Name, u.site.Name, u.signOff.Person, u.signOff.Ends.Format(time.DateOnly), u.verdict.State.Is())},
			u.site.Client, u.signOff.Ends)
	}
}

// reached gives the month in which each license's page views pass their limit.
func (c *Catalog) reached(ctx context.Context, s *standing) (map[int64]*time.Time, error) {
	out := map[int64]*time.Time{}
	var views *viewed
	for id, l := range s.by {
		if l.PageViews == nil {
			continue
		}
		if views == nil {
			var err error
			if views, err = c.viewed(ctx); err != nil {
				return nil, err
			}
		}
		out[id] = license.Look(views.of(l), *l.PageViews).Reached
	}
	return out, nil
}

// limits says what is over or near one, or will be within the days looked at.
func (d *dueList) limits(reached map[int64]*time.Time) {
	had := map[int64]bool{}
	for _, f := range d.familiesInOrder() {
		for _, t := range d.terms[f] {
			if had[t.ID] {
				continue
			}
			had[t.ID] = true
			l := d.by[t.ID]
			families, sites := d.carried(l)
			for _, limit := range t.Limits {
				if l.Ends != nil && d.today.After(*l.Ends) {
					continue // said already
				}
				i := api.DueItem{State: api.Query, Families: families, Sites: sites, License: &api.Ref{Id: l.ID, Name: t.Name}}
				soon := limit.Measure == license.PageViews && reached[t.ID] != nil && reached[t.ID].Before(d.today.AddDate(0, 0, d.within))
				switch {
				case limit.Used > limit.Cap:
					i.Kind, i.State = api.DueOver, api.Barred
					i.Message = fmt.Sprintf("%s of %s is over its limit: %s. Buy a larger one, or take off what counts against it.", titled(t.Name), l.GrantedTo.Name, limit.Said())
				case limit.Share() > license.WarnShare || soon:
					i.Kind = api.DueNear
					i.Message = fmt.Sprintf("%s of %s is near its limit: %s.", titled(t.Name), l.GrantedTo.Name, limit.Said())
					if limit.Measure == license.PageViews && reached[t.ID] != nil {
						i.Message += fmt.Sprintf(" If it goes on like this it is passed in %s.", reached[t.ID].Format("January 2006"))
					}
				default:
					continue
				}
				d.add(i, l.GrantedTo, nil)
			}
		}
	}
}

func (s *scales) familiesInOrder() []int64 {
	out := make([]int64, 0, len(s.terms))
	for id := range s.terms {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}

// licensesOf gives the licenses that cover a family.
func (s *scales) licensesOf(family int64) []store.License {
	return app.Each(s.terms[family], func(t license.Terms) store.License { return s.by[t.ID] })
}
