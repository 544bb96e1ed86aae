// Package bucket keeps files under the SHA-256 of their bytes: fonts,
// documents, derived containers and packs. It stands on gocloud.dev/blob, so a
// bucket is a folder, or memory in tests.
//
// A file is either whole or absent: bytes are gathered and hashed in a temporary
// file first, then put under their name in one step and, in a folder, forced to
// disk before Put returns.
package bucket

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"time"

	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	"gocloud.dev/blob/memblob"
	"gocloud.dev/gcerrors"
)

// Hash is the SHA-256 of a file's bytes, in lower-case hex.
type Hash string

// What a caller may want to tell apart.
var (
	// ErrTooLarge says that a file is larger than Put was told to take.
	ErrTooLarge = errors.New("the file is too large")
	// ErrMissing says that the bucket has no file of this hash.
	ErrMissing = errors.New("the file is not in the bucket")
)

// Bucket is a store of files by hash.
type Bucket struct {
	blobs  *blob.Bucket
	folder string // empty where the bucket is no folder
}

// Open opens the bucket in a folder, which is made where it is missing.
func Open(folder string) (*Bucket, error) {
	blobs, err := fileblob.OpenBucket(folder, &fileblob.Options{
		CreateDir: true, NoTempDir: true, DirFileMode: 0o700, Metadata: fileblob.MetadataDontWrite,
	})
	if err != nil {
		return nil, fmt.Errorf("open the bucket: %w", err)
	}
	b := &Bucket{blobs, folder}
	return b, b.clear()
}

// staging is the folder within a bucket's where files are gathered.
const staging = ".staging"

// clear takes away what was being gathered when a process died, a day ago or more:
// other processes may be gathering files too.
func (b *Bucket) clear() error {
	folder := filepath.Join(b.folder, staging)
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	left, err := os.ReadDir(folder)
	if err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	for _, f := range left {
		if info, err := f.Info(); err == nil && time.Since(info.ModTime()) > 24*time.Hour {
			_ = os.Remove(filepath.Join(folder, f.Name()))
		}
	}
	return nil
}

// InMemory gives an empty bucket for tests.
func InMemory() *Bucket { return &Bucket{memblob.OpenBucket(nil), ""} }

// Close gives the bucket free.
func (b *Bucket) Close() error { return b.blobs.Close() }

// key spreads files over folders, so that none grows too full.
func key(h Hash) string { return string(h[:2]) + "/" + string(h) }

// Staged is a file gathered and hashed, not yet in a bucket. Close it.
type Staged struct {
	Hash Hash
	Size int64
	file *os.File
	kept bool // under its name in a bucket
}

// Stage reads r into a temporary file while hashing it, at most limit bytes, on
// the disk of the bucket, where that is a folder. More wraps ErrTooLarge.
func (b *Bucket) Stage(r io.Reader, limit int64) (*Staged, error) {
	return b.StageFrom(limit, func(w io.Writer) error {
		_, err := io.Copy(w, io.LimitReader(r, limit+1))
		return err
	})
}

