package sitedb

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

func (s Queries) sites(ctx context.Context) *gorm.DB {
	return s.On(ctx).Preload("Client").Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") }).
		Preload("RoleAssignments", func(q *gorm.DB) *gorm.DB { return q.Order("id") }).Preload("Replacements", func(q *gorm.DB) *gorm.DB { return q.Order("name") })
}

// Site returns a site with the names of its families.
func (s Queries) Site(ctx context.Context, id int64) (*store.Site, error) {
	return store.First[store.Site](s.sites(ctx).Where("id = ?", id))
}

// Sites returns a page of sites by name, of one client or of all, and those of closed clients
// too where that is asked for.
func (s Queries) Sites(ctx context.Context, p store.Page, client *int64, closed bool) ([]store.Site, error) {
	q := s.sites(ctx)
	if !closed {
		q = q.Where("client_id IN (SELECT id FROM clients WHERE closed_at IS NULL)")
	}
	if client != nil {
		q = q.Where("client_id = ?", *client)
	}
	return store.List[store.Site](p.ByName(q, "sites"))
}

// AddSite adds a site; ErrTaken where the client has one of that name.
func (s Queries) AddSite(ctx context.Context, site *store.Site) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(site).Error)
}

// ChangeSite writes a site's terms if the version still stands.
func (s Queries) ChangeSite(ctx context.Context, site *store.Site) error {
	r := s.On(ctx).Model(&store.Site{}).Where("id = ? AND version = ?", site.ID, site.Version).
		Select("ClientID", "Name", "Outlet", "Domains", "Builder", "Environments", "SampleText", "Version").
		Updates(&store.Site{ClientID: site.ClientID, Name: site.Name, Outlet: site.Outlet, Domains: site.Domains, Builder: site.Builder, Environments: site.Environments, SampleText: site.SampleText, Version: site.Version + 1})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrStale
	}
	return store.Told(r.Error)
}

// AddSiteFamily says that a site uses a family, and by which recipe packs reshape
// it, empty for none; false where it did so already.
func (s Queries) AddSiteFamily(ctx context.Context, site, family int64, recipe string) (bool, error) {
	r := s.On(ctx).Exec(`INSERT INTO site_families (site_id, family_id, recipe) VALUES (?, ?, ?)
		ON DUPLICATE KEY UPDATE recipe = VALUES(recipe)`, site, family, recipe)
	return r.RowsAffected > 0, r.Error
}

// RemoveSiteFamily says that a site no longer uses a family; false where it did not.
// What it did on the site goes with it.
func (s Queries) RemoveSiteFamily(ctx context.Context, site, family int64) (bool, error) {
	for _, q := range []string{"DELETE FROM role_assignments WHERE site_id = ? AND family_id = ?", "DELETE FROM replacements WHERE site_id = ? AND family_id = ?"} {
		if err := s.On(ctx).Exec(q, site, family).Error; err != nil {
			return false, store.Told(err)
		}
	}
	r := s.On(ctx).Exec("DELETE FROM site_families WHERE site_id = ? AND family_id = ?", site, family)
	return r.RowsAffected > 0, r.Error
}

// AddSignOff keeps a sign-off.
func (s Queries) AddSignOff(ctx context.Context, o *store.SignOff) error {
	return store.Add(ctx, s.Store, o)
}

// SignOffs returns the sign-offs of some sites by site, newest first.
func (s Queries) SignOffs(ctx context.Context, sites []int64) (map[int64][]store.SignOff, error) {
	found, err := store.List[store.SignOff](s.On(ctx).Where("site_id IN ?", sites).Order("id DESC"))
	out := make(map[int64][]store.SignOff, len(sites))
	for _, o := range found {
		out[o.SiteID] = append(out[o.SiteID], o)
	}
	return out, err
}

// SignOffsFor returns the sign-offs of families in packs for a builder that are for no site,
// newest first.
func (s Queries) SignOffsFor(ctx context.Context, builder string, families []int64) ([]store.SignOff, error) {
	return store.List[store.SignOff](s.On(ctx).Where("site_id IS NULL AND builder = ? AND family_id IN ?", builder, families).Order("id DESC"))
}

// AllSignOffs returns all sign-offs, newest first.
func (s Queries) AllSignOffs(ctx context.Context) ([]store.SignOff, error) {
	return store.List[store.SignOff](s.On(ctx).Order("id DESC"))
}

// SignOff returns a sign-off by its number.
func (s Queries) SignOff(ctx context.Context, id int64) (*store.SignOff, error) {
	return store.First[store.SignOff](s.On(ctx).Where("id = ?", id))
}

// RevokeSignOff revokes a sign-off; ErrStale where that was done already.
func (s Queries) RevokeSignOff(ctx context.Context, id int64, at time.Time, by string) error {
	r := s.On(ctx).Model(&store.SignOff{}).Where("id = ? AND revoked_at IS NULL", id).Updates(map[string]any{"revoked_at": at, "revoked_by": by})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrStale
	}
	return store.Told(r.Error)
}

// SitesWith returns the IDs of the sites that use a family.
func SitesWith(ctx context.Context, in *store.Store, family int64) ([]int64, error) {
	var ids []int64
	err := In(in).On(ctx).Raw("SELECT site_id FROM site_families WHERE family_id = ? ORDER BY site_id", family).Scan(&ids).Error
	return ids, store.Told(err)
}
