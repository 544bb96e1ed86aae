package bucket

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"sync"
)

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
	return b.StageFrom(context.Background(), limit, func(w io.Writer) error {
		_, err := io.Copy(w, io.LimitReader(r, limit+1))
		return err
	})
}

// StageFrom does as Stage with what write writes, until ctx ends.
func (b *Bucket) StageFrom(ctx context.Context, limit int64, write func(io.Writer) error) (*Staged, error) {
	f, err := os.CreateTemp(b.staging, "sparecrate-")
	if err != nil {
		return nil, unavailable(err)
	}
	s := &Staged{file: f}
	sum := startSum()
	pieces, _ := writers.Get().(*bufio.Writer)
	defer func() {
		pieces.Reset(nil)
		writers.Put(pieces)
	}()
	pieces.Reset(&bounded{ctx, io.MultiWriter(disk{f}, sum), limit, &s.Size})
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

// disk marks the errors of writing to a disk, so that they are told from those of
// what is read.
type disk struct{ file *os.File }

func (d disk) Write(p []byte) (int, error) {
	n, err := d.file.Write(p)
	if err != nil {
		err = unavailable(err)
	}
	return n, err
}

// bounded counts what is written and refuses more than a limit, and all once its context ends.
type bounded struct {
	ctx   context.Context //nolint:containedctx // it lives as long as the call that makes it
	to    io.Writer
	limit int64
	n     *int64
}

func (w *bounded) Write(p []byte) (int, error) {
	if err := w.ctx.Err(); err != nil {
		return 0, err
	}
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

// end returns the hash of all that was written.
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

// Reader reads the staged file once; closed, it removes it.
func (s *Staged) Reader() io.ReadCloser {
	return stagedReader{io.NewSectionReader(s, 0, s.Size), s}
}

type stagedReader struct {
	io.Reader
	staged *Staged
}

func (r stagedReader) Close() error {
	r.staged.Close()
	return nil
}

// Close removes the temporary file.
func (s *Staged) Close() {
	_ = s.file.Close()
	if !s.kept {
		_ = os.Remove(s.file.Name())
	}
}
