// Package catalogsearch answers searches over families and their faces, and keeps searches
// under names. What can be searched for is written by the library when it lists a family.
package catalogsearch

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/measures"
	"sparecrate/internal/store"
)

// Finding searches the families of a database.
type Finding struct {
	store    *store.Store
	measures measures.Measures
	now      func() time.Time
	note     app.Noter
}

// New returns the search over a database.
func New(c *app.Core) *Finding {
	return &Finding{store: c.Store, measures: measures.New(c), now: c.Now, note: app.Notes(c.Now)}
}
