package store

import "time"

// Inspection is one look at the published pages of a site.
type Inspection struct {
	ID, SiteID int64
	Addresses  []string `gorm:"serializer:json"`
	Survey     int      // how many pages it may follow links to; 0 for none
	Scheduled  bool
	AskedAt    time.Time
	AskedBy    string
	EndedAt    *time.Time
	Error      string // why it failed
	Pages      int
	Bytes      int64
	FindingCounts
	Accepted, Fresh, Gone int
	Summary               string // what it says of the site as a whole, as JSON
}

// FindingCounts are how many findings there are.
type FindingCounts struct{ Errors, Warnings, Notes int }

// InspectedPage is what an inspection saw on a page.
type InspectedPage struct {
	InspectionID int64 `gorm:"primaryKey"`
	Place        int   `gorm:"primaryKey;autoIncrement:false"`
	URL          string
	Title        string
	Status       int
	Bytes        int64
	FindingCounts
	Report   []byte // JSON, packed with gzip
	Picture  []byte // PNG; nil where it is not kept
	Pictured bool
}

// Finding is a fault of a site's pages, from the inspection that found it first to the one
// that did not find it any more.
type Finding struct {
	ID, SiteID          int64
	Mark                string // the same as long as it is the same fault
	Code, Severity      string
	Message, Fix        string
	Page, Selector, URL string
	Line                int
	Evidence            string
	FirstID             int64
	FirstAt             time.Time
	LastID              int64
	GoneID              *int64
	GoneAt              *time.Time
	AcceptedAt          *time.Time
	AcceptedBy          string
	AcceptedUntil       *time.Time // last day
	Reason              string
}

// AcceptedOn reports whether the finding is accepted on a day.
func (f *Finding) AcceptedOn(day time.Time) bool {
	return f.AcceptedAt != nil && (f.AcceptedUntil == nil || !day.UTC().Truncate(24*time.Hour).After(*f.AcceptedUntil))
}

// InspectionSchedule says how often a site is inspected.
type InspectionSchedule struct {
	SiteID int64 `gorm:"primaryKey;autoIncrement:false"`
	Every  string
	Survey int
	NextAt time.Time
	Person string
}
