// Package rooms puts the rooms of the service together over one database and one bucket,
// in the order in which they build on each other. It holds nothing else.
package rooms

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/audit"
	"sparecrate/internal/auth"
	"sparecrate/internal/backups"
	"sparecrate/internal/bucket"
	"sparecrate/internal/catalogsearch"
	"sparecrate/internal/conversion"
	"sparecrate/internal/factors"
	"sparecrate/internal/handover"
	"sparecrate/internal/imports"
	"sparecrate/internal/inspections"
	"sparecrate/internal/library"
	"sparecrate/internal/licensing"
	"sparecrate/internal/packaging"
	"sparecrate/internal/reports"
	"sparecrate/internal/shortlists"
	"sparecrate/internal/sites"
	"sparecrate/internal/store"
	"sparecrate/internal/store/ownerdb"
	"sparecrate/internal/store/verifydb"
	"sparecrate/internal/studio"
	"sparecrate/internal/usage"
)

// Rooms are the rooms of the service.
type Rooms struct {
	core *app.Core

	Auth       *auth.Auth
	Conversion *conversion.Conversion
	Licensing  *licensing.Licensing
	Library    *library.Library
	Designs    *library.Designs
	Finding    *catalogsearch.Finding
	Shortlists *shortlists.Service
	Imports    *imports.Imports
	Packaging  *packaging.Packaging
	Machines   *packaging.Machines
	Rebuilds   *packaging.Rebuilds
	Live       *packaging.Live
	Sites      *sites.Directory
	Builders   *sites.Builders
	Reports    *reports.Reports
	Handover   *handover.Handover
	Studio     *studio.Service
	Audit      *audit.Log
	Factors    *factors.Service
	Backups    *backups.Backups

	Inspections *inspections.Inspections
}

// New returns the rooms over records and files. now is the clock.
func New(s *store.Store, b *bucket.Bucket, now func() time.Time, limits app.Limits, log *slog.Logger) *Rooms {
	core := app.NewCore(s, b, now, limits, log)
	uses := usage.New(s, now)
	r := &Rooms{core: core, Auth: auth.New(s, now, limits), Finding: catalogsearch.New(core)}
	r.Conversion = conversion.New(core, uses)
	r.Licensing = licensing.New(core, uses)
	r.Library = library.New(core, uses, r.Conversion, r.Licensing)
	r.Designs = library.NewDesigns(core, r.Conversion, r.Library)
	r.Shortlists = shortlists.New(core, uses, r.Conversion, r.Finding)
	r.Imports = imports.New(core, r.Conversion, r.Licensing, r.Library)
	r.Packaging = packaging.New(core, uses, r.Conversion)
	r.Live = packaging.NewLive(core, r.Packaging)
	r.Machines = packaging.NewMachines(r.Packaging)
	r.Rebuilds = packaging.NewRebuilds(r.Packaging)
	r.Sites = sites.New(core, uses, r.Conversion, r.Library, r.Packaging)
	r.Builders = sites.NewBuilders(core, uses)
	r.Reports = reports.New(core, uses, r.Packaging)
	r.Studio = studio.New(core)
	r.Factors = factors.New(core, r.Auth)
	r.Audit = audit.New(s, now, limits.AuditKept)
	r.Backups = backups.New(core)
	r.Handover = handover.New(core, uses)
	r.Inspections = inspections.New(core, uses, r.Sites, r.Designs, r.Licensing, r.Finding)
	return r
}

// Observe has the ends of jobs and what is done to files told; before Work.
func (r *Rooms) Observe(job func(kind string, took time.Duration, outcome string), file func(operation string, err error)) {
	r.core.Queue.Observe, r.core.Bucket.Observe = job, file
}

// Backlog counts the jobs that failed and those that wait.
func (r *Rooms) Backlog(ctx context.Context) (verifydb.Backlog, error) {
	return verifydb.In(r.core.Store).Backlog(ctx)
}

// ClientOf returns the client that a thing belongs to, by the first part of its address and
// its number. The error is store.ErrNotFound where whoever asks sees no such thing.
func (r *Rooms) ClientOf(ctx context.Context, kind string, id int64) (int64, error) {
	return ownerdb.In(r.core.Store).Client(ctx, kind, id)
}

// Work does the service's jobs in the background until ctx ends. It begins by
// asking for files that an older version read to be read again, and for families
// that it listed to be listed anew.
func (r *Rooms) Work(ctx context.Context) error {
	for _, ask := range []func(context.Context) error{r.Library.AskToReadAgain, r.Library.AskToIndex, r.Designs.AskToMeasure, r.Licensing.Documents.AskToReadTexts} {
		if err := ask(ctx); err != nil {
			return err
		}
	}
	var others sync.WaitGroup
	others.Go(func() { r.Library.KeepSwept(ctx) })
	others.Go(func() { r.Reports.Mailing(ctx) })
	others.Go(func() { r.Audit.Keep(ctx, r.core.Log) })
	others.Go(func() { r.Inspections.KeepInspecting(ctx) })
	others.Go(func() { r.Backups.Keep(ctx, r.core.Log) })
	r.core.Queue.Run(ctx)
	others.Wait()
	return nil
}

// readyPatience is how long a part may take until it counts as not ready.
const readyPatience = 1500 * time.Millisecond

// Ready reports whether records and files can be written. The error names the part
// and what is wrong with it; it comes within two seconds.
func (r *Rooms) Ready(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, readyPatience)
	defer cancel()
	files := make(chan error, 1) // a disk may hang where no context reaches
	go func() { files <- r.core.Bucket.Ready() }()
	if err := r.core.Store.Ready(ctx); err != nil {
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
func (r *Rooms) Permit(p *store.Person, role api.Role) error { return app.Require(p, role) }

// Limits returns what bounds what is taken in.
func (r *Rooms) Limits() app.Limits { return r.core.Limits }
