// Package bucket keeps files under the SHA-256 of their bytes: fonts,
// documents, derived formats and packs. It stands on gocloud.dev/blob, so a
// bucket is a folder, one of a server that speaks S3, or memory in tests; nobody outside of this
// package needs to know which.
//
// A file is either whole or absent: bytes are gathered and hashed in a temporary
// file first, then put under their name in one step and, in a folder, forced to
// disk before Put returns. Bytes that leave are held against their hash, also while
// they are streamed: a reader of a damaged file never sees its end.
package bucket

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"go.opentelemetry.io/otel/trace"
	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	"gocloud.dev/blob/memblob"
	"gocloud.dev/gcerrors"

	"sparecrate/internal/traces"
)

// Hash is the SHA-256 of a file's bytes, in lower-case hex.
type Hash string

// What a caller may want to tell apart.
var (
	// ErrTooLarge says that a file is larger than Put was told to take.
	ErrTooLarge = errors.New("the file is too large")
	// ErrMissing says that the bucket has no file of this hash.
	ErrMissing = errors.New("the file is not in the bucket")
	// ErrDamaged says that a file's bytes do not have its hash any more.
	ErrDamaged = errors.New("the file in the bucket is damaged")
	// ErrUnavailable says that the bucket cannot be written: it is gone, read-only or broken.
	ErrUnavailable = errors.New("the files cannot be written")
)

// Broken is an error about one file of the bucket; it wraps ErrMissing or ErrDamaged.
type Broken struct {
	Hash Hash
	err  error
}

func (e *Broken) Error() string { return fmt.Sprintf("%v: %s", e.err, e.Hash) }

// Unwrap returns which of the two it is.
func (e *Broken) Unwrap() error { return e.err }

// Bucket is a store of files by hash.
type Bucket struct {
	blobs   *blob.Bucket
	folder  string // empty where the bucket is no folder
	remote  string // its name on a server; empty where it is none
	staging string // where this process gathers files; empty for the system's temporary folder
	lock    *os.File
	// OnBroken is called when a file turns out to be damaged or missing, OnHealed when
	// Put replaces such a file. Either may be nil.
	OnBroken func(*Broken)
	OnHealed func(Hash)
	// Observe is called after each file that was read, put or dropped, with what was done and its
	// error. It may be nil.
	Observe func(operation string, err error)
}

// observe tells of what was done to a file since start.
func (b *Bucket) observe(ctx context.Context, operation string, start time.Time, err error) {
	if trace.SpanFromContext(ctx).IsRecording() {
		_, span := traces.Begin(ctx, "file "+operation, trace.WithTimestamp(start))
		traces.End(span, err)
	}
	if b.Observe != nil {
		b.Observe(operation, err)
	}
}

// broken returns the error about a file, after telling OnBroken.
func (b *Bucket) broken(h Hash, err error) error {
	e := &Broken{h, err}
	if b.OnBroken != nil {
		b.OnBroken(e)
	}
	return e
}

// Open opens the bucket in a folder, which is made where it is missing.
func Open(folder string) (*Bucket, error) {
	blobs, err := fileblob.OpenBucket(folder, &fileblob.Options{
		CreateDir: true, NoTempDir: true, DirFileMode: 0o700, Metadata: fileblob.MetadataDontWrite,
	})
	if err != nil {
		return nil, fmt.Errorf("open the bucket: %w", err)
	}
	b := &Bucket{blobs: blobs, folder: folder}
	if err := b.openStaging(filepath.Join(folder, staging)); err != nil {
		return nil, err
	}
	return b, nil
}

