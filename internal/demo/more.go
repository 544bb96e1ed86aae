package demo

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/imports"
	"sparecrate/internal/licensing"
	"sparecrate/internal/rooms"
)

// More families of the demo studio.
const (
	wayfinding = "Bollardine Sans"
	reading    = "Sedgemoot Text"
	columns    = "Quaywright Mono"
	script     = "Wrackline Script"
)

// years is how far back licenses and page views go.
const years = 3

// More adds to a filled demo what a studio has after some years: further families, licenses with
// the terms before them, a site for every shipped builder, and an import with conflicts.
func More(ctx context.Context, c *rooms.Rooms, in *SignIn) error {
	admin, err := c.Auth.SignIn(ctx, "", in.Email, in.Password)
	if err != nil {
		return err
	}
	f := &filler{c: c, p: admin, clients: map[string]int64{}, families: map[string]int64{}, months: 12 * years}
	clients, err := c.Library.Clients(ctx, admin)
	if err != nil {
		return err
	}
	for _, one := range clients {
		f.clients[one.Name] = one.Id
	}
	known, err := c.Finding.Families(ctx, admin, api.ListFamiliesParams{})
	if err != nil {
		return err
	}
	for _, one := range known.Items {
		f.families[one.Name] = one.Id
	}
	for _, step := range []func(context.Context) error{f.moreFonts, f.moreLicenses, f.moreSites, f.pageViewHistory, f.conflicts, f.owners, f.outsiders} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	return nil
}

// owners assigns two of the things that need attention.
func (f *filler) owners(ctx context.Context) error {
	people, err := f.c.Reports.Owners(ctx, f.p)
	if err != nil {
		return err
	}
	due, err := f.c.Reports.Due(ctx, f.p, api.ListDueParams{})
	if err != nil {
		return err
	}
	left := map[api.DueKind]bool{api.DueEnds: true, api.DueUnlicensed: true}
	for _, i := range due.Items {
		if left[i.Kind] {
			left[i.Kind] = false
			if err := f.c.Reports.Assign(ctx, f.p, i.Key, people[len(people)-1].Id); err != nil {
				return err
			}
		}
	}
	return nil
}

// moreFonts draws the further families.
func (f *filler) moreFonts(ctx context.Context) error {
	for _, group := range []struct {
		designs []*foundry.Design
		as      font.Container
		client  string
		origin  api.Origin
		tags    []string
	}{
		{foundry.Wayfinding(), font.TTF, Studio, api.OriginCommissioned, []string{"signage"}},
		{foundry.Text(), font.OTF, Seeds, api.OriginBought, []string{"reading"}},
		{foundry.Timetable(), font.TTF, Ferries, api.OriginOpen, []string{"timetable"}},
		{[]*foundry.Design{foundry.Script()}, font.TTF, Seeds, api.OriginBought, []string{"headings"}},
	} {
		for _, d := range group.designs {
			data, err := foundry.Build(d, group.as)
			if err != nil {
				return err
			}
			name := d.PostScript + "." + string(group.as)
			r, err := f.c.Imports.AddFile(ctx, f.p, imports.Arrival{Name: name, Client: group.client, Origin: group.origin, Bytes: bytes.NewReader(data)})
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			f.families[d.Family] = r.Family.Id
		}
		family, err := f.c.Library.Family(ctx, f.p, f.families[group.designs[0].Family])
		if err != nil {
			return err
		}
		if _, err := f.c.Library.ChangeFamily(ctx, f.p, family.Id, family.Etag, api.FamilyChange{Tags: &group.tags}); err != nil {
			return err
		}
	}
	return nil
}

