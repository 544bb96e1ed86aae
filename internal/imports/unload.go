package imports

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"strconv"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/classify"
	"sparecrate/internal/library"
	"sparecrate/internal/measures"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/work"
)

// jobUnpack is the kind of job that unpacks an archive into its import.
const jobUnpack = "unpack"

// AddImportItem puts a file into a import: a font is read, a document kept, an
// archive unpacked by a job, and the rest only listed. name is its path within the
// import.
func (c *Imports) AddImportItem(ctx context.Context, p *store.Person, id int64, name string, r io.Reader) (*api.ImportItem, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := importdb.In(c.store).Import(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "import")
	}
	if err := takesThings(d); err != nil {
		return nil, err
	}
	it, staged, err := c.unload(ctx, d, pathOf(name), r)
	if err != nil {
		return nil, err
	}
	defer staged.Close()
	if put, err := putAlone(ctx, c.store, it); err != nil {
		return nil, err
	} else if put {
		return c.putView(ctx, d, it)
	}
	defer c.queue.Wake()
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		now, err := importdb.In(tx).SharedImport(ctx, id, d.State == importdb.ImportFinished)
		if err != nil {
			return app.Explain(err, "import")
		}
		if err := takesThings(now); err != nil {
			return err
		}
		if now.State == importdb.ImportFinished { // something more came
			if err := importdb.In(tx).SetImportState(ctx, id, importdb.ImportOpen); err != nil {
				return err
			}
		}
		put := *it
		if err := importdb.In(tx).PutImportItem(ctx, &put, isNew(it)); err != nil {
			return err
		}
		*it = put
		if it.Kind != importdb.ItemArchive || it.Unpacked {
			return nil
		}
		return c.queue.Add(ctx, tx, work.Job{Kind: jobUnpack, Key: strconv.FormatInt(it.ID, 10), Title: app.Shorten("Unpack "+it.Path, 290), Payload: unpacking{it.ID}, Anew: true})
	})
	if err != nil {
		return nil, err
	}
	return c.putView(ctx, d, it)
}

// putView shows a thing that was put into a import.
func (c *Imports) putView(ctx context.Context, d *store.Import, it *store.ImportItem) (*api.ImportItem, error) {
	if err := importdb.UnmarkCopies(ctx, c.store, it); err != nil {
		return nil, err
	}
	return c.itemView(ctx, d, it)
}

// isNew reports whether a thing is known to be the first at its path.
func isNew(it *store.ImportItem) bool { return it.Meets != nil && !it.Meets.There }

// putAlone puts a font at a new path into an open import, which is what most
// things are and needs no transaction; false where it has to be done otherwise.
func putAlone(ctx context.Context, in *store.Store, it *store.ImportItem) (bool, error) {
	if it.Kind != importdb.ItemFont || !isNew(it) {
		return false, nil
	}
	return importdb.In(in).PutInOpen(ctx, it)
}

func (c *Imports) itemView(ctx context.Context, d *store.Import, it *store.ImportItem) (*api.ImportItem, error) {
	views, err := c.itemViews(ctx, d, []store.ImportItem{*it})
	if err != nil {
		return nil, err
	}
	return &views[0], nil
}

// pathOf cleans a path of a import: with slashes, from its root, without what no
// path holds.
func pathOf(name string) string {
	name = app.Visible(name)
	name = strings.TrimPrefix(path.Clean("/"+name), "/")
	if name == "" {
		name = "file"
	}
	return app.Shorten(name, 1000)
}

// nothing is a staged file that is none.
var nothing = stagedFile{}

// stagedFile is a staged file or none.
type stagedFile struct{ *bucket.Staged }

// Close removes it, where it is one.
func (s stagedFile) Close() {
	if s.Staged != nil {
		s.Staged.Close()
	}
}

