package reports

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/fingerprint"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

const (
	defaultWithin = 90
	maxWithin     = 366
)

// How many items a list has where nobody asks for more, and at most.
const (
	usualItems = 500
	mostItems  = 5000
)

// Due returns what needs somebody: what ends within some days, what is over or near a
// limit, families in use without a license, unknown origins in use, sign-offs that
// end, sites that carry a blocked font. The heaviest comes first, then the soonest; what is
// past the limit of items is counted only.
func (r *Reports) Due(ctx context.Context, p *store.Person, q api.ListDueParams) (*api.DueList, error) {
	limit := usualItems
	if q.Limit != nil {
		if limit = *q.Limit; limit < 1 || limit > mostItems {
			return nil, app.InvalidField("limit", "bad-limit", "A list has from 1 to %d items.", mostItems)
		}
	}
	return r.due(ctx, p, q, limit)
}

// due is Due with a limit that may be past what is sent.
func (r *Reports) due(ctx context.Context, p *store.Person, q api.ListDueParams, limit int) (*api.DueList, error) {
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
		found, err := app.ClientOf(ctx, r.store, "client", *q.Client)
		if err != nil {
			return nil, err
		}
		client = found.ID
	}
	items, asOf, err := r.worked.items(ctx, r, p, within, client)
	if err != nil {
		return nil, err
	}
	d := &dueList{client: client, today: r.now().UTC().Truncate(24 * time.Hour)}
	if err := d.backedUp(ctx, r.store, r.limits.Backup, r.now(), p); err != nil {
		return nil, err
	}
	owners, err := ownersOf(ctx, r, p, q.Owner)
	if err != nil {
		return nil, err
	}
	until, err := snoozes(ctx, r, d.today)
	if err != nil {
		return nil, err
	}
	out := &api.DueList{Items: []api.DueItem{}, Counts: []api.DueCount{}, Day: openapi.Date{Time: d.today}, Within: within, AsOf: asOf}
	counts := map[api.DueKind]int{}
	for _, list := range [][]api.DueItem{keyed(d.items), items} {
		for i := range list {
			owner, wanted := owners.of(list[i].Key)
			day, snoozed := until[list[i].Key]
			if !wanted {
				continue
			}
			if snoozed {
				out.Snoozed++
				if q.Snoozed == nil || !*q.Snoozed {
					continue
				}
			}
			out.Total++
			counts[list[i].Kind]++
			if len(out.Items) == limit {
				continue
			}
			one := list[i] // what is remembered stays as it is
			if one.Owner = owner; snoozed {
				one.SnoozedUntil = &openapi.Date{Time: day}
			}
			out.Items = append(out.Items, one)
		}
	}
	for _, k := range dueKinds {
		if n := counts[k]; n > 0 {
			out.Counts = append(out.Counts, api.DueCount{Kind: k, Count: n})
		}
	}
	return out, nil
}

// keyed sets by what items are known.
func keyed(items []api.DueItem) []api.DueItem {
	for i := range items {
		items[i].Key = keyOf(&items[i])
	}
	return items
}

