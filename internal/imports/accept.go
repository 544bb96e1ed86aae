package imports

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"runtime"
	"slices"
	"strconv"
	"sync"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/classify"
	"sparecrate/internal/licensing"
	"sparecrate/internal/search"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/work"
)

// jobAccept is the kind of job that takes the marked fonts of a import in.
const jobAccept = "accept"

// accepting is what such a job is told.
type accepting struct {
	Import int64  `json:"import"`
	By     string `json:"by"`
	// Before is how many fonts were taken in before, so that the count for the activity
	// is right whoever finishes the job.
	Before int `json:"before"`
}

// takenIn counts the fonts of a import that are in the catalog.
func takenIn(counts []store.ImportCount) (n int) {
	for _, one := range counts {
		if one.Kind == importdb.ItemFont {
			n = one.Taken
		}
	}
	return n
}

// Accept has the marked fonts of a import taken into the catalog, with the
// documents beside them, by a job.
func (c *Imports) Accept(ctx context.Context, p *store.Person, id int64) (*api.Import, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	defer c.queue.Wake()
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d, err := openImport(ctx, tx, id)
		if err != nil {
			return err
		}
		packed, err := importdb.In(tx).Unpacking(ctx, id)
		if err != nil {
			return err
		}
		if len(packed) > 0 {
			return app.Problem(app.Conflict, "unpacking", "%s is still being unpacked; wait until everything has been read.", packed[0].Path)
		}
		counts, err := importdb.In(tx).CountImportItems(ctx, id)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(counts, func(n store.ImportCount) bool { return n.Kind == importdb.ItemFont && n.Marked > 0 }) {
			// With nothing new it is closed, and the documents beside fonts are kept.
			left, err := importdb.In(tx).NewAndLeft(ctx, id)
			if err != nil {
				return err
			}
			fonts := slices.ContainsFunc(counts, func(n store.ImportCount) bool { return n.Kind == importdb.ItemFont && n.Count > 0 })
			if left > 0 || !fonts {
				return app.Problem(app.Conflict, "nothing-marked", "No font of this import is selected. Select fonts, or discard the import.")
			}
		}
		if err := importdb.In(tx).SetImportState(ctx, id, importdb.ImportAccepting); err != nil {
			return err
		}
		return c.queue.Add(ctx, tx, work.Job{Kind: jobAccept, Key: strconv.FormatInt(id, 10), Title: app.Shorten("Import "+d.Title, 290), Payload: accepting{id, p.Name, takenIn(counts)}})
	})
	if err != nil {
		return nil, err
	}
	return c.Import(ctx, p, id)
}

// takeIn does a job of the kind accept. Some fonts at a time are one transaction, so
// an interruption leaves those before it taken and the others marked.
func (c *Imports) takeIn(ctx context.Context, payload []byte, progress func(done, total int)) error {
	a, err := work.Payload[accepting](payload)
	if err != nil {
		return err
	}
	d, err := importdb.In(c.store).Import(ctx, a.Import, false)
	if err != nil {
		return err
	}
	docs, err := c.familyDocumentsOf(ctx, a.Import)
	if err != nil {
		return err
	}
	total := 0
	counts, err := importdb.In(c.store).CountImportItems(ctx, a.Import)
	if err != nil {
		return err
	}
	for _, n := range counts {
		if n.Kind == importdb.ItemFont {
			total = n.Marked
		}
	}
	t := &taking{c: c, imp: d, docs: docs, by: a.By}
	done, left := 0, []store.ImportItem(nil)
	for at := (store.Page{Limit: 200}); ; {
		items, err := importdb.In(c.store).ImportItems(ctx, a.Import, importdb.ItemFont, at)
		if err != nil {
			return err
		}
		var marked []*store.ImportItem
		for i := range items {
			it := &items[i]
			at.AfterID = it.ID
			switch {
			case it.Taken:
			case it.Marked:
				marked = append(marked, it)
			default:
				left = append(left, *it)
			}
		}
		// What only a person can decide waits for that.
		marked, err = t.decided(ctx, marked)
		if err != nil {
			return err
		}
		for _, group := range groups(marked) {
			now, err := importdb.In(c.store).Import(ctx, a.Import, false)
			if err != nil {
				return err
			}
			if now.State != importdb.ImportAccepting { // turned down meanwhile
				return nil
			}
			if err := t.group(ctx, group); err != nil {
				return err
			}
			done += len(group)
			progress(done, total)
		}
		if len(items) < at.Limit {
			break
		}
	}
	// What is left out is decided on where its bytes are in the catalog.
	undecided, err := t.leftOut(ctx, left)
	if err != nil {
		return err
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		now, err := importdb.In(tx).Import(ctx, a.Import, true)
		if err != nil || now.State != importdb.ImportAccepting {
			return err
		}
		state := importdb.ImportFinished
		if undecided+t.waiting > 0 {
			state = importdb.ImportOpen
		}
		if err := importdb.In(tx).SetImportState(ctx, a.Import, state); err != nil {
			return err
		}
		counts, err := importdb.In(tx).CountImportItems(ctx, a.Import)
		if err != nil {
			return err
		}
		return c.note(ctx, tx, &store.Person{Name: a.By}, "accepted import", d.Title, app.Number(takenIn(counts)-a.Before, "font"))
	})
}

