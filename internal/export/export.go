// Package export writes everything that a service holds in open formats: the font files and
// documents under names that people know, all records as CSV, and a page that leads to them.
// Nothing is needed to read it but a browser.
package export

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"sparecrate/internal/bucket"
	"sparecrate/internal/spreadsheet"
	"sparecrate/internal/store"
	"sparecrate/internal/store/exportdb"
)

const longest = 80 // bytes of a file's or folder's name

// Report is what was written.
type Report struct {
	Folder    string   `json:"folder"`
	Fonts     int      `json:"fonts"`
	Documents int      `json:"documents"`
	Records   int      `json:"records"`
	Lost      []string `json:"lost,omitempty"` // files that are missing or damaged
}

// linked is a file that the page leads to.
type linked struct {
	Name, Path string
	Older      bool
	Lost       bool
}

type group struct {
	Name  string
	Files []linked
}

type client struct {
	Name             string
	Fonts, Documents []*group
}

type table struct {
	Title, Path string
	Rows        int
}

type writer struct {
	records *store.Store
	files   *bucket.Bucket
	root    string
	taken   map[string]bool // paths, in small letters
	report  Report
	clients []*client
	tables  []table
}

// Write writes everything into a folder that is not there yet or is empty. Nothing of it is left
// if that fails.
func Write(ctx context.Context, records *store.Store, files *bucket.Bucket, folder string, now time.Time) (_ *Report, err error) {
	if left, err := os.ReadDir(folder); err == nil && len(left) > 0 {
		return nil, fmt.Errorf("%s is not empty; name a folder that is not there yet", folder)
	} else if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Dir(filepath.Clean(folder)), 0o700); err != nil {
		return nil, err
	}
	part, err := os.MkdirTemp(filepath.Dir(filepath.Clean(folder)), ".export-")
	if err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.RemoveAll(part))
		}
	}()
	w := &writer{records: records, files: files, root: part, taken: map[string]bool{}, report: Report{Folder: folder}}
	for _, write := range []func(context.Context) error{w.fonts, w.documents, w.rows} {
		if err := write(ctx); err != nil {
			return nil, err
		}
	}
	if err := w.index(now); err != nil {
		return nil, err
	}
	if err := os.Remove(folder); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	return &w.report, os.Rename(part, folder)
}

// safe returns a name that every file system takes, like the one it is made of.
func safe(name string) string {
	out := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune(" .-_,+()&", r) {
			return r
		}
		return '-'
	}, strings.ToValidUTF8(name, ""))
	for len(out) > longest {
		_, n := utf8.DecodeLastRuneInString(out)
		out = out[:len(out)-n]
	}
	if out = strings.Trim(out, " ."); out == "" {
		return "unnamed"
	}
	return out
}

// path returns a path below the folder that is not taken yet, also where case does not count.
func (w *writer) path(parts ...string) string {
	for i := range parts {
		parts[i] = safe(parts[i])
	}
	all := filepath.Join(parts...)
	ending := filepath.Ext(all)
	for n := 2; w.taken[strings.ToLower(all)]; n++ {
		all = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(filepath.Join(parts...), ending), n, ending)
	}
	w.taken[strings.ToLower(all)] = true
	return all
}

// put writes a file of the bucket.
func (w *writer) put(ctx context.Context, hash, path string) (lost bool, err error) {
	r, _, err := w.files.Open(ctx, bucket.Hash(hash))
	if err == nil {
		defer func() { _ = r.Close() }()
		err = w.create(path, func(to io.Writer) error { _, err := io.Copy(to, r); return err })
	}
	if errors.Is(err, bucket.ErrMissing) || errors.Is(err, bucket.ErrDamaged) {
		_ = os.Remove(filepath.Join(w.root, path))
		w.report.Lost = append(w.report.Lost, path)
		return true, nil
	}
	return false, err
}

func (w *writer) create(path string, write func(io.Writer) error) error {
	whole := filepath.Join(w.root, path)
	if err := os.MkdirAll(filepath.Dir(whole), 0o700); err != nil {
		return err
	}
	f, err := os.OpenFile(whole, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600) //nolint:gosec // a name of ours
	if err != nil {
		return err
	}
	return errors.Join(write(f), f.Close())
}

// of returns the client of a name, and the group of one among some of its.
func (w *writer) of(name string, among func(*client) *[]*group, family string) *group {
	var c *client
	for _, one := range w.clients {
		if one.Name == name {
			c = one
		}
	}
	if c == nil {
		c = &client{Name: name}
		w.clients = append(w.clients, c)
	}
	groups := among(c)
	for _, g := range *groups {
		if g.Name == family {
			return g
		}
	}
	g := &group{Name: family}
	*groups = append(*groups, g)
	return g
}

