// Package packaging makes packs: what one would hold, its bytes, what changed since it
// was built, the addresses its files got, and the live stylesheets that stand for one.
package packaging

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// Packaging makes packs of the families that sites use.
type Packaging struct {
	store      *store.Store
	bucket     *bucket.Bucket
	usage      *usage.Usage
	conversion *conversion.Conversion
	now        func() time.Time
	note       app.Noter
	// What takes time to find out and is the same each time.
	measured measuredFaces
}

// New gives the packs of a database.
func New(c *app.Core, u *usage.Usage, made *conversion.Conversion) *Packaging {
	return &Packaging{store: c.Store, bucket: c.Bucket, usage: u, conversion: made, now: c.Now, note: app.Notes(c.Now)}
}
