package usage

import (
	"context"
	"slices"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/scope"
	"sparecrate/internal/store/usagedb"
)

// Counts are what is counted against the limits of licenses.
type Counts struct {
	Limits  map[int64][]license.Limit // by license
	Reached map[int64]*time.Time      // the first month that was over the limit of page views, by license
}

// Counted works out what is counted against the limits of licenses; it asks for page
// views where one of them limits those.
func (c *Usage) Counted(licenses []store.License, read func() (*PageViews, error)) (*Counts, error) {
	all := &Counts{map[int64][]license.Limit{}, map[int64]*time.Time{}}
	out, capped := all.Limits, false
	for _, l := range licenses {
		for _, m := range []struct {
			measure license.Measure
			limit   *int64
		}{{license.Seats, l.Seats}, {license.Apps, l.Apps}} {
			if m.limit == nil {
				continue
			}
			used := 0
			for _, p := range l.Allocations {
				if p.Measure == string(m.measure) {
					used++
				}
			}
			out[l.ID] = append(out[l.ID], license.Limit{Measure: m.measure, Cap: *m.limit, Used: int64(used)})
		}
		capped = capped || l.PageViews != nil
	}
	if !capped {
		return all, nil
	}
	views, err := read()
	if err != nil {
		return nil, err
	}
	for _, l := range licenses {
		if l.PageViews == nil {
			continue
		}
		limit := license.Limit{Measure: license.PageViews, Cap: *l.PageViews}
		this := app.MonthOf(c.now())
		var latest license.Count
		months := views.Of(l)
		all.Reached[l.ID] = license.Look(months, *l.PageViews).Reached
		for _, n := range months { // the month that is going on counts once it has more than the one before
			if n.Month.Before(this) || n.Views >= latest.Views {
				latest = n
			}
		}
		if limit.Used = latest.Views; !latest.Month.IsZero() {
			limit.When = latest.Month.Format(app.MonthForm)
		}
		if live := views.visitors(l); live > 0 {
			limit.Live, limit.LiveWhen = live, this.Format(app.MonthForm)
		}
		out[l.ID] = append(out[l.ID], limit)
	}
	return all, nil
}

// PageViews are the page views of all sites, and what the sites use.
type PageViews struct {
	sites map[int64]store.Site
	on    map[int64][]int64       // sites by family
	views map[int64][]store.Views // by site
	live  map[int64]int64         // visitors of live stylesheets in the month that is going on, by site
	// covers are the families by license, where whoever asks does not see all of them.
	covers map[int64][]int64
}

// ReadPageViews reads the page views of all sites: what counts against a license counts,
// whoever asks how far it is used.
func (c *Usage) ReadPageViews(ctx context.Context) (*PageViews, error) {
	limited := scope.Of(ctx) != nil
	ctx = scope.Everything(ctx)
	views, err := usagedb.In(c.store).SiteViews(ctx, nil)
	if err != nil {
		return nil, err
	}
	days, err := packdb.In(c.store).LiveDays(ctx, nil)
	if err != nil {
		return nil, err
	}
	sites, err := usagedb.In(c.store).AllSites(ctx, 0)
	if err != nil {
		return nil, err
	}
	uses, err := usagedb.In(c.store).Uses(ctx, nil)
	if err != nil {
		return nil, err
	}
	v := viewedOf(c.now(), sites, uses, views, days)
	if limited {
		v.covers, err = usagedb.In(c.store).Covers(ctx)
	}
	return v, err
}

func viewedOf(now time.Time, sites []store.Site, uses []store.Using, views []store.Views, days []store.LiveDay) *PageViews {
	v := &PageViews{sites: map[int64]store.Site{}, on: map[int64][]int64{}, views: map[int64][]store.Views{}, live: map[int64]int64{}}
	for _, one := range views {
		v.views[one.SiteID] = append(v.views[one.SiteID], one)
	}
	for _, d := range days {
		if app.MonthOf(d.Day).Equal(app.MonthOf(now)) {
			v.live[d.SiteID] += d.Visitors
		}
	}
	for _, s := range sites {
		v.sites[s.ID] = s
	}
	for _, u := range uses {
		v.on[u.FamilyID] = append(v.on[u.FamilyID], u.SiteID)
	}
	return v
}

// sitesOf returns the sites that use what a license covers and that it was granted for.
func (v *PageViews) sitesOf(l store.License) []int64 {
	covers := v.covers[l.ID]
	if v.covers == nil {
		covers = app.Each(l.Families, func(of store.Family) int64 { return of.ID })
	}
	var out []int64
	for _, family := range covers {
		for _, site := range v.on[family] {
			s := v.sites[site]
			if l.Kind == string(api.KindOpen) || s.ClientID == l.GrantedToID || slices.ContainsFunc(s.Domains, func(d string) bool { return slices.Contains(l.Domains, d) }) {
				out = append(out, site)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Of returns the page views that count against a license by month.
func (v *PageViews) Of(l store.License) []license.Count {
	sum := map[time.Time]int64{}
	for _, site := range v.sitesOf(l) {
		for _, m := range v.views[site] {
			sum[app.MonthOf(m.Month)] += m.Views
		}
	}
	out := make([]license.Count, 0, len(sum))
	for month, n := range sum {
		out = append(out, license.Count{Month: month, Views: n})
	}
	slices.SortFunc(out, func(a, b license.Count) int { return a.Month.Compare(b.Month) })
	return out
}

// visitors returns how many visitors the live stylesheets of a license's sites had in the
// month that is going on.
func (v *PageViews) visitors(l store.License) (n int64) {
	for _, site := range v.sitesOf(l) {
		n += v.live[site]
	}
	return n
}

// MonthView writes a month, nil for none.
func MonthView(t *time.Time) *string {
	if t == nil {
		return nil
	}
	s := t.Format(app.MonthForm)
	return &s
}

// ViewsOf returns the page views of some sites by month.
func (c *Usage) ViewsOf(ctx context.Context, sites []int64) ([]store.Views, error) {
	if len(sites) == 0 {
		return nil, nil
	}
	return usagedb.In(c.store).SiteViews(ctx, sites)
}
