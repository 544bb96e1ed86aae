package library

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/css"
	"sparecrate/internal/fetch"
	"sparecrate/internal/search"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
)

const (
	sheetBytes  = 2 << 20 // of one stylesheet; the largest there are list a thousand parts
	maxSheets   = 20      // of one paste, with those they import
	maxImported = 2       // sheets within sheets
	pastedBytes = 200_000
	readingTime = time.Minute // all sheets of one paste; somebody waits for it
)

// ReadHosted reads the stylesheets in what somebody pasted and lists the families
// in them. A sheet that cannot be read is listed with the reason.
func (lib *Library) ReadHosted(ctx context.Context, p *store.Person, text string) (*api.HostedReading, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	sheets, notes, err := lib.readPasted(ctx, text)
	if err != nil {
		return nil, err
	}
	return &api.HostedReading{Notes: append([]string{}, notes...), Sheets: app.Each(sheets, sheetView)}, nil
}

// sheet is a stylesheet of somebody else's that was read.
type sheet struct {
	address, host, trouble string
	faces                  []css.Hosted
}

// readPasted reads all sheets of what was pasted.
func (lib *Library) readPasted(ctx context.Context, text string) ([]sheet, []string, error) {
	if len(text) > pastedBytes {
		return nil, nil, app.InvalidField("text", "too-long", "That is more than %d kB; paste only the code that loads fonts.", pastedBytes/1000)
	}
	pasted, err := css.ReadPasted(text)
	if errors.Is(err, css.ErrNoSheet) {
		return nil, nil, app.InvalidField("text", "no-sheet", "%s", sentence.Of(err))
	}
	if err != nil {
		return nil, nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, readingTime)
	defer cancel()
	r := &sheetReader{c: lib, seen: map[string]bool{}}
	if len(pasted.Faces) > 0 {
		r.pasted(pasted.Faces)
	}
	for _, a := range pasted.Addresses {
		if err := r.read(ctx, a, 0); err != nil {
			return nil, nil, err
		}
	}
	return r.sheets, append(pasted.Notes, r.notes...), nil
}

// sheetReader reads sheets and what they import, each once.
type sheetReader struct {
	c      *Library
	seen   map[string]bool
	sheets []sheet
	notes  []string
}

// pasted takes rules that were pasted themselves; their source is where their files are.
func (r *sheetReader) pasted(faces []css.Hosted) {
	by := map[string][]css.Hosted{}
	for _, f := range faces {
		at := ""
		if len(f.Files) > 0 {
			at = hostOf(f.Files[0].Address)
		}
		if at == "" {
			r.notes = append(r.notes, fmt.Sprintf("The rule for %s names no whole address of a file, so nobody knows where it is served from; it was passed over.", f.Family))
			continue
		}
		by[at] = append(by[at], f)
	}
	for at, faces := range by {
		r.sheets = append(r.sheets, sheet{host: at, faces: faces})
	}
	slices.SortFunc(r.sheets, func(a, b sheet) int { return cmp.Compare(a.host, b.host) })
}

func hostOf(address string) string {
	if u, err := url.Parse(address); err == nil {
		return u.Host
	}
	return ""
}

