package store

import (
	"time"
)

// Builder is a set of builder rules as the studio has it: its own, or a shipped
// one that was changed.
type Builder struct {
	ID         int64
	Kind, Name string
	Rules      string // JSON
	Version    int    // the shipped rules are version 1
	ChangedAt  time.Time
	ChangedBy  string
}

// BuilderVersion is a set of rules as it was once.
type BuilderVersion struct {
	Kind    string
	Version int
	Rules   string
	At      time.Time
	Person  string
}
