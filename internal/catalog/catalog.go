// Package catalog is what may be done with the studio's fonts: every command,
// page and API call ends in a function here. Rights are checked here, rules are
// applied here, and what was done is written to the activity here, in the same
// transaction as the change.
//
// Functions take the person who asks. They answer in the types of the API's
// contract; errors meant for people are *Error, with a stable code and a
// sentence that says what to do.
package catalog

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"log/slog"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"sparecrate/api"
	"sparecrate/font/facts"
	"sparecrate/internal/bucket"
	"sparecrate/internal/fetch"
	"sparecrate/internal/mail"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// Catalog is the records and the files, and what may be done with them.
type Catalog struct {
	store  *store.Store
	bucket *bucket.Bucket
	now    func() time.Time
	limits Limits
	queue  *work.Queue
	// outside reads from addresses that people give.
	outside *fetch.Fetcher
	post    mail.Config
	address string // of the service, for e-mails
	log     *slog.Logger
	// What takes time to find out and is the same each time.
	heavy    *limiter
	drawn    *lru.Cache[string, []byte] // pictures, by what they show
	alarmed  sync.Map                   // bucket.Hash of damaged files that were told of
	shaped   shapedFaces
	measured measuredFaces
}

// Limits bound what is taken in, and say what the service may reach.
type Limits struct {
	FontBytes     int64 // one font file
	DocumentBytes int64 // one document
	ArchiveBytes  int64 // one archive
	// Private lets addresses that people give lead into private networks.
	Private bool
	// Mail says how e-mails leave; none do without a server.
	Mail mail.Config
	// Address is that of the service, as e-mails give it.
	Address string
}

// DefaultLimits take every real font and paper known to us.
var DefaultLimits = Limits{FontBytes: 64 << 20, DocumentBytes: 32 << 20, ArchiveBytes: 4 << 30}

// New gives a catalog over records and files. now is the clock.
func New(s *store.Store, b *bucket.Bucket, now func() time.Time, limits Limits, log *slog.Logger) *Catalog {
	c := &Catalog{store: s, bucket: b, now: now, limits: limits, outside: fetch.New(limits.Private), post: limits.Mail, address: limits.Address, log: log}
	c.heavy = newLimiter()
	c.drawn, _ = lru.New[string, []byte](mostDrawn) // the error is for sizes below one
	b.OnBroken, b.OnHealed = c.alarm, c.healed
	c.queue = work.New(s, work.Holder(), runtime.NumCPU(), log)
	c.queue.Handle(jobMake, c.makeContainer)
	c.queue.Handle(jobRead, c.readAgain)
	c.queue.Handle(jobUnpack, c.unpack)
	c.queue.Handle(jobAccept, c.takeIn)
	c.queue.Handle(jobIndex, c.indexAll)
	c.queue.Handle(jobFetch, c.fetchFonts)
	c.queue.Handle(jobTexts, c.readTexts)
	c.queue.Prefer(jobUnpack, jobAccept, jobFetch)
	return c
}

// Work does the service's jobs in the background until ctx ends. It begins by
// asking for files that an older version read to be read again, and for families
// that it listed to be listed anew.
func (c *Catalog) Work(ctx context.Context) error {
	for _, ask := range []func(context.Context) error{c.askToReadAgain, c.askToIndex, c.askToReadTexts} {
		if err := ask(ctx); err != nil {
			return err
		}
	}
	var sweeping sync.WaitGroup
	sweeping.Go(func() { c.sweep(ctx) })
	sweeping.Go(func() { c.mailing(ctx) })
	c.queue.Run(ctx)
	sweeping.Wait()
	return nil
}

// readyPatience is how long a part may take until it counts as not ready.
const readyPatience = 1500 * time.Millisecond

// Ready reports whether records and files can be written. The error names the part
// and what is wrong with it; it comes within two seconds.
func (c *Catalog) Ready(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, readyPatience)
	defer cancel()
	files := make(chan error, 1) // a disk may hang where no context reaches
	go func() { files <- c.bucket.Ready() }()
	if err := c.store.Ready(ctx); err != nil {
		return fmt.Errorf("database: %w", err)
	}
	select {
	case err := <-files:
		if err != nil {
			return fmt.Errorf("files: %w", err)
		}
		return nil
	case <-ctx.Done():
		return errors.New("files: the disk does not answer")
	}
}

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

func problem(k Kind, code, format string, args ...any) *Error {
	return &Error{Kind: k, Code: code, Message: fmt.Sprintf(format, args...)}
}

