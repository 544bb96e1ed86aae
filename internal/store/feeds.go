package store

import (
	"time"
)

// Feed is a secret address under which a calendar program reads the due list.
type Feed struct {
	ID, PersonID int64
	Hash         string
	CreatedAt    time.Time
	RevokedAt    *time.Time
	ReadAt       *time.Time
}
