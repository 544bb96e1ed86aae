package store

import (
	"time"
)

// License is a license with its terms. Begins and Ends are days; nil means
// always and perpetual.
type License struct {
	ID                  int64
	Kind                string
	GrantedToID         int64
	GrantedTo           Client
	Licensor, Reference string
	Uses                []string `gorm:"serializer:json"`
	Begins, Ends        *time.Time
	Note                string
	Changes             map[string]string `gorm:"serializer:json"`                 // consent by change
	SPDX                string            `gorm:"column:spdx"`                     // of an open license
	Domains             []string          `gorm:"serializer:json"`                 // nil for any
	FaceIDs             []int64           `gorm:"serializer:json;column:face_ids"` // nil for all faces
	PageViews           *int64            // caps; nil for none
	Seats, Apps         *int64
	Price               *int64 // in hundredths of the currency
	Currency            string // ISO 4217
	Renewal             string
	Version             int
	CreatedAt           time.Time
	CreatedBy           string
	ApprovedAt          *time.Time // by an admin; nil where none did
	ApprovedBy          string
	Renews              *int64     // the license that this one goes on from
	RenewedBy           *int64     // the one that goes on from this
	RenewedFrom         *time.Time // its first day; nil for always
	Families            []Family   `gorm:"many2many:license_families"`
	Documents           []Document
	Allocations         []Allocation
}

// Continued reports whether another license goes on from a license on the day after its last.
func (l *License) Continued() bool {
	return l.RenewedBy != nil && l.Ends != nil && (l.RenewedFrom == nil || !l.RenewedFrom.After(l.Ends.AddDate(0, 0, 1)))
}

// Allocation is a seat or an app that a license is used for.
type Allocation struct {
	ID, LicenseID int64
	Measure, Name string
	Since         time.Time
	Person        string
}

// LicenseVersion is a license's terms as they were recorded once.
type LicenseVersion struct {
	LicenseID int64 `gorm:"primaryKey"`
	Version   int   `gorm:"primaryKey"`
	Terms     string
	At        time.Time
	Person    string
}

// Template is a usual kind of license.
type Template struct {
	ID        int64
	Name      string
	Terms     string
	CreatedAt time.Time
	CreatedBy string
}

// TableName keeps GORM from guessing.
func (Template) TableName() string { return "license_templates" }

// Document is a piece of evidence; its bytes are in the bucket.
type Document struct {
	ID, LicenseID int64
	Name          string
	SHA256        string `gorm:"column:sha256"`
	Bytes         int64
	AddedAt       time.Time
	AddedBy       string
}

// FoundDocument is a document of a license or a document of a family, with its text.
type FoundDocument struct {
	ID, LicenseID, FamilyID int64
	Name                    string
	SHA256                  string `gorm:"column:sha256"`
	Bytes                   int64
	Body                    string
}
