// Package backup keeps copies of all records and files of a service in another place, and makes a
// service of them again.
//
// A place has two kinds of files. objects/XX/NAME are pieces of content: a part of a table, as
// lines of JSON in gzip (RFC 1952), or a file of the catalog; NAME is the SHA-256 of what is in it,
// before it is packed or encrypted, so that a piece that was there before is not sent again.
// backups/TIME.json says what a backup consists of, and backups/TIME.objects lists the names of its
// objects. Where recipients are given, the objects and the JSON are encrypted with age, version 1;
// the names of objects then end in .WHOM.age, where WHOM stands for the recipients, so that what is
// encrypted for others is not taken for one's own. The hashes can still be read.
//
// The records are read as they are at one moment (one transaction), the files afterwards: a file is
// in the bucket before a record names it, and stays there for a day after none does. The JSON is
// written last: without it there is no backup.
package backup

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"filippo.io/age"
	"golang.org/x/sync/errgroup"

	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/dumpdb"
	"sparecrate/internal/version"
)

const (
	objects    = "objects/"
	backups    = "backups/"
	encrypted  = ".age"
	timeLayout = "2006-01-02T15-04-05"
	// partRows and partBytes are where a part of a table ends: what is added to a large table
	// changes its last part only.
	partRows  = 20_000
	partBytes = 16 << 20
	atOnce    = 4 // files on their way
	// format is the version of what is written.
	format = 1
)

// Manifest is what a backup consists of.
type Manifest struct {
	Format     int         `json:"format"`
	Program    string      `json:"program"` // the version that made it
	At         time.Time   `json:"at"`
	Studio     string      `json:"studio"`
	Migrations []string    `json:"migrations"`
	Tables     []Table     `json:"tables"`
	Files      []Object    `json:"files"`
	Lost       []string    `json:"lost,omitempty"` // files that were missing or damaged
	Key        *Object     `json:"key,omitempty"`  // the key for secrets
	Whom       string      `json:"whom,omitempty"` // the recipients, in the names of objects
	Made       MadeOfParts `json:"made"`
}

// Table is a table in parts.
type Table struct {
	Name    string   `json:"name"`
	Columns []string `json:"columns"`
	Next    int64    `json:"next,omitempty"` // what it numbers its next row with
	Rows    int64    `json:"rows"`
	Parts   []Object `json:"parts"`
}

// Object is a piece of content.
type Object struct {
	SHA256 string `json:"sha256"`
	Bytes  int64  `json:"bytes"`
}

// MadeOfParts counts what a backup holds, and what of it was new to its place.
type MadeOfParts struct {
	Rows     int64 `json:"rows"`
	Files    int   `json:"files"`
	Bytes    int64 `json:"bytes"`
	NewFiles int   `json:"newFiles"`
	NewBytes int64 `json:"newBytes"`
}

// Source is what is backed up.
type Source struct {
	Store  *store.Store
	Bucket *bucket.Bucket
	// KeyFile is the key for secrets. It goes along only where everything is encrypted.
	KeyFile string
}

// Options say how.
type Options struct {
	Recipients []age.Recipient // none for no encryption
	Keep       int             // how many backups stay; 0 for all
	Now        func() time.Time
}

// Made is a backup that was made.
type Made struct {
	Name      string      `json:"name"`
	Place     string      `json:"place"`
	Encrypted bool        `json:"encrypted"`
	Made      MadeOfParts `json:"made"`
	Lost      []string    `json:"lost,omitempty"`
	Dropped   []string    `json:"dropped,omitempty"` // older backups that were removed
}

// maker makes one backup.
type maker struct {
	place *bucket.Place
	to    []age.Recipient
	whom  string

	mu    sync.Mutex
	there map[string]bool // objects that the place has
	used  map[string]bool // those of this backup
	made  MadeOfParts
}

