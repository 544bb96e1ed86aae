package app

import (
	"context"
	"regexp"
	"strings"
	"time"

	"sparecrate/internal/store"
)

// Noter writes a line of activity: who did what to what.
type Noter func(ctx context.Context, tx *store.Store, p *store.Person, action, subject, detail string) error

// Notes returns a noter by a clock.
func Notes(now func() time.Time) Noter {
	return func(ctx context.Context, tx *store.Store, p *store.Person, action, subject, detail string) error {
		return tx.AddActivity(ctx, &store.Activity{At: now(), Person: p.Name, Action: action, Subject: Shorten(subject, 300), Detail: detail})
	}
}

// priced is a price within the terms of a license as text has them.
var priced = regexp.MustCompile(`(^|; )price: [^;]*`)

// WithoutPrice returns terms of a license as text without what it costs.
func WithoutPrice(terms string) string {
	return strings.TrimPrefix(priced.ReplaceAllString(terms, ""), "; ")
}