// tooMany refuses what comes too often.
func tooMany(wait time.Duration, format string, args ...any) *Error {
	e := problem(TooMany, "too-many-requests", format, args...)
	e.Wait = wait
	return e
}

func invalid(field, code, format string, args ...any) *Error {
	e := problem(Invalid, code, format, args...)
	e.Field = field
	return e
}

// explain turns the store's errors about a thing into sentences; others pass.
func explain(err error, thing string) error {
	switch {
	case errors.Is(err, store.ErrNotFound):
		return problem(Missing, "not-found", "There is no such %s.", thing)
	case errors.Is(err, store.ErrStale):
		return problem(Stale, "changed-meanwhile", "Somebody else changed this %s while you were editing it. Load it again and repeat your change.", thing)
	}
	return err
}

// must checks that a person has a role, or one above it.
func must(p *store.Person, role api.Role) error {
	if p == nil {
		return problem(Unauthenticated, "not-signed-in", "Sign in first.")
	}
	if p.MustChangePassword {
		return problem(Forbidden, "password-change-required", "Your password is a one-time one. Set your own first; nothing else is possible until then.")
	}
	rank := map[api.Role]int{api.RoleViewer: 1, api.RoleEditor: 2, api.RoleAdmin: 3}
	if rank[api.Role(p.Role)] < rank[role] {
		return problem(Forbidden, "role-too-low", "This needs the role %s; yours is %s. Ask an admin of the studio.", role, p.Role)
	}
	return nil
}

// Permit checks that somebody is signed in, has a password of their own, and a role or
// one above it.
func (c *Catalog) Permit(p *store.Person, role api.Role) error { return must(p, role) }

// Limits returns what bounds the catalog.
func (c *Catalog) Limits() Limits { return c.limits }

// note writes a line of activity.
func (c *Catalog) note(ctx context.Context, tx *store.Store, p *store.Person, action, subject, detail string) error {
	return tx.AddActivity(ctx, &store.Activity{At: c.now(), Person: p.Name, Action: action, Subject: cut(subject, 300), Detail: detail})
}

// cut shortens text to n characters.
func cut(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// some writes a number of things: 1 font, 2 fonts.
func some(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// required trims a text that may not be empty.
func required(field, value string) (string, error) {
	value = strings.TrimSpace(facts.Printable(value))
	if value == "" {
		return "", invalid(field, "missing-value", "The field %s is empty; fill it in.", field)
	}
	if len([]rune(value)) > 200 {
		return "", invalid(field, "too-long", "The field %s is longer than 200 characters; shorten it.", field)
	}
	return value, nil
}

func etag(version int) string { return `"` + strconv.Itoa(version) + `"` }

// matched reads the version a change was made from.
func matched(ifMatch string) (int, error) {
	v, err := strconv.Atoi(strings.Trim(strings.TrimPrefix(ifMatch, "W/"), `"`))
	if err != nil {
		return 0, invalid("If-Match", "bad-etag", "The header If-Match must hold the ETag of what is being changed.")
	}
	return v, nil
}

const (
	defaultPage = 50
	maxPage     = 200
)

// page reads cursor and limit of a list.
func page(cursor *string, limit *int) (store.Page, error) {
	p := store.Page{Limit: defaultPage}
	if limit != nil {
		if *limit < 1 || *limit > maxPage {
			return p, invalid("limit", "bad-limit", "The limit must be from 1 to %d.", maxPage)
		}
		p.Limit = *limit
	}
	if cursor != nil && *cursor != "" {
		b, err := base64.RawURLEncoding.DecodeString(*cursor)
		id, name, ok := strings.Cut(string(b), " ")
		if p.AfterID, _ = strconv.ParseInt(id, 10, 64); err != nil || !ok || p.AfterID <= 0 {
			return p, invalid("cursor", "bad-cursor", "The cursor is not one this service gave. Start from the first page.")
		}
		p.AfterName = name
	}
	p.Limit++ // one more tells whether there is a next page
	return p, nil
}

// turn cuts a list to its page and gives the cursor of the next, nil at the end.
func turn[T any](items []T, p store.Page, place func(T) (name string, id int64)) ([]T, *string) {
	if len(items) < p.Limit {
		return items, nil
	}
	items = items[:p.Limit-1]
	name, id := place(items[len(items)-1])
	next := base64.RawURLEncoding.EncodeToString([]byte(strconv.FormatInt(id, 10) + " " + name))
	return items, &next
}

// each maps a list; the result is never nil.
func each[T, U any](items []T, f func(T) U) []U {
	out := make([]U, len(items))
	for i, it := range items {
		out[i] = f(it)
	}
	return out
}
