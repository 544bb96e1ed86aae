// Package demo is the made-up studio that shows the service at work: Lanternjaw
// Studio, its clients, fonts drawn by package foundry, licenses, sites and a
// pack. It is filled in through the catalog, as people would.
package demo

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/imports"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
)

// Studio is the demo studio's name.
const Studio = "Lanternjaw Studio"

// The demo studio's admin.
const (
	Name  = "Ines Varga"
	Email = "ines@lanternjaw.example"
)

// SignIn is how to come in.
type SignIn struct {
	Email    string `json:"email"`
	Password string `json:"password"`
	Filled   bool   `json:"filled"` // all of the demo is in place
}

const signInFile = "demo-sign-in.json"

// Fill fills an empty catalog and keeps the sign-in in the data folder; where
// that was done before it only reads the sign-in.
func Fill(ctx context.Context, c *rooms.Rooms, data, oneTimePassword string) (*SignIn, error) {
	path := filepath.Join(data, signInFile)
	if oneTimePassword == "" {
		b, err := os.ReadFile(path)
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("the folder %s holds another studio's data; give an empty folder with --data", data)
		}
		if err != nil {
			return nil, err
		}
		in := &SignIn{}
		if err := json.Unmarshal(b, in); err != nil {
			return nil, err
		}
		if !in.Filled {
			return nil, fmt.Errorf("the demo in %s was interrupted while it was being set up; remove that folder and start again", data)
		}
		return in, nil
	}
	in := &SignIn{Email: Email, Password: "harbour-" + strings.ToLower(rand.Text()[:10])}
	if err := in.save(path); err != nil {
		return nil, err
	}
	admin, err := c.Auth.SignIn(ctx, "", Email, oneTimePassword)
	if err != nil {
		return nil, err
	}
	if err := c.Auth.ChangePassword(ctx, admin, oneTimePassword, in.Password); err != nil {
		return nil, err
	}
	if admin, err = c.Auth.SignIn(ctx, "", in.Email, in.Password); err != nil {
		return nil, err
	}
	f := &filler{c: c, p: admin, clients: map[string]int64{}, families: map[string]int64{}, months: 9}
	if err := f.fill(ctx); err != nil {
		return nil, err
	}
	in.Filled = true
	return in, in.save(path)
}

// Mark records in a data folder whether all of the demo is in place: a demo that was interrupted
// before that is refused at the next start.
func (in *SignIn) Mark(data string, filled bool) error {
	in.Filled = filled
	return in.save(filepath.Join(data, signInFile))
}

func (in *SignIn) save(path string) error {
	b, err := json.Marshal(in)
	if err != nil {
		return err
	}
	return os.WriteFile(path, b, 0o600)
}

// Font is a demo font file.
type Font struct {
	Name   string // file name
	Client string
	Origin api.Origin
	Data   []byte
}

// Clients of the studio.
const (
	Ferries = "Holmvik Ferries"
	Orrery  = "Orrery Hall"
	Seeds   = "Saltmarsh Seed Exchange"
)

// Fonts draws the demo studio's font files.
func Fonts() ([]Font, error) {
	var out []Font
	add := func(d *foundry.Design, as font.Container, name, client string, origin api.Origin) error {
		b, err := foundry.Build(d, as)
		if err != nil {
			return err
		}
		out = append(out, Font{name, client, origin, b})
		return nil
	}
	for _, d := range foundry.Signage() {
		if err := add(d, font.TTF, d.PostScript+".ttf", Ferries, api.OriginCommissioned); err != nil {
			return nil, err
		}
	}
	if err := add(foundry.Display(), font.OTF, "umbrisk_display_v2_FINAL.otf", Orrery, api.OriginBought); err != nil {
		return nil, err
	}
	if err := add(foundry.Poster(), font.TTF, "tidegarth.ttf", Seeds, api.OriginUnknown); err != nil {
		return nil, err
	}
	variable, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	if err != nil {
		return nil, err
	}
	out = append(out, Font{"SkerrowSans-Variable.ttf", Ferries, api.OriginCommissioned, variable})
	return out, nil
}

type filler struct {
	c        *rooms.Rooms
	p        *store.Person
	clients  map[string]int64
	families map[string]int64
	months   int // of page views
}

func (f *filler) fill(ctx context.Context) error {
	for _, n := range []api.NewPerson{
		{Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Role: api.RoleEditor},
		{Name: "Runa Holt", Email: "runa@lanternjaw.example", Role: api.RoleViewer},
	} {
		if _, err := f.c.Auth.AddPerson(ctx, f.p, n); err != nil {
			return err
		}
	}
	for _, name := range []string{Ferries, Orrery, Seeds} {
		added, err := f.c.Library.AddClient(ctx, f.p, name)
		if err != nil {
			return err
		}
		f.clients[name] = added.Id
	}
	fonts, err := Fonts()
	if err != nil {
		return err
	}
	for _, one := range fonts {
		r, err := f.c.Imports.AddFile(ctx, f.p, imports.Arrival{Name: one.Name, Client: one.Client, Origin: one.Origin, Bytes: bytes.NewReader(one.Data)})
		if err != nil {
			return err
		}
		f.families[r.Family.Name] = r.Family.Id
	}
	if err := f.licenses(ctx); err != nil {
		return err
	}
	if err := f.sites(ctx); err != nil {
		return err
	}
	if err := f.picks(ctx); err != nil {
		return err
	}
	return f.imp(ctx)
}