// familyDocumentsOf returns the documents of a import by path, their texts read.
func (c *Imports) familyDocumentsOf(ctx context.Context, id int64) (map[string]store.ImportItem, error) {
	docs := map[string]store.ImportItem{}
	for at := (store.Page{Limit: 500}); ; {
		items, err := importdb.In(c.store).ImportItems(ctx, id, importdb.ItemDocument, at)
		if err != nil {
			return nil, err
		}
		for _, it := range items {
			at.AfterID = it.ID
			docs[it.Path] = it
			if err := c.licensing.Documents.ReadText(ctx, it.Path, it.SHA256); err != nil {
				return nil, err
			}
		}
		if len(items) < at.Limit {
			return docs, nil
		}
	}
}

// taking carries what is the same for all fonts of a import that is taken in.
type taking struct {
	c       *Imports
	imp     *store.Import
	docs    map[string]store.ImportItem
	by      string
	waiting int // fonts that a person has to decide on first
}

// decided returns the fonts of some that can be taken in, without those that a person has
// to decide on first.
func (t *taking) decided(ctx context.Context, items []*store.ImportItem) ([]*store.ImportItem, error) {
	values := make([]store.ImportItem, len(items))
	for i, it := range items {
		values[i] = *it
	}
	r, err := t.c.newReview(ctx, t.imp, values)
	if err != nil {
		return nil, err
	}
	r.thorough = true
	var out []*store.ImportItem
	for _, it := range items {
		name, family, err := r.family(ctx, it, it.Summary.Faces[0])
		if err != nil {
			return nil, err
		}
		_, _, undecided, err := r.outcome(ctx, it, name, family)
		if err != nil {
			return nil, err
		}
		if undecided {
			t.waiting++
			continue
		}
		out = append(out, it)
	}
	return out, nil
}

// leftOut keeps the documents beside fonts that were in the catalog already, and counts the
// fonts that are left to decide on.
func (t *taking) leftOut(ctx context.Context, items []store.ImportItem) (undecided int, err error) {
	for chunk := range slices.Chunk(items, 500) {
		r, err := t.c.newReview(ctx, t.imp, chunk)
		if err != nil {
			return 0, err
		}
		var docs []store.FamilyDocument
		for i := range chunk {
			h := r.holder(&chunk[i])
			if h == nil {
				undecided++
				continue
			}
			docs = append(docs, t.beside(&chunk[i], h.FamilyID)...)
		}
		if err := t.c.store.Tx(ctx, func(tx *store.Store) error { return licensedb.In(tx).AddFamilyDocuments(ctx, docs) }); err != nil {
			return 0, err
		}
	}
	return undecided, nil
}

// beside returns the documents beside a font, for its family.
func (t *taking) beside(it *store.ImportItem, family int64) []store.FamilyDocument {
	var out []store.FamilyDocument
	for _, p := range classify.Beside(it.Path, slices.Sorted(maps.Keys(t.docs))) {
		doc := t.docs[p]
		out = append(out, store.FamilyDocument{FamilyID: family, Name: app.FileName(p), SHA256: doc.SHA256, Bytes: doc.Bytes, AddedAt: t.c.now(), AddedBy: t.by})
	}
	return out
}

// together is how many fonts are taken in by one transaction: enough that its end,
// which waits for the disk, does not count, and few enough to hold in memory.
const together = 16

// groups parts fonts into what is taken in together. A font that somebody gave a
// family goes by itself: where fonts of its name go is known only after it.
func groups(items []*store.ImportItem) [][]*store.ImportItem {
	var out [][]*store.ImportItem
	open := false
	for _, it := range items {
		if !open || it.Family != "" || len(out[len(out)-1]) == together {
			out = append(out, nil)
		}
		open = it.Family == ""
		out[len(out)-1] = append(out[len(out)-1], it)
	}
	return out
}

