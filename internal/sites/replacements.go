package sites

import (
	"context"
	"errors"
	"io"
	"net/url"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/css"
	"sparecrate/internal/fetch"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Bounds of one look at the pages of a site.
const (
	checkedPages  = 20
	sheetsOfPage  = 12
	bytesOfPage   = 4 << 20
	checkTime     = 90 * time.Second
	timeOfPage    = 20 * time.Second
	maxSelectors  = 40 // of a name on a page
	importedDepth = 2
)

// pageReader reads published pages and their stylesheets.
type pageReader struct{ *Directory }

// CheckReplacements reads the published pages of a site and its outlets with their stylesheets,
// and says what else is set in the names that are replaced. Scripts are not run.
func CheckReplacements(ctx context.Context, c *Directory, p *store.Person, site int64) (*api.ReplacementCheck, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if len(d.Replacements) == 0 {
		return nil, app.Problem(app.Conflict, "nothing-replaced", "Nothing is replaced on %s. Add a replacement first.", d.Name)
	}
	ids, err := WithOutlets(ctx, c, d)
	if err != nil {
		return nil, err
	}
	addresses, unread, err := PublishedPages(ctx, c, d, ids)
	if err != nil {
		return nil, err
	}
	out := &api.ReplacementCheck{Items: replacedNames(d), Pages: []string{}, Unread: append([]api.UnreadPage{}, unread...)}
	return out, c.heavy.Do(ctx, bytesOfPage*4, func() error { return pageReader{c}.lookAt(ctx, addresses, out) })
}

// lookAt reads pages and adds what they set in the names.
func (p pageReader) lookAt(ctx context.Context, addresses []string, out *api.ReplacementCheck) error {
	all, cancel := context.WithTimeout(ctx, checkTime)
	defer cancel()
	read := map[string]map[string][]string{} // stylesheets that several pages load
	for _, address := range addresses {
		set, err := p.setOnPage(all, address, read)
		var told *fetch.Error
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case errors.As(err, &told):
			out.Unread = append(out.Unread, api.UnreadPage{Url: address, Why: told.Message})
			continue
		case err != nil:
			out.Unread = append(out.Unread, api.UnreadPage{Url: address, Why: "It took too long to read, or broke off."})
			continue
		}
		out.Pages = append(out.Pages, address)
		for i := range out.Items {
			if selectors := set[strings.ToLower(out.Items[i].Name)]; len(selectors) > 0 {
				slices.Sort(selectors)
				selectors = slices.Compact(selectors)
				out.Items[i].Pages = append(out.Items[i].Pages, api.NameOnPage{Url: address, Selectors: selectors[:min(len(selectors), maxSelectors)]})
			}
		}
	}
	return nil
}

// replacedNames returns the names that are replaced, with the roles that use them.
func replacedNames(d *usage.Site) []api.ReplacedName {
	out := []api.ReplacedName{}
	for _, s := range d.Replacements {
		if slices.ContainsFunc(out, func(o api.ReplacedName) bool { return strings.EqualFold(o.Name, s.Name) }) {
			continue
		}
		one := api.ReplacedName{Name: s.Name, Roles: []string{}, Pages: []api.NameOnPage{}}
		for _, p := range d.RoleAssignments {
			role := usage.RoleAssignmentOf(p, "")
			named := slices.ContainsFunc(d.Uses, func(u usage.SiteFamily) bool {
				return u.Family.ID == p.FamilyID && strings.EqualFold(u.Family.Name, s.Name)
			})
			if named || slices.ContainsFunc(p.Stack, func(f string) bool { return strings.EqualFold(f, s.Name) }) {
				one.Roles = append(one.Roles, role.Title())
			}
		}
		out = append(out, one)
	}
	return out
}

// WithOutlets returns the numbers of a site and its outlets, the site's first.
func WithOutlets(ctx context.Context, c *Directory, d *usage.Site) ([]int64, error) {
	beside, err := c.outletsBeside(ctx, []*store.Site{d.Site})
	if err != nil {
		return nil, err
	}
	home := parentOf(d.Site)
	ids := []int64{home}
	for _, o := range beside[home] {
		ids = append(ids, o.ID)
	}
	return ids, nil
}

// PublishedPages returns the URLs of the pages that some sites name, of those that belong to
// d; a page without a domain is on the site's first one, whose first page it is where they
// name none.
func PublishedPages(ctx context.Context, c *Directory, d *usage.Site, ids []int64) (addresses []string, unread []api.UnreadPage, err error) {
	pages, err := sitedb.In(c.store).PagesOf(ctx, ids)
	if err != nil {
		return nil, nil, err
	}
	var named []string
	for _, id := range ids {
		for _, page := range pages[id] {
			named = append(named, page.URL)
		}
	}
	if len(named) == 0 && len(d.Domains) > 0 {
		named = []string{"/"}
	}
	for _, address := range named {
		u, err := url.Parse(address)
		if err != nil {
			continue // not reached: pages are read as URLs when they are named
		}
		if u.Host == "" {
			if len(d.Domains) == 0 {
				unread = append(unread, api.UnreadPage{Url: address, Why: "The site has no domain. Enter it, or name the page by its whole URL."})
				continue
			}
			u.Scheme, u.Host = "https", d.Domains[0]
		}
		if whole := u.String(); !slices.Contains(addresses, whole) {
			addresses = append(addresses, whole)
		}
	}
	for _, address := range addresses[min(len(addresses), checkedPages):] {
		unread = append(unread, api.UnreadPage{Url: address, Why: "Only the first 20 pages are read."})
	}
	return addresses[:min(len(addresses), checkedPages)], unread, nil
}

// setOnPage returns the families that a page and its stylesheets set text in, by name in small
// letters, with selectors.
func (p pageReader) setOnPage(ctx context.Context, address string, read map[string]map[string][]string) (map[string][]string, error) {
	ctx, cancel := context.WithTimeout(ctx, timeOfPage)
	defer cancel()
	text, base, err := p.textAt(ctx, address)
	if err != nil {
		return nil, err
	}
	styles := css.StylesOfPage(text, base)
	out := map[string][]string{}
	add := func(set map[string][]string) {
		for family, selectors := range set {
			out[family] = append(out[family], selectors...)
		}
	}
	add(css.FamiliesSet(styles.Inline))
	next := slices.Concat(styles.Linked, css.ReadSheet(styles.Inline, base).Imports)
	had := map[string]bool{}
	for depth := 0; depth <= importedDepth && len(next) > 0; depth++ {
		var further []string
		for _, sheet := range next {
			if had[sheet] || len(had) >= sheetsOfPage {
				continue
			}
			had[sheet] = true
			if read[sheet] == nil {
				text, at, err := p.textAt(ctx, sheet)
				if err != nil {
					read[sheet] = map[string][]string{} // a page without one of its stylesheets is read all the same
					continue
				}
				read[sheet] = css.FamiliesSet(text)
				further = append(further, css.ReadSheet(text, at).Imports...)
			}
			add(read[sheet])
		}
		next = further
	}
	return out, nil
}

// textAt reads a text from outside, with its URL after redirects.
func (p pageReader) textAt(ctx context.Context, address string) (text, at string, err error) {
	got, err := p.outside.Get(ctx, address, bytesOfPage)
	if err != nil {
		return "", "", err
	}
	defer func() { _ = got.Body.Close() }()
	b, err := io.ReadAll(got.Body)
	return string(b), got.Address, err
}
