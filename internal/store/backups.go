package store

import "time"

// Backup is a backup that was made of the service.
type Backup struct {
	ID        int64
	Name      string // in its place
	Place     string
	MadeAt    time.Time
	Records   int64
	Files     int
	Bytes     int64
	Lost      int // files that were missing or damaged, and are not in it
	Encrypted bool
}
