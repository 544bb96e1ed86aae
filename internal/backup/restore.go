package backup

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"filippo.io/age"
	"golang.org/x/sync/errgroup"

	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/dumpdb"
)

// Bounds of what is read from a place, which somebody else may have written.
const (
	mostManifest = 1 << 30
	mostFile     = 8 << 30
	mostPart     = 4 * partBytes
	insertRows   = 200
	insertBytes  = 1 << 20
)

// ErrNoBackup says that a place has no backup, or none of a name.
var ErrNoBackup = errors.New("there is no such backup")

// Backup is one of a place, opened.
type Backup struct {
	Name     string
	Manifest Manifest
	place    *bucket.Place
	keys     []age.Identity
	ending   string
}

// Open opens the backup of a name in a place, the newest for no name. keys open what is
// encrypted.
func Open(ctx context.Context, place *bucket.Place, name string, keys []age.Identity) (*Backup, error) {
	names, sealed, err := Names(ctx, place)
	if err != nil {
		return nil, err
	}
	if name == "" && len(names) > 0 {
		name = names[0]
	}
	if !slices.Contains(names, name) {
		if name == "" {
			return nil, fmt.Errorf("%w in %s", ErrNoBackup, place.Where())
		}
		return nil, fmt.Errorf("%w as %s in %s", ErrNoBackup, name, place.Where())
	}
	b := &Backup{Name: name, place: place, keys: keys}
	if sealed[name] {
		b.ending = encrypted
		if len(keys) == 0 {
			return nil, fmt.Errorf("the backup %s is encrypted; give the file with your age identity with --identity", name)
		}
	}
	r, err := b.read(ctx, backups+name+".json"+b.ending)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	if err := json.NewDecoder(io.LimitReader(r, mostManifest)).Decode(&b.Manifest); err != nil {
		return nil, fmt.Errorf("the backup %s cannot be read: %w", name, err)
	}
	if raw, err := hex.DecodeString(b.Manifest.Whom); err != nil || len(raw) > sha256.Size {
		return nil, fmt.Errorf("the backup %s cannot be read", name)
	}
	if b.Manifest.Format != format {
		return nil, fmt.Errorf("the backup %s is of a form (%d) that this version does not know; it was made by %s", name, b.Manifest.Format, b.Manifest.Program)
	}
	return b, nil
}

// opened is what is read of a file that may be encrypted.
type opened struct {
	io.Reader
	io.Closer
}

// read reads a file of the place, decrypted.
func (b *Backup) read(ctx context.Context, name string) (io.ReadCloser, error) {
	r, err := b.place.Get(ctx, name)
	if err != nil || b.ending == "" {
		return r, err
	}
	plain, err := age.Decrypt(r, b.keys...)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("the backup %s is encrypted for another identity", b.Name), r.Close())
	}
	return opened{plain, r}, nil
}

// errPiece says what is wrong with an object.
func errPiece(o Object, err error) error {
	if errors.Is(err, bucket.ErrMissing) {
		return fmt.Errorf("the backup is not whole: %s is missing; the next one sends it again", o.SHA256)
	}
	return fmt.Errorf("the backup is damaged in %s: %w; take that file out of the place, and the next backup sends it again", o.SHA256, err)
}

var errAltered = errors.New("its bytes do not have its hash")

// part returns the lines of a part of a table.
func (b *Backup) part(ctx context.Context, o Object) ([]byte, error) {
	if err := valid(o); err != nil {
		return nil, err
	}
	r, err := b.read(ctx, nameOf(o.SHA256, ".gz"+ending(b.Manifest.Whom)))
	if err != nil {
		return nil, errPiece(o, err)
	}
	defer func() { _ = r.Close() }()
	z, err := gzip.NewReader(r)
	if err != nil {
		return nil, errPiece(o, err)
	}
	data, err := io.ReadAll(io.LimitReader(z, min(o.Bytes, mostPart)+1))
	if err != nil {
		return nil, errPiece(o, err)
	}
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != o.SHA256 {
		return nil, errPiece(o, errAltered)
	}
	return data, nil
}

func valid(o Object) error {
	if raw, err := hex.DecodeString(o.SHA256); err != nil || len(raw) != sha256.Size {
		return fmt.Errorf("the backup is damaged: %q is no hash", o.SHA256)
	}
	return nil
}

// into writes a file of the catalog to where it is wanted, and holds it against its hash.
func (b *Backup) into(ctx context.Context, o Object, to io.Writer) error {
	if err := valid(o); err != nil {
		return err
	}
	r, err := b.read(ctx, nameOf(o.SHA256, ending(b.Manifest.Whom)))
	if err != nil {
		return errPiece(o, err)
	}
	defer func() { _ = r.Close() }()
	sum := sha256.New()
	if _, err := io.Copy(io.MultiWriter(to, sum), io.LimitReader(r, mostFile)); err != nil {
		return errPiece(o, err)
	}
	if hex.EncodeToString(sum.Sum(nil)) != o.SHA256 {
		return errPiece(o, errAltered)
	}
	return nil
}