// unload sorts one thing and keeps its bytes where they are wanted. The record is
// not written yet.
func (c *Imports) unload(ctx context.Context, d *store.Import, name string, r io.Reader) (*store.ImportItem, stagedFile, error) {
	head := make([]byte, classify.HeadSize)
	n, err := io.ReadFull(r, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return nil, nothing, err
	}
	head = head[:n]
	r = io.MultiReader(bytes.NewReader(head), r)
	kind, why := classify.Sort(name, head, int64(n))
	it := &store.ImportItem{ImportID: d.ID, Path: name, Kind: string(kind)}
	limit := map[classify.Kind]int64{classify.Font: c.limits.FontBytes, classify.FamilyDocument: c.limits.DocumentBytes, classify.Archive: c.limits.ArchiveBytes}[kind]
	if kind == classify.LeftOut {
		it.Why = strings.ToUpper(why[:1]) + why[1:] + "."
		it.Bytes, err = io.Copy(io.Discard, io.LimitReader(r, c.limits.ArchiveBytes))
		return it, nothing, err
	}
	s, err := c.bucket.Stage(r, limit)
	if errors.Is(err, bucket.ErrTooLarge) {
		it.Kind, it.Why, it.Bytes = importdb.ItemRefused, fmt.Sprintf("It is too large: the limit for %[2]ss is %[1]d MB.", limit>>20, kind), limit
		return it, nothing, nil
	}
	if err != nil {
		return nil, nothing, err
	}
	staged := stagedFile{s}
	it.SHA256, it.Bytes = string(s.Hash), s.Size
	if kind == classify.Font {
		if err := c.summarize(ctx, d, it, staged); err != nil {
			staged.Close()
			return nil, nothing, err
		}
	}
	if it.Kind != importdb.ItemRefused {
		if err := c.bucket.Put(ctx, s); err != nil {
			staged.Close()
			return nil, nothing, err
		}
	}
	return it, staged, nil
}

// summarize reads a font of a import; what is none is refused with the reason.
func (c *Imports) summarize(ctx context.Context, d *store.Import, it *store.ImportItem, s stagedFile) error {
	var faces []metadata.Face
	var prints []*measures.Measure
	var bad error
	err := c.reading(ctx, s.Staged, func(data []byte) error {
		faces, prints, bad = read(data)
		return nil
	})
	if err != nil {
		return err
	}
	switch err = bad; {
	case err != nil:
		it.Kind, it.Why = importdb.ItemRefused, sentence.Of(err)
		return nil
	case faces[0].Names.FamilyName() == "":
		it.Kind, it.Why = importdb.ItemRefused, noFamily
		return nil
	}
	it.Summary = store.ItemSummary{Format: string(faces[0].Container)}
	m, err := importdb.In(c.store).Meets(ctx, it, d.ClientID, library.SaidFamily(&faces[0], &faces[0]))
	if err != nil {
		return err
	}
	it.Meets = &m
	// What only another client has is recorded for this one, too; for the studio only where
	// somebody says so, because it is the client where nobody named one.
	if it.Marked = (!m.InCatalog || m.Elsewhere && !d.Client.Studio) && !m.Twice; it.Marked {
		if err := c.keepPrints(ctx, it, faces, prints); err != nil {
			return err
		}
		if err := c.readings.keep(ctx, it.SHA256, faces); err != nil {
			return err
		}
	}
	library.HoldAgainst(faces, path.Base(it.Path))
	seen := map[string]bool{}
	for i := range faces {
		f := &faces[i]
		it.Summary.Faces = append(it.Summary.Faces, store.ItemFace{
			Family: library.SaidFamily(f, &faces[0]), Key: library.KeyOf(f.Names.StyleName(), f), Style: app.Shorten(f.Names.StyleName(), 200), Version: app.Shorten(f.Names.Version, 250),
			Weight: f.Style.Weight, Width: f.Style.WidthPercent, Italic: f.Style.Slope != metadata.Upright, Variable: len(f.Axes) > 0,
		})
		for _, p := range f.Problems {
			if !seen[p.Message] {
				seen[p.Message] = true
				it.Summary.Problems = append(it.Summary.Problems, p.Message)
			}
		}
	}
	return nil
}

// keepPrints keeps the measures of an arrived font, or has it measured in the background.
func (c *Imports) keepPrints(ctx context.Context, it *store.ImportItem, faces []metadata.Face, prints []*measures.Measure) error {
	if !measures.Large(faces) {
		return c.library.Measures.Keep(ctx, it.SHA256, prints)
	}
	defer c.queue.Wake()
	return c.store.Tx(ctx, func(tx *store.Store) error { return c.library.Measures.Ask(ctx, tx, it.SHA256, path.Base(it.Path), 0) })
}

// read reads a font and measures it, unless it is large. The error says why it is no font.
func read(data []byte) ([]metadata.Face, []*measures.Measure, error) {
	f, err := font.Open(data)
	if err != nil {
		return nil, nil, err
	}
	faces := metadata.Checked(f)
	if measures.Large(faces) {
		return faces, nil, nil
	}
	return faces, measures.Measured(f), nil
}

