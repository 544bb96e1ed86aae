package library

import (
	"context"
	"errors"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/packdb"
)

// keepDeleted is how long a deleted family can be brought back.
const keepDeleted = 30 * 24 * time.Hour

// shelve puts a family on another status, and says who did so.
func (lib *Library) shelve(f *store.Family, on store.Status, p *store.Person) {
	now := lib.now()
	f.Status, f.StatusAt, f.StatusBy, f.Gone = on, &now, p.Name, 0
	switch on {
	case store.Active:
		f.StatusAt, f.StatusBy = nil, ""
	case store.Deleted:
		f.Gone = f.ID
	}
}

// offered refuses to begin using a family that is not in the catalog.
func offered(f *store.Family) error {
	if f.Status == store.Retired {
		return app.Problem(app.Conflict, "family-retired", "%s was retired by %s on %s; what uses it goes on using it, new uses need it back in the catalog.", f.Name, f.StatusBy, f.StatusAt.Format(time.DateOnly))
	}
	return app.NotDeleted(f)
}

// Usable refuses to begin using a family that is not in the catalog, or of which
// there is nothing: neither files nor a stylesheet elsewhere.
func Usable(ctx context.Context, tx *store.Store, f *store.Family) error {
	if err := offered(f); err != nil || len(f.Faces) > 0 {
		return err
	}
	sheets, err := librarydb.In(tx).HostedStylesheets(ctx, f.ID)
	if err == nil && len(sheets) == 0 {
		err = app.Problem(app.Conflict, "no-files", "%s has no files here and no stylesheet that it is served from, so a site has nothing to use. Add its files, or the stylesheet's address.", f.Name)
	}
	return err
}

// DeleteFamily deletes a family: it is found no more, its name is free, and sites
// that use it get no pack until it is brought back or taken off them. After thirty
// days it is gone with its files.
func (lib *Library) DeleteFamily(ctx context.Context, p *store.Person, id int64, ifMatch string) (*api.Family, error) {
	return lib.reshelve(ctx, p, id, ifMatch, store.Deleted, "deleted family")
}

// RestoreFamily undoes a deletion.
func (lib *Library) RestoreFamily(ctx context.Context, p *store.Person, id int64) (*api.Family, error) {
	return lib.reshelve(ctx, p, id, "", store.Active, "brought family back")
}

func (lib *Library) reshelve(ctx context.Context, p *store.Person, id int64, ifMatch string, on store.Status, action string) (*api.Family, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := lib.store.Tx(ctx, func(tx *store.Store) error {
		f, err := familydb.In(tx).Family(ctx, id)
		if err != nil {
			return err
		}
		if on == store.Active && f.Status != store.Deleted {
			return app.Problem(app.Conflict, "not-deleted", "%s is not deleted.", f.Name)
		}
		if on == store.Deleted {
			if err := app.NotDeleted(f); err != nil {
				return err
			}
			if f.Version, err = app.ReadETag(ifMatch); err != nil {
				return err
			}
		}
		lib.shelve(f, on, p)
		f.ChangedAt = lib.now()
		if err := librarydb.In(tx).ChangeFamily(ctx, f); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, action, f.Name, f.Client.Name)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.Problem(app.Conflict, "name-taken", "The client now has another family with this name. Move its faces to a family with another name first.")
	}
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	return lib.Family(ctx, p, id)
}

// KeepSwept removes what nobody needs any more, every hour, until ctx ends: deleted
// families whose time is over, files that nothing names, old attempts to sign in.
func (lib *Library) KeepSwept(ctx context.Context) {
	tick := time.NewTicker(time.Hour)
	defer tick.Stop()
	for {
		// What fails is tried again the next time.
		err := errors.Join(
			lib.Sweep(ctx), lib.SweepFiles(ctx, keepUnnamed), accountdb.In(lib.store).SweepAttempts(ctx, auth.AttemptsKept, auth.PlacesKept),
			packdb.In(lib.store).ForgetVisitors(ctx, lib.now().Add(-48*time.Hour)), importdb.In(lib.store).ForgetArrivedBefore(ctx, lib.now().Add(-keepDeleted)), librarydb.In(lib.store).ForgetPrints(ctx),
		)
		if err != nil && ctx.Err() == nil {
			lib.log.Warn("the sweep was not finished; it is tried again in an hour", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Sweep ends the families, and the files of faces, that were deleted more than thirty days
// ago, with the bytes of files where nothing else holds them.
func (lib *Library) Sweep(ctx context.Context) error {
	ids, err := librarydb.In(lib.store).DeletedBefore(ctx, lib.now().Add(-keepDeleted))
	if err != nil {
		return err
	}
	for _, id := range ids {
		var free []string
		err := lib.store.Tx(ctx, func(tx *store.Store) error {
			var err error
			free, err = librarydb.In(tx).PurgeFamily(ctx, id)
			return err
		})
		if err != nil {
			return err
		}
		if err := drop(ctx, lib.bucket, free); err != nil {
			return err
		}
	}
	return lib.Files.sweep(ctx)
}

// drop drops bytes whose records are gone. What a crash leaves here is only never asked for.
func drop(ctx context.Context, from *bucket.Bucket, hashes []string) error {
	for _, hash := range hashes {
		if err := from.Drop(ctx, bucket.Hash(hash)); err != nil {
			return err
		}
	}
	return nil
}

// keepUnnamed is how long bytes stay that no record names: they may belong to
// something that is being added.
const keepUnnamed = 24 * time.Hour

// SweepFiles removes files from the bucket that no record names and that are older
// than an age, as a crash leaves them, and what is there of files that never came whole.
func (lib *Library) SweepFiles(ctx context.Context, older time.Duration) error {
	n, err := lib.bucket.Sweep(ctx, time.Now().Add(-older), func(ctx context.Context, hashes []bucket.Hash) (map[bucket.Hash]bool, error) {
		named, err := familydb.In(lib.store).NamedHashes(ctx, app.Each(hashes, func(h bucket.Hash) string { return string(h) }))
		out := map[bucket.Hash]bool{}
		for h := range named {
			out[bucket.Hash(h)] = true
		}
		return out, err
	})
	if n > 0 {
		lib.log.Info("removed files that no record names", "files", n)
	}
	return errors.Join(err, lib.bucket.DropParts(ctx, time.Now().Add(-keepUnnamed)))
}
