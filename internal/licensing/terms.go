package licensing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/scope"
	"sparecrate/internal/store/usagedb"
	"sparecrate/internal/usage"
)

func badUse(field string, u api.Use) error {
	return app.InvalidField(field, "bad-use", "%q is not a use; choose web, web-hosted, desktop, app, document or server.", u)
}

var currencyCode = regexp.MustCompile(`^[A-Z]{3}$`)

// limitsOf checks and takes over what a license is limited to, and what it costs.
func limitsOf(l *store.License, t api.LicenseTerms) error {
	has := func(u ...api.Use) bool {
		return slices.ContainsFunc(u, func(u api.Use) bool { return slices.Contains(l.Uses, string(u)) })
	}
	for _, m := range []struct {
		field, without string
		given          *int64
		to             **int64
		fits           bool
	}{
		{"pageViews", "Page views are limited, and the license does not allow web use. Add web or web-hosted to its uses, or remove the limit.", t.PageViews, &l.PageViews, has(api.UseWeb, api.UseWebHosted)},
		{"seats", "Seats are limited, and the license does not allow desktop use. Add desktop to its uses, or remove the seats.", t.Seats, &l.Seats, has(api.UseDesktop)},
		{"apps", "Apps are limited, and the license does not allow use in apps. Add app to its uses, or remove the limit.", t.Apps, &l.Apps, has(api.UseApp)},
	} {
		if m.given == nil {
			continue
		}
		if *m.given < 0 {
			return app.InvalidField(m.field, "bad-limit", "A limit cannot be less than 0. Leave it empty for no limit.")
		}
		if !m.fits {
			return app.InvalidField(m.field, "limit-without-use", "%s", m.without)
		}
		*m.to = m.given
	}
	if t.Domains != nil {
		domains, err := app.Domains(*t.Domains)
		if err != nil {
			return err
		}
		if l.Domains = domains; len(domains) == 0 {
			l.Domains = nil
		}
	}
	if t.Faces != nil && len(*t.Faces) > 0 {
		known := map[int64]bool{}
		for _, f := range l.Families {
			for _, face := range f.Faces {
				known[face.ID] = true
			}
		}
		for _, id := range *t.Faces {
			if !known[id] {
				return app.InvalidField("faces", "unknown-face", "There is no face with the number %d in the families that the license covers.", id)
			}
		}
		l.FaceIDs = slices.Compact(slices.Sorted(slices.Values(*t.Faces)))
	}
	if t.Spdx != nil && *t.Spdx != "" {
		if l.SPDX = app.Shorten(strings.TrimSpace(*t.Spdx), 80); l.Kind != string(api.KindOpen) {
			return app.InvalidField("spdx", "not-open", "An SPDX identifier is for open licenses; choose the kind open, or remove it.")
		}
	}
	if t.Renewal != nil {
		if !t.Renewal.Valid() {
			return app.InvalidField("renewal", "bad-renewal", "%q is no way of renewing; choose none, by-hand or automatic.", *t.Renewal)
		}
		if l.Renewal = string(*t.Renewal); l.Ends == nil && *t.Renewal != api.RenewalNone {
			return app.InvalidField("renewal", "nothing-to-renew", "A perpetual license is not renewed. Enter its last day, or remove the renewal.")
		}
	}
	if t.Currency != nil {
		l.Currency = strings.ToUpper(strings.TrimSpace(*t.Currency))
	}
	if t.Price != nil {
		if *t.Price < 0 {
			return app.InvalidField("price", "bad-price", "A price cannot be less than 0.")
		}
		if l.Price = t.Price; !currencyCode.MatchString(l.Currency) {
			return app.InvalidField("currency", "bad-currency", "Say in which currency the price is, by its three letters, like EUR.")
		}
	}
	return nil
}

// keepFirst keeps the terms of a license that was recorded before versions were kept.
func (c *Licensing) keepFirst(ctx context.Context, tx *store.Store, l *store.License) error {
	had, err := licensedb.In(tx).LicenseVersions(ctx, l.ID)
	if err != nil || len(had) > 0 {
		return err
	}
	return keepVersionAt(ctx, tx, l, l.CreatedAt, l.CreatedBy)
}