// StageFrom does as Stage with what write writes.
func (b *Bucket) StageFrom(limit int64, write func(io.Writer) error) (*Staged, error) {
	folder := ""
	if b.folder != "" {
		folder = filepath.Join(b.folder, staging)
	}
	f, err := os.CreateTemp(folder, "sparecrate-")
	if err != nil {
		return nil, fmt.Errorf("make a temporary file: %w", err)
	}
	s := &Staged{file: f}
	sum := startSum()
	pieces, _ := writers.Get().(*bufio.Writer)
	defer func() {
		pieces.Reset(nil)
		writers.Put(pieces)
	}()
	pieces.Reset(&bounded{io.MultiWriter(f, sum), limit, &s.Size})
	err = write(pieces)
	if err == nil {
		err = pieces.Flush()
	}
	s.Hash = sum.end()
	if err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// bounded counts what is written and refuses more than a limit.
type bounded struct {
	to    io.Writer
	limit int64
	n     *int64
}

func (w *bounded) Write(p []byte) (int, error) {
	if *w.n += int64(len(p)); *w.n > w.limit {
		return 0, fmt.Errorf("%w: at most %d MB are taken", ErrTooLarge, w.limit>>20)
	}
	return w.to.Write(p)
}

// pieceSize is how much is written and hashed at a time, bytes; so many pieces wait
// for being hashed at most.
const (
	pieceSize    = 64 << 10
	piecesInLine = 8
)

// Buffers are used again: thousands of files come in one after the other.
var (
	writers = sync.Pool{New: func() any { return bufio.NewWriterSize(nil, pieceSize) }}
	spare   = sync.Pool{New: func() any { b := make([]byte, 0, pieceSize); return &b }}
)

// summing hashes what is written to it beside the writing.
type summing struct {
	line chan *[]byte
	done chan Hash
}

func startSum() *summing {
	s := &summing{make(chan *[]byte, piecesInLine), make(chan Hash, 1)}
	go func() {
		sum := sha256.New()
		for p := range s.line {
			sum.Write(*p)
			spare.Put(p)
		}
		s.done <- Hash(hex.EncodeToString(sum.Sum(nil)))
	}()
	return s
}

// Write never fails.
func (s *summing) Write(p []byte) (int, error) {
	piece, _ := spare.Get().(*[]byte)
	*piece = append((*piece)[:0], p...)
	s.line <- piece
	return len(p), nil
}

// end gives the hash of all that was written.
func (s *summing) end() Hash {
	close(s.line)
	return <-s.done
}

// Bytes reads the whole staged file.
func (s *Staged) Bytes() ([]byte, error) {
	b := make([]byte, s.Size)
	_, err := s.file.ReadAt(b, 0)
	return b, err
}

// ReadAt reads from a place in the staged file.
func (s *Staged) ReadAt(p []byte, at int64) (int, error) { return s.file.ReadAt(p, at) }

// Close removes the temporary file.
func (s *Staged) Close() {
	_ = s.file.Close()
	if !s.kept {
		_ = os.Remove(s.file.Name())
	}
}

// Put keeps a staged file. A file that is there already stays as it is.
func (b *Bucket) Put(ctx context.Context, s *Staged) error {
	if b.folder != "" {
		if _, err := os.Lstat(b.path(s.Hash)); err == nil || !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return b.moveIn(s)
	}
	if ok, err := b.blobs.Exists(ctx, key(s.Hash)); err != nil || ok {
		return err
	}
	if _, err := s.file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	w, err := b.blobs.NewWriter(ctx, key(s.Hash), &blob.WriterOptions{ContentType: "application/octet-stream"})
	if err != nil {
		return fmt.Errorf("write to the bucket: %w", err)
	}
	if _, err := io.Copy(w, s.file); err != nil {
		_ = w.Close()
		return fmt.Errorf("write to the bucket: %w", err)
	}
	if err := w.Close(); err != nil {
		return fmt.Errorf("write to the bucket: %w", err)
	}
	return nil
}

// moveIn gives a staged file its name in the folder: it is forced to disk before,
// and its name after.
func (b *Bucket) moveIn(s *Staged) error {
	path := b.path(s.Hash)
	if err := s.file.Sync(); err != nil {
		return fmt.Errorf("force the file to disk: %w", err)
	}
	switch err := os.Mkdir(filepath.Dir(path), 0o700); {
	case err == nil:
		if err := syncFolder(b.folder); err != nil {
			return err
		}
	case !errors.Is(err, fs.ErrExist):
		return fmt.Errorf("write to the bucket: %w", err)
	}
	if err := os.Rename(s.file.Name(), path); err != nil {
		return fmt.Errorf("write to the bucket: %w", err)
	}
	s.kept = true
	return syncFolder(filepath.Dir(path))
}

// path is where a file lies in a bucket that is a folder.
func (b *Bucket) path(h Hash) string { return filepath.Join(b.folder, filepath.FromSlash(key(h))) }

// syncFolder forces the names in a folder to disk.
func syncFolder(path string) error {
	f, err := os.Open(path) //nolint:gosec // the bucket's own folder
	if err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return fmt.Errorf("force names to disk: %w", err)
	}
	return nil
}

// PutBytes keeps bytes made in memory and gives their hash.
func (b *Bucket) PutBytes(ctx context.Context, data []byte) (Hash, error) {
	s, err := b.Stage(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return "", err
	}
	defer s.Close()
	return s.Hash, b.Put(ctx, s)
}

// Open reads a file; the size is in bytes. The error wraps ErrMissing.
func (b *Bucket) Open(ctx context.Context, h Hash) (r io.ReadCloser, size int64, err error) {
	reader, err := b.blobs.NewReader(ctx, key(h), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, 0, fmt.Errorf("%w: %s", ErrMissing, h)
	}
	if err != nil {
		return nil, 0, err
	}
	return reader, reader.Size(), nil
}

// Drop takes a file away; one that is not there is no error.
func (b *Bucket) Drop(ctx context.Context, h Hash) error {
	if err := b.blobs.Delete(ctx, key(h)); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
		return fmt.Errorf("take a file out of the bucket: %w", err)
	}
	return nil
}

// Read gives a whole file and makes sure that its bytes are the ones that were
// put. The error wraps ErrMissing.
func (b *Bucket) Read(ctx context.Context, h Hash) ([]byte, error) {
	r, _, err := b.Open(ctx, h)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	if sum := sha256.Sum256(data); Hash(hex.EncodeToString(sum[:])) != h {
		return nil, fmt.Errorf("the file %s in the bucket is damaged: its bytes have another hash; restore it from a backup", h)
	}
	return data, nil
}
