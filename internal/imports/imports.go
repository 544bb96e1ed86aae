// Package imports takes fonts in: single files, and imports of folders and archives that
// people look through before they accept them. It reads what arrives, says what it would
// become in the catalog, and records it.
package imports

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/fetch"
	"sparecrate/internal/library"
	"sparecrate/internal/licensing"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// Imports is what arrived and is to be looked through.
type Imports struct {
	store      *store.Store
	bucket     *bucket.Bucket
	queue      *work.Queue
	conversion *conversion.Conversion
	licensing  *licensing.Licensing
	library    *library.Library
	outside    *fetch.Fetcher // reads from addresses that people give
	heavy      *app.Limiter
	limits     app.Limits
	now        func() time.Time
	note       app.Noter
	readings   readings
}

// New returns the imports of a database, and has the queue unpack, fetch and accept them,
// before other work.
func New(c *app.Core, made *conversion.Conversion, licenses *licensing.Licensing, families *library.Library) *Imports {
	i := &Imports{
		store: c.Store, bucket: c.Bucket, queue: c.Queue, conversion: made, licensing: licenses, library: families, outside: c.Outside,
		heavy: c.Heavy, limits: c.Limits, now: c.Now, note: app.Notes(c.Now), readings: readings{c.Store, c.Bucket, c.Now},
	}
	c.Queue.Handle(jobUnpack, i.unpack)
	c.Queue.Handle(jobAccept, i.takeIn)
	c.Queue.Handle(jobFetch, i.fetchFonts)
	c.Queue.Prefer(jobUnpack, jobAccept, jobFetch)
	return i
}