// keepVersion keeps a license's terms as they now are; nothing of them is ever lost.
func (c *Licensing) keepVersion(ctx context.Context, tx *store.Store, p *store.Person, l *store.License) error {
	return keepVersionAt(ctx, tx, l, c.now(), p.Name)
}

func keepVersionAt(ctx context.Context, tx *store.Store, l *store.License, at time.Time, by string) error {
	fields := map[string]string{}
	for _, f := range fieldsOf(*l) {
		fields[f.name] = f.value
	}
	b, err := json.Marshal(fields)
	if err != nil {
		return err
	}
	return licensedb.In(tx).KeepVersion(ctx, &store.LicenseVersion{LicenseID: l.ID, Version: l.Version, Terms: string(b), At: at, Person: by})
}

type field struct {
	name, value string
	extra       bool // not in the first line of what is said of a license
}

// fieldsOf writes a license's terms for people, a field each, always in this order.
func fieldsOf(l store.License) []field {
	day := func(t *time.Time) string {
		if t == nil {
			return ""
		}
		return t.Format(time.DateOnly)
	}
	count := func(n *int64) string {
		if n == nil {
			return ""
		}
		return license.Grouped(*n)
	}
	var faces []string
	for _, f := range l.Families {
		for _, face := range f.Faces {
			if slices.Contains(l.FaceIDs, face.ID) {
				faces = append(faces, f.Name+" "+face.Style)
			}
		}
	}
	if len(faces) == 0 && len(l.FaceIDs) > 0 {
		faces = app.Each(l.FaceIDs, func(id int64) string { return fmt.Sprintf("face %d", id) })
	}
	var changes []string
	for _, c := range license.Changes {
		if said := l.Changes[string(c)]; said != "" {
			changes = append(changes, fmt.Sprintf("%s: %s", c, said))
		}
	}
	return []field{
		{"kind", l.Kind, false}, {"granted to", l.GrantedTo.Name, false}, {"licensor", l.Licensor, false}, {"reference", l.Reference, false},
		{"uses", strings.Join(l.Uses, ", "), false}, {"from", day(l.Begins), false}, {"until", day(l.Ends), false},
		{"families", strings.Join(app.Each(l.Families, func(f store.Family) string { return f.Name }), ", "), false},
		{"faces", strings.Join(faces, ", "), true}, {"domains", strings.Join(l.Domains, ", "), true},
		{"page views a month", count(l.PageViews), true}, {"seats", count(l.Seats), true}, {"apps", count(l.Apps), true},
		{"changes", strings.Join(changes, ", "), false}, {"open license", l.SPDX, true}, {"price", money(l), true}, {"renewal", l.Renewal, true}, {"note", l.Note, false},
	}
}

func money(l store.License) string {
	if l.Price == nil {
		return ""
	}
	return fmt.Sprintf("%d.%02d %s", *l.Price/100, *l.Price%100, l.Currency)
}

