// Package licensing keeps licenses: their terms and versions, documents and what is
// found in them, the counts against their limits, and the register of all of it. It says
// what a family may be used for.
package licensing

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
	"sparecrate/internal/work"
)

// Licensing is the licenses of a database and the documents that prove them.
type Licensing struct {
	store  *store.Store
	bucket *bucket.Bucket
	queue  *work.Queue
	usage  *usage.Usage
	limits app.Limits
	now    func() time.Time
	note   app.Noter

	Documents *Documents
	PageViews *PageViews
}

// New returns the licenses of a database, and has the queue read documents.
func New(c *app.Core, u *usage.Usage) *Licensing {
	l := &Licensing{store: c.Store, bucket: c.Bucket, queue: c.Queue, usage: u, limits: c.Limits, now: c.Now, note: app.Notes(c.Now)}
	l.Documents = &Documents{c.Store, c.Bucket, c.Queue}
	l.PageViews = &PageViews{c.Store, u, c.Now, l.note}
	c.Queue.Handle(jobTexts, l.Documents.readTexts)
	return l
}
