package handover

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
	"sparecrate/internal/usage"
)

// archive is all that is kept of a client.
type archive struct {
	Studio   string          `json:"studio"`
	Client   string          `json:"client"`
	Day      string          `json:"day"`
	Families []familyRecord  `json:"families"`
	Licenses []licenseRecord `json:"licenses"`
	Sites    []siteRecord    `json:"sites"`
}

type siteRecord struct {
	ID           int64           `json:"id"`
	Name         string          `json:"name"`
	OutletOf     int64           `json:"outletOf,omitempty"`
	Builder      string          `json:"builder"`
	Domains      []string        `json:"domains"`
	Environments []string        `json:"environments"`
	Words        string          `json:"words,omitempty"`
	Families     []string        `json:"families"`
	Roles        []roleRecord    `json:"roles"`
	Replacements []string        `json:"replacements,omitempty"`
	Pages        []pageRecord    `json:"pages"`
	FileURLs     []urlRecord     `json:"fileUrls"`
	Packs        []packRecord    `json:"packs"`
	PageViews    []monthLine     `json:"pageViews"`
	SignOffs     []signOffRecord `json:"signOffs"`
}

type roleRecord struct {
	Role      string   `json:"role"`
	Family    string   `json:"family"`
	Weight    int      `json:"weight"`
	Style     string   `json:"style"`
	Selector  string   `json:"selector,omitempty"`
	Fallbacks []string `json:"fallbacks,omitempty"`
}

type pageRecord struct {
	URL   string `json:"url"`
	Title string `json:"title,omitempty"`
	Done  string `json:"done,omitempty"` // when and by whom
}

type urlRecord struct {
	Environment string `json:"environment,omitempty"`
	File        string `json:"file"`
	URL         string `json:"url"`
	At          string `json:"at"`
}

type packRecord struct {
	keptFile
	Environment string   `json:"environment,omitempty"`
	Built       string   `json:"built"`
	By          string   `json:"by"`
	Families    []string `json:"families"`
}

// Archive writes all of a client as a zip: original files, documents, licenses, sites and packs,
// with an index that a person reads. Of families of others only what may go along is in it.
func (h *Handover) Archive(ctx context.Context, p *store.Person, client int64) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	of, err := h.store.Client(ctx, client)
	if err != nil {
		return nil, 0, "", app.Explain(err, "client")
	}
	studio, err := h.store.Studio(ctx)
	if err != nil {
		return nil, 0, "", err
	}
	b := h.bundle()
	b.prices = p.Prices
	a := &archive{Studio: studio.Name, Client: of.Name, Day: h.now().Format(time.DateOnly), Families: []familyRecord{}, Licenses: []licenseRecord{}, Sites: []siteRecord{}}
	names, err := b.families(ctx, a, of, studio)
	if err != nil {
		return nil, 0, "", err
	}
	if err := b.sites(ctx, a, of, names); err != nil {
		return nil, 0, "", err
	}
	var page bytes.Buffer
	if err := pages.ExecuteTemplate(&page, "archive.html", a); err != nil {
		return nil, 0, "", err
	}
	b.write("index.html", page.Bytes())
	if err := b.writeJSON("index.json", a); err != nil {
		return nil, 0, "", err
	}
	staged, err := b.zip(ctx)
	if err != nil {
		return nil, 0, "", err
	}
	err = h.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.MarkArchived(ctx, of.ID, h.now()); err != nil {
			return err
		}
		return h.note(ctx, tx, p, "archived client", of.Name, fmt.Sprintf("%d files, %d bytes, SHA-256 %s", len(b.entries), staged.Size, staged.Hash))
	})
	if err != nil {
		staged.Close()
		return nil, 0, "", err
	}
	return staged.Reader(), staged.Size, pack.FileName(of.Name+" archive "+a.Day, ""), nil
}

// families writes the families and licenses of a client, and returns the names of families.
func (b *bundle) families(ctx context.Context, a *archive, client, studio *store.Client) (map[int64]string, error) {
	s := b.h.store
	ids, err := familydb.FamiliesFor(ctx, s, client.ID) // retired ones too
	if err != nil {
		return nil, err
	}
	granted, err := licensedb.In(s).AllLicenses(ctx, client.ID)
	if err != nil {
		return nil, err
	}
	names := map[int64]string{}
	whole, err := familydb.In(s).WholeFamilies(ctx, ids)
	if err != nil {
		return nil, app.Explain(err, "family any more as one that is in here")
	}
	sheets, err := librarydb.In(s).SheetsOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	covering, err := licensedb.In(s).LicensesOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	for i := range whole {
		f := &whole[i]
		names[f.ID] = f.Name
		var of []store.License
		for _, l := range covering {
			if slices.ContainsFunc(l.Families, func(o store.Family) bool { return o.ID == f.ID }) {
				of = append(of, l)
			}
		}
		leftOut := ""
		if !mayGo(f, client.ID, of) {
			leftOut = fmt.Sprintf("Its files belong to %s and no license lets %s have them.", f.Client.Name, client.Name)
		}
		one, err := b.familyOf(ctx, f, sheets[f.ID], leftOut)
		if err != nil {
			return nil, err
		}
		a.Families = append(a.Families, one)
	}
	all := granted
	for _, l := range covering {
		// What another client was granted is not this one's to see.
		seen := l.Kind == string(api.KindOpen) || l.GrantedToID == studio.ID
		if seen && !slices.ContainsFunc(all, func(o store.License) bool { return o.ID == l.ID }) {
			all = append(all, l)
		}
	}
	slices.SortFunc(all, func(x, y store.License) int { return int(x.ID - y.ID) })
	limits, err := b.h.limitsOf(ctx, all)
	if err != nil {
		return nil, err
	}
	for i := range all {
		a.Licenses = append(a.Licenses, b.licenseOf(ctx, &all[i], limits[all[i].ID], b.prices && all[i].GrantedToID == client.ID))
	}
	return names, nil
}

