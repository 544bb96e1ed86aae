package app

import (
	"errors"
	"fmt"
	"time"

	"sparecrate/api"
	"sparecrate/internal/store"
)

// Kind is what went wrong, in the large.
type Kind int

// The kinds of errors.
const (
	Invalid         Kind = iota // what was sent cannot be used
	Unauthenticated             // nobody is signed in
	Forbidden                   // the person may not
	Missing                     // there is no such thing
	Conflict                    // it does not fit with what is there
	Stale                       // somebody else changed it meanwhile
	TooLarge                    // more than is taken
	TooMany                     // more often than is taken; Wait says when to come again
	Unavailable                 // something that it needs does not answer
)

// Error is an error for people and programs.
type Error struct {
	Kind    Kind
	Code    string // stable
	Message string // a sentence
	Field   string // the field at fault, if there is one
	Wait    time.Duration
}

func (e *Error) Error() string { return e.Message }

// Problem returns an error of a kind, with a stable code and a sentence.
func Problem(k Kind, code, format string, args ...any) *Error {
	return &Error{Kind: k, Code: code, Message: fmt.Sprintf(format, args...)}
}

// TooManyRequests refuses what comes too often.
func TooManyRequests(wait time.Duration, format string, args ...any) *Error {
	e := Problem(TooMany, "too-many-requests", format, args...)
	e.Wait = wait
	return e
}

// InvalidField returns an error about what was sent in a field.
func InvalidField(field, code, format string, args ...any) *Error {
	e := Problem(Invalid, code, format, args...)
	e.Field = field
	return e
}

// Explain turns the store's errors about a thing into sentences; others pass.
func Explain(err error, thing string) error {
	switch {
	case errors.Is(err, store.ErrNotFound):
		return Problem(Missing, "not-found", "There is no such %s.", thing)
	case errors.Is(err, store.ErrStale):
		return Problem(Stale, "changed-meanwhile", "Someone else changed this %s while you were editing it. Reload it and repeat your change.", thing)
	}
	return err
}

// Require checks that a person has a role, or one above it.
func Require(p *store.Person, role api.Role) error {
	if p == nil {
		return Problem(Unauthenticated, "not-signed-in", "Sign in first.")
	}
	if p.MustChangePassword {
		return Problem(Forbidden, "password-change-required", "Your password is a one-time password. Set your own password first.")
	}
	if p.MustAddFactor {
		return Problem(Forbidden, "second-factor-required", "The studio asks for a second factor. Set one up first: in the console, under your account.")
	}
	rank := map[api.Role]int{api.RoleViewer: 1, api.RoleEditor: 2, api.RoleAdmin: 3}
	if rank[api.Role(p.Role)] < rank[role] {
		return Problem(Forbidden, "role-too-low", "This needs the role %s, and you have the role %s. Ask an admin of the studio.", role, p.Role)
	}
	return nil
}
