package packaging

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/fileurls"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/usage"
)

// sheetFile is the stylesheet's name in a pack, whose own address is the last one.
const sheetFile = "fonts.css"

// FileURLs returns the addresses that the files of a site's pack got, those that are
// still awaited, and what is pasted once all are known.
func (c *Packaging) FileURLs(ctx context.Context, p *store.Person, site int64, environment *string) (*api.FileURLList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, where, err := c.siteIn(ctx, site, environment)
	if err != nil {
		return nil, err
	}
	return c.urls(ctx, d, where, nil)
}

func (c *Packaging) siteIn(ctx context.Context, site int64, environment *string) (*usage.Site, string, error) {
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, "", err
	}
	where, err := EnvironmentOf(d.Site, environment)
	return d, where, err
}

func (c *Packaging) urls(ctx context.Context, d *usage.Site, where string, notes []string) (*api.FileURLList, error) {
	l, err := c.LayOut(ctx, d, where)
	if err != nil {
		return nil, err
	}
	if l.Pending > 0 {
		notes = append(slices.Clone(notes), fmt.Sprintf("%s being made for this pack; look again in a moment.", areFiles(l.Pending)))
	}
	kept, err := packdb.In(c.store).UploadedAt(ctx, d.ID, where)
	if err != nil {
		return nil, err
	}
	out := &api.FileURLList{Environment: where, Items: []api.FileURL{}, Missing: append([]string{}, l.Awaits...), Notes: append([]string{}, notes...), Pastes: app.Each(l.Pastes, PasteView)}
	for _, sheet := range l.Sheets {
		if kept[sheet].URL == "" {
			out.Missing = append(out.Missing, sheet)
		}
	}
	// What is pasted puts the fonts to work; it is no way past a verdict.
	if stopped := mayBuild(d); stopped != nil {
		out.Pastes = []api.Paste{}
		out.Notes = append(out.Notes, stopped.Error())
	}
	for _, e := range l.Entries {
		if k, ok := kept[e.Path]; ok && (e.Place >= 0 || slices.Contains(l.Sheets, e.Path)) {
			out.Items = append(out.Items, api.FileURL{File: e.Path, Url: k.URL, At: k.At, Person: k.Person, Replaced: e.Place >= 0 && k.SHA256 != e.SHA256})
		}
	}
	return out, nil
}

// AddFileURLs takes addresses that people bring back after the upload, in whatever
// form: they are matched to the files by name, or in the order of the slip.
func (c *Packaging) AddFileURLs(ctx context.Context, p *store.Person, site int64, in api.NewFileURLs) (*api.FileURLList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	if strings.TrimSpace(in.Text) == "" {
		return nil, app.InvalidField("text", "missing-value", "Paste the file URLs.")
	}
	d, where, err := c.siteIn(ctx, site, in.Environment)
	if err != nil {
		return nil, err
	}
	if !d.Rules.URLs.After && d.Rules.Styles.Form != builder.StylesLinked {
		return nil, app.Problem(app.Conflict, "no-addresses", "%s needs no addresses back: they are known before the upload.", d.Rules.Name)
	}
	l, err := c.Assemble(ctx, d, where)
	if err != nil {
		return nil, err
	}
	kept, err := packdb.In(c.store).UploadedAt(ctx, d.ID, where)
	if err != nil {
		return nil, err
	}
	hashes := map[string]string{}
	var awaited, others []string // by name
	paths := map[string]string{}
	for _, e := range l.Entries {
		if e.Place < 0 && !slices.Contains(l.Sheets, e.Path) {
			continue
		}
		hashes[e.Path] = e.SHA256
		name := e.Path[strings.LastIndexByte(e.Path, '/')+1:]
		paths[name] = e.Path
		if slices.Contains(l.Awaits, e.Path) || slices.Contains(l.Sheets, e.Path) && kept[e.Path].URL == "" {
			awaited = append(awaited, name)
		} else {
			others = append(others, name)
		}
	}
	if d.Rules.Styles.Form == builder.StylesLinked && !d.Rules.Styles.PerFace && len(l.Awaits) > 0 {
		paths[sheetFile] = sheetFile
	}
	var found []fileurls.Found
	var notes []string
	if in.File != nil && *in.File != "" {
		name := (*in.File)[strings.LastIndexByte(*in.File, '/')+1:]
		if _, ok := paths[name]; !ok {
			return nil, app.InvalidField("file", "unknown-file", "The pack has no file %q.", *in.File)
		}
		addresses := fileurls.Addresses(in.Text)
		if len(addresses) != 1 {
			return nil, app.InvalidField("text", "one-address", "Paste the one address of %s; there are %d.", name, len(addresses))
		}
		if err := fileurls.Check(addresses[0]); err != nil {
			return nil, app.InvalidField("text", "bad-address", "%s", sentence.Of(err))
		}
		found = []fileurls.Found{{File: name, Address: addresses[0]}}
	} else {
		o := fileurls.Read(in.Text, slices.Concat(awaited, others), false)
		if in.InOrder != nil && *in.InOrder {
			o = fileurls.Read(in.Text, awaited, true)
		}
		found, notes = o.Found, o.Notes
		if len(found) == 0 {
			return nil, app.InvalidField("text", "nothing-matched", "%s", strings.Join(notes, " "))
		}
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		for _, f := range found {
			path := paths[f.File]
			if err := packdb.In(tx).PutFileURL(ctx, &store.FileURL{SiteID: d.ID, Environment: where, Path: path, SHA256: hashes[path], URL: app.Shorten(f.Address, 2000), At: c.now(), Person: p.Name}); err != nil {
				return err
			}
		}
		return c.note(ctx, tx, p, "added file URLs", d.Name, app.Shorten(strings.Join(app.Each(found, func(f fileurls.Found) string { return f.File + " at " + f.Address }), "; "), 2000))
	})
	if err != nil {
		return nil, err
	}
	return c.urls(ctx, d, where, notes)
}

// RemoveFileURLs forgets the address of a file, or all of them.
func (c *Packaging) RemoveFileURLs(ctx context.Context, p *store.Person, site int64, environment, file *string) (*api.FileURLList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, where, err := c.siteIn(ctx, site, environment)
	if err != nil {
		return nil, err
	}
	path := ""
	if file != nil {
		path = *file
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		n, err := packdb.In(tx).RemoveFileURLs(ctx, site, where, path)
		if err != nil {
			return err
		}
		if n == 0 && path != "" {
			return app.Problem(app.Missing, "not-found", "No address of %s is kept.", path)
		}
		return c.note(ctx, tx, p, "removed file URLs", d.Name, path)
	})
	if err != nil {
		return nil, err
	}
	return c.urls(ctx, d, where, nil)
}