// openStaging makes a folder for the files that this process gathers, and removes
// those of processes that died. Each process holds a lock on its own.
func (b *Bucket) openStaging(all string) error {
	if err := os.MkdirAll(all, 0o700); err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	left, err := os.ReadDir(all)
	if err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	for _, f := range left {
		if path := filepath.Join(all, f.Name()); abandoned(path) {
			_ = os.RemoveAll(path)
		}
	}
	b.staging = filepath.Join(all, rand.Text())
	// A folder that is not locked yet would be taken for abandoned, so it is locked
	// under another name first.
	fresh := b.staging + fresh
	if err := os.Mkdir(fresh, 0o700); err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	if b.lock, err = os.OpenFile(filepath.Join(fresh, lockName), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	if err := syscall.Flock(int(b.lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		return fmt.Errorf("open the bucket: %w", err)
	}
	return os.Rename(fresh, b.staging)
}

// staging is the folder within a bucket's where files are gathered, with a folder of
// each process in it.
const (
	staging  = ".staging"
	lockName = "lock"
	fresh    = ".new"
	// freshLife is how long a process may take to lock its folder.
	freshLife = time.Hour
)

// abandoned reports whether a folder's process died. Files beside the folders are of
// an older version and abandoned after a day.
func abandoned(path string) bool {
	info, err := os.Lstat(path)
	if err != nil {
		return false
	}
	if !info.IsDir() {
		return time.Since(info.ModTime()) > 24*time.Hour
	}
	if strings.HasSuffix(path, fresh) {
		return time.Since(info.ModTime()) > freshLife
	}
	f, err := os.Open(filepath.Join(path, lockName)) //nolint:gosec // the bucket's own folder
	if err != nil {
		return errors.Is(err, fs.ErrNotExist)
	}
	defer func() { _ = f.Close() }()
	return syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) == nil
}

// InMemory returns an empty bucket for tests.
func InMemory() *Bucket { return &Bucket{blobs: memblob.OpenBucket(nil)} }

// Close releases the bucket.
func (b *Bucket) Close() error {
	if b.lock != nil {
		_ = os.RemoveAll(b.staging)
		_ = b.lock.Close()
	}
	return b.blobs.Close()
}

// TempFolder is a folder of this process on the bucket's disk for temporary files of any
// kind. It is removed at Close, or at the next Open by any process after a crash.
func (b *Bucket) TempFolder() string { return b.staging }

// minFree is what a disk must have free for the bucket to be ready, bytes.
const minFree = 32 << 20

// Free returns the bytes that are free on the disk of the files; false where the bucket is no
// folder, or its folder is gone.
func (b *Bucket) Free() (int64, bool) {
	if b.folder == "" {
		return 0, false
	}
	return freeOn(b.folder)
}

func freeOn(folder string) (int64, bool) {
	var disk syscall.Statfs_t
	if syscall.Statfs(folder, &disk) != nil {
		return 0, false
	}
	return int64(disk.Bavail) * disk.Bsize, true //nolint:gosec // less than 2^63 bytes
}

// Ready reports whether files can be written: it writes one. The error wraps
// ErrUnavailable and says why.
func (b *Bucket) Ready() error {
	if b.remote != "" {
		if err := b.remoteReady(); err != nil {
			return err
		}
		// What is taken in lies on this machine's disk first.
		if free, ok := freeOn(b.staging); ok && free < minFree {
			return fmt.Errorf("%w: the disk of the data folder is full", ErrUnavailable)
		}
		return nil
	}
	if b.folder == "" {
		return nil
	}
	free, ok := b.Free()
	if !ok {
		return fmt.Errorf("%w: their folder is gone", ErrUnavailable)
	}
	if free < minFree {
		return fmt.Errorf("%w: their disk is full", ErrUnavailable)
	}
	s, err := b.Stage(strings.NewReader("ready"), 16)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.file.Sync(); err != nil {
		return unavailable(err)
	}
	return nil
}

// unavailable wraps an error of the disk; a full one is told apart by its error number.
func unavailable(err error) error {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return fmt.Errorf("%w: their folder is gone: %w", ErrUnavailable, err)
	case errors.Is(err, syscall.EROFS), errors.Is(err, fs.ErrPermission):
		return fmt.Errorf("%w: they are read-only: %w", ErrUnavailable, err)
	}
	return fmt.Errorf("%w: %w", ErrUnavailable, err)
}

// key spreads files over folders, so that none grows too full.
func key(h Hash) string { return string(h[:2]) + "/" + string(h) }

// Put keeps a staged file. A file that is there already stays as it is, unless it is
// damaged: then it is healed. It counts as new for Sweep.
func (b *Bucket) Put(ctx context.Context, s *Staged) (err error) {
	start := time.Now()
	defer func() { b.observe(ctx, "put", start, err) }()
	sound, err := b.Sound(ctx, s.Hash)
	if err != nil {
		return err
	}
	if sound && b.folder != "" {
		now := time.Now()
		_ = os.Chtimes(b.path(s.Hash), now, now)
		return nil
	}
	if sound {
		return b.upload(ctx, s) // which makes it new
	}
	if b.OnHealed != nil {
		defer b.OnHealed(s.Hash)
	}
	if b.folder != "" {
		return b.moveIn(s)
	}
	return b.upload(ctx, s)
}

