package sites

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// SitePages returns the pages of a site, with who did which and when.
func (dir *Directory) SitePages(ctx context.Context, p *store.Person, site int64) (*api.SitePageList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	return dir.sitePages(ctx, d)
}

func (dir *Directory) sitePages(ctx context.Context, d *usage.Site) (*api.SitePageList, error) {
	pages, err := sitedb.In(dir.store).SitePages(ctx, d.ID)
	if err != nil {
		return nil, err
	}
	packs, err := packdb.In(dir.store).LatestPacks(ctx, []int64{d.ID})
	if err != nil {
		return nil, err
	}
	var last int64
	for _, k := range packs {
		last = max(last, k.ID)
	}
	out := &api.SitePageList{EachPage: d.Rules.Styles.EachPage, Items: []api.PageOfSite{}}
	for _, one := range pages {
		v := api.PageOfSite{Id: one.ID, Url: one.URL, Title: one.Title, Done: one.DoneAt != nil, DoneAt: one.DoneAt}
		if v.Done {
			v.DoneBy = &one.DoneBy
			if one.DonePack != nil && *one.DonePack < last {
				behind := "A newer pack was built since; do it again."
				v.Behind = &behind
			}
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// AddSitePages names pages of a site; those that are there stay as they are.
func (dir *Directory) AddSitePages(ctx context.Context, p *store.Person, site int64, in api.NewSitePages) (*api.SitePageList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if len(in.Pages) == 0 || len(in.Pages) > 1000 {
		return nil, app.InvalidField("pages", "bad-count", "Name 1 to 1000 pages at a time.")
	}
	var fresh []store.SitePage
	for i, one := range in.Pages {
		address, err := PageAddress(one.Url)
		if err != nil {
			return nil, app.InvalidField(fmt.Sprintf("pages.%d.address", i), "bad-address", "%s", sentence.Of(err))
		}
		page := store.SitePage{SiteID: site, URL: address}
		if one.Title != nil {
			page.Title = app.Shorten(strings.TrimSpace(*one.Title), 200)
		}
		fresh = append(fresh, page)
	}
	there, err := sitedb.In(dir.store).SitePages(ctx, site)
	if err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for _, one := range there {
		known[one.URL] = true
	}
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		added := 0
		had := map[string]bool{}
		for _, one := range fresh {
			if known[one.URL] || had[one.URL] {
				continue
			}
			had[one.URL] = true
			if err := sitedb.In(tx).AddSitePage(ctx, &one); err != nil {
				return err
			}
			added++
		}
		if added == 0 {
			return nil
		}
		return dir.note(ctx, tx, p, "added pages", d.Name, fmt.Sprintf("%d, among them %s", added, fresh[0].URL))
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.Problem(app.Conflict, "page-there", "Someone added one of these pages at the same time. Try again.")
	}
	if err != nil {
		return nil, err
	}
	return dir.sitePages(ctx, d)
}

// PageAddress reads the address of a page: whole, or from the root of the site.
func PageAddress(text string) (string, error) {
	text = strings.TrimSpace(text)
	u, err := url.Parse(text)
	switch {
	case text == "":
		return "", errors.New("a page needs an address, like /prices")
	case err != nil || strings.ContainsAny(text, " \n\"<>"):
		return "", fmt.Errorf("“%s” is no address of a page; write it like /prices or https://holmvik.example/prices", text)
	case u.Scheme != "" && u.Scheme != "http" && u.Scheme != "https":
		return "", fmt.Errorf("“%s” is no address of a page of the web", text)
	case len(text) > 500:
		return "", errors.New("the address is longer than 500 letters")
	case u.Scheme == "" && !strings.HasPrefix(text, "/"):
		return "/" + text, nil
	}
	return text, nil
}

// MarkSitePage says that a page is done, or not.
func (dir *Directory) MarkSitePage(ctx context.Context, p *store.Person, site, page int64, done bool) (*api.SitePageList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	packs, err := packdb.In(dir.store).LatestPacks(ctx, []int64{site})
	if err != nil {
		return nil, err
	}
	var at *time.Time
	var by string
	var pack *int64
	if done {
		now := dir.now()
		at, by = &now, p.Name
		for i := range packs {
			if pack == nil || packs[i].ID > *pack {
				pack = &packs[i].ID
			}
		}
	}
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		if err := sitedb.In(tx).MarkSitePage(ctx, site, page, at, by, pack); err != nil {
			return app.Explain(err, "page of this site")
		}
		return dir.note(ctx, tx, p, map[bool]string{true: "did page", false: "undid page"}[done], d.Name, fmt.Sprintf("page %d", page))
	})
	if err != nil {
		return nil, err
	}
	return dir.sitePages(ctx, d)
}

// RemoveSitePage takes a page off a site's list.
func (dir *Directory) RemoveSitePage(ctx context.Context, p *store.Person, site, page int64) (*api.SitePageList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		if err := sitedb.In(tx).RemoveSitePage(ctx, site, page); err != nil {
			return app.Explain(err, "page of this site")
		}
		return dir.note(ctx, tx, p, "removed page", d.Name, fmt.Sprintf("page %d", page))
	})
	if err != nil {
		return nil, err
	}
	return dir.sitePages(ctx, d)
}