func (w *writer) write(ctx context.Context, folder string, all []exportdb.File, among func(*client) *[]*group) error {
	for _, f := range all {
		parts := []string{folder, f.Client, f.Family}
		if f.Older {
			parts = append(parts, "older")
		}
		path := w.path(append(parts, f.Name)...)
		lost, err := w.put(ctx, f.SHA256, path)
		if err != nil {
			return err
		}
		g := w.of(f.Client, among, f.Family)
		g.Files = append(g.Files, linked{f.Name, filepath.ToSlash(path), f.Older, lost})
	}
	return nil
}

func (w *writer) fonts(ctx context.Context) error {
	all, err := exportdb.In(w.records).Fonts(ctx)
	if err != nil {
		return err
	}
	w.report.Fonts = len(all)
	return w.write(ctx, "fonts", all, func(c *client) *[]*group { return &c.Fonts })
}

func (w *writer) documents(ctx context.Context) error {
	all, err := exportdb.In(w.records).Documents(ctx)
	if err != nil {
		return err
	}
	w.report.Documents = len(all)
	return w.write(ctx, "documents", all, func(c *client) *[]*group { return &c.Documents })
}

// rows writes the records.
func (w *writer) rows(ctx context.Context) error {
	for i := range exportdb.Tables {
		t := &exportdb.Tables[i]
		path := filepath.Join("records", t.Name+".csv")
		n := 0
		err := w.create(path, func(to io.Writer) error {
			var headings []string
			var rows [][]string
			if err := exportdb.In(w.records).Rows(ctx, t, func(h []string) error { headings = h; return nil }, func(row []string) error {
				rows = append(rows, append([]string(nil), row...))
				return nil
			}); err != nil {
				return err
			}
			n = len(rows)
			return spreadsheet.WriteCSV(to, headings, rows)
		})
		if err != nil {
			return fmt.Errorf("%s: %w", t.Title, err)
		}
		w.report.Records += n
		w.tables = append(w.tables, table{t.Title, filepath.ToSlash(path), n})
	}
	return nil
}

// index writes the page.
func (w *writer) index(now time.Time) error {
	return w.create("index.html", func(to io.Writer) error {
		return page.Execute(to, map[string]any{"At": now.UTC().Format("2 January 2006, 15:04 UTC"), "Clients": w.clients, "Tables": w.tables, "Report": &w.report})
	})
}

var page = template.Must(template.New("").Funcs(template.FuncMap{"link": func(path string) template.URL {
	parts := strings.Split(path, "/")
	for i := range parts {
		parts[i] = template.URLQueryEscaper(parts[i])
	}
	return template.URL(strings.ReplaceAll(strings.Join(parts, "/"), "+", "%20")) //nolint:gosec // escaped piece by piece
}}).Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Everything in the catalog</title>
<style>
body { font: 16px/1.5 system-ui, sans-serif; color: #1c2a30; background: #fff; max-width: 60rem; margin: 2rem auto; padding: 0 1.2rem; }
h1 { font-size: 1.7rem; margin-bottom: 0; } h2 { border-bottom: 1px solid #c9d2d4; margin-top: 2.2rem; } h3 { font-size: 1rem; margin: 1rem 0 .2rem; }
p.about { color: #4d5f66; } ul { margin: 0; padding-left: 1.2rem; } table { border-collapse: collapse; } td { padding: .15rem 1.4rem .15rem 0; } td.n { text-align: right; font-variant-numeric: tabular-nums; }
a { color: #0b5c6b; } .lost { color: #9c2f1c; } small { color: #4d5f66; }
</style></head><body>
<h1>Everything in the catalog</h1>
<p class="about">Exported on {{.At}}: {{.Report.Fonts}} font files, {{.Report.Documents}} documents, {{.Report.Records}} records.
Font files and documents are as they came. Records are CSV (RFC 4180, UTF-8).{{with .Report.Lost}} <span class="lost">{{len .}} files were missing or damaged.</span>{{end}}</p>
<h2>Records</h2>
<table>{{range .Tables}}<tr><td><a href="{{link .Path}}">{{.Title}}</a></td><td class="n">{{.Rows}}</td></tr>
{{end}}</table>
{{range .Clients}}<h2>{{.Name}}</h2>
{{range .Fonts}}<h3>{{.Name}}</h3><ul>{{range .Files}}<li>{{template "file" .}}</li>{{end}}</ul>
{{end}}{{if .Documents}}<h3>Documents</h3><ul>{{range .Documents}}{{$of := .Name}}{{range .Files}}<li>{{template "file" .}} <small>{{$of}}</small></li>{{end}}{{end}}</ul>{{end}}
{{end}}</body></html>
{{define "file"}}{{if .Lost}}<span class="lost">{{.Name}} (missing or damaged)</span>{{else}}<a href="{{link .Path}}">{{.Name}}</a>{{end}}{{if .Older}} <small>an older one</small>{{end}}{{end}}`))