// moveIn gives a staged file its name in the folder: it is forced to disk before,
// and its name after.
func (b *Bucket) moveIn(s *Staged) error {
	to := b.path(s.Hash)
	if err := s.file.Sync(); err != nil {
		return unavailable(err)
	}
	switch err := os.Mkdir(filepath.Dir(to), 0o700); {
	case err == nil:
		if err := syncFolder(b.folder); err != nil {
			return err
		}
	case !errors.Is(err, fs.ErrExist):
		return unavailable(err)
	}
	if err := os.Rename(s.file.Name(), to); err != nil {
		return unavailable(err)
	}
	s.kept = true
	return syncFolder(filepath.Dir(to))
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

// Open reads a file; the size is in bytes. The error wraps ErrMissing. Reading ends
// with an error that wraps ErrDamaged, before the last bytes, where they do not have
// the file's hash.
func (b *Bucket) Open(ctx context.Context, h Hash) (r io.ReadCloser, size int64, err error) {
	start := time.Now()
	c, err := b.open(ctx, h)
	b.observe(ctx, "open", start, err)
	if err != nil {
		if errors.Is(err, ErrMissing) {
			err = b.broken(h, ErrMissing)
		}
		return nil, 0, err
	}
	c.broken = func() error {
		b.observe(ctx, "read", start, ErrDamaged)
		return b.broken(h, ErrDamaged)
	}
	return c, c.left, nil
}

func (b *Bucket) open(ctx context.Context, h Hash) (*checked, error) {
	if len(h) != 2*sha256.Size {
		return nil, ErrMissing
	}
	reader, err := b.blobs.NewReader(ctx, key(h), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrMissing
	}
	if err != nil {
		return nil, b.silent(err)
	}
	return &checked{ReadCloser: reader, hash: h, left: reader.Size(), sum: sha256.New(), broken: func() error { return ErrDamaged }}, nil
}

// checked holds what is read against a hash.
type checked struct {
	io.ReadCloser
	hash Hash
	left int64
	sum  hash.Hash
	err  error
	// broken returns the error for bytes that do not have the hash.
	broken func() error
}

func (c *checked) Read(p []byte) (int, error) {
	if c.err != nil {
		return 0, c.err
	}
	n, err := c.ReadCloser.Read(p)
	c.sum.Write(p[:n])
	c.left -= int64(n)
	if c.left <= 0 || errors.Is(err, io.EOF) {
		if c.left != 0 || Hash(hex.EncodeToString(c.sum.Sum(nil))) != c.hash {
			c.err = c.broken()
			return 0, c.err
		}
		c.err = io.EOF
		return n, nil
	}
	return n, err
}

// Check reads a file through; the error wraps ErrMissing or ErrDamaged.
func (b *Bucket) Check(ctx context.Context, h Hash) error {
	r, _, err := b.Open(ctx, h)
	if err != nil {
		return err
	}
	_, err = io.Copy(io.Discard, r)
	return errors.Join(err, r.Close())
}

// Sound reports whether the bucket has a file and its bytes have its hash. It tells
// nobody where not.
func (b *Bucket) Sound(ctx context.Context, h Hash) (bool, error) {
	r, err := b.open(ctx, h)
	if err == nil {
		_, err = io.Copy(io.Discard, r)
		_ = r.Close()
	}
	if errors.Is(err, ErrMissing) || errors.Is(err, ErrDamaged) {
		return false, nil
	}
	return err == nil, err
}

// Whole returns a file to be read at any place, once all of it is held against its hash.
// It is the file itself where the bucket is a folder, and a copy of at most limit bytes
// elsewhere. Close it.
func (b *Bucket) Whole(ctx context.Context, h Hash, limit int64) (*Staged, error) {
	r, size, err := b.Open(ctx, h)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	if b.folder == "" {
		return b.Stage(r, limit)
	}
	if _, err := io.Copy(io.Discard, r); err != nil {
		return nil, err
	}
	f, err := os.Open(b.path(h))
	if err != nil {
		return nil, unavailable(err)
	}
	return &Staged{Hash: h, Size: size, file: f, kept: true}, nil
}

// Sweep removes the files that were put before a time and that nobody names; named
// returns those of some hashes that are named.
func (b *Bucket) Sweep(ctx context.Context, before time.Time, named func(context.Context, []Hash) (map[Hash]bool, error)) (removed int, err error) {
	var batch []Hash
	flush := func() error {
		kept, err := named(ctx, batch)
		if err != nil {
			return err
		}
		for _, h := range batch {
			if kept[h] {
				continue
			}
			if err := b.Drop(ctx, h); err != nil {
				return err
			}
			removed++
		}
		batch = batch[:0]
		return nil
	}
	for list := b.blobs.List(nil); ; {
		o, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return removed, flush()
		}
		if err != nil {
			return removed, b.silent(err)
		}
		if !ours(o.Key) || !o.ModTime.Before(before) {
			continue
		}
		h := Hash(path.Base(o.Key))
		if batch = append(batch, h); len(batch) == sweepBatch {
			if err := flush(); err != nil {
				return removed, err
			}
		}
	}
}

// ours reports whether a key is one of a file by its hash.
func ours(k string) bool {
	h := Hash(path.Base(k))
	return len(h) == 2*sha256.Size && k == key(h)
}

// sweepBatch is how many files Sweep asks about at once.
const sweepBatch = 500

// Drop takes a file away; one that is not there is no error.
func (b *Bucket) Drop(ctx context.Context, h Hash) (err error) {
	start := time.Now()
	defer func() { b.observe(ctx, "drop", start, err) }()
	if err := b.blobs.Delete(ctx, key(h)); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
		return b.silent(fmt.Errorf("take a file out of the bucket: %w", err))
	}
	return nil
}

// Read returns a whole file. The error wraps ErrMissing or ErrDamaged.
func (b *Bucket) Read(ctx context.Context, h Hash) ([]byte, error) {
	r, size, err := b.Open(ctx, h)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	out := bytes.NewBuffer(make([]byte, 0, size+bytes.MinRead))
	_, err = out.ReadFrom(r)
	return out.Bytes(), err
}