// Make makes a backup in a place.
func Make(ctx context.Context, from Source, place *bucket.Place, o Options) (*Made, error) {
	m := &maker{place: place, to: o.Recipients, whom: whom(o.Recipients), there: map[string]bool{}, used: map[string]bool{}}
	have, err := place.List(ctx, objects)
	if err != nil {
		return nil, err
	}
	for _, name := range have {
		m.there[name] = true
	}
	all := Manifest{Format: format, Program: version.String(), At: o.Now().UTC().Truncate(time.Millisecond), Whom: m.whom}
	var files []dumpdb.File
	err = dumpdb.In(from.Store).Snapshot(ctx, func(s dumpdb.Snapshot) (err error) {
		all.Migrations, err = s.Migrations()
		if err == nil {
			all.Studio, err = s.Studio()
		}
		if err == nil {
			files, err = s.Files()
		}
		if err == nil {
			all.Tables, err = m.tables(ctx, s)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("back up the records: %w", err)
	}
	if all.Files, all.Lost, err = m.files(ctx, from.Bucket, files); err != nil {
		return nil, fmt.Errorf("back up the files: %w", err)
	}
	if len(o.Recipients) > 0 && from.KeyFile != "" {
		key, err := os.ReadFile(from.KeyFile)
		if err != nil {
			return nil, fmt.Errorf("back up the key for secrets: %w", err)
		}
		kept, err := m.keep(ctx, key, false)
		if err != nil {
			return nil, err
		}
		all.Key = &kept
	}
	all.Made = m.made
	name := fmt.Sprintf("%s-%03dZ", all.At.Format(timeLayout), all.At.UnixMilli()%1000)
	if err := m.finish(ctx, name, &all); err != nil {
		return nil, err
	}
	out := &Made{Name: name, Place: place.Where(), Encrypted: len(o.Recipients) > 0, Made: m.made, Lost: all.Lost}
	if o.Keep > 0 {
		out.Dropped, err = prune(ctx, place, o.Keep)
	}
	return out, err
}

// finish writes the list of objects and, once all is on disk, what makes it a backup.
func (m *maker) finish(ctx context.Context, name string, all *Manifest) error {
	list := strings.Join(slices.Sorted(mapKeys(m.used)), "\n") + "\n"
	if err := m.place.Put(ctx, backups+name+".objects", func(w io.Writer) error { _, err := io.WriteString(w, list); return err }); err != nil {
		return err
	}
	if err := m.place.Settle(); err != nil {
		return err
	}
	text, err := json.MarshalIndent(all, "", "\t")
	if err != nil {
		return err
	}
	last := ""
	if len(m.to) > 0 {
		last = encrypted
	}
	if err := m.place.Put(ctx, backups+name+".json"+last, m.sealed(bytes.NewReader(text))); err != nil {
		return err
	}
	return m.place.Settle()
}

func mapKeys(of map[string]bool) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range of {
			if !yield(k) {
				return
			}
		}
	}
}

// whom returns what stands for some recipients in names; empty for none.
func whom(to []age.Recipient) string {
	if len(to) == 0 {
		return ""
	}
	names := make([]string, len(to))
	for i, r := range to {
		names[i] = fmt.Sprint(r)
	}
	slices.Sort(names)
	sum := sha256.Sum256([]byte(strings.Join(names, "\n")))
	return hex.EncodeToString(sum[:6])
}

// ending is how the names of objects end for some recipients.
func ending(whom string) string {
	if whom == "" {
		return ""
	}
	return "." + whom + encrypted
}

// sealed returns what writes something, encrypted where that is wanted.
func (m *maker) sealed(from io.Reader) func(io.Writer) error {
	return func(w io.Writer) error {
		if len(m.to) == 0 {
			_, err := io.Copy(w, from)
			return err
		}
		to, err := age.Encrypt(w, m.to...)
		if err != nil {
			return err
		}
		if _, err := io.Copy(to, from); err != nil {
			return err
		}
		return to.Close()
	}
}

func nameOf(hash, ending string) string { return objects + hash[:2] + "/" + hash + ending }

// has notes that an object belongs to the backup, and reports whether the place has it.
func (m *maker) has(name string) bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.used[name] = true
	return m.there[name]
}

// added notes that an object was sent.
func (m *maker) added(name string, bytes int64) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.there[name] = true
	m.made.NewFiles++
	m.made.NewBytes += bytes
}

// keep keeps some bytes, packed where that is worth it.
func (m *maker) keep(ctx context.Context, data []byte, pack bool) (Object, error) {
	sum := sha256.Sum256(data)
	o := Object{hex.EncodeToString(sum[:]), int64(len(data))}
	packed := ""
	if pack {
		packed = ".gz"
	}
	name := nameOf(o.SHA256, packed+ending(m.whom))
	if m.has(name) {
		return o, nil
	}
	body := data
	if pack {
		var zipped bytes.Buffer
		z := gzip.NewWriter(&zipped)
		if _, err := z.Write(data); err != nil {
			return o, err
		}
		if err := z.Close(); err != nil {
			return o, err
		}
		body = zipped.Bytes()
	}
	if err := m.place.Put(ctx, name, m.sealed(bytes.NewReader(body))); err != nil {
		return o, err
	}
	m.added(name, int64(len(body)))
	return o, nil
}

