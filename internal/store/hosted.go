package store

import (
	"time"

	"sparecrate/internal/css"
)

// HostedStylesheet is somebody else's stylesheet that a family is served from, with the
// family's faces in it. Where the rules themselves were given, URL is empty.
type HostedStylesheet struct {
	ID, FamilyID int64
	URL          string       `gorm:"column:url"`
	URLHash      string       `gorm:"column:url_hash"`
	Host         string       // of the sheet, or of the fonts
	Faces        []css.Hosted `gorm:"serializer:json"`
	ReadAt       time.Time
	ReadBy       string
}