// group takes some fonts in, in one transaction; where that fails for one of them,
// each in its own.
func (t *taking) group(ctx context.Context, items []*store.ImportItem) error {
	ready := make([]*imp, len(items))
	errs := make([]error, len(items))
	var reading sync.WaitGroup
	slots := make(chan struct{}, runtime.NumCPU())
	for i, it := range items {
		slots <- struct{}{}
		reading.Go(func() {
			defer func() { <-slots }()
			ready[i], errs[i] = t.read(ctx, it)
		})
	}
	reading.Wait()
	if err := errors.Join(errs...); err != nil {
		return err
	}
	defer t.c.queue.Wake()
	err := t.c.store.Tx(ctx, func(tx *store.Store) error {
		for i, in := range ready {
			if in == nil {
				continue
			}
			r, err := in.record(ctx, tx)
			if err != nil {
				return err
			}
			if err := t.taken(ctx, tx, items[i], r); err != nil {
				return err
			}
		}
		return importdb.In(tx).ForgetArrived(ctx, app.Each(items, func(it *store.ImportItem) string { return it.SHA256 }))
	})
	if !errors.Is(err, store.ErrTaken) {
		return err
	}
	for i, in := range ready {
		if in == nil {
			continue
		}
		if err := t.one(ctx, items[i], in); err != nil {
			return err
		}
	}
	return nil
}

// read gathers what is known of a font and keeps what can be kept before the
// transaction; nil for one that is refused after all.
func (t *taking) read(ctx context.Context, it *store.ImportItem) (*imp, error) {
	faces, bad, err := t.c.readings.of(ctx, it)
	if err != nil {
		return nil, err
	}
	if bad != nil { // another version read it
		return nil, importdb.In(t.c.store).RefuseImportItem(ctx, it.ID, sentence.Of(bad))
	}
	client := t.imp.Client
	if it.Client != nil {
		client = *it.Client
	}
	if _, err := t.c.library.Measures.Of(ctx, it.SHA256, 0); err != nil { // a large one that nobody measured yet
		return nil, err
	}
	in := &imp{
		c: t.c, person: &store.Person{Name: t.by}, client: &client, faces: faces, hash: it.SHA256, size: it.Bytes, explicit: true,
		arrival: Arrival{Name: app.FileName(it.Path), Origin: api.Origin(cmp.Or(it.Origin, t.imp.Origin)), Family: it.Family, Range: it.Summary.Range, Settle: it.Settle},
	}

	return in, in.prepare(ctx)
}

// taken keeps the documents beside a font with its family, and marks it as taken.
func (t *taking) taken(ctx context.Context, tx *store.Store, it *store.ImportItem, r *api.ImportResult) error {
	if err := licensedb.In(tx).AddFamilyDocuments(ctx, t.beside(it, r.Family.Id)); err != nil {
		return err
	}
	if err := t.tagged(ctx, tx, r.Family.Id, it.Tags); err != nil {
		return err
	}
	now := *it
	now.Outcome, now.FamilyID, now.Why = string(r.Outcome), &r.Family.Id, r.Message
	return importdb.In(tx).TakeImportItem(ctx, &now)
}

// tagged has a family found by tags.
func (t *taking) tagged(ctx context.Context, tx *store.Store, family int64, tags []string) error {
	if len(tags) == 0 {
		return nil
	}
	words := search.Index(tags...)
	return errors.Join(librarydb.In(tx).AddTags(ctx, family, tags), familydb.In(tx).AddWords(ctx, words), familydb.In(tx).AddFamilyWords(ctx, family, words))
}

// one takes a font in by itself. Bytes that the catalog has are marked as taken;
// what cannot be is refused, and says why.
func (t *taking) one(ctx context.Context, it *store.ImportItem, in *imp) error {
	take := func(tx *store.Store) error {
		r, err := in.record(ctx, tx)
		if err != nil {
			return err
		}
		return errors.Join(t.taken(ctx, tx, it, r), importdb.In(tx).ForgetArrived(ctx, []string{it.SHA256}))
	}
	err := t.c.store.Tx(ctx, take)
	if !errors.Is(err, store.ErrTaken) {
		return err
	}
	same, err := t.c.sameBytes(ctx, in)
	var told *app.Error
	if errors.As(err, &told) { // in a family that was deleted
		return importdb.In(t.c.store).RefuseImportItem(ctx, it.ID, told.Message)
	}
	if err != nil {
		return err
	}
	if same == nil { // its face was begun by somebody else at the same time
		return t.c.store.Tx(ctx, take)
	}
	return t.c.store.Tx(ctx, func(tx *store.Store) error { return t.taken(ctx, tx, it, same) })
}

// FamilyDocumentContent opens a document that came with a family.
func (c *Imports) FamilyDocumentContent(ctx context.Context, p *store.Person, id int64) (*licensing.Content, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	doc, err := licensedb.In(c.store).FamilyDocument(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "document")
	}
	return c.licensing.Documents.ReadContent(ctx, doc.Name, doc.SHA256)
}
