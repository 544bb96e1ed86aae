package store

import (
	"context"
	"strings"
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
	Environments []Environment `gorm:"serializer:json"`
	Choices      Choices       `gorm:"serializer:json"`
	Words        string        // the client's own, for pages that show the fonts
	Version      int
	Families     []Family `gorm:"many2many:site_families"`
	Placements   []Placement
	StandIns     []StandIn
}

// Environment is one of several places a site is delivered to.
type Environment struct {
	Name   string `json:"name"`
	Prefix string `json:"prefix,omitempty"` // where the files will be, empty for what the builder says
}

// Choices are what a person decided about the packs of a site.
type Choices struct {
	Send        []int64 `json:"send,omitempty"`  // faces sent though no role needs them
	Leave       []int64 `json:"leave,omitempty"` // faces left at home though one does
	OldBrowsers bool    `json:"oldBrowsers,omitempty"`
	Call        string  `json:"call,omitempty"`    // how the stylesheet is called
	Weights     []int   `json:"weights,omitempty"` // a variable font is pinned at, where it is not taken
}

// Placement says that a family does a role on a site.
type Placement struct {
	ID, SiteID, FamilyID int64
	FaceID               int64 `gorm:"column:face_id"` // one face of it; 0 for what weight and slope find
	Role, Name, Selector string
	Weight               int
	Slope                string
	Stack                []string `gorm:"serializer:json"`
	Override             bool
}

// StandIn says that a font name in a design is swapped for a family.
type StandIn struct {
	ID, SiteID, FamilyID int64
	Name                 string
	Weight               int
	Slope                string
}

// Landed is the address a file of a pack got.
type Landed struct {
	SiteID            int64
	Environment, Path string
	SHA256            string `gorm:"column:sha256"`
	Address           string
	At                time.Time
	Person            string
}

// TableName keeps GORM from guessing.
func (Landed) TableName() string { return "landed" }

// SitePage is a page of a site, on which something may have to be done by hand.
type SitePage struct {
	ID, SiteID     int64
	Address, Title string
	DoneAt         *time.Time
	DoneBy         string
	DonePack       *int64
}

// TableName keeps GORM from guessing.
func (SitePage) TableName() string { return "pages" }

// SignOff says that a person takes responsibility for a family on a site.
type SignOff struct {
	ID, SiteID, FamilyID int64
	State                string // the verdict it was given for
	Grounds              string // hash of the reasons it was given for
	Reason, Person       string
	Role                 string // that the person had
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
	// Environment is which of the site's it is for; Basis is what it was made of, as
	// JSON.
	Environment string
	Basis       string
	CreatedAt   time.Time
	CreatedBy   string
}

func (s *Store) sites(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Preload("Client").Preload("Families", func(q *gorm.DB) *gorm.DB { return q.Order("name, id") }).
		Preload("Placements", func(q *gorm.DB) *gorm.DB { return q.Order("id") }).Preload("StandIns", func(q *gorm.DB) *gorm.DB { return q.Order("name") })
}

// Site gives a site with the names of its families.
func (s *Store) Site(ctx context.Context, id int64) (*Site, error) {
	return first[Site](s.sites(ctx).Where("id = ?", id))
}

// Sites gives a page of sites by name.
func (s *Store) Sites(ctx context.Context, p Page) ([]Site, error) {
	return list[Site](p.byName(s.sites(ctx), "sites"))
}

// AddSite adds a site; ErrTaken where the client has one of that name.
func (s *Store) AddSite(ctx context.Context, site *Site) error {
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(site).Error)
}

// ChangeSite writes a site's terms if the version still stands.
func (s *Store) ChangeSite(ctx context.Context, site *Site) error {
	r := s.db.WithContext(ctx).Model(&Site{}).Where("id = ? AND version = ?", site.ID, site.Version).
		Select("ClientID", "Name", "Domains", "Builder", "Environments", "Words", "Version").
		Updates(&Site{ClientID: site.ClientID, Name: site.Name, Domains: site.Domains, Builder: site.Builder, Environments: site.Environments, Words: site.Words, Version: site.Version + 1})
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
// What it did on the site goes with it.
func (s *Store) DropFamily(ctx context.Context, site, family int64) (bool, error) {
	for _, q := range []string{"DELETE FROM placements WHERE site_id = ? AND family_id = ?", "DELETE FROM stand_ins WHERE site_id = ? AND family_id = ?"} {
		if err := s.db.WithContext(ctx).Exec(q, site, family).Error; err != nil {
			return false, told(err)
		}
	}
	r := s.db.WithContext(ctx).Exec("DELETE FROM site_families WHERE site_id = ? AND family_id = ?", site, family)
	return r.RowsAffected > 0, r.Error
}

// AddSignOff keeps a sign-off.
func (s *Store) AddSignOff(ctx context.Context, o *SignOff) error { return add(s, ctx, o) }

// SignOffs gives the sign-offs of some sites by site, newest first.
func (s *Store) SignOffs(ctx context.Context, sites []int64) (map[int64][]SignOff, error) {
	found, err := list[SignOff](s.db.WithContext(ctx).Where("site_id IN ?", sites).Order("id DESC"))
	out := make(map[int64][]SignOff, len(sites))
	for _, o := range found {
		out[o.SiteID] = append(out[o.SiteID], o)
	}
	return out, err
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
	if len(files) == 0 {
		return nil
	}
	rows := make([]string, len(files))
	values := make([]any, 0, 2*len(files))
	for i, f := range files {
		rows[i] = "(?, ?)"
		values = append(values, p.ID, f)
	}
	return told(s.db.WithContext(ctx).Exec("INSERT IGNORE INTO pack_files (pack_id, file_id) VALUES "+strings.Join(rows, ", "), values...).Error)
}

// PackedFaces gives the faces that a pack was made of.
func (s *Store) PackedFaces(ctx context.Context, pack int64) ([]int64, error) {
	var out []int64
	err := s.db.WithContext(ctx).Raw("SELECT DISTINCT f.face_id FROM face_files f JOIN pack_files p ON p.file_id = f.file_id WHERE p.pack_id = ? ORDER BY f.face_id", pack).Scan(&out).Error
	return out, told(err)
}

// Carrying is a site whose last pack was made from a file.
type Carrying struct {
	FileID, SiteID int64
	Name           string
	Since          time.Time // when that pack was built
}

// carrying asks for the sites whose last pack was made from files f.file_id.
func carrying(db *gorm.DB) *gorm.DB {
	return db.Table("pack_files f").Select("f.file_id, p.site_id, s.name, p.created_at AS since").
		Joins("JOIN packs p ON p.id = f.pack_id").Joins("JOIN sites s ON s.id = p.site_id").
		Where("p.id = (SELECT MAX(id) FROM packs l WHERE l.site_id = p.site_id)")
}

// Pack gives a pack by its number.
func (s *Store) Pack(ctx context.Context, id int64) (*Pack, error) {
	return first[Pack](s.db.WithContext(ctx).Where("id = ?", id))
}

// Packs gives a site's packs, newest first.
func (s *Store) Packs(ctx context.Context, site int64) ([]Pack, error) {
	return list[Pack](s.db.WithContext(ctx).Where("site_id = ?", site).Order("id DESC").Limit(200))
}