// dueItems works out what needs attention, the most pressing first.
func dueItems(ctx context.Context, r *Reports, within int, client int64) ([]api.DueItem, error) {
	s, err := r.usage.Everywhere(ctx)
	if err != nil {
		return nil, err
	}
	d := &dueList{Everywhere: s, within: within, client: client, today: s.Day.UTC().Truncate(24 * time.Hour)}
	d.sitesAndFamilies()
	if err := r.leftBehind(ctx, d); err != nil {
		return nil, err
	}
	if err := r.inspected(ctx, d); err != nil {
		return nil, err
	}
	d.licenses()
	d.signOffs()
	views, err := r.reached(ctx, s)
	if err != nil {
		return nil, err
	}
	d.limits(views)
	slices.SortStableFunc(d.items, func(a, b api.DueItem) int {
		weight := map[api.VerdictState]int{api.Blocked: 0, api.Review: 1, api.Cleared: 2}
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
	return keyed(d.items), nil
}

var dueKinds = []api.DueKind{api.DueBackup, api.DueBlocked, api.DueEnded, api.DueOver, api.DueUnlicensed, api.DueReview, api.DueUnknown, api.DueEnds, api.DueNear, api.DueSignOff, api.DueRetired, api.DueOutdated, api.DueFindings}

type dueList struct {
	*usage.Everywhere
	items  []api.DueItem
	within int
	client int64
	today  time.Time
	// byFamily is where the uses of each family stand in Uses.
	byFamily map[int64][]int
}

func (d *dueList) add(i api.DueItem, client store.Client, day *time.Time) {
	if d.client != 0 && client.ID != d.client || client.ClosedAt != nil {
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
	var order []usage.Use
	for _, u := range d.Uses {
		if u.Family.Origin == string(api.OriginUnknown) && (d.client == 0 || u.Site.ClientID == d.client) {
			if unknown[u.Family.ID] == nil {
				order = append(order, u)
			}
			unknown[u.Family.ID] = append(unknown[u.Family.ID], app.SiteRef(u.Site))
		}
		if u.Verdict.State == license.Cleared || u.SignOff != nil {
			continue
		}
		worst := u.Verdict.Worst()
		i := api.DueItem{Kind: api.DueReview, State: api.VerdictState(u.Verdict.State), Families: []api.Ref{app.FamilyRef(u.Family)}, Sites: []api.Ref{app.SiteRef(u.Site)}}
		where := fmt.Sprintf("%s is on %s", u.Family.Name, u.Site.Name)
		switch {
		case u.Verdict.State == license.Blocked:
			i.Kind, where = api.DueBlocked, where+" and blocked"
		case len(d.Terms[u.Family.ID]) == 0 || slices.Contains([]string{"no-license", "other-client", "other-use", "other-faces", "other-domain", "open-unconfirmed", "terms-unclear"}, worst.Code):
			i.Kind, where = api.DueUnlicensed, where+" without a license"
		}
		i.Message = where + ". " + worst.Message
		if worst.Code == "open-unconfirmed" {
			i.OpenLicense = new(true)
		}
		if worst.License != 0 {
			i.License = &api.Ref{Id: worst.License, Name: usage.LicenseName(d.LicenseByID[worst.License])}
		}
		d.add(i, u.Site.Client, nil)
	}
	for _, u := range order {
		d.add(api.DueItem{Kind: api.DueUnknown, State: api.Review, Families: []api.Ref{app.FamilyRef(u.Family)}, Sites: unknown[u.Family.ID],
			Message: fmt.Sprintf("Nobody knows where %s came from, and it is in use. Ask who brought it, and write down its origin.", u.Family.Name)}, u.Site.Client, nil)
	}
}

// carried returns the families that a license covers and sites of its client use, and
// those sites.
func (d *dueList) carried(l store.License) (families, sites []api.Ref) {
	hadFamily, hadSite := map[int64]bool{}, map[int64]bool{}
	for _, u := range d.usesOf(l) {
		if l.Kind != string(api.KindOpen) && u.Site.ClientID != l.GrantedToID {
			continue
		}
		if !hadFamily[u.Family.ID] {
			hadFamily[u.Family.ID] = true
			families = append(families, app.FamilyRef(u.Family))
		}
		if !hadSite[u.Site.ID] {
			hadSite[u.Site.ID] = true
			sites = append(sites, app.SiteRef(u.Site))
		}
	}
	return families, sites
}

// usesOf returns the uses of the families that a license covers, in the order of all uses.
func (d *dueList) usesOf(l store.License) []*usage.Use {
	if d.byFamily == nil {
		d.byFamily = map[int64][]int{}
		for i, u := range d.Uses {
			d.byFamily[u.Family.ID] = append(d.byFamily[u.Family.ID], i)
		}
	}
	var at []int
	for _, f := range l.Families {
		at = append(at, d.byFamily[f.ID]...)
	}
	slices.Sort(at)
	return app.Each(slices.Compact(at), func(i int) *usage.Use { return &d.Uses[i] })
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
	for _, l := range d.InOrder() {
		if l.Ends == nil {
			continue
		}
		if days := int(l.Ends.Sub(d.today).Hours() / 24); days > d.within {
			continue
		}
		families, sites := d.carried(l)
		i := api.DueItem{State: api.Cleared, Families: families, Sites: sites, License: &api.Ref{Id: l.ID, Name: usage.LicenseName(l)}}
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
			i.Kind, i.State = api.DueEnded, api.Blocked
			i.Message = fmt.Sprintf("%s of %s ended on %s and covers %s on %s. Renew it, or remove them from the site.", titled(usage.LicenseName(l)), l.GrantedTo.Name, l.Ends.Format(time.DateOnly), names(i.Families), names(sites))
		case l.Continued():
			continue
		case days <= d.within:
			i.Kind = api.DueEnds
			if days <= license.WarnDays && len(sites) > 0 {
				i.State = api.Review
			}
			how := map[string]string{string(api.RenewalAutomatic): " It renews automatically. Record the new term then.", string(api.RenewalNone): " It will not be renewed. Plan a replacement."}[l.Renewal]
			if how == "" {
				how = " Renew it, or plan a replacement."
			}
			if l.RenewedBy != nil {
				how = fmt.Sprintf(" License %d renews it from %s on; nothing covers the days between.", *l.RenewedBy, l.RenewedFrom.Format(time.DateOnly))
			}
			i.Message = fmt.Sprintf("%s of %s ends on %s; it covers %s.%s", titled(usage.LicenseName(l)), l.GrantedTo.Name, l.Ends.Format(time.DateOnly), what, how)
		default:
			continue
		}
		d.add(i, l.GrantedTo, l.Ends)
	}
}

func titled(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// unreplaced returns the families in use that a license which has ended covers and
// whose verdict names it.
func (d *dueList) unreplaced(l store.License) []api.Ref {
	var out []api.Ref
	for _, u := range d.usesOf(l) {
		if slices.ContainsFunc(u.Verdict.Reasons, func(r license.Reason) bool { return r.License == l.ID && r.Code == "expired" }) {
			if r := app.FamilyRef(u.Family); !slices.Contains(out, r) {
				out = append(out, r)
			}
		}
	}
	return out
}

func (d *dueList) signOffs() {
	for _, u := range d.Uses {
		if u.SignOff == nil || u.SignOff.Ends == nil || u.SignOff.Ends.Sub(d.today) > time.Duration(d.within)*24*time.Hour {
			continue
		}
		d.add(api.DueItem{Kind: api.DueSignOff, State: api.Review, Families: []api.Ref{app.FamilyRef(u.Family)}, Sites: []api.Ref{app.SiteRef(u.Site)}, SignOff: &u.SignOff.ID,
			Message: fmt.Sprintf("The sign-off of %s on %s by %s ends on %s. Then it %s again.", u.Family.Name, u.Site.Name, u.SignOff.Person, u.SignOff.Ends.Format(time.DateOnly), u.Verdict.State.Is())},
			u.Site.Client, u.SignOff.Ends)
	}
}

// reached returns the month in which each license's page views pass their limit.
func (r *Reports) reached(ctx context.Context, s *usage.Everywhere) (map[int64]*time.Time, error) {
	out := map[int64]*time.Time{}
	var views *usage.PageViews
	for id, l := range s.LicenseByID {
		if l.PageViews == nil {
			continue
		}
		if views == nil {
			var err error
			if views, err = r.usage.ReadPageViews(ctx); err != nil {
				return nil, err
			}
		}
		out[id] = license.Look(views.Of(l), *l.PageViews).Reached
	}
	return out, nil
}

// limits says what is over or near one, or will be within the days looked at.
func (d *dueList) limits(reached map[int64]*time.Time) {
	had := map[int64]bool{}
	for _, f := range d.FamiliesInOrder() {
		for _, t := range d.Terms[f] {
			if had[t.ID] {
				continue
			}
			had[t.ID] = true
			l := d.LicenseByID[t.ID]
			for _, limit := range t.Limits {
				if l.Ends != nil && d.today.After(*l.Ends) {
					continue // said already
				}
				i := api.DueItem{State: api.Review, License: &api.Ref{Id: l.ID, Name: t.Name}}
				soon := limit.Measure == license.PageViews && reached[t.ID] != nil && reached[t.ID].Before(d.today.AddDate(0, 0, d.within))
				switch {
				case limit.Used > limit.Cap:
					i.Kind, i.State = api.DueOver, api.Blocked
					i.Message = fmt.Sprintf("%s of %s is over its limit: %s. Buy a larger one, or remove what counts against it.", titled(t.Name), l.GrantedTo.Name, limit.Said())
				case limit.Share() > license.WarnShare || soon:
					i.Kind = api.DueNear
					i.Message = fmt.Sprintf("%s of %s is near its limit: %s.", titled(t.Name), l.GrantedTo.Name, limit.Said())
					if limit.Measure == license.PageViews && reached[t.ID] != nil {
						i.Message += fmt.Sprintf(" If it goes on like this it is passed in %s.", reached[t.ID].Format("January 2006"))
					}
				default:
					continue
				}
				i.Families, i.Sites = d.carried(l)
				d.add(i, l.GrantedTo, nil)
			}
		}
	}
}

// leftBehind puts on the due list the packs that their sites have left behind, and
// retired families that sites still carry.
func (r *Reports) leftBehind(ctx context.Context, d *dueList) error {
	retired := map[int64][]usage.Use{}
	for _, u := range d.Uses {
		if u.Family.Status == store.Retired {
			retired[u.Family.ID] = append(retired[u.Family.ID], u)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(retired)) {
		on := retired[id]
		for _, u := range on {
			d.add(api.DueItem{Kind: api.DueRetired, State: api.Review, Families: []api.Ref{app.FamilyRef(u.Family)}, Sites: []api.Ref{app.SiteRef(u.Site)},
				Message: fmt.Sprintf("%s is retired and still on %s. Place another family there, then take it off.", u.Family.Name, u.Site.Name)}, u.Site.Client, nil)
		}
	}
	packs, err := fingerprint.SupersededPacks(ctx, r.store, r.usage, d.Everywhere)
	for _, s := range packs {
		where, more := "", ""
		if s.Pack.Environment != "" {
			where = " for " + s.Pack.Environment
		}
		if n := len(s.Changes) - 1; n > 0 {
			more = fmt.Sprintf(" And %d more.", n)
		}
		item := api.DueItem{
			Kind: api.DueOutdated, State: api.Review, Sites: []api.Ref{app.SiteRef(s.Site)},
			Message: fmt.Sprintf("The pack of %s%s, built on %s, is out of date. %s%s Rebuild it and replace the uploaded files.", s.Site.Name, where, s.Pack.CreatedAt.Format(time.DateOnly), s.Changes[0], more),
		}
		if s.Pack.Environment != "" {
			item.Environment = &s.Pack.Environment
		}
		d.add(item, s.Site.Client, nil)
	}
	return err
}