// sites writes the sites of a client with their pages, file URLs, packs and page views.
func (b *bundle) sites(ctx context.Context, a *archive, client *store.Client, names map[int64]string) error {
	s := b.h.store
	all, err := usagedb.In(s).AllSites(ctx, client.ID)
	if err != nil || len(all) == 0 {
		return err
	}
	ids := app.Each(all, func(s store.Site) int64 { return s.ID })
	uses, err := usagedb.In(s).Uses(ctx, ids)
	if err != nil {
		return err
	}
	pages, err := sitedb.In(s).PagesOf(ctx, ids)
	if err != nil {
		return err
	}
	signed, err := sitedb.In(s).SignOffs(ctx, ids)
	if err != nil {
		return err
	}
	views, err := usagedb.In(s).SiteViews(ctx, ids)
	if err != nil {
		return err
	}
	book, err := b.h.usage.Rules(ctx)
	if err != nil {
		return err
	}
	for i := range all {
		site := &all[i]
		out := siteRecord{ID: site.ID, Name: site.Name, Builder: book.Of(site).Name, Domains: append([]string{}, site.Domains...), Environments: app.Each(site.Environments, func(e store.Environment) string { return strings.TrimSpace(e.Name + " " + e.Prefix) }),
			Words: site.SampleText, Families: []string{}, Roles: []roleRecord{}, Pages: []pageRecord{}, FileURLs: []urlRecord{}, Packs: []packRecord{}, PageViews: monthsOf(views, site.ID), SignOffs: []signOffRecord{}}
		if site.ParentID != nil {
			out.OutletOf = *site.ParentID
		}
		for _, u := range uses {
			if u.SiteID == site.ID {
				out.Families = append(out.Families, names[u.FamilyID])
			}
		}
		for _, p := range site.RoleAssignments {
			one := usage.RoleAssignmentOf(p, names[p.FamilyID])
			out.Roles = append(out.Roles, roleRecord{one.Title(), names[p.FamilyID], p.Weight, p.Slope, p.Selector, p.Stack})
		}
		for _, r := range site.Replacements {
			out.Replacements = append(out.Replacements, fmt.Sprintf("%s becomes %s, %d %s", r.Name, names[r.FamilyID], r.Weight, r.Slope))
		}
		for _, p := range pages[site.ID] {
			one := pageRecord{URL: p.URL, Title: p.Title}
			if p.DoneAt != nil {
				one.Done = p.DoneAt.Format(time.DateOnly) + " by " + p.DoneBy
			}
			out.Pages = append(out.Pages, one)
		}
		for _, o := range signed[site.ID] {
			out.SignOffs = append(out.SignOffs, signOffOf(&o, site.Name, names[o.FamilyID]))
		}
		if err := b.delivered(ctx, site, &out, names); err != nil {
			return err
		}
		a.Sites = append(a.Sites, out)
	}
	return nil
}

// delivered writes the packs of a site and the URLs that its files got.
func (b *bundle) delivered(ctx context.Context, site *store.Site, out *siteRecord, names map[int64]string) error {
	urls, err := packdb.In(b.h.store).FileURLsOf(ctx, site.ID)
	if err != nil {
		return err
	}
	for _, l := range urls {
		out.FileURLs = append(out.FileURLs, urlRecord{l.Environment, l.Path, l.URL, l.At.Format(time.DateOnly)})
	}
	packs, err := packdb.In(b.h.store).Packs(ctx, site.ID)
	if err != nil {
		return err
	}
	folder := "sites/" + safeName(site.Name)
	for _, p := range packs {
		one := packRecord{keptFile: keptFile{Name: p.Name, SHA256: p.SHA256, Bytes: p.Bytes}, Environment: p.Environment, Built: p.CreatedAt.Format(time.DateOnly), By: p.CreatedBy, Families: []string{}}
		for _, id := range p.Families {
			if names[id] != "" {
				one.Families = append(one.Families, names[id])
			}
		}
		one.Path = b.keep(ctx, folder, fmt.Sprintf("%s-%d-%s", one.Built, p.ID, p.Name), p.SHA256, p.Bytes)
		out.Packs = append(out.Packs, one)
	}
	return nil
}
