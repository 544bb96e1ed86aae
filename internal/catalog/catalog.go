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
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"sparecrate/internal/packaging"
	"sparecrate/internal/reports"
	"sparecrate/internal/sites"

	"sparecrate/internal/imports"

	"sparecrate/internal/finding"
	"sparecrate/internal/library"
	"sparecrate/internal/shortlists"

	"sparecrate/internal/licensing"

	"sparecrate/internal/conversion"

	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/usage"

	"sparecrate/api"
	"sparecrate/internal/bucket"
	"sparecrate/internal/fetch"
	"sparecrate/internal/mail"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// Catalog is the records and the files, and what may be done with them.
type Catalog struct {
	*auth.Auth
	*conversion.Conversion
	*licensing.Licensing
	*library.Library
	*finding.Finding
	*shortlists.Service
	*imports.Imports
	*packaging.Packaging
	*sites.Directory
	*reports.Reports
	usage      *usage.Usage
	reports    *reports.Reports
	sites      *sites.Directory
	packaging  *packaging.Packaging
	imports    *imports.Imports
	shortlists *shortlists.Service
	finding    *finding.Finding
	conversion *conversion.Conversion
	licensing  *licensing.Licensing
	library    *library.Library

	store  *store.Store
	bucket *bucket.Bucket
	now    func() time.Time
	limits app.Limits
	queue  *work.Queue
	// outside reads from addresses that people give.
	outside *fetch.Fetcher
	post    mail.Config
	address string // of the service, for e-mails
	log     *slog.Logger
	note    app.Noter
	// What takes time to find out and is the same each time.
	heavy *app.Limiter
}

// New gives a catalog over records and files. now is the clock.
func New(s *store.Store, b *bucket.Bucket, now func() time.Time, limits app.Limits, log *slog.Logger) *Catalog {
	core := app.NewCore(s, b, now, limits, log)
	u := usage.New(s, now)
	made := conversion.New(core, u)
	licenses := licensing.New(core, u)
	families := library.New(core, u, made, licenses)
	findingIn := finding.New(core)
	shortlistsIn := shortlists.New(core, u, made, findingIn)
	importsIn := imports.New(core, made, licenses, families)
	packagingIn := packaging.New(core, u, made)
	sitesIn := sites.New(core, u, made, families, packagingIn)
	reportsIn := reports.New(core, u, packagingIn)
	c := &Catalog{
		Auth: auth.New(s, now), Conversion: made, usage: u, conversion: made, Licensing: licenses, licensing: licenses, Library: families, library: families, Finding: findingIn, finding: findingIn, Service: shortlistsIn, shortlists: shortlistsIn, Imports: importsIn, imports: importsIn, Packaging: packagingIn, packaging: packagingIn, Directory: sitesIn, sites: sitesIn, Reports: reportsIn, reports: reportsIn, store: s, bucket: b, now: now, limits: limits, outside: core.Outside,
		post: limits.Mail, address: limits.Address, log: log, note: app.Notes(now), heavy: core.Heavy, queue: core.Queue,
	}
	return c
}

// Work does the service's jobs in the background until ctx ends. It begins by
// asking for files that an older version read to be read again, and for families
// that it listed to be listed anew.
func (c *Catalog) Work(ctx context.Context) error {
	for _, ask := range []func(context.Context) error{c.library.AskToReadAgain, c.library.AskToIndex, c.licensing.AskToReadTexts} {
		if err := ask(ctx); err != nil {
			return err
		}
	}
	var sweeping sync.WaitGroup
	sweeping.Go(func() { c.library.KeepSwept(ctx) })
	sweeping.Go(func() { c.reports.Mailing(ctx) })
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

// Permit checks that somebody is signed in, has a password of their own, and a role or
// one above it.
func (c *Catalog) Permit(p *store.Person, role api.Role) error { return app.Require(p, role) }

// Limits returns what bounds the catalog.
func (c *Catalog) Limits() app.Limits { return c.limits }
