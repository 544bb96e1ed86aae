package store

import (
	"time"

	"gorm.io/gorm"
)

// BearingFace is a face as verdicts need it.
type BearingFace struct {
	ID, FamilyID int64
	FullName     string
	Bearing      int64
	Variable     bool
	Supplied     Formats // that its supplier delivered
}

// FaceStyle is a face's place in its family.
type FaceStyle struct {
	ID, FamilyID         int64
	Style                string
	Width                float64
	Weight               int
	Slope                string
	WeightMin, WeightMax int
}

// Bearing returns a face as verdicts need it.
func (f *Face) Bearing() BearingFace {
	return BearingFace{ID: f.ID, FamilyID: f.FamilyID, FullName: f.Listing.FullName, Bearing: f.Listing.Bearing, Variable: f.Listing.Variable, Supplied: f.Listing.Supplied}
}

// Standing returns a face's place in its family.
func (f *Face) Standing() FaceStyle {
	return FaceStyle{ID: f.ID, FamilyID: f.FamilyID, Style: f.Style, Width: f.Width, Weight: f.Weight, Slope: f.Slope,
		WeightMin: f.Listing.WeightMin, WeightMax: f.Listing.WeightMax}
}

// Kept is the text of a document, and what was found in it.
type Kept struct {
	SHA256   string `gorm:"column:sha256;primaryKey"`
	Body     string
	Findings string
	Reader   int // catalog's version of how texts are read
}

// TableName keeps GORM from guessing.
func (Kept) TableName() string { return "texts" }

// DocumentFindings is what was found in a document of a family.
type DocumentFindings struct {
	FamilyID int64
	Name     string
	Findings string
}

// FindingsInDocuments asks for what was found in documents of families.
func FindingsInDocuments(db *gorm.DB) *gorm.DB {
	return db.Table("family_documents d").Select("d.id AS document_id, d.family_id, d.name, texts.findings").
		Joins("JOIN texts ON texts.sha256 = d.sha256").Where("texts.findings <> '[]'")
}

// Using is a family on a site.
type Using struct {
	SiteID, FamilyID, ClientID int64
	Recipe                     string
}

// SitesUsing asks for which sites use which families.
func SitesUsing(db *gorm.DB) *gorm.DB {
	return db.Table("site_families").Select("site_families.site_id, site_families.family_id, site_families.recipe, sites.client_id").
		Joins("JOIN sites ON sites.id = site_families.site_id")
}

// Views is a site's page views in a month.
type Views struct {
	SiteID int64     `gorm:"primaryKey"`
	Month  time.Time `gorm:"primaryKey;type:date"` // its first day
	Views  int64
	Source string
	At     time.Time
	Person string
}

// TableName keeps GORM from guessing.
func (Views) TableName() string { return "site_views" }
