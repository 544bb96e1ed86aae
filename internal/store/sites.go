package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Site is something delivered for a client.
type Site struct {
	ID, ClientID int64
	Client       Client
	Name         string
	Domains      []string `gorm:"serializer:json"`
	Builder      string
	Version      int
	Families     []Family `gorm:"many2many:site_families"`
}

// SignOff says that a person takes responsibility for a family on a site.
type SignOff struct {
	ID, SiteID, FamilyID int64
	State                string // the verdict it was given for
	Grounds              string // hash of the reasons it was given for
	Reason, Person       string
	At                   time.Time
	Ends                 *time.Time // last day; nil for as long as the reasons stand
	WithdrawnAt          *time.Time
	WithdrawnBy          string
}

// Holds reports whether a sign-off stands on a day.
func (o *SignOff) Holds(day time.Time) bool {
	return o.WithdrawnAt == nil && (o.Ends == nil || !day.UTC().Truncate(24*time.Hour).After(*o.Ends))
}

// Pack is a built export; its bytes are in the bucket.
type Pack struct {
	ID, SiteID int64
	Name       string
	SHA256     string `gorm:"column:sha256"`
	Bytes      int64
	Families   []int64 `gorm:"serializer:json"` // what it holds
	CreatedAt  time.Time
	CreatedBy  string
}

func (s *Store) sites(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Preload("Client").Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") })
}

// Site gives a site with the names of its families.
func (s *Store) Site(ctx context.Context, id int64) (*Site, error) {
	return first[Site](s.sites(ctx).Where("id = ?", id))
}

// Sites gives a page of sites by name.
func (s *Store) Sites(ctx context.Context, p Page) ([]Site, error) {
	return list[Site](p.byName(s.sites(ctx), "sites"))
}

// SitesOf gives the sites that use a family.
func (s *Store) SitesOf(ctx context.Context, family int64) ([]Site, error) {
	return list[Site](s.db.WithContext(ctx).Order("name, id").
		Where("id IN (SELECT site_id FROM site_families WHERE family_id = ?)", family))
}

// AddSite adds a site; ErrTaken where the client has one of that name.
func (s *Store) AddSite(ctx context.Context, site *Site) error {
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(site).Error)
}

// ChangeSite writes a site's terms if the version still stands.
func (s *Store) ChangeSite(ctx context.Context, site *Site) error {
	r := s.db.WithContext(ctx).Model(&Site{}).Where("id = ? AND version = ?", site.ID, site.Version).
		Select("ClientID", "Name", "Domains", "Builder", "Version").
		Updates(&Site{ClientID: site.ClientID, Name: site.Name, Domains: site.Domains, Builder: site.Builder, Version: site.Version + 1})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrStale
	}
	return told(r.Error)
}

// UseFamily says that a site uses a family, and by which recipe packs reshape
// it, empty for none; false where it did so already.
func (s *Store) UseFamily(ctx context.Context, site, family int64, recipe string) (bool, error) {
	r := s.db.WithContext(ctx).Exec(`INSERT INTO site_families (site_id, family_id, recipe) VALUES (?, ?, ?)
		ON DUPLICATE KEY UPDATE recipe = VALUES(recipe)`, site, family, recipe)
	return r.RowsAffected > 0, r.Error
}

// Recipes gives the recipes of a site's families, by family.
func (s *Store) Recipes(ctx context.Context, site int64) (map[int64]string, error) {
	var rows []struct {
		FamilyID int64
		Recipe   string
	}
	err := s.db.WithContext(ctx).Table("site_families").Select("family_id, recipe").Where("site_id = ? AND recipe <> ''", site).Scan(&rows).Error
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.FamilyID] = r.Recipe
	}
	return out, err
}

// DropFamily says that a site no longer uses a family; false where it did not.
func (s *Store) DropFamily(ctx context.Context, site, family int64) (bool, error) {
	r := s.db.WithContext(ctx).Exec("DELETE FROM site_families WHERE site_id = ? AND family_id = ?", site, family)
	return r.RowsAffected > 0, r.Error
}

// AddSignOff keeps a sign-off.
func (s *Store) AddSignOff(ctx context.Context, o *SignOff) error { return add(s, ctx, o) }

// SignOffs gives a site's sign-offs, newest first.
func (s *Store) SignOffs(ctx context.Context, site int64) ([]SignOff, error) {
	return list[SignOff](s.db.WithContext(ctx).Where("site_id = ?", site).Order("id DESC"))
}

// AllSignOffs gives all sign-offs, newest first.
func (s *Store) AllSignOffs(ctx context.Context) ([]SignOff, error) {
	return list[SignOff](s.db.WithContext(ctx).Order("id DESC"))
}

// SignOff gives a sign-off by its number.
func (s *Store) SignOff(ctx context.Context, id int64) (*SignOff, error) {
	return first[SignOff](s.db.WithContext(ctx).Where("id = ?", id))
}

// WithdrawSignOff withdraws a sign-off; ErrStale where that was done already.
func (s *Store) WithdrawSignOff(ctx context.Context, id int64, at time.Time, by string) error {
	r := s.db.WithContext(ctx).Model(&SignOff{}).Where("id = ? AND withdrawn_at IS NULL", id).Updates(map[string]any{"withdrawn_at": at, "withdrawn_by": by})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrStale
	}
	return told(r.Error)
}

// AddPack keeps a built pack, and the files it was made from.
func (s *Store) AddPack(ctx context.Context, p *Pack, files []int64) error {
	if err := add(s, ctx, p); err != nil {
		return err
	}
	for _, f := range files {
		if err := s.db.WithContext(ctx).Exec("INSERT IGNORE INTO pack_files (pack_id, file_id) VALUES (?, ?)", p.ID, f).Error; err != nil {
			return told(err)
		}
	}
	return nil
}

// Carrying is a site whose last pack was made from a file.
type Carrying struct {
	FileID, SiteID int64
	Name           string
	Since          time.Time // when that pack was built
}

// Carriers gives the sites whose last pack was made from one of some files.
func (s *Store) Carriers(ctx context.Context, files []int64) ([]Carrying, error) {
	var out []Carrying
	if len(files) == 0 {
		return out, nil
	}
	err := s.db.WithContext(ctx).Raw(`SELECT f.file_id, p.site_id, s.name, p.created_at AS since FROM pack_files f JOIN packs p ON p.id = f.pack_id JOIN sites s ON s.id = p.site_id
		WHERE f.file_id IN ? AND p.id = (SELECT MAX(id) FROM packs l WHERE l.site_id = p.site_id) ORDER BY s.name, p.site_id`, files).Scan(&out).Error
	return out, told(err)
}

// Pack gives a pack by its number.
func (s *Store) Pack(ctx context.Context, id int64) (*Pack, error) {
	return first[Pack](s.db.WithContext(ctx).Where("id = ?", id))
}

// Packs gives a site's packs, newest first.
func (s *Store) Packs(ctx context.Context, site int64) ([]Pack, error) {
	return list[Pack](s.db.WithContext(ctx).Where("site_id = ?", site).Order("id DESC").Limit(200))
}
