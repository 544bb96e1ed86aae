// Package packaging makes packs: what one would hold, its bytes, what changed since it
// was built, the addresses its files got, and the live stylesheets that stand for one.
package packaging

import (
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"sparecrate/font/reshape"
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
	// measured is what was found of local fonts to the measure of faces: it takes time, and
	// is the same each time.
	measured *lru.Cache[string, []reshape.LocalFont]
}

// New returns the packs of a database.
func New(c *app.Core, u *usage.Usage, made *conversion.Conversion) *Packaging {
	measured, _ := lru.New[string, []reshape.LocalFont](2000) // the error is for sizes below one
	return &Packaging{measured: measured, store: c.Store, bucket: c.Bucket, usage: u, conversion: made, now: c.Now, note: app.Notes(c.Now)}
}