// tables keeps the rows of all tables.
func (m *maker) tables(ctx context.Context, s dumpdb.Snapshot) ([]Table, error) {
	found, err := s.Tables()
	if err != nil {
		return nil, err
	}
	out := make([]Table, 0, len(found))
	for i := range found {
		t := Table{Name: found[i].Name, Columns: found[i].Columns, Next: found[i].Auto, Parts: []Object{}}
		var part bytes.Buffer
		rows := 0
		end := func() error {
			if rows == 0 {
				return nil
			}
			kept, err := m.keep(ctx, part.Bytes(), true)
			t.Parts = append(t.Parts, kept)
			t.Rows += int64(rows)
			part.Reset()
			rows = 0
			return err
		}
		err := s.Rows(&found[i], func(row []sql.RawBytes) error {
			if err := writeRow(&part, row); err != nil {
				return err
			}
			if rows++; rows == partRows || part.Len() >= partBytes {
				return end()
			}
			return nil
		})
		if err = errors.Join(err, end()); err != nil {
			return nil, fmt.Errorf("the table %s: %w", t.Name, err)
		}
		m.made.Rows += t.Rows
		out = append(out, t)
	}
	return out, nil
}

// binary is a value that is no text.
type binary struct {
	Base64 []byte `json:"base64"`
}

// writeRow writes a row as a line of JSON: an array of null, text, or an object with base64.
func writeRow(to *bytes.Buffer, row []sql.RawBytes) error {
	values := make([]any, len(row))
	for i, v := range row {
		switch {
		case v == nil:
		case utf8.Valid(v):
			values[i] = string(v)
		default:
			values[i] = binary{v}
		}
	}
	return json.NewEncoder(to).Encode(values)
}

// files keeps the files of the catalog, and returns those that cannot be read.
func (m *maker) files(ctx context.Context, from *bucket.Bucket, files []dumpdb.File) (kept []Object, lost []string, err error) {
	kept = make([]Object, len(files))
	g, sending := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for i, f := range files {
		hash := f.SHA256
		g.Go(func() error {
			name := nameOf(hash, ending(m.whom))
			there := m.has(name)
			r, size, err := from.Open(sending, bucket.Hash(hash))
			if err == nil && !there {
				err = m.place.Put(sending, name, m.sealed(r))
			}
			if r != nil {
				_ = r.Close()
			}
			if errors.Is(err, bucket.ErrMissing) || errors.Is(err, bucket.ErrDamaged) {
				m.mu.Lock()
				defer m.mu.Unlock()
				if !there { // an older backup may have it sound
					delete(m.used, name)
					if f.Needed {
						lost = append(lost, hash)
					}
					return nil
				}
				kept[i] = Object{hash, 0}
				return nil
			}
			if err != nil {
				return err
			}
			if !there {
				m.added(name, size)
			}
			kept[i] = Object{hash, size}
			return nil
		})
	}
	if err := g.Wait(); err != nil {
		return nil, nil, err
	}
	kept = slices.DeleteFunc(kept, func(o Object) bool { return o.SHA256 == "" })
	for _, o := range kept {
		m.made.Bytes += o.Bytes
	}
	m.made.Files = len(kept)
	slices.Sort(lost)
	return kept, lost, nil
}

// Names returns the backups of a place, the newest first, and which of them are encrypted.
func Names(ctx context.Context, place *bucket.Place) (names []string, sealed map[string]bool, err error) {
	found, err := place.List(ctx, backups)
	sealed = map[string]bool{}
	for _, f := range found {
		name, rest, _ := strings.Cut(path.Base(f), ".")
		if rest == "json" || rest == "json"+encrypted {
			names = append(names, name)
			sealed[name] = rest != "json"
		}
	}
	slices.Sort(names)
	slices.Reverse(names)
	return names, sealed, err
}

// TimeOf returns when a backup of a name was made.
func TimeOf(name string) (time.Time, error) {
	if len(name) < len(timeLayout) {
		return time.Time{}, fmt.Errorf("%q is no backup", name)
	}
	return time.Parse(timeLayout, name[:len(timeLayout)])
}

// prune removes all backups but the newest, and the objects that none of these has.
func prune(ctx context.Context, place *bucket.Place, keep int) (dropped []string, err error) {
	names, sealed, err := Names(ctx, place)
	if err != nil || len(names) <= keep {
		return nil, err
	}
	used := map[string]bool{}
	for _, name := range names[:keep] {
		list, err := place.Get(ctx, backups+name+".objects")
		if err != nil {
			return nil, fmt.Errorf("nothing was removed: %w", err)
		}
		text, err := io.ReadAll(list)
		if err = errors.Join(err, list.Close()); err != nil {
			return nil, err
		}
		for line := range strings.SplitSeq(string(text), "\n") {
			used[line] = true
		}
	}
	for _, name := range names[keep:] {
		ending := ".json"
		if sealed[name] {
			ending += encrypted
		}
		if err := errors.Join(place.Drop(ctx, backups+name+ending), place.Drop(ctx, backups+name+".objects")); err != nil {
			return dropped, err
		}
		dropped = append(dropped, name)
	}
	all, err := place.List(ctx, objects)
	if err != nil {
		return dropped, err
	}
	for _, name := range all {
		if !used[name] {
			if err := place.Drop(ctx, name); err != nil {
				return dropped, err
			}
		}
	}
	return dropped, nil
}
