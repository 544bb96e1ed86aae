package demo

import (
	"context"

	"sparecrate/api"
)

// demoSite is a site of the demo studio.
type demoSite struct {
	name, client, builder string
	domains               []string
	families              []string
	words                 string
	environments          []api.SiteEnvironment
	roles                 []demoRole
	pages                 []string
	views                 int64 // last month
	pack                  bool
}

type demoRole struct {
	role, family string
	weight       int
	fallbacks    []string
}

func demoSites() []demoSite {
	arial := []string{"Arial", "sans-serif"}
	return []demoSite{
		{
			name: "Holmvik timetable", client: Ferries, builder: "self-hosted", domains: []string{"holmvik.example", "times.holmvik.example"},
			families: []string{"Skerrow Sans"}, words: "Next ferry to Skerry leaves quay 4 at 16:35", views: 19_100, pack: true,
			roles: []demoRole{{"body", "Skerrow Sans", 400, arial}, {"heading-1", "Skerrow Sans", 700, arial}, {"navigation", "Skerrow Sans", 400, arial}},
		},
		{
			name: "Orrery Hall visitor site", client: Orrery, builder: "upload-form", domains: []string{"orreryhall.example"},
			families: []string{"Umbrisk Display"}, words: "Tonight: the rings of Saturn", views: 43_800,
			roles: []demoRole{{"heading-1", "Umbrisk Display", 400, []string{"Georgia", "serif"}}},
		},
		{name: "Growers' almanac", client: Seeds, builder: "bundler", domains: []string{"almanac.saltmarsh.example"}, families: []string{"Tidegarth Poster", "Skerrow Sans"}},
		{
			name: membersSite, client: Ferries, builder: "page-block", domains: []string{"members.holmvik.example"},
			families: []string{"Skerrow Sans"}, words: "Your season ticket is valid until 31 October", pages: []string{"/", "/tickets", "/season"},
			environments: []api.SiteEnvironment{{Name: "live"}, {Name: "rehearsal"}},
			roles:        []demoRole{{"body", "Skerrow Sans", 400, arial}, {"heading-1", "Skerrow Sans", 700, arial}, {"lists", "Skerrow Sans", 400, arial}},
		},
		{
			name: "Holmvik timetable app", client: Ferries, builder: "android-app", families: []string{"Skerrow Sans Variable"},
			roles: []demoRole{{"body", "Skerrow Sans Variable", 400, nil}, {"heading-1", "Skerrow Sans Variable", 700, nil}},
		},
	}
}

func (f *filler) sites(ctx context.Context) error {
	for _, s := range demoSites() {
		if err := f.site(ctx, s); err != nil {
			return err
		}
	}
	return nil
}

func (f *filler) site(ctx context.Context, s demoSite) error {
	terms := api.SiteTerms{Name: s.name, Client: f.clients[s.client], Builder: s.builder, Domains: &s.domains, SampleText: &s.words}
	if len(s.environments) > 0 {
		terms.Environments = &s.environments
	}
	site, err := f.c.Sites.AddSite(ctx, f.p, terms)
	if err != nil {
		return err
	}
	for _, name := range s.families {
		if site, err = f.c.Sites.AddSiteFamily(ctx, f.p, site.Id, f.families[name], nil); err != nil {
			return err
		}
	}
	if len(s.roles) > 0 {
		in := api.RoleAssignments{}
		for _, r := range s.roles {
			in.Assignments = append(in.Assignments, api.RoleAssignment{Role: r.role, Family: f.families[r.family], Weight: r.weight, Slope: api.StyleNormal, Fallbacks: r.fallbacks})
		}
		if site, err = f.c.Sites.AssignRoles(ctx, f.p, site.Id, site.Etag, in); err != nil {
			return err
		}
	}
	if len(s.pages) > 0 {
		in := api.NewSitePages{}
		for _, address := range s.pages {
			in.Pages = append(in.Pages, api.NewSitePage{Url: address})
		}
		if _, err := f.c.Sites.AddSitePages(ctx, f.p, site.Id, in); err != nil {
			return err
		}
	}
	if s.views > 0 {
		if err := f.views(ctx, site.Id, s.views, s.views/16); err != nil {
			return err
		}
	}
	if s.pack {
		if _, err := f.c.Packaging.BuildPack(ctx, f.p, site.Id, nil); err != nil {
			return err
		}
	}
	return nil
}
