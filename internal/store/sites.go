package store

import (
	"time"

	"gorm.io/gorm"
)

// Site is something delivered for a client.
type Site struct {
	ID, ClientID int64
	Client       Client
	// ParentID is the site that this one is an outlet of, nil for a site of its own; then Outlet
	// is its name on the site, and Name both, with OutletMark between.
	ParentID        *int64
	Outlet          string
	Name            string
	Domains         []string `gorm:"serializer:json"`
	Builder         string
	Environments    []Environment `gorm:"serializer:json"`
	Choices         Choices       `gorm:"serializer:json"`
	SampleText      string        // the client's own, for pages that show the fonts
	Version         int
	Families        []Family `gorm:"many2many:site_families"`
	RoleAssignments []RoleAssignment
	Replacements    []Replacement
}

// OutletMark stands between the names of a site and of an outlet of it.
const OutletMark = " · "

// Environment is one of several places a site is delivered to.
type Environment struct {
	Name   string `json:"name"`
	Prefix string `json:"prefix,omitempty"` // where the files will be, empty for what the builder says
}

// Choices are what a person decided about the packs of a site.
type Choices struct {
	Include       []int64      `json:"include,omitempty"` // faces included though no role needs them
	Exclude       []int64      `json:"exclude,omitempty"` // faces excluded though one does
	LegacyFormats bool         `json:"legacyFormats,omitempty"`
	Load          string       `json:"load,omitempty"`    // how pages load the stylesheet
	Weights       []int        `json:"weights,omitempty"` // a variable font is pinned at, where it is not taken
	Source        string       `json:"source,omitempty"`  // which file goes out where the supplier delivered one
	Pinned        []PinnedFile `json:"pinned,omitempty"`
}

// What Source may be: the supplier's own files, which is usual; files made here; of the two
// the smaller.
const (
	SourceSupplied  = "supplied"
	SourceConverted = "converted"
	SourceSmaller   = "smaller"
)

// PinnedFile says that a site stays on a file of a face, whatever other packs use.
type PinnedFile struct {
	Face int64 `json:"face"`
	File int64 `json:"file"`
}

// PinnedTo returns the file that the site stays on of a face, 0 for none.
func (c *Choices) PinnedTo(face int64) int64 {
	for _, s := range c.Pinned {
		if s.Face == face {
			return s.File
		}
	}
	return 0
}

// RoleAssignment says that a family does a role on a site.
type RoleAssignment struct {
	ID, SiteID, FamilyID int64
	FaceID               int64 `gorm:"column:face_id"` // one face of it; 0 for what weight and slope find
	Role, Name, Selector string
	Weight               int
	Slope                string
	Stack                []string `gorm:"serializer:json"`
	Override             bool
}

// Replacement says that a font name in a design is swapped for a family.
type Replacement struct {
	ID, SiteID, FamilyID int64
	Name                 string
	Weight               int
	Slope                string
}

// FileURL is the address a file of a pack got.
type FileURL struct {
	SiteID            int64
	Environment, Path string
	SHA256            string `gorm:"column:sha256"`
	URL               string `gorm:"column:url"`
	At                time.Time
	Person            string
}

// TableName keeps GORM from guessing.
func (FileURL) TableName() string { return "file_urls" }

// SitePage is a page of a site, on which something may have to be done by hand.
type SitePage struct {
	ID, SiteID int64
	URL        string `gorm:"column:url"`
	Title      string
	DoneAt     *time.Time
	DoneBy     string
	DonePack   *int64
}

// TableName keeps GORM from guessing.
func (SitePage) TableName() string { return "pages" }

// SignOff says that a person takes responsibility for a family on a site.
type SignOff struct {
	ID             int64
	SiteID         int64 `gorm:"default:null"` // 0 for packs without a site
	FamilyID       int64
	Builder        string // of packs without a site
	State          string // the verdict it was given for
	Grounds        string // hash of the reasons it was given for
	Reason, Person string
	Role           string // that the person had
	At             time.Time
	Ends           *time.Time // last day; nil for as long as the reasons stand
	RevokedAt      *time.Time
	RevokedBy      string
}

// Holds reports whether a sign-off stands on a day.
func (o *SignOff) Holds(day time.Time) bool {
	return o.RevokedAt == nil && (o.Ends == nil || !day.UTC().Truncate(24*time.Hour).After(*o.Ends))
}

// Pack is a built export; its bytes are in the bucket.
type Pack struct {
	ID, SiteID int64
	Name       string
	SHA256     string `gorm:"column:sha256"`
	Bytes      int64
	Families   []int64 `gorm:"-"` // what it holds; kept in pack_families
	// Environment is which of the site's it is for; Fingerprint is what it was made of, as
	// JSON.
	Environment string
	Fingerprint string
	CreatedAt   time.Time
	CreatedBy   string
}

// Carrying is a site whose last pack was made from a file.
type Carrying struct {
	FileID, SiteID int64
	Name           string
	Since          time.Time // when that pack was built
}

// CarriedTime says when the packs of a site that held a family were built.
type CarriedTime struct {
	SiteID      int64
	First, Last time.Time
	Packs       int
}

// SitesCarrying asks for the sites whose last pack was made from files f.file_id.
func SitesCarrying(db *gorm.DB) *gorm.DB {
	return db.Table("pack_files f").Select("f.file_id, p.site_id, s.name, p.created_at AS since").
		Joins("JOIN packs p ON p.id = f.pack_id").Joins("JOIN sites s ON s.id = p.site_id").
		Where("p.id = (SELECT MAX(id) FROM packs l WHERE l.site_id = p.site_id)")
}
