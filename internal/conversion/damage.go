package conversion

import (
	"context"
	"errors"
	"io"
	"time"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
)

// What is stored may be damaged or lost: a disk fails, a backup was not whole. The
// bucket never hands such bytes out. What was derived is made again; for what was
// added, people are told, and the same bytes added again heal it.

// mostRepairs bounds how many files one piece of work may have made again.
const mostRepairs = 100

// Repairing runs work that reads files. Where one of them is derived and damaged, it
// is forgotten and the work runs again, which makes it anew. A damaged original ends
// it with a sentence.
func (c *Conversion) Repairing(ctx context.Context, do func() error) error {
	for range mostRepairs {
		err := do()
		var broken *bucket.Broken
		if !errors.As(err, &broken) {
			return err
		}
		forgotten, bad := c.forgetDerived(ctx, broken.Hash)
		if bad != nil {
			return bad
		}
		if !forgotten {
			return c.explainDamage(ctx, broken)
		}
		c.log.Warn("a derived file was damaged or lost; it is made again", "hash", broken.Hash)
	}
	return app.Problem(app.Conflict, "damaged-files", "More than %d stored files are damaged. Check the disk, and restore the files from a backup.", mostRepairs)
}

// forgetDerived removes the record and the bytes of a derived file; false where a
// hash is of no such file.
func (c *Conversion) forgetDerived(ctx context.Context, h bucket.Hash) (bool, error) {
	n, err := familydb.In(c.store).ForgetDerived(ctx, string(h))
	if err != nil || n == 0 {
		return false, err
	}
	return true, c.bucket.Drop(ctx, h)
}

// explainDamage says which original is damaged and what to do.
func (c *Conversion) explainDamage(ctx context.Context, broken *bucket.Broken) error {
	what, err := familydb.In(c.store).NameOfHash(ctx, string(broken.Hash))
	if err != nil {
		return err
	}
	state := "damaged"
	if errors.Is(broken, bucket.ErrMissing) {
		state = "missing"
	}
	if what == "" {
		what = "A stored file"
	}
	return app.Problem(app.Conflict, "damaged-file", "%s is %s in the storage, so it cannot be downloaded. Import the same file again to repair it, or ask an administrator to restore %s from a backup.", what, state, broken.Hash)
}

// alarm notes in log and activity that a stored file is damaged or lost, once for
// each file and process.
func (c *Conversion) alarm(broken *bucket.Broken) {
	if _, known := c.alarmed.LoadOrStore(broken.Hash, true); known {
		return
	}
	c.log.Error("a stored file is damaged or lost", "hash", broken.Hash, "error", broken)
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	what, err := familydb.In(c.store).NameOfHash(ctx, string(broken.Hash))
	if err != nil || what == "" { // derived, or of nobody
		return
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		return c.note(ctx, tx, &store.Person{Name: "Spare Crate"}, "found damaged file", what, string(broken.Hash))
	})
	if err != nil {
		c.log.Error("the activity cannot be written", "error", err)
	}
}

// healed notes that a damaged file is sound again.
func (c *Conversion) healed(h bucket.Hash) {
	if _, known := c.alarmed.LoadAndDelete(h); known {
		c.log.Info("a damaged file was healed by the same bytes", "hash", h)
	}
}

// OpenSound opens a file of fonts whose bytes are checked before the first of them
// leaves, derived ones made again by find where they are damaged.
func (c *Conversion) OpenSound(ctx context.Context, find func() (bucket.Hash, error)) (r io.ReadCloser, size int64, err error) {
	err = c.Repairing(ctx, func() error {
		h, err := find()
		if err != nil {
			return err
		}
		if err := c.bucket.Check(ctx, h); err != nil {
			return err
		}
		r, size, err = c.bucket.Open(ctx, h)
		return err
	})
	return r, size, err
}

// Heal puts staged bytes in the place of the stored ones where those are damaged.
func (c *Conversion) Heal(ctx context.Context, staged *bucket.Staged) (bool, error) {
	sound, err := c.bucket.Sound(ctx, staged.Hash)
	if err != nil || sound {
		return false, err
	}
	return true, c.bucket.Put(ctx, staged)
}
