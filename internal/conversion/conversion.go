// Package conversion makes fonts out of fonts: other formats, reshaped faces,
// pictures, and says what a file holds. What it makes is kept and made again where it
// was damaged; what takes long is done by jobs. Damaged originals are told of here.
package conversion

import (
	"context"
	"log/slog"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
	"sparecrate/internal/work"
)

// Conversion makes fonts out of the files of a bucket.
type Conversion struct {
	// Supplied finds the supplier's own file of what is to be made; nil for none.
	Supplied func(ctx context.Context, m Making) (*store.File, error)
	store    *store.Store
	bucket   *bucket.Bucket
	queue    *work.Queue
	usage    *usage.Usage
	heavy    *app.Limiter
	log      *slog.Logger
	note     app.Noter
	// What takes time to find out and is the same each time.
	drawn   *lru.Cache[string, []byte] // pictures, by what they show
	alarmed sync.Map                   // bucket.Hash of damaged files that were told of
	shaped  shapedFaces
}

// New returns the conversion of a bucket's files, and has the queue make formats.
func New(c *app.Core, u *usage.Usage) *Conversion {
	v := &Conversion{store: c.Store, bucket: c.Bucket, queue: c.Queue, usage: u, heavy: c.Heavy, log: c.Log, note: app.Notes(c.Now)}
	v.drawn, _ = lru.New[string, []byte](mostDrawn) // the error is for sizes below one
	c.Bucket.OnBroken, c.Bucket.OnHealed = v.alarm, v.healed
	c.Queue.Handle(jobMake, v.makeFormat)
	return v
}