// LicenseVersions returns a license's terms as they were recorded, newest first, with
// what changed each time.
func (c *Licensing) LicenseVersions(ctx context.Context, p *store.Person, id int64) (*api.LicenseVersionList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	found, err := licensedb.In(c.store).LicenseVersions(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &api.LicenseVersionList{Items: []api.LicenseVersion{}}
	if !scope.Of(ctx).Has(l.GrantedToID) {
		return out, nil // of the studio's licenses, terms as text name all clients
	}
	read := make([]map[string]string, len(found))
	for i, v := range found {
		if err := json.Unmarshal([]byte(v.Terms), &read[i]); err != nil {
			return nil, err
		}
	}
	for i, v := range found {
		one := api.LicenseVersion{Version: v.Version, At: v.At, By: v.Person, Changed: []api.FieldChange{}}
		var said []string
		for _, f := range fieldsOf(*l) {
			now := read[i][f.name]
			if now != "" {
				said = append(said, f.name+": "+now)
			}
			if i+1 < len(found) && read[i+1][f.name] != now {
				one.Changed = append(one.Changed, api.FieldChange{Field: f.name, From: read[i+1][f.name], To: now})
			}
		}
		one.Terms = strings.Join(said, "; ")
		out.Items = append(out.Items, one)
	}
	return out, nil
}

// licenseViews reads what is counted against licenses and shows them with it.
func (c *Licensing) licenseViews(ctx context.Context, all []store.License) ([]api.License, error) {
	counted, err := c.usage.Counted(all, func() (*usage.PageViews, error) { return c.usage.ReadPageViews(ctx) })
	if err != nil {
		return nil, err
	}
	return c.LicensesWith(ctx, counted, all)
}

// LicensesWith shows licenses with what is counted against them.
func (c *Licensing) LicensesWith(ctx context.Context, counted *usage.Counts, all []store.License) ([]api.License, error) {
	today := c.now().UTC().Truncate(24 * time.Hour)
	all, err := withoutOthers(ctx, c.store, all)
	return app.Each(all, func(l store.License) api.License {
		v := api.License{
			Id: l.ID, Kind: api.LicenseKind(l.Kind), GrantedTo: app.ClientRef(l.GrantedTo), Licensor: l.Licensor, Reference: l.Reference,
			Uses: app.Each(l.Uses, func(u string) api.Use { return api.Use(u) }), From: app.Day(l.Begins), Until: app.Day(l.Ends), Note: l.Note, Changes: changesView(l.Changes),
			Domains: append([]string{}, l.Domains...), Faces: append([]int64{}, l.FaceIDs...), PageViews: l.PageViews, Seats: l.Seats, Apps: l.Apps, Price: l.Price,
			State: api.TermInForce, Limits: []api.LicenseLimit{},
			Allocations: app.Each(l.Allocations, func(p store.Allocation) api.Allocation {
				return api.Allocation{Id: p.ID, Measure: api.Measure(p.Measure), Name: p.Name, Since: p.Since, By: p.Person}
			}),
			Families:  app.Each(l.Families, func(f store.Family) api.Ref { return api.Ref{Id: f.ID, Name: f.Name} }),
			Documents: app.Each(l.Documents, documentView), CreatedAt: l.CreatedAt, CreatedBy: l.CreatedBy, ApprovedAt: l.ApprovedAt, ApprovedBy: approver(l), Renews: l.Renews, RenewedBy: l.RenewedBy, Etag: app.ETag(l.Version),
		}
		for text, to := range map[string]**string{l.SPDX: &v.Spdx, l.Currency: &v.Currency} {
			if text != "" {
				*to = &text
			}
		}
		if l.Renewal != "" {
			r := api.Renewal(l.Renewal)
			v.Renewal = &r
		}
		switch {
		case l.Ends != nil && today.After(*l.Ends):
			v.State = api.TermEnded
		case l.Begins != nil && today.Before(*l.Begins):
			v.State = api.TermNotBegun
		}
		for _, n := range counted.Limits[l.ID] {
			limit := api.LicenseLimit{Measure: api.Measure(n.Measure), Cap: n.Cap, Used: n.Used}
			if n.When != "" {
				limit.When = &n.When
			}
			if n.Measure == license.PageViews {
				limit.Reached = usage.MonthView(counted.Reached[l.ID])
			}
			v.Limits = append(v.Limits, limit)
		}
		return v
	}), err
}

// withoutOthers takes out of licenses of the studio what is about clients that whoever asks
// does not see: domains of their sites, who has a seat, and notes.
func withoutOthers(ctx context.Context, s *store.Store, all []store.License) ([]store.License, error) {
	limit := scope.Of(ctx)
	if !slices.ContainsFunc(all, func(l store.License) bool { return !limit.Has(l.GrantedToID) }) {
		return all, nil
	}
	sites, err := usagedb.In(s).AllSites(ctx, 0)
	out := slices.Clone(all)
	for i := range out {
		l := &out[i]
		if limit.Has(l.GrantedToID) {
			continue
		}
		l.Note, l.Allocations = "", nil
		l.Domains = slices.DeleteFunc(slices.Clone(l.Domains), func(d string) bool {
			return !slices.ContainsFunc(sites, func(w store.Site) bool { return slices.Contains(w.Domains, d) })
		})
	}
	return out, err
}

// AddAllocation returns a seat of a license to a person, or counts an app.
func (c *Licensing) AddAllocation(ctx context.Context, p *store.Person, id int64, n api.NewAllocation) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	use := map[api.Measure]api.Use{api.MeasureSeats: api.UseDesktop, api.MeasureApps: api.UseApp}[n.Measure]
	if use == "" {
		return nil, app.InvalidField("measure", "bad-measure", "Only seats and apps are given by name; page views are entered with the site.")
	}
	if !slices.Contains(l.Uses, string(use)) {
		return nil, app.InvalidField("measure", "limit-without-use", "This license does not allow the use %s, so there are no %s to give.", use, n.Measure)
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := licensedb.In(tx).AddAllocation(ctx, &store.Allocation{LicenseID: id, Measure: string(n.Measure), Name: name, Since: c.now(), Person: p.Name}); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "assigned "+strings.TrimSuffix(string(n.Measure), "s"), usage.LicenseName(*l), name)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "%s is counted with this license already.", name)
	}
	if err != nil {
		return nil, err
	}
	return c.License(ctx, p, id)
}

