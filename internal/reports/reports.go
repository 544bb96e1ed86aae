// Package reports says what there is to do and what happens: the list of what is due, its
// calendar and letters, and the events that pages listen to.
package reports

import (
	"log/slog"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/packaging"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// Reports reads what is due and what changes.
type Reports struct {
	store     *store.Store
	usage     *usage.Usage
	packaging *packaging.Packaging
	limits    app.Limits // say how e-mails leave
	now       func() time.Time
	log       *slog.Logger
	note      app.Noter
	worked    *worked
	// AtOnce is how long what needs attention may take to work out where it is worked out for
	// each change; what takes longer comes a little later for others. To be set before use.
	AtOnce time.Duration
}

// New returns the reports on a database.
func New(c *app.Core, u *usage.Usage, packs *packaging.Packaging) *Reports {
	return &Reports{store: c.Store, usage: u, packaging: packs, limits: c.Limits, now: c.Now, log: c.Log, note: app.Notes(c.Now), worked: newWorked(), AtOnce: atOnce}
}
