package store

import (
	"time"
)

// Shortlist is a named, ordered pick of families for a client.
type Shortlist struct {
	ID, ClientID int64
	Client       Client
	Name, Note   string
	Version      int
	CreatedAt    time.Time
	CreatedBy    string
	Families     []ShortlistFamily
	Shares       []Share
}

// ShortlistFamily is a family's place on a shortlist.
type ShortlistFamily struct {
	ShortlistID int64 `gorm:"primaryKey"`
	FamilyID    int64 `gorm:"primaryKey"`
	Place       int
	Family      Family
}

// Share is a link by which somebody without an account sees a shortlist.
type Share struct {
	ID, ShortlistID int64
	Hash            string // of its secret
	SampleText      string // what the families are set in; empty for their own samples
	EndsAt          time.Time
	RevokedAt       *time.Time
	Views           int
	ViewedAt        *time.Time
	CreatedAt       time.Time
	CreatedBy       string
}
