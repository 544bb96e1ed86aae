package licensing

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/register"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
	"sparecrate/internal/usage"
)

// Register gives, for each family, what is licensed, where it is used, what proves it
// and what is missing: of a client, or of all.
func (c *Licensing) Register(ctx context.Context, p *store.Person, client *int64) (*api.Register, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	out := &api.Register{Items: []api.RegisterRow{}, Day: openapi.Date{Time: c.now().UTC().Truncate(24 * time.Hour)}}
	var of *store.Client
	if client != nil {
		var err error
		if of, err = app.ClientOf(ctx, c.store, "client", *client); err != nil {
			return nil, err
		}
		ref := app.ClientRef(*of)
		out.Client = &ref
	}
	number := int64(0)
	if of != nil {
		number = of.ID
	}
	families, err := licensedb.In(c.store).RegisterFamilies(ctx, number)
	if err != nil {
		return nil, err
	}
	s, err := c.usage.Weigh(ctx, app.Each(families, func(f store.Family) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	sites, err := usagedb.In(c.store).AllSites(ctx, number)
	if err != nil {
		return nil, err
	}
	by := map[int64]*store.Site{}
	for i := range sites {
		by[sites[i].ID] = &sites[i]
	}
	uses, err := usagedb.In(c.store).Uses(ctx, nil)
	if err != nil {
		return nil, err
	}
	book, err := c.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	known := map[int64]*store.Family{}
	for i := range families {
		known[families[i].ID] = &families[i]
	}
	on := map[int64][]usage.Question{}
	for _, u := range uses {
		site, f := by[u.SiteID], known[u.FamilyID]
		if site == nil || f == nil {
			continue
		}
		recipe, err := usage.RecipeOf(u.Recipe)
		if err != nil {
			return nil, err
		}
		question, _ := s.On(site, f, book.Of(site).Rules, usage.ChangesOf(recipe))
		on[f.ID] = append(on[f.ID], question)
	}
	for i := range families {
		out.Items = append(out.Items, registerRow(s, &families[i], of, on[families[i].ID]))
	}
	return out, nil
}

// row says what the register knows of a family. Its verdict is the worst of those on
// its sites, which it is given as what is asked for each, or that for its client where
// it is on none.
func registerRow(s *usage.Evidence, f *store.Family, of *store.Client, on []usage.Question) api.RegisterRow {
	r := api.RegisterRow{Family: app.FamilyRef(f), Client: app.ClientRef(f.Client), Origin: api.Origin(f.Origin), Faces: len(s.Faces[f.ID]),
		Licenses: []string{}, Sites: []string{}, Evidence: []string{}, Missing: []string{}, Verdict: api.Cleared}
	for _, l := range s.LicensesOf(f.ID) {
		if of != nil && l.GrantedToID != of.ID && l.Kind != string(api.KindOpen) {
			continue
		}
		r.Licenses = append(r.Licenses, licensed(l))
		for _, d := range l.Documents {
			r.Evidence = append(r.Evidence, fmt.Sprintf("%s (license %d, SHA-256 %s…)", d.Name, l.ID, d.SHA256[:12]))
		}
	}
	weight := map[license.State]int{license.Cleared: 0, license.Review: 1, license.Blocked: 2}
	worst := license.Cleared
	miss := func(a usage.Question) {
		v := s.Judge(a)
		if weight[v.State] > weight[worst] {
			worst = v.State
		}
		for _, reason := range v.Reasons {
			if reason.State == license.Cleared {
				continue
			}
			text := reason.Message
			if a.Site != nil && len(on) > 1 {
				text = a.Site.Name + ": " + text
			}
			if !slices.Contains(r.Missing, text) {
				r.Missing = append(r.Missing, text)
			}
		}
	}
	for _, question := range on {
		site := question.Site
		where := site.Name
		if of == nil {
			where += ", " + site.Client.Name
		}
		if len(site.Domains) > 0 {
			where += " (" + strings.Join(site.Domains, ", ") + ")"
		}
		r.Sites = append(r.Sites, where)
		miss(question)
	}
	if len(on) == 0 {
		client := f.Client.Name
		if of != nil {
			client = of.Name
		}
		miss(usage.Question{Family: f, Client: client})
	}
	if f.Origin == string(api.OriginUnknown) {
		r.Missing = append(r.Missing, "Nobody knows where it came from.")
	}
	r.Verdict = api.VerdictState(worst)
	return r
}

// licensed says in a line what a license grants.
func licensed(l store.License) string {
	parts := []string{fmt.Sprintf("%d: %s, granted to %s", l.ID, l.Kind, l.GrantedTo.Name)}
	if l.Kind == string(api.KindOpen) {
		parts[0] = fmt.Sprintf("%d: open", l.ID)
		if l.SPDX != "" {
			parts[0] += ", " + l.SPDX
		}
	}
	parts = append(parts, strings.Join(l.Uses, ", "))
	switch {
	case l.Ends != nil:
		parts = append(parts, "until "+l.Ends.Format(time.DateOnly))
	case l.Begins != nil:
		parts = append(parts, "from "+l.Begins.Format(time.DateOnly)+" without end")
	default:
		parts = append(parts, "perpetual")
	}
	if l.Reference != "" && l.SPDX == "" {
		parts = append(parts, l.Reference)
	}
	for _, f := range fieldsOf(l) {
		if f.value != "" && slices.Contains([]string{"faces", "domains", "page views a month", "seats", "apps"}, f.name) {
			parts = append(parts, f.name+": "+f.value)
		}
	}
	return strings.Join(parts, "; ")
}

// RegisterFile writes the register for people outside: as csv, xlsx, or as html to print.
func (c *Licensing) RegisterFile(ctx context.Context, p *store.Person, client *int64, format string, w io.Writer) (name string, err error) {
	r, err := c.Register(ctx, p, client)
	if err != nil {
		return "", err
	}
	studio, err := c.store.Studio(ctx)
	if err != nil {
		return "", err
	}
	out := register.Register{Studio: studio.Name, Day: r.Day.Time}
	name = "license-register-" + r.Day.Format(time.DateOnly)
	if r.Client != nil {
		out.Client = r.Client.Name
		name = app.FileName("license-register-"+strings.ReplaceAll(strings.ToLower(r.Client.Name), " ", "-")) + "-" + r.Day.Format(time.DateOnly)
	}
	for _, i := range r.Items {
		out.Rows = append(out.Rows, register.Row{Family: i.Family.Name, Client: i.Client.Name, Origin: string(i.Origin), Verdict: string(i.Verdict), Faces: i.Faces,
			Licenses: i.Licenses, Sites: i.Sites, Evidence: i.Evidence, Missing: i.Missing})
	}
	switch format {
	case "csv":
		return name + ".csv", out.CSV(w)
	case "xlsx":
		return name + ".xlsx", out.XLSX(w)
	case "html":
		return name + ".html", out.HTML(w)
	}
	return "", app.InvalidField("format", "bad-format", "%q is no form of the register; choose csv or xlsx.", format)
}

// Ending says what must come off if a license ends: the families that nothing else
// clears, with the sites and packs that carry them.
func (c *Licensing) Ending(ctx context.Context, p *store.Person, id int64) (*api.Ending, error) {
	view, err := c.License(ctx, p, id)
	if err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	s, err := c.usage.Weigh(ctx, app.Each(l.Families, func(f store.Family) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	for f := range s.Terms { // as if it were not there
		s.Terms[f] = slices.DeleteFunc(s.Terms[f], func(t license.Terms) bool { return t.ID == id })
	}
	sites, err := usagedb.In(c.store).AllSites(ctx, 0)
	if err != nil {
		return nil, err
	}
	uses, err := usagedb.In(c.store).Uses(ctx, nil)
	if err != nil {
		return nil, err
	}
	book, err := c.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	packs, pages := map[int64][]store.Pack{}, map[int64][]store.SitePage{}
	out := &api.Ending{License: *view, Families: []api.EndingFamily{}}
	for _, f := range l.Families {
		v := api.EndingFamily{Family: app.FamilyRef(&f), Sites: []api.EndingSite{}}
		for _, u := range uses {
			i := slices.IndexFunc(sites, func(site store.Site) bool { return site.ID == u.SiteID })
			if u.FamilyID != f.ID || i < 0 {
				continue
			}
			site := &sites[i]
			if l.Kind != string(api.KindOpen) && site.ClientID != l.GrantedToID && !slices.ContainsFunc(site.Domains, func(d string) bool { return slices.Contains(l.Domains, d) }) {
				continue
			}
			recipe, err := usage.RecipeOf(u.Recipe)
			if err != nil {
				return nil, err
			}
			rules := book.Of(site)
			question, _ := s.On(site, &f, rules.Rules, usage.ChangesOf(recipe))
			if s.Judge(question).State == license.Cleared {
				continue // another license covers it
			}
			if packs[site.ID] == nil {
				if packs[site.ID], err = packdb.In(c.store).Packs(ctx, site.ID); err != nil {
					return nil, err
				}
				if pages[site.ID], err = sitedb.In(c.store).SitePages(ctx, site.ID); err != nil {
					return nil, err
				}
			}
			one := api.EndingSite{Site: app.SiteRef(site), Client: site.Client.Name, Domains: append([]string{}, site.Domains...), Packs: []api.Ref{}, Roles: []string{}, Pages: []string{}}
			for _, p := range usage.RoleAssignmentsOf(site, f.ID, f.Name) {
				one.Roles = append(one.Roles, p.Title())
			}
			for _, page := range pages[site.ID] {
				// Where each page has a block of its own, only those that have it.
				if page.DoneAt != nil || !rules.Styles.EachPage {
					one.Pages = append(one.Pages, page.URL)
				}
			}
			for _, pack := range packs[site.ID] {
				if slices.Contains(pack.Families, f.ID) {
					one.Packs = append(one.Packs, api.Ref{Id: pack.ID, Name: fmt.Sprintf("%s of %s", pack.Name, pack.CreatedAt.Format(time.DateOnly))})
				}
			}
			v.Sites = append(v.Sites, one)
		}
		out.Families = append(out.Families, v)
	}
	return out, nil
}
