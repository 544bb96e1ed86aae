// Package auth says who is let in and as whom: people and their roles, passwords,
// sessions, tokens, and the limits on guessing. What a role may do is decided where a
// call comes in and where a thing is loaded.
package auth

import (
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/mail"
	"sparecrate/internal/store"
)

// Auth is the people, and what lets them in.
type Auth struct {
	store  *store.Store
	now    func() time.Time
	note   app.Noter
	mail   mail.Config      // by which invitations leave
	factor app.FactorPolicy // whom a second factor is asked of
	at     string           // the service's address, as invitations give it
}

// New returns the people of a database. now is the clock.
func New(s *store.Store, now func() time.Time, limits app.Limits) *Auth {
	return &Auth{store: s, now: now, note: app.Notes(now), mail: limits.Mail, at: limits.Address, factor: limits.SecondFactor}
}