// RemoveAllocation takes a seat or an app away.
func (c *Licensing) RemoveAllocation(ctx context.Context, p *store.Person, id, place int64) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		dropped, err := licensedb.In(tx).RemoveAllocation(ctx, id, place)
		if err != nil {
			return app.Explain(err, "seat or app")
		}
		return c.note(ctx, tx, p, "unassigned "+strings.TrimSuffix(dropped.Measure, "s"), usage.LicenseName(*l), dropped.Name)
	})
	if err != nil {
		return nil, err
	}
	return c.License(ctx, p, id)
}

// Templates returns the studio's usual kinds of licenses.
func (c *Licensing) Templates(ctx context.Context, p *store.Person) (*api.TemplateList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	found, err := licensedb.In(c.store).Templates(ctx)
	if err != nil {
		return nil, err
	}
	out := &api.TemplateList{Items: []api.Template{}}
	for _, t := range found {
		v := api.Template{Id: t.ID, Name: t.Name, CreatedBy: t.CreatedBy}
		if err := json.Unmarshal([]byte(t.Terms), &v.Terms); err != nil {
			return nil, err
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// SaveTemplate keeps a usual kind of license, in place of one of the same name.
func (c *Licensing) SaveTemplate(ctx context.Context, p *store.Person, n api.NewTemplate) (*api.Template, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	if n.Terms.Kind != nil && !n.Terms.Kind.Valid() {
		return nil, app.InvalidField("kind", "bad-kind", "%q is not a kind of license; choose bought, client, open or commissioned.", *n.Terms.Kind)
	}
	if n.Terms.Uses != nil {
		for _, u := range *n.Terms.Uses {
			if !u.Valid() {
				return nil, badUse("uses", u)
			}
		}
	}
	if n.Terms.Months != nil && (*n.Terms.Months < 1 || *n.Terms.Months > 1200) {
		return nil, app.InvalidField("months", "bad-months", "A term is from 1 to 1200 months. Leave it empty for a perpetual license.")
	}
	b, err := json.Marshal(n.Terms)
	if err != nil {
		return nil, err
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := licensedb.In(tx).SaveTemplate(ctx, &store.Template{Name: name, Terms: string(b), CreatedAt: c.now(), CreatedBy: p.Name}); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "saved license template", name, string(b))
	})
	if err != nil {
		return nil, err
	}
	all, err := c.Templates(ctx, p)
	if err != nil {
		return nil, err
	}
	for i := range all.Items {
		if strings.EqualFold(all.Items[i].Name, name) {
			return &all.Items[i], nil
		}
	}
	return nil, app.Problem(app.Missing, "not-found", "There is no such template.")
}

// DeleteTemplate drops a usual kind of license; licenses made from it stay.
func (c *Licensing) DeleteTemplate(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		t, err := licensedb.In(tx).DeleteTemplate(ctx, id)
		if err != nil {
			return app.Explain(err, "template")
		}
		return c.note(ctx, tx, p, "deleted license template", t.Name, t.Terms)
	})
}

// approver is who approved a license, nil for nobody.
func approver(l store.License) *string {
	if l.ApprovedAt == nil {
		return nil
	}
	return &l.ApprovedBy
}