// read reads a sheet and those it imports. Only what is nobody's fault outside is
// an error.
func (r *sheetReader) read(ctx context.Context, address string, depth int) error {
	if r.seen[address] {
		return nil
	}
	if r.seen[address] = true; len(r.seen) > maxSheets {
		r.notes = append(r.notes, fmt.Sprintf("More than %d stylesheets are not read at once; %s was passed over.", maxSheets, address))
		return nil
	}
	s := sheet{address: address, host: hostOf(address)}
	text, at, err := r.c.fetchSheet(ctx, address)
	var told *fetch.Error
	switch {
	case errors.As(err, &told):
		s.trouble = told.Message
	case err != nil:
		return err
	}
	read := css.ReadSheet(text, at)
	s.faces = read.Faces
	if s.trouble == "" && len(s.faces)+len(read.Imports) == 0 {
		s.trouble = "It was read, and there is no @font-face rule in it; is it the address of the fonts' stylesheet?"
	}
	if s.trouble != "" || len(s.faces) > 0 {
		r.sheets = append(r.sheets, s)
	}
	for _, next := range read.Imports {
		if depth == maxImported {
			r.notes = append(r.notes, fmt.Sprintf("Sheets within sheets are read %d deep; %s was passed over.", maxImported, next))
			continue
		}
		if err := r.read(ctx, next, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// fetchSheet returns the text of a stylesheet and the address it came from in the end.
func (lib *Library) fetchSheet(ctx context.Context, address string) (text, at string, err error) {
	got, err := lib.outside.Get(ctx, address, sheetBytes)
	if err != nil {
		return "", "", err
	}
	defer func() { _ = got.Body.Close() }()
	b, err := io.ReadAll(got.Body)
	if err != nil {
		return "", "", err
	}
	if got.Type == "text/html" || strings.HasPrefix(strings.ToLower(strings.TrimSpace(string(b[:min(len(b), 200)]))), "<!doctype html") {
		return "", "", &fetch.Error{Message: "There is a web page at this address, not a stylesheet; look in its source for the link tag or the @import rule of the fonts."}
	}
	return string(b), got.Address, nil
}

// byFamily sorts the faces of a sheet by family, in the sheet's order.
func byFamily(faces []css.Hosted) (names []string, by map[string][]css.Hosted) {
	by = map[string][]css.Hosted{}
	for _, f := range faces {
		name := app.Shorten(f.Family, 250)
		if by[name] == nil {
			names = append(names, name)
		}
		by[name] = append(by[name], f)
	}
	return names, by
}

func sheetView(s sheet) api.HostedStylesheet {
	v := api.HostedStylesheet{Url: s.address, Host: s.host, Families: []api.HostedFamily{}}
	if s.trouble != "" {
		v.Trouble = &s.trouble
	}
	names, by := byFamily(s.faces)
	for _, n := range names {
		v.Families = append(v.Families, api.HostedFamily{Name: n, Faces: app.Each(by[n], hostedFaceView)})
	}
	return v
}

func hostedFaceView(h css.Hosted) api.HostedFace {
	v := api.HostedFace{WeightMin: h.WeightMin, WeightMax: h.WeightMax, Style: h.Style, Files: app.Each(h.Files, func(f css.HostedFile) api.HostedFile {
		return api.HostedFile{Url: f.Address, Format: f.Format}
	})}
	if h.Stretch != "" {
		v.Stretch = &h.Stretch
	}
	if h.Range != "" {
		v.Range = &h.Range
	}
	return v
}

// AddHosted keeps the families of pasted stylesheets as hosted elsewhere, each with
// every source it is served from. One that the client has already gets the source.
func (lib *Library) AddHosted(ctx context.Context, p *store.Person, n api.NewHosted) (*api.AddedHosted, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	client, err := app.OpenClient(ctx, lib.store, app.Filled(n.Client))
	if err != nil {
		return nil, err
	}
	sheets, notes, err := lib.readPasted(ctx, n.Text)
	if err != nil {
		return nil, err
	}
	wanted := func(name string) bool {
		return n.Families == nil || slices.ContainsFunc(*n.Families, func(w string) bool { return strings.EqualFold(w, name) })
	}
	out := &api.AddedHosted{Families: []api.Ref{}, Notes: append([]string{}, notes...)}
	for _, s := range sheets {
		if s.trouble != "" {
			out.Notes = append(out.Notes, s.address+": "+s.trouble)
		}
		names, by := byFamily(s.faces)
		for _, name := range names {
			if !wanted(name) {
				continue
			}
			ref, err := lib.keepHosted(ctx, p, client, name, &s, by[name])
			if err != nil {
				return nil, err
			}
			if !slices.Contains(out.Families, *ref) {
				out.Families = append(out.Families, *ref)
			}
		}
	}
	if len(out.Families) == 0 {
		return nil, app.InvalidField("text", "no-families", "No family could be read. %s", strings.Join(out.Notes, " "))
	}
	return out, nil
}

func (lib *Library) keepHosted(ctx context.Context, p *store.Person, client *store.Client, name string, s *sheet, faces []css.Hosted) (*api.Ref, error) {
	if err := familydb.In(lib.store).AddWords(ctx, search.Index(name, client.Name, s.host)); err != nil {
		return nil, err
	}
	var ref *api.Ref
	err := lib.store.Tx(ctx, func(tx *store.Store) error {
		f, err := familydb.In(tx).FamilyByName(ctx, client.ID, name)
		if errors.Is(err, store.ErrNotFound) {
			f = &store.Family{ClientID: client.ID, Name: name, Origin: string(api.OriginHosted), Version: 1, CreatedAt: lib.now(), ChangedAt: lib.now(), Status: store.Active, Indexer: IndexVersion}
			err = familydb.In(tx).AddFamily(ctx, f)
		}
		if err != nil {
			return err
		}
		ref = &api.Ref{Id: f.ID, Name: f.Name}
		err = librarydb.In(tx).PutHostedStylesheet(ctx, &store.HostedStylesheet{FamilyID: f.ID, URL: s.address, Host: s.host, Faces: faces, ReadAt: lib.now(), ReadBy: p.Name})
		if err != nil {
			return err
		}
		if err := familydb.In(tx).AddFamilyWords(ctx, f.ID, search.Index(f.Name, client.Name, s.host)); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "added hosted family", f.Name, cmp.Or(s.address, "rules with files at "+s.host))
	})
	return ref, err
}

// hostedViews returns where a family is served from.
func hostedViews(sheets []store.HostedStylesheet) []api.HostedSource {
	return app.Each(sheets, func(h store.HostedStylesheet) api.HostedSource {
		v := api.HostedSource{
			Id: h.ID, Url: h.URL, Host: h.Host, Faces: app.Each(h.Faces, hostedFaceView), ReadAt: h.ReadAt, ReadBy: h.ReadBy,
			Notice: fmt.Sprintf("Every page view of a site that uses it calls %s, which learns of the visitor; where it is slow or gone, the site waits or falls back.", h.Host),
		}
		if h.URL == "" {
			v.Snippets = []api.Snippet{{Name: "Rules", Text: css.HostedRules(h.Faces)}}
			return v
		}
		s := css.SnippetsOf(h.URL)
		v.Snippets = []api.Snippet{{Name: "Address only", Text: s.Address}, {Name: "Link tag", Text: s.Link}, {Name: "Import rule", Text: s.Import}, {Name: "Script", Text: s.Script}}
		return v
	})
}

// RemoveHosted says that a family is no longer served from a sheet.
func (lib *Library) RemoveHosted(ctx context.Context, p *store.Person, family, id int64) (*api.Family, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := lib.store.Tx(ctx, func(tx *store.Store) error {
		h, err := librarydb.In(tx).HostedStylesheet(ctx, id)
		if err == nil && h.FamilyID != family {
			err = store.ErrNotFound
		}
		if err != nil {
			return app.Explain(err, "source of this family")
		}
		f, err := familydb.In(tx).Family(ctx, family)
		if err != nil {
			return err
		}
		if err := librarydb.In(tx).RemoveHostedStylesheet(ctx, id); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "removed hosted source", f.Name, cmp.Or(h.URL, h.Host))
	})
	if err != nil {
		return nil, err
	}
	return lib.Family(ctx, p, family)
}
