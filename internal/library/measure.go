package library

import (
	"context"
	"errors"
	"fmt"
	"sparecrate/internal/store/facedb"
	"time"

	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/measures"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/work"
)

// Designs tells faces by what they draw.
type Designs struct {
	store      *store.Store
	bucket     *bucket.Bucket
	queue      *work.Queue
	conversion *conversion.Conversion
	heavy      *app.Limiter
	limits     app.Limits
	prints     measures.Measures
	files      *Files
}

// NewDesigns returns the designs of a database, and has the queue measure what is not
// measured yet.
func NewDesigns(c *app.Core, made *conversion.Conversion, l *Library) *Designs {
	d := &Designs{store: c.Store, bucket: c.Bucket, queue: c.Queue, conversion: made, heavy: c.Heavy, limits: c.Limits, prints: l.Measures}
	c.Queue.Handle(measures.JobKind, d.measure)
	d.files = l.Files
	made.Supplied = d.supplied
	return d
}

// supplied returns the supplier's own file of what is to be made, nil where there is none:
// a file of the face in that format, of the same version, that draws the same design
// with the same characters.
func (d *Designs) supplied(ctx context.Context, m conversion.Making) (*store.File, error) {
	siblings, err := facedb.In(d.store).Siblings(ctx, m.Source, m.Place, string(m.To))
	if err != nil || len(siblings) == 0 {
		return nil, err
	}
	of, err := d.prints.Of(ctx, m.Source, m.Place)
	if err != nil || of == nil {
		return nil, err
	}
	for i := range siblings {
		p, err := d.prints.Of(ctx, siblings[i].SHA256, 0)
		if err != nil {
			return nil, err
		}
		if p != nil && identity.Compare(of, p).Relation == identity.Same {
			return &siblings[i], nil
		}
	}
	return nil, nil //nolint:nilnil // it is made
}

// AskToMeasure asks for all files to be measured that this version has not measured.
func (d *Designs) AskToMeasure(ctx context.Context) error {
	files, err := librarydb.In(d.store).FilesNotMeasured(ctx, measures.Version)
	if err != nil {
		return fmt.Errorf("find files to measure: %w", err)
	}
	for _, f := range files {
		err := d.store.Tx(ctx, func(tx *store.Store) error { return d.prints.Ask(ctx, tx, "", f.Name, f.ID) })
		if err != nil {
			return err
		}
	}
	return nil
}

// AwaitMeasured waits until all files are measured, but no longer than patience: until then
// faces are not found by what they draw.
func (d *Designs) AwaitMeasured(ctx context.Context, patience time.Duration) error {
	const look = 200 * time.Millisecond
	for end := time.Now().Add(patience); time.Now().Before(end); {
		n, err := jobdb.In(d.store).Pending(ctx, measures.JobKind)
		if err != nil || n == 0 {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(look):
		}
	}
	return nil
}

// measure does a job of the kind measure. What a file of the catalog is beside others of its
// faces is known once it is measured.
func (d *Designs) measure(ctx context.Context, payload []byte, _ func(done, total int)) error {
	m, err := work.Payload[measures.Job](payload)
	if err != nil {
		return err
	}
	if m.File == 0 {
		_, err := d.prints.Of(ctx, m.Hash, 0)
		return err
	}
	f, err := familydb.In(d.store).File(ctx, m.File)
	if errors.Is(err, store.ErrNotFound) {
		return nil // it is gone, and nothing needs to be measured
	}
	if err != nil {
		return err
	}
	for place := range f.Faces {
		p, err := d.prints.Of(ctx, f.SHA256, place)
		if err != nil {
			return err
		}
		if p == nil {
			continue
		}
		if err := d.store.Tx(ctx, func(tx *store.Store) error { return librarydb.In(tx).SetCells(ctx, f.ID, place, p.Cells()) }); err != nil {
			return err
		}
	}
	return d.files.measured(ctx, f)
}