// moreLicenses records what covers them: one renewed each year, one without a document, one for
// desktop alone. The open license of Quaywright Mono waits to be confirmed.
func (f *filler) moreLicenses(ctx context.Context) error {
	today := time.Now().UTC().Truncate(24 * time.Hour)
	day := func(back int, months int) *openapi.Date {
		return &openapi.Date{Time: today.AddDate(-back, months, 0)}
	}
	text := func(s string) *string { return &s }
	first, err := f.c.Licensing.AddLicense(ctx, f.p, api.LicenseTerms{
		Kind: api.KindBought, GrantedTo: f.clients[Seeds], Licensor: text("Gantry Row Letters"), Reference: text("N-71002"),
		Uses: []api.Use{api.UseWeb, api.UseDesktop}, From: day(years, 4), Until: &openapi.Date{Time: day(years-1, 4).AddDate(0, 0, -1)},
		PageViews: number(40_000), Seats: number(3), Price: number(21_000), Currency: text("EUR"), Renewal: renewal(api.RenewalByHand),
		Families: []int64{f.families[reading]},
	})
	if err != nil {
		return err
	}
	for year := 1; year < years; year++ {
		reference := fmt.Sprintf("N-71002/%d", year+1)
		price := int64(21_000 + 1_500*year)
		order := fmt.Sprintf("Order %s. Licensee: Saltmarsh Seed Exchange. Sedgemoot Text, web and desktop, 40,000 page views a month, one year.\n", reference)
		first, err = licensing.Renew(ctx, f.c.Licensing, f.p, first.Id, api.Renewing{Reference: &reference, Price: &price}, &licensing.Evidence{Name: "order " + strings.ReplaceAll(reference, "/", "-") + ".txt", Body: strings.NewReader(order)})
		if err != nil {
			return err
		}
	}
	for _, l := range []api.LicenseTerms{
		{Kind: api.KindCommissioned, GrantedTo: f.clients[Ferries], Licensor: text("Lanternjaw Type"), Reference: text("LJ-2024-031"), Uses: []api.Use{api.UseWeb, api.UseApp, api.UseDesktop}, From: day(2, 0), Families: []int64{f.families[wayfinding]}},
		{Kind: api.KindBought, GrantedTo: f.clients[Seeds], Licensor: text("Gantry Row Letters"), Reference: text("N-80440"), Uses: []api.Use{api.UseDesktop}, From: day(1, 2), Seats: number(2), Price: number(9_000), Currency: text("EUR"), Families: []int64{f.families[script]}},
	} {
		added, err := f.c.Licensing.AddLicense(ctx, f.p, l)
		if err != nil {
			return err
		}
		if l.GrantedTo == f.clients[Ferries] {
			if _, err := f.c.Licensing.AddDocument(ctx, f.p, added.Id, "LJ-2024-031 agreement.txt", strings.NewReader("Agreement LJ-2024-031: Bollardine Sans for Holmvik Ferries, web, apps and desktop.\n")); err != nil {
				return err
			}
		}
	}
	return nil
}

