package bucket

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	"gocloud.dev/gcerrors"
	"golang.org/x/sys/unix"
)

// Place keeps files by name, such as those of backups: a folder, or a bucket of a server that
// speaks S3. A file is either whole or absent.
type Place struct {
	b *Bucket
}

// OpenPlace opens the place at an address, as OpenURL takes it. A folder is made where it is
// missing if create is set, and an error else.
func OpenPlace(ctx context.Context, address string, create bool) (*Place, error) {
	if strings.Contains(address, "://") {
		blobs, name, err := openS3(ctx, address)
		if err != nil {
			return nil, err
		}
		return &Place{&Bucket{blobs: blobs, remote: name}}, nil
	}
	folder, err := filepath.Abs(address)
	if err != nil {
		return nil, err
	}
	blobs, err := fileblob.OpenBucket(folder, &fileblob.Options{CreateDir: create, NoTempDir: true, DirFileMode: 0o700, Metadata: fileblob.MetadataDontWrite})
	if errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("there is no folder %s", address)
	}
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", address, err)
	}
	return &Place{&Bucket{blobs: blobs, folder: folder}}, nil
}

// Put writes a file, in place of one of its name. Nothing is left of it where write fails.
func (p *Place) Put(ctx context.Context, name string, write func(io.Writer) error) error {
	writing, giveUp := context.WithCancel(ctx) // ended before Close, it takes everything back
	defer giveUp()
	w, err := p.b.blobs.NewWriter(writing, name, &blob.WriterOptions{
		ContentType: "application/octet-stream", BufferSize: partBytes, MaxConcurrency: partsOnce, DisableContentTypeDetection: true,
	})
	if err != nil {
		return p.b.silent(err)
	}
	if err := write(w); err != nil {
		giveUp()
		return errors.Join(err, ignored(w.Close()))
	}
	return p.b.silent(w.Close())
}

// Get reads a file; the error wraps ErrMissing.
func (p *Place) Get(ctx context.Context, name string) (io.ReadCloser, error) {
	r, err := p.b.blobs.NewReader(ctx, name, nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, fmt.Errorf("%w: %s", ErrMissing, name)
	}
	if err != nil {
		return nil, p.b.silent(err)
	}
	return r, nil
}

// List returns the names that begin with a text, in order.
func (p *Place) List(ctx context.Context, prefix string) (names []string, err error) {
	for list := p.b.blobs.List(&blob.ListOptions{Prefix: prefix}); ; {
		o, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return names, nil
		}
		if err != nil {
			return nil, p.b.silent(err)
		}
		names = append(names, o.Key)
	}
}

// Drop takes a file away; one that is not there is no error.
func (p *Place) Drop(ctx context.Context, name string) error {
	if err := p.b.blobs.Delete(ctx, name); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
		return p.b.silent(err)
	}
	return nil
}

// Settle forces what was written to disk, where the place is a folder; a server has done so.
func (p *Place) Settle() error {
	if p.b.folder == "" {
		return nil
	}
	f, err := os.Open(p.b.folder)
	if err != nil {
		return err
	}
	return errors.Join(unix.Syncfs(int(f.Fd())), f.Close())
}

// Where says where it is, for people.
func (p *Place) Where() string { return p.b.Where() }

// Close releases the place.
func (p *Place) Close() error { return p.b.blobs.Close() }
