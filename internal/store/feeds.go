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

// DueOwner says to whom an item of the due list is assigned.
type DueOwner struct {
	Item     string `gorm:"primaryKey"` // its key
	PersonID int64
	Person   Person
	At       time.Time
}

// Snooze says that an item of the due list is hidden until a day.
type Snooze struct {
	Item   string    `gorm:"primaryKey"` // its key
	Until  time.Time // the day on which it shows again
	Person string
	At     time.Time
}
