// Package shortlists keeps shortlists of families, and the pages by which clients look
// at one through a link.
package shortlists

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/catalogsearch"
	"sparecrate/internal/conversion"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// Service is the shortlists of a database.
type Service struct {
	store      *store.Store
	usage      *usage.Usage
	conversion *conversion.Conversion
	finding    *catalogsearch.Finding
	now        func() time.Time
	note       app.Noter
}

// New returns the shortlists of a database.
func New(c *app.Core, u *usage.Usage, made *conversion.Conversion, f *catalogsearch.Finding) *Service {
	return &Service{store: c.Store, usage: u, conversion: made, finding: f, now: c.Now, note: app.Notes(c.Now)}
}
