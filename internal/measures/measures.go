// Package measures keeps what is measured of faces: the fingerprint of their design (package
// identity) and how they look (package appearance). What takes long is measured in the background.
package measures

import (
	"context"
	"errors"
	"slices"
	"sparecrate/font/metadata"
	"strconv"

	"sparecrate/font"
	"sparecrate/font/appearance"
	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/work"
)

// JobKind is the kind of job that measures the faces of a file.
const JobKind = "measure"

// Version is the version of what measures faces: both packages' together.
const Version = 100*identity.Measurer + appearance.Version

// Measures keeps the measures of faces in a database.
type Measures struct {
	store  *store.Store
	bucket *bucket.Bucket
	queue  *work.Queue
}

// New returns the measures that a database keeps.
func New(c *app.Core) Measures { return Measures{c.Store, c.Bucket, c.Queue} }

// Ask asks for a file to be measured in the background: one that has arrived, or, with its
// number, one of the catalog, which is weighed anew then.
func (m Measures) Ask(ctx context.Context, tx *store.Store, hash, name string, file int64) error {
	key := hash
	if file != 0 {
		key = strconv.FormatInt(file, 10)
	}
	return m.queue.Add(ctx, tx, work.Job{Kind: JobKind, Key: key + " v" + strconv.Itoa(Version), Title: app.Shorten("Design of "+name, 290), Payload: Job{File: file, Hash: hash}})
}

// Job is what a job of the kind JobKind is told.
type Job struct {
	File int64  `json:"file,omitempty"`
	Hash string `json:"hash,omitempty"` // of a font that has arrived
}

// Kept returns the measures of a face of a file, nil where none are kept.
func (m Measures) Kept(ctx context.Context, hash string, place int) (*identity.Print, error) {
	kept, err := librarydb.In(m.store).Print(ctx, hash, place)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && kept.Measurer != Version:
		return nil, nil //nolint:nilnil // not measured
	case err != nil:
		return nil, err
	}
	return unpacked(kept)
}

// Of returns the measures of a face of a file: those that are kept, or else it measures
// the file and keeps them. It is nil for a face that cannot be measured.
func (m Measures) Of(ctx context.Context, hash string, place int) (*identity.Print, error) {
	kept, err := librarydb.In(m.store).Print(ctx, hash, place)
	if err == nil && kept.Measurer == Version {
		return unpacked(kept)
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	data, err := m.bucket.Read(ctx, bucket.Hash(hash))
	if err != nil {
		return nil, err
	}
	f, err := font.Open(data)
	if err != nil {
		return nil, nil //nolint:nilerr,nilnil // no font has no measures
	}
	all := Measured(f)
	if err := m.Keep(ctx, hash, all); err != nil || place >= len(all) {
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
func (m Measures) Soon(ctx context.Context, hash string, place, glyphs int) (*identity.Print, error) {
	if glyphs > large {
		return m.Kept(ctx, hash, place)
	}
	return m.Of(ctx, hash, place)
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
func (m Measures) Keep(ctx context.Context, hash string, all []*Measure) error {
	return m.store.Tx(ctx, func(tx *store.Store) error {
		for place, one := range all {
			kept := store.Print{SHA256: hash, Place: place, Measurer: Version, Packed: []byte{}}
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
