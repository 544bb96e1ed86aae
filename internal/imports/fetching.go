package imports

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/url"
	"path"
	"slices"
	"strconv"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/css"
	"sparecrate/internal/fetch"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/work"
)

// jobFetch is the kind of job that fetches the files of a hosted family.
const jobFetch = "fetch"

type fetching struct {
	Item  int64 `json:"item"`  // of the import, that stands for the sheet
	Sheet int64 `json:"sheet"` // to fetch from
}

// SelfHost fetches the font files behind a hosted family into a import.
func (c *Imports) SelfHost(ctx context.Context, p *store.Person, family int64, b api.SelfHost) (*api.Import, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	f, err := familydb.In(c.store).Family(ctx, family)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	if err := app.NotDeleted(f); err != nil {
		return nil, err
	}
	sheets, err := librarydb.In(c.store).HostedStylesheets(ctx, family)
	if err != nil {
		return nil, err
	}
	if b.Source != nil {
		sheets = slices.DeleteFunc(sheets, func(h store.HostedStylesheet) bool { return h.ID != *b.Source })
	}
	if len(sheets) == 0 {
		return nil, app.Problem(app.Conflict, "not-hosted", "%s has no such hosted source, so there is nothing to fetch.", f.Name)
	}
	origin, err := originOf(b.Origin)
	if err != nil {
		return nil, err
	}
	d := &store.Import{ClientID: f.ClientID, Client: f.Client, Origin: string(origin), State: importdb.ImportOpen, CreatedAt: c.now(), CreatedBy: p.Name,
		Title: app.Shorten(f.Name+" from "+sheets[0].Host, 200)}
	defer c.queue.Wake()
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		d.ID = 0
		if err := importdb.In(tx).AddImport(ctx, d); err != nil {
			return err
		}
		for _, h := range sheets {
			it := store.ImportItem{ImportID: d.ID, Path: app.Shorten(cmp.Or(h.URL, h.Host), 1000), Kind: importdb.ItemArchive, Why: "Its fonts are being fetched."}
			if err := importdb.In(tx).PutImportItem(ctx, &it, false); err != nil {
				return err
			}
			job := work.Job{Kind: jobFetch, Key: strconv.FormatInt(it.ID, 10), Title: app.Shorten("Fetch "+f.Name+" from "+h.Host, 290), Payload: fetching{it.ID, h.ID}}
			if err := c.queue.Add(ctx, tx, job); err != nil {
				return err
			}
		}
		return c.note(ctx, tx, p, "started self-hosting", f.Name, "from "+sheets[0].Host)
	})
	if err != nil {
		return nil, err
	}
	return c.importView(ctx, d, true)
}

// fetchFonts does a job of the kind fetch. Files that are there already are
// fetched again when it is done again, and replace themselves.
func (c *Imports) fetchFonts(ctx context.Context, payload []byte, progress func(done, total int)) error {
	job, err := work.Payload[fetching](payload)
	if err != nil {
		return err
	}
	it, err := importdb.In(c.store).ImportItem(ctx, job.Item)
	if errors.Is(err, store.ErrNotFound) || err == nil && it.Unpacked {
		return nil
	}
	if err != nil {
		return err
	}
	d, err := importdb.In(c.store).Import(ctx, it.ImportID, false)
	if err != nil || d.State == importdb.ImportDiscarded {
		return err
	}
	h, err := librarydb.In(c.store).HostedStylesheet(ctx, job.Sheet)
	if errors.Is(err, store.ErrNotFound) {
		return importdb.In(c.store).SetUnpacked(ctx, it.ID, importdb.ItemRefused, "The source was removed before its fonts were fetched.")
	}
	if err != nil {
		return err
	}
	files := fontFiles(h)
	for i, f := range files {
		if err := c.fetchFont(ctx, d, f); err != nil {
			return err
		}
		progress(i+1, len(files))
	}
	return importdb.In(c.store).SetUnpacked(ctx, it.ID, importdb.ItemArchive, fmt.Sprintf("%d fonts of it were fetched.", len(files)))
}

// fontFile is a file to fetch: its address, its place in the import, and the
// characters it is for where it is a part of a face, in short and as a unicode-range.
type fontFile struct{ address, path, part, characters string }

// fontFiles chooses one file of each face of a sheet: the one that loses least.
func fontFiles(h *store.HostedStylesheet) []fontFile {
	order := []string{"opentype", "truetype", "", "woff2", "woff"}
	var out []fontFile
	seen := map[string]bool{}
	for _, f := range h.Faces {
		files := slices.Clone(f.Files)
		rank := func(f css.HostedFile) int { return (slices.Index(order, f.Format) + len(order) + 1) % (len(order) + 1) }
		slices.SortStableFunc(files, func(a, b css.HostedFile) int { return cmp.Compare(rank(a), rank(b)) })
		if len(files) == 0 || seen[files[0].Address] {
			continue
		}
		seen[files[0].Address] = true
		name := fmt.Sprintf("%d", f.WeightMin)
		if f.WeightMax != f.WeightMin {
			name += fmt.Sprintf("-%d", f.WeightMax)
		}
		if f.Style != "normal" {
			name += " " + f.Style
		}
		part := ""
		if f.Range != "" {
			part = css.ShortRange(f.Range)
			name += " " + part
		}
		u, err := url.Parse(files[0].Address)
		if err != nil {
			continue
		}
		out = append(out, fontFile{files[0].Address, pathOf(h.Host + "/" + f.Family + "/" + name + "/" + path.Base(u.Path)), part, f.Range})
	}
	return out
}

// fetchFont fetches one file into a import. What cannot be had is listed there
// with the reason.
func (c *Imports) fetchFont(ctx context.Context, d *store.Import, f fontFile) error {
	it, staged, err := c.fetched(ctx, d, f)
	var told *fetch.Error
	if errors.As(err, &told) {
		it, err = &store.ImportItem{ImportID: d.ID, Path: f.path, Kind: importdb.ItemRefused, Why: told.Message}, nil
	}
	if err != nil {
		return err
	}
	defer staged.Close()
	if it.Kind == importdb.ItemFont && f.part != "" {
		it.Summary.Part, it.Summary.Range = f.part, f.characters
	}
	return importdb.In(c.store).PutImportItem(ctx, it, false)
}

func (c *Imports) fetched(ctx context.Context, d *store.Import, f fontFile) (*store.ImportItem, stagedFile, error) {
	got, err := c.outside.Get(ctx, f.address, c.limits.FontBytes)
	if err != nil {
		return nil, nothing, err
	}
	defer func() { _ = got.Body.Close() }()
	return c.unload(ctx, d, f.path, got.Body)
}
