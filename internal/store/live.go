package store

import (
	"time"
)

// LiveStylesheet is a secret address under which a site's stylesheet and fonts are served.
type LiveStylesheet struct {
	ID, SiteID int64
	Hash       string // of its secret
	Secret     string // empty for those of versions that did not keep it
	CreatedAt  time.Time
	CreatedBy  string
	RevokedAt  *time.Time
}

// LiveDay is how many visitors read the live stylesheets of a site on a day.
type LiveDay struct {
	SiteID   int64
	Day      time.Time
	Visitors int64
}
