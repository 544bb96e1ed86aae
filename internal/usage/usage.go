// Package usage answers the service's central question: which faces of which families
// go out on a site, and whether they may. It reads what verdicts need of families,
// licenses and page views in a few statements, however many they are, and works out the
// selection of faces and the verdicts from that without reading anything more.
package usage

import (
	"time"

	"sparecrate/internal/store"
)

// Usage reads what families are used for.
type Usage struct {
	store *store.Store
	now   func() time.Time
}

// New returns the usage in a database. now is the clock.
func New(s *store.Store, now func() time.Time) *Usage { return &Usage{store: s, now: now} }
