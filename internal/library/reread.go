package library

import (
	"context"
	"errors"
	"fmt"
	"strconv"

	"sparecrate/font/metadata"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/work"
)

// jobRead is the kind of job that reads a file's metadata again, because the core
// has learned to read more since.
const jobRead = "read"

type reading struct {
	File int64 `json:"file"`
}

// AskToReadAgain asks for all files whose metadata an older version read.
func (lib *Library) AskToReadAgain(ctx context.Context) error {
	files, err := librarydb.In(lib.store).FilesReadBefore(ctx, metadata.Version)
	if err != nil {
		return fmt.Errorf("find files to read again: %w", err)
	}
	for _, f := range files {
		job := work.Job{Kind: jobRead, Key: strconv.FormatInt(f.ID, 10) + " v" + strconv.Itoa(metadata.Version), Title: "Metadata of " + f.Name, Payload: reading{f.ID}}
		if err := lib.store.Tx(ctx, func(tx *store.Store) error { return lib.queue.Add(ctx, tx, job) }); err != nil {
			return err
		}
	}
	return nil
}

// readAgain does a job of the kind read.
func (lib *Library) readAgain(ctx context.Context, payload []byte, _ func(done, total int)) error {
	r, err := work.Payload[reading](payload)
	if err != nil {
		return err
	}
	f, err := familydb.In(lib.store).File(ctx, r.File)
	if errors.Is(err, store.ErrNotFound) {
		return nil // it is gone, and nothing needs to be read
	}
	if err != nil {
		return err
	}
	data, err := lib.bucket.Read(ctx, bucket.Hash(f.SHA256))
	if err != nil {
		return err
	}
	faces, err := ReadMetadata(data, f.Name)
	if err != nil {
		return work.Hopeless(err)
	}
	return lib.store.Tx(ctx, func(tx *store.Store) error {
		for i := range faces {
			if err := librarydb.In(tx).SetMetadata(ctx, f.ID, faces[i].Index, &faces[i]); err != nil {
				return err
			}
		}
		families, err := librarydb.In(tx).FamiliesOfFile(ctx, f.ID)
		if err != nil {
			return err
		}
		for _, id := range families {
			if err := lib.index(ctx, tx, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// ReadMetadata reads the faces of a file, and holds the names in it against the
// file's own.
func ReadMetadata(data []byte, name string) ([]metadata.Face, error) {
	faces, err := metadata.Read(data)
	HoldAgainst(faces, name)
	return faces, err
}

// HoldAgainst holds the names in the faces of a file against the file's own.
func HoldAgainst(faces []metadata.Face, name string) {
	for i := range faces {
		if p, differs := faces[i].NameDiffers(name); differs {
			faces[i].Problems = append(faces[i].Problems, p)
		}
	}
}