// picks are what people have said of families: tags, a search, a shortlist with a link.
func (f *filler) picks(ctx context.Context) error {
	for name, tags := range map[string][]string{"Skerrow Sans": {"signage", "timetable"}, "Skerrow Sans Variable": {"signage"}, "Umbrisk Display": {"headings"}} {
		family, err := f.c.Library.Family(ctx, f.p, f.families[name])
		if err != nil {
			return err
		}
		if _, err := f.c.Library.ChangeFamily(ctx, f.p, family.Id, family.Etag, api.FamilyChange{Tags: &tags}); err != nil {
			return err
		}
	}
	shared, client, note := true, Ferries, "Which of these for the boards at the quays?"
	if _, err := f.c.Finding.SaveSearch(ctx, f.p, api.NewSavedSearch{Name: "On a site without a license", Query: "license=none&used=true", Shared: &shared}); err != nil {
		return err
	}
	families := []int64{f.families["Skerrow Sans"], f.families["Umbrisk Display"]}
	list, err := f.c.Shortlists.AddShortlist(ctx, f.p, api.NewShortlist{Name: "Winter timetable", Client: &client, Note: &note, Families: &families})
	if err != nil {
		return err
	}
	words := "Holmvik – Skerry 16:35"
	_, err = f.c.Shortlists.ShareShortlist(ctx, f.p, list.Id, api.NewShare{SampleText: &words})
	return err
}

func (f *filler) licenses(ctx context.Context) error {
	today := time.Now().UTC()
	text := func(s string) *string { return &s }
	day := func(t time.Time) *openapi.Date { return &openapi.Date{Time: t.Truncate(24 * time.Hour)} }
	for _, l := range []struct {
		terms          api.LicenseTerms
		document, text string
	}{
		{api.LicenseTerms{
			Kind: api.KindCommissioned, GrantedTo: f.clients[Ferries], Licensor: text("Lanternjaw Type"), Reference: text("LJ-2026-014"),
			Uses: []api.Use{api.UseWeb, api.UseApp, api.UseDesktop}, From: day(today.AddDate(0, -8, 0)), Note: text("Drawn for the ferries; signs included."),
			Seats: number(6), Apps: number(2), Price: number(1_480_000), Currency: text("EUR"),
			Changes:  &api.LicensedChanges{Subset: said(api.ConsentYes), Outlines: said(api.ConsentYes), Name: said(api.ConsentNo)},
			Families: []int64{f.families["Skerrow Sans"], f.families["Skerrow Sans Variable"]},
		}, "LJ-2026-014 agreement.txt", "Agreement LJ-2026-014 between Lanternjaw Studio and Holmvik Ferries: Skerrow Sans for web, app and desktop, without end.\n"},
		{api.LicenseTerms{
			Kind: api.KindBought, GrantedTo: f.clients[Orrery], Licensor: text("Gantry Row Letters"), Reference: text("N-88213"),
			Uses: []api.Use{api.UseWeb}, From: day(today.AddDate(-1, 0, 19)), Until: day(today.AddDate(0, 0, 18)), Note: text("One year, one domain."),
			Domains: &[]string{"orreryhall.example"}, PageViews: number(50_000), Price: number(18_000), Currency: text("EUR"), Renewal: renewal(api.RenewalByHand),
			Families: []int64{f.families["Umbrisk Display"]},
		}, "order N-88213.txt", "Order N-88213. Licensee: Orrery Hall. Umbrisk Display Regular, web license, orreryhall.example, one year.\n"},
	} {
		added, err := f.c.Licensing.AddLicense(ctx, f.p, l.terms)
		if err != nil {
			return err
		}
		if _, err := f.c.Licensing.AddDocument(ctx, f.p, added.Id, l.document, strings.NewReader(l.text)); err != nil {
			return err
		}
		if l.terms.Seats == nil {
			continue
		}
		for _, place := range []api.NewAllocation{{Measure: api.MeasureSeats, Name: "Ines Varga"}, {Measure: api.MeasureSeats, Name: "Tomas Lindqvist"}, {Measure: api.MeasureSeats, Name: "Marit Sund, Holmvik Ferries"},
			{Measure: api.MeasureApps, Name: "Holmvik timetable app"}} {
			if _, err := f.c.Licensing.AddAllocation(ctx, f.p, added.Id, place); err != nil {
				return err
			}
		}
	}
	web, months, bought := []api.Use{api.UseWeb}, 12, api.KindBought
	_, err := f.c.Licensing.SaveTemplate(ctx, f.p, api.NewTemplate{Name: "Web, one year", Terms: api.TemplateTerms{Kind: &bought, Uses: &web, Months: &months, PageViews: number(50_000),
		Renewal: renewal(api.RenewalByHand), Changes: &api.LicensedChanges{Subset: said(api.ConsentYes)}}})
	return err
}

func number(n int64) *int64 { return &n }

func renewal(r api.Renewal) *api.Renewal { return &r }

// views are the page views of the sites in the months before this one: the
// planetarium's come near what its license allows.
func (f *filler) views(ctx context.Context, site int64, latest, more int64) error {
	this := time.Now().UTC()
	this = time.Date(this.Year(), this.Month(), 1, 0, 0, 0, 0, time.UTC)
	var in []api.MonthViews
	for back := int64(f.months); back >= 1; back-- {
		n := max(latest/5, latest-(back-1)*more) + (back*back*37)%900
		in = append(in, api.MonthViews{Month: this.AddDate(0, -int(back), 0).Format("2006-01"), Views: n})
	}
	_, err := f.c.Licensing.PageViews.Set(ctx, f.p, site, in)
	return err
}

func said(c api.Consent) *api.Consent { return &c }