// Check reads everything of a backup and holds it against its hashes.
func (b *Backup) Check(ctx context.Context) error {
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for _, t := range b.Manifest.Tables {
		for _, o := range t.Parts {
			g.Go(func() error { _, err := b.part(ctx, o); return err })
		}
	}
	files := b.Manifest.Files
	if b.Manifest.Key != nil {
		files = append(slices.Clone(files), *b.Manifest.Key)
	}
	for _, o := range files {
		g.Go(func() error { return b.into(ctx, o, io.Discard) })
	}
	return g.Wait()
}

// Target is where a backup becomes a service again.
type Target struct {
	DSN     string // of an empty database
	Bucket  *bucket.Bucket
	KeyFile string       // written where it is missing and the backup has the key
	Marked  func() error // called once the database says that it is being filled
}

// Restore makes a service of a backup. A restore that was broken off is begun anew by the next;
// until then no service starts on it.
func (b *Backup) Restore(ctx context.Context, to Target) (err error) {
	s, err := store.OpenEmpty(ctx, to.DSN, b.Manifest.Migrations)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if to.Marked != nil {
		if err := to.Marked(); err != nil {
			return fmt.Errorf("begin the restore: %w", err)
		}
	}
	g, filling := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for _, o := range b.Manifest.Files {
		g.Go(func() error { return b.file(filling, o, to.Bucket) })
	}
	if err := g.Wait(); err != nil {
		return err
	}
	if err := dumpdb.In(s).Fill(ctx, func(f dumpdb.Filling) error {
		for i := range b.Manifest.Tables {
			if err := b.table(ctx, f, &b.Manifest.Tables[i]); err != nil {
				return fmt.Errorf("restore the table %s: %w", b.Manifest.Tables[i].Name, err)
			}
		}
		return nil
	}); err != nil {
		return err
	}
	if err := b.key(ctx, to.KeyFile); err != nil {
		return err
	}
	return s.Restored(ctx)
}

// file puts a file into the bucket, unless it is there.
func (b *Backup) file(ctx context.Context, o Object, to *bucket.Bucket) error {
	if sound, err := to.Sound(ctx, bucket.Hash(o.SHA256)); sound || err != nil {
		return err
	}
	staged, err := to.StageFrom(ctx, mostFile, func(w io.Writer) error { return b.into(ctx, o, w) })
	if err != nil {
		return err
	}
	defer staged.Close()
	return to.Put(ctx, staged)
}

// key writes the key for secrets where there is none.
func (b *Backup) key(ctx context.Context, path string) error {
	if b.Manifest.Key == nil || path == "" {
		return nil
	}
	if _, err := os.Stat(path); err == nil {
		return nil
	}
	var text bytes.Buffer
	if err := b.into(ctx, *b.Manifest.Key, &text); err != nil {
		return err
	}
	return os.WriteFile(path, text.Bytes(), 0o600)
}

// table writes the rows of a table in place of those that making the tables has left.
func (b *Backup) table(ctx context.Context, f dumpdb.Filling, t *Table) error {
	have, err := f.Columns(t.Name)
	if err != nil {
		return err
	}
	for _, c := range t.Columns {
		if !slices.Contains(have, c) {
			return fmt.Errorf("the backup is damaged: it has a column %q that there is not", c)
		}
	}
	if err := f.Clear(t.Name); err != nil {
		return err
	}
	var rows [][]any
	size := 0
	flush := func() error {
		err := f.Insert(t.Name, t.Columns, rows)
		rows, size = rows[:0], 0
		return err
	}
	written := int64(0)
	for _, o := range t.Parts {
		data, err := b.part(ctx, o)
		if err != nil {
			return err
		}
		lines := bufio.NewReader(bytes.NewReader(data))
		for {
			line, err := lines.ReadBytes('\n')
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return err
			}
			row, err := readRow(line, len(t.Columns))
			if err != nil {
				return err
			}
			rows = append(rows, row)
			written++
			if size += len(line); len(rows) == insertRows || size >= insertBytes {
				if err := flush(); err != nil {
					return err
				}
			}
		}
	}
	if err := flush(); err != nil {
		return err
	}
	if written != t.Rows {
		return fmt.Errorf("the backup is damaged: it has %d rows and should have %d", written, t.Rows)
	}
	if t.Next > 0 {
		return f.Number(t.Name, t.Next)
	}
	return nil
}

// readRow reads a line of a table.
func readRow(line []byte, columns int) ([]any, error) {
	var values []json.RawMessage
	if err := json.Unmarshal(line, &values); err != nil || len(values) != columns {
		return nil, errors.New("the backup is damaged: a row cannot be read")
	}
	row := make([]any, columns)
	for i, v := range values {
		var text string
		var bytes binary
		switch {
		case string(v) == "null":
		case json.Unmarshal(v, &text) == nil:
			row[i] = text
		case json.Unmarshal(v, &bytes) == nil:
			row[i] = bytes.Base64
		default:
			return nil, errors.New("the backup is damaged: a value cannot be read")
		}
	}
	return row, nil
}
