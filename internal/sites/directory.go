// Package sites keeps what the studio builds for: sites with the roles that families play
// on them, the rules of their builders, their published pages, and the sign-offs that let
// a family out where its verdict does not. It shows what a pack for a site would hold.
package sites

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/fetch"
	"sparecrate/internal/library"
	"sparecrate/internal/packaging"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// Directory is the sites of a database and the rules they are delivered by.
type Directory struct {
	store      *store.Store
	bucket     *bucket.Bucket
	usage      *usage.Usage
	conversion *conversion.Conversion
	library    *library.Library
	packaging  *packaging.Packaging
	heavy      *app.Limiter
	limits     app.Limits
	outside    *fetch.Fetcher
	now        func() time.Time
	note       app.Noter
}

// New returns the sites of a database.
func New(c *app.Core, u *usage.Usage, made *conversion.Conversion, families *library.Library, packs *packaging.Packaging) *Directory {
	return &Directory{
		store: c.Store, bucket: c.Bucket, usage: u, conversion: made, library: families, packaging: packs,
		heavy: c.Heavy, limits: c.Limits, outside: c.Outside, now: c.Now, note: app.Notes(c.Now),
	}
}
