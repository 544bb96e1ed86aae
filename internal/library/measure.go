package library

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sparecrate/font/metadata"
	"sparecrate/internal/store/facedb"
	"strconv"
	"time"

	"sparecrate/font"
	"sparecrate/font/appearance"
	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/work"
)

// measurer is the version of what measures faces: both packages' together.
const measurer = 100*identity.Measurer + appearance.Version

// Prints are the measures of faces, by which designs are told (package identity).
type Prints struct {
	store  *store.Store
	bucket *bucket.Bucket
	queue  *work.Queue
}

// Ask asks for a file to be measured in the background: one that has arrived, or, with its
// number, one of the catalog, which is weighed anew then.
func (p Prints) Ask(ctx context.Context, tx *store.Store, hash, name string, file int64) error {
	key := hash
	if file != 0 {
		key = strconv.FormatInt(file, 10)
	}
	return p.queue.Add(ctx, tx, work.Job{Kind: jobMeasure, Key: key + " v" + strconv.Itoa(measurer), Title: app.Shorten("Design of "+name, 290), Payload: measuring{File: file, Hash: hash}})
}

// measuring is what such a job is told.
type measuring struct {
	File int64  `json:"file,omitempty"`
	Hash string `json:"hash,omitempty"` // of a font that has arrived
}

// Kept returns the measures of a face of a file, nil where none are kept.
func (p Prints) Kept(ctx context.Context, hash string, place int) (*identity.Print, error) {
	kept, err := librarydb.In(p.store).Print(ctx, hash, place)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && kept.Measurer != measurer:
		return nil, nil //nolint:nilnil // not measured
	case err != nil:
		return nil, err
	}
	return unpacked(kept)
}

// Of returns the measures of a face of a file: those that are kept, or else it measures
// the file and keeps them. It is nil for a face that cannot be measured.
func (p Prints) Of(ctx context.Context, hash string, place int) (*identity.Print, error) {
	kept, err := librarydb.In(p.store).Print(ctx, hash, place)
	if err == nil && kept.Measurer == measurer {
		return unpacked(kept)
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	data, err := p.bucket.Read(ctx, bucket.Hash(hash))
	if err != nil {
		return nil, err
	}
	f, err := font.Open(data)
	if err != nil {
		return nil, nil //nolint:nilerr,nilnil // no font has no measures
	}
	all := Measured(f)
	if err := p.Keep(ctx, hash, all); err != nil || place >= len(all) {
		return nil, err
	}
	if all[place] == nil {
		return nil, nil //nolint:nilnil // a face that cannot be measured
	}
	return all[place].print, nil
}

// unpacked returns kept measures, nil for none.
func unpacked(kept *store.Print) (*identity.Print, error) {
	if len(kept.Packed) == 0 {
		return nil, nil //nolint:nilnil // a face that cannot be measured
	}
	return identity.Unpack(kept.Packed)
}

// large is from how many glyphs on a face is measured in the background.
const large = 5000

// Large reports whether a file is measured in the background, because one of its faces has
// so many glyphs.
func Large(faces []metadata.Face) bool {
	return slices.ContainsFunc(faces, func(f metadata.Face) bool { return f.Glyphs > large })
}

// Soon returns the measures of a face of a file without taking long: of a large one those
// that are kept, nil for none.
func (p Prints) Soon(ctx context.Context, hash string, place, glyphs int) (*identity.Print, error) {
	if glyphs > large {
		return p.Kept(ctx, hash, place)
	}
	return p.Of(ctx, hash, place)
}

// Measure is what is measured of a face: its fingerprint, and how it looks.
type Measure struct {
	print *identity.Print
	look  *appearance.Appearance // nil without Latin letters
}

// Measured measures the faces of a file, nil for one that cannot be measured: without
// outlines, or with damaged ones.
func Measured(f *font.File) []*Measure {
	out := make([]*Measure, len(f.Faces))
	for place, face := range f.Faces {
		if measured, err := identity.Measure(face); err == nil {
			out[place] = &Measure{print: measured}
			out[place].look, _ = appearance.Of(face) // it may have no Latin letters
		}
	}
	return out
}

// Keep keeps the measures of the faces of a file.
func (p Prints) Keep(ctx context.Context, hash string, all []*Measure) error {
	return p.store.Tx(ctx, func(tx *store.Store) error {
		for place, one := range all {
			kept := store.Print{SHA256: hash, Place: place, Measurer: measurer, Packed: []byte{}}
			if one != nil {
				kept.Packed, kept.Look = one.print.Pack(), one.look
			}
			if err := librarydb.In(tx).KeepPrint(ctx, &kept); err != nil {
				return err
			}
		}
		return nil
	})
}

// Designs tells faces by what they draw.
type Designs struct {
	store      *store.Store
	bucket     *bucket.Bucket
	queue      *work.Queue
	conversion *conversion.Conversion
	heavy      *app.Limiter
	limits     app.Limits
	prints     Prints
	files      *Files
}

// NewDesigns returns the designs of a database, and has the queue measure what is not
// measured yet.
func NewDesigns(c *app.Core, made *conversion.Conversion, l *Library) *Designs {
	d := &Designs{store: c.Store, bucket: c.Bucket, queue: c.Queue, conversion: made, heavy: c.Heavy, limits: c.Limits, prints: l.Prints}
	c.Queue.Handle(jobMeasure, d.measure)
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

// jobMeasure is the kind of job that measures the faces of a file.
const jobMeasure = "measure"

// AskToMeasure asks for all files to be measured that this version has not measured.
func (d *Designs) AskToMeasure(ctx context.Context) error {
	files, err := librarydb.In(d.store).FilesNotMeasured(ctx, measurer)
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
		n, err := jobdb.In(d.store).Pending(ctx, jobMeasure)
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
	m, err := work.Payload[measuring](payload)
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