// reading does something with the bytes of a staged font, within the memory that such
// work may take.
func (c *Imports) reading(ctx context.Context, s *bucket.Staged, do func(data []byte) error) error {
	head := make([]byte, font.HeadSize)
	n, err := s.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	return c.heavy.Hold(ctx, app.UnpackedSize(head[:n], s.Size), func() error {
		data, err := s.Bytes()
		if err != nil {
			return err
		}
		return do(data)
	})
}

// noFamily is why a font that names no family is not taken.
const noFamily = "The font does not name its family. Ask the foundry for a complete file."

// unpacking is what a job is told that unpacks an archive.
type unpacking struct {
	Item int64 `json:"item"`
}

// unpack does a job of the kind unpack. What it has put into the import stays
// when it is interrupted, and is put there again when it is done again.
func (c *Imports) unpack(ctx context.Context, payload []byte, progress func(done, total int)) error {
	u, err := work.Payload[unpacking](payload)
	if err != nil {
		return err
	}
	it, err := importdb.In(c.store).ImportItem(ctx, u.Item)
	if errors.Is(err, store.ErrNotFound) || err == nil && it.Unpacked {
		return nil
	}
	if err != nil {
		return err
	}
	d, err := importdb.In(c.store).Import(ctx, it.ImportID, false)
	if err != nil {
		return err
	}
	s, err := c.bucket.Whole(ctx, bucket.Hash(it.SHA256), c.limits.ArchiveBytes)
	if err != nil {
		return err
	}
	defer s.Close()
	things, bytes, err := importdb.In(c.store).Unpacked(ctx, d.ID, it.Path+"/")
	if err != nil {
		return err
	}
	x := &unpacker{c: c, imp: d, progress: progress, budget: classify.NewBudget(classify.DefaultLimits, things, bytes)}
	kind, why := importdb.ItemArchive, "Unpacked."
	err = x.archive(ctx, it.Path, s, 1)
	switch {
	case errors.Is(err, errTurnedDown):
		return nil
	case errors.Is(err, classify.ErrArchive):
		kind, why = importdb.ItemRefused, sentence.Of(err)
		if x.done > 0 {
			why += fmt.Sprintf(" The %d files read so far are listed.", x.done)
		}
	case err != nil:
		return err
	}
	return importdb.In(c.store).SetUnpacked(ctx, it.ID, kind, why)
}

// errTurnedDown ends the unpacking for a import that nobody wants any more.
var errTurnedDown = errors.New("the import was discarded")

// unpacker puts what archives hold into a import.
type unpacker struct {
	c        *Imports
	imp      *store.Import
	progress func(done, total int)
	budget   *classify.Budget
	done     int
}

// archive unpacks one archive, as deep as the budget allows.
func (x *unpacker) archive(ctx context.Context, name string, s *bucket.Staged, depth int) error {
	return classify.Unzip(s, s.Size, x.budget, depth, func(m classify.Member) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		const glance = 20 // things between looks at whether it is still wanted
		if x.done%glance == 0 {
			now, err := importdb.In(x.c.store).Import(ctx, x.imp.ID, false)
			if err != nil {
				return err
			}
			if now.State == importdb.ImportDiscarded {
				return errTurnedDown
			}
		}
		at := pathOf(name + "/" + m.Name)
		if m.Link {
			return x.put(ctx, &store.ImportItem{ImportID: x.imp.ID, Path: at, Kind: importdb.ItemLeftOut, Why: "A symbolic link; links are skipped. Add the file it leads to."})
		}
		it, staged, err := x.c.unload(ctx, x.imp, at, &untilDoneReader{ctx, m})
		if err != nil {
			return err
		}
		defer staged.Close()
		if it.Kind == importdb.ItemArchive {
			it.Unpacked = true
			if err := x.archive(ctx, it.Path, staged.Staged, depth+1); errors.Is(err, classify.ErrArchive) {
				it.Kind, it.Why = importdb.ItemRefused, sentence.Of(err)
			} else if err != nil {
				return err
			}
		}
		return x.put(ctx, it)
	})
}

func (x *unpacker) put(ctx context.Context, it *store.ImportItem) error {
	x.done++
	x.progress(x.done, 0)
	it.Packed = true
	if err := importdb.In(x.c.store).PutImportItem(ctx, it, false); err != nil {
		return err
	}
	return importdb.UnmarkCopies(ctx, x.c.store, it)
}

// untilDoneReader reads until its context ends.
type untilDoneReader struct {
	ctx  context.Context //nolint:containedctx // it lives as long as the call that makes it
	from io.Reader
}

func (r *untilDoneReader) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.from.Read(p)
}
