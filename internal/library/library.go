// Package library keeps the families of the studio and its clients: what is said of
// them, which of their files is current, what lists and search know of them, the statuses
// they stand on, and the stylesheets that families without files are served from.
package library

import (
	"log/slog"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/fetch"
	"sparecrate/internal/licensing"
	"sparecrate/internal/measures"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
	"sparecrate/internal/work"
)

// Library is the families of a database and their files.
type Library struct {
	store      *store.Store
	bucket     *bucket.Bucket
	queue      *work.Queue
	usage      *usage.Usage
	conversion *conversion.Conversion
	licensing  *licensing.Licensing
	outside    *fetch.Fetcher // reads from addresses that people give
	limits     app.Limits
	now        func() time.Time
	log        *slog.Logger
	note       app.Noter
	// Measures are those of faces, Files says which of their files are in use.
	Measures measures.Measures
	Files    *Files
}

// New returns the families of a database, and has the queue read and list them anew.
func New(c *app.Core, u *usage.Usage, made *conversion.Conversion, licenses *licensing.Licensing) *Library {
	l := &Library{
		store: c.Store, bucket: c.Bucket, queue: c.Queue, usage: u, conversion: made, licensing: licenses, outside: c.Outside,
		limits: c.Limits, now: c.Now, log: c.Log, note: app.Notes(c.Now), Measures: measures.New(c),
	}
	l.Files = &Files{store: c.Store, queue: c.Queue, conversion: made, library: l, prints: l.Measures, now: c.Now, note: l.note}
	c.Queue.Handle(jobRead, l.readAgain)
	c.Queue.Handle(jobIndex, l.indexAll)
	return l
}
