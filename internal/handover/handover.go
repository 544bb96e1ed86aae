// Package handover gives what the studio keeps out of its hands: all of a client as an archive
// that a person reads without the service, and the proof of what a family may be used for.
// Both are zips with a page to print and a list of checksums.
package handover

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"
	"time"
	"unicode"

	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// Handover writes archives and proofs out of a database and a bucket.
type Handover struct {
	store  *store.Store
	bucket *bucket.Bucket
	usage  *usage.Usage
	now    func() time.Time
	note   app.Noter
}

// New returns the handover of a database.
func New(c *app.Core, u *usage.Usage) *Handover {
	return &Handover{store: c.Store, bucket: c.Bucket, usage: u, now: c.Now, note: app.Notes(c.Now)}
}

//go:embed *.html style.css
var texts embed.FS

// pages are the pages of archives and proofs.
var pages = template.Must(template.Must(template.ParseFS(texts, "*.html")).Parse(`{{define "style"}}` + style() + `{{end}}`))

func style() string {
	b, err := texts.ReadFile("style.css")
	if err != nil {
		panic(err) // it is built in
	}
	return string(b)
}

// maxZip bounds an archive, bytes.
const maxZip = 64 << 30

// bundle collects the files of a zip under paths that every system can unpack.
type bundle struct {
	h       *Handover
	entries []pack.Entry
	taken   map[string]bool
	prices  bool // whoever it is for sees what licenses cost
}

func (h *Handover) bundle() *bundle { return &bundle{h: h, taken: map[string]bool{}} }

// path returns a path that no other entry has, below a folder.
func (b *bundle) path(folder, name string) string {
	name = safeName(name)
	base, ending := name, ""
	if i := strings.LastIndexByte(name, '.'); i > 0 && len(name)-i <= 8 {
		base, ending = name[:i], name[i:]
	}
	for n := 1; ; n++ {
		path := folder + "/" + base + ending
		if n > 1 {
			path = fmt.Sprintf("%s/%s-%d%s", folder, base, n, ending)
		}
		if key := strings.ToLower(path); !b.taken[key] {
			b.taken[key] = true
			return path
		}
	}
}

// safeName returns a name of a file or folder that no system refuses or takes for a path.
func safeName(name string) string {
	name = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || !unicode.IsPrint(r) {
			return '-'
		}
		return r
	}, name)
	name = strings.TrimRight(strings.TrimLeft(name, " ."), " .")
	if r := []rune(name); len(r) > 100 {
		at := strings.LastIndexByte(name, '.')
		ending := ""
		if at > 0 && len(name)-at <= 8 {
			ending = name[at:]
		}
		name = string(r[:100-len(ending)]) + ending
	}
	stem, _, _ := strings.Cut(strings.ToLower(name), ".")
	if name == "" || slices.Contains([]string{"con", "prn", "aux", "nul"}, stem) || len(stem) == 4 && (strings.HasPrefix(stem, "com") || strings.HasPrefix(stem, "lpt")) {
		name = "_" + name
	}
	return name
}

// keep adds bytes of the bucket, and returns their path.
func (b *bundle) keep(ctx context.Context, folder, name, hash string, size int64) string {
	path := b.path(folder, name)
	b.entries = append(b.entries, pack.Entry{Path: path, Blob: pack.Blob{SHA256: hash, Bytes: size, Open: func() (io.ReadCloser, error) {
		r, _, err := b.h.bucket.Open(ctx, bucket.Hash(hash))
		return r, err
	}}})
	return path
}

// write adds a file that is made here.
func (b *bundle) write(path string, data []byte) {
	b.taken[strings.ToLower(path)] = true
	b.entries = append(b.entries, pack.Entry{Path: path, Blob: pack.BlobOf(data), Place: -1})
}

func (b *bundle) writeJSON(path string, v any) error {
	data, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		return err
	}
	b.write(path, append(data, '\n'))
	return nil
}

// zip writes all as one zip, with the checksums of what is in it, and gives it staged.
func (b *bundle) zip(ctx context.Context) (*bucket.Staged, error) {
	var sums strings.Builder
	for _, e := range b.entries {
		fmt.Fprintf(&sums, "%s  %s\n", e.SHA256, e.Path)
	}
	b.write("SHA256SUMS", []byte(sums.String()))
	slices.SortStableFunc(b.entries, func(x, y pack.Entry) int { return strings.Compare(x.Path, y.Path) })
	return b.h.bucket.StageFrom(ctx, maxZip, func(w io.Writer) error { return pack.Zip(w, b.entries) })
}