// moreSites has a site for each shipped builder that has none yet.
func (f *filler) moreSites(ctx context.Context) error {
	arial, georgia := []string{"Arial", "sans-serif"}, []string{"Georgia", "serif"}
	sans := func(family string) []demoRole {
		return []demoRole{{"body", family, 400, arial}, {"heading-1", family, 700, arial}, {"buttons", family, 500, arial}}
	}
	text := []demoRole{{"body", reading, 400, georgia}, {"heading-1", reading, 700, georgia}, {"quotes", reading, 400, georgia}}
	for _, s := range []demoSite{
		{name: "Seed catalog", client: Seeds, builder: "style-box", domains: []string{"catalog.saltmarsh.example"}, families: []string{reading}, words: "Sow broad beans under glass from February. Water at dusk.", roles: text, views: 33_500, pack: true},
		{name: "Seed exchange newsletter", client: Seeds, builder: "fields-only", domains: []string{"letters.saltmarsh.example"}, families: []string{script, reading}, words: "What to sow this month", roles: append([]demoRole{{"heading-1", script, 400, georgia}}, text[0])},
		{name: "Growers' course", client: Seeds, builder: "course-script", domains: []string{"learn.saltmarsh.example"}, families: []string{reading}, words: "Lesson 3: saving your own seed", roles: text},
		{name: "Harbor signs configurator", client: Ferries, builder: "linked-stylesheet", domains: []string{"signs.holmvik.example"}, families: []string{wayfinding}, words: "Platform 2 closes at 21:40", roles: sans(wayfinding), views: 2_400, pack: true},
		{name: "Departure boards", client: Ferries, builder: "face-stylesheets", domains: []string{"boards.holmvik.example"}, families: []string{columns}, words: "16:35 Skerry, quay 4, on time", roles: []demoRole{{"body", columns, 400, []string{"Courier New", "monospace"}}, {"heading-1", columns, 700, []string{"Courier New", "monospace"}}}},
		{name: "Holmvik onboard app", client: Ferries, builder: "apple-app", families: []string{wayfinding}, words: "Boarding starts at 16:15", roles: sans(wayfinding)},
		{name: "Ticket gate terminals", client: Ferries, builder: "app-form", families: []string{wayfinding}, words: "Hold the ticket here", roles: sans(wayfinding)},
		{name: "Timetable prototype", client: Ferries, builder: "prototype", families: []string{"Skerrow Sans"}, words: "Next ferry 16:35", roles: sans("Skerrow Sans")[:2]},
		{name: "Orrery Hall ticket shop", client: Orrery, builder: "upload-form-several", domains: []string{"tickets.orreryhall.example"}, families: []string{"Umbrisk Display"}, words: "Two seats under the stars", roles: []demoRole{{"heading-1", "Umbrisk Display", 400, georgia}}},
		{name: "Print studio", client: Ferries, builder: "desktop", families: []string{wayfinding, "Skerrow Sans"}},
	} {
		if err := f.site(ctx, s); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
	}
	return nil
}

// pageViewHistory enters the earlier years of the site that has been measured longest.
func (f *filler) pageViewHistory(ctx context.Context) error {
	const site, latest = 2, 43_800 // Orrery Hall visitor site
	return f.views(ctx, site, latest, latest/40)
}

// conflicts leaves an import for somebody to decide on: a newer version, another drawing under
// the same version number, a subset, and a file that is there already.
func (f *filler) conflicts(ctx context.Context) error {
	light, regular, bold := foundry.Signage()[0], foundry.Signage()[1], foundry.Signage()[2]
	same := *light
	regular.Version = "1.300"
	bold.V, bold.Thick = bold.V+14, bold.Thick+12
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, one := range []struct {
		name string
		d    *foundry.Design
	}{{"SkerrowSans-Regular.ttf", regular}, {"SkerrowSans-Bold.ttf", bold}, {"SkerrowSans-Light.ttf", &same}} {
		data, err := foundry.Build(one.d, font.TTF)
		if err != nil {
			return err
		}
		w, err := z.Create("Skerrow update/" + one.name)
		if err != nil {
			return err
		}
		if _, err := w.Write(data); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	title, client, origin := "Skerrow Sans update", Ferries, api.OriginCommissioned
	d, err := f.c.Imports.StartImport(ctx, f.p, api.NewImport{Title: &title, Client: &client, Origin: &origin})
	if err != nil {
		return err
	}
	_, err = f.c.Imports.AddImportItem(ctx, f.p, d.Id, "skerrow-update.zip", bytes.NewReader(out.Bytes()))
	return err
}

// outsiders are people who see a part of the studio: one who works for two clients, and one of
// a client's own.
func (f *filler) outsiders(ctx context.Context) error {
	spring := openapi.Date{Time: time.Now().UTC().AddDate(0, 4, 0)}
	yes := true
	for _, n := range []api.NewPerson{
		{Name: "Freya Lund", Email: "freya@lanternjaw.example", Role: api.RoleEditor, Clients: &[]int64{f.clients[Ferries], f.clients[Seeds]}, Documents: &yes},
		{Name: "Marit Sund", Email: "marit@holmvik.example", Role: api.RoleGuest, Clients: &[]int64{f.clients[Ferries]}, EndsOn: &spring},
	} {
		if _, err := f.c.Auth.AddPerson(ctx, f.p, n); err != nil {
			return err
		}
	}
	return nil
}
