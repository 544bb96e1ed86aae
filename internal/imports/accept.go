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
	"sparecrate/internal/delivery"
	"sparecrate/internal/licensing"
	"sparecrate/internal/search"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/deliverydb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/work"
)

// jobAccept is the kind of job that takes the marked fonts of a delivery in.
const jobAccept = "accept"

// accepting is what such a job is told.
type accepting struct {
	Delivery int64  `json:"delivery"`
	By       string `json:"by"`
	// Before is how many fonts were taken in before, so that the count for the activity
	// is right whoever finishes the job.
	Before int `json:"before"`
}

// takenIn counts the fonts of a delivery that are in the catalog.
func takenIn(counts []store.DeliveryCount) (n int) {
	for _, one := range counts {
		if one.Kind == deliverydb.ItemFont {
			n = one.Taken
		}
	}
	return n
}

// Accept has the marked fonts of a delivery taken into the catalog, with the
// papers beside them, by a job.
func (c *Imports) Accept(ctx context.Context, p *store.Person, id int64) (*api.Delivery, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	defer c.queue.Wake()
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d, err := openDelivery(ctx, tx, id)
		if err != nil {
			return err
		}
		packed, err := deliverydb.In(tx).Unpacking(ctx, id)
		if err != nil {
			return err
		}
		if len(packed) > 0 {
			return app.Problem(app.Conflict, "unpacking", "%s is still being unpacked; wait until everything has been read.", packed[0].Path)
		}
		counts, err := deliverydb.In(tx).CountDeliveryItems(ctx, id)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(counts, func(n store.DeliveryCount) bool { return n.Kind == deliverydb.ItemFont && n.Marked > 0 }) {
			// With nothing new it is closed, and the papers beside fonts are kept.
			left, err := deliverydb.In(tx).NewAndLeft(ctx, id)
			if err != nil {
				return err
			}
			fonts := slices.ContainsFunc(counts, func(n store.DeliveryCount) bool { return n.Kind == deliverydb.ItemFont && n.Count > 0 })
			if left > 0 || !fonts {
				return app.Problem(app.Conflict, "nothing-marked", "No font of this delivery is marked to be taken in. Mark what is wanted, or turn the delivery down.")
			}
		}
		if err := deliverydb.In(tx).SetDeliveryState(ctx, id, deliverydb.DeliveryAccepting); err != nil {
			return err
		}
		return c.queue.Add(ctx, tx, work.Job{Kind: jobAccept, Key: strconv.FormatInt(id, 10), Title: app.Shorten("Take in "+d.Title, 290), Payload: accepting{id, p.Name, takenIn(counts)}})
	})
	if err != nil {
		return nil, err
	}
	return c.Delivery(ctx, p, id)
}

// takeIn does a job of the kind accept. Some fonts at a time are one transaction, so
// an interruption leaves those before it taken and the others marked.
func (c *Imports) takeIn(ctx context.Context, payload []byte, progress func(done, total int)) error {
	a, err := work.Payload[accepting](payload)
	if err != nil {
		return err
	}
	d, err := deliverydb.In(c.store).Delivery(ctx, a.Delivery, false)
	if err != nil {
		return err
	}
	papers, err := c.papersOf(ctx, a.Delivery)
	if err != nil {
		return err
	}
	total := 0
	counts, err := deliverydb.In(c.store).CountDeliveryItems(ctx, a.Delivery)
	if err != nil {
		return err
	}
	for _, n := range counts {
		if n.Kind == deliverydb.ItemFont {
			total = n.Marked
		}
	}
	t := &taking{c: c, delivery: d, papers: papers, by: a.By}
	done, left := 0, []store.DeliveryItem(nil)
	for at := (store.Page{Limit: 200}); ; {
		items, err := deliverydb.In(c.store).DeliveryItems(ctx, a.Delivery, deliverydb.ItemFont, at)
		if err != nil {
			return err
		}
		var marked []*store.DeliveryItem
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
			now, err := deliverydb.In(c.store).Delivery(ctx, a.Delivery, false)
			if err != nil {
				return err
			}
			if now.State != deliverydb.DeliveryAccepting { // turned down meanwhile
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
		now, err := deliverydb.In(tx).Delivery(ctx, a.Delivery, true)
		if err != nil || now.State != deliverydb.DeliveryAccepting {
			return err
		}
		state := deliverydb.DeliverySettled
		if undecided+t.waiting > 0 {
			state = deliverydb.DeliveryOpen
		}
		if err := deliverydb.In(tx).SetDeliveryState(ctx, a.Delivery, state); err != nil {
			return err
		}
		counts, err := deliverydb.In(tx).CountDeliveryItems(ctx, a.Delivery)
		if err != nil {
			return err
		}
		return c.note(ctx, tx, &store.Person{Name: a.By}, "took in delivery", d.Title, app.Number(takenIn(counts)-a.Before, "font"))
	})
}

// papersOf returns the papers of a delivery by path, their texts read.
func (c *Imports) papersOf(ctx context.Context, id int64) (map[string]store.DeliveryItem, error) {
	papers := map[string]store.DeliveryItem{}
	for at := (store.Page{Limit: 500}); ; {
		items, err := deliverydb.In(c.store).DeliveryItems(ctx, id, deliverydb.ItemPaper, at)
		if err != nil {
			return nil, err
		}
		for _, it := range items {
			at.AfterID = it.ID
			papers[it.Path] = it
			if err := c.licensing.Papers.ReadText(ctx, it.Path, it.SHA256); err != nil {
				return nil, err
			}
		}
		if len(items) < at.Limit {
			return papers, nil
		}
	}
}

// taking carries what is the same for all fonts of a delivery that is taken in.
type taking struct {
	c        *Imports
	delivery *store.Delivery
	papers   map[string]store.DeliveryItem
	by       string
	waiting  int // fonts that a person has to decide on first
}

// decided returns the fonts of some that can be taken in, without those that a person has
// to decide on first.
func (t *taking) decided(ctx context.Context, items []*store.DeliveryItem) ([]*store.DeliveryItem, error) {
	values := make([]store.DeliveryItem, len(items))
	for i, it := range items {
		values[i] = *it
	}
	r, err := t.c.newReview(ctx, t.delivery, values)
	if err != nil {
		return nil, err
	}
	r.thorough = true
	var out []*store.DeliveryItem
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

// leftOut keeps the papers beside fonts that were in the catalog already, and counts the
// fonts that are left to decide on.
func (t *taking) leftOut(ctx context.Context, items []store.DeliveryItem) (undecided int, err error) {
	for chunk := range slices.Chunk(items, 500) {
		r, err := t.c.newReview(ctx, t.delivery, chunk)
		if err != nil {
			return 0, err
		}
		var papers []store.Paper
		for i := range chunk {
			h := r.holder(&chunk[i])
			if h == nil {
				undecided++
				continue
			}
			papers = append(papers, t.beside(&chunk[i], h.FamilyID)...)
		}
		if err := t.c.store.Tx(ctx, func(tx *store.Store) error { return licensedb.In(tx).AddPapers(ctx, papers) }); err != nil {
			return 0, err
		}
	}
	return undecided, nil
}

// beside returns the papers beside a font, for its family.
func (t *taking) beside(it *store.DeliveryItem, family int64) []store.Paper {
	var out []store.Paper
	for _, p := range delivery.Beside(it.Path, slices.Sorted(maps.Keys(t.papers))) {
		paper := t.papers[p]
		out = append(out, store.Paper{FamilyID: family, Name: app.FileName(p), SHA256: paper.SHA256, Bytes: paper.Bytes, AddedAt: t.c.now(), AddedBy: t.by})
	}
	return out
}

// together is how many fonts are taken in by one transaction: enough that its end,
// which waits for the disk, does not count, and few enough to hold in memory.
const together = 16

// groups parts fonts into what is taken in together. A font that somebody gave a
// family goes by itself: where fonts of its name go is known only after it.
func groups(items []*store.DeliveryItem) [][]*store.DeliveryItem {
	var out [][]*store.DeliveryItem
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
func (t *taking) group(ctx context.Context, items []*store.DeliveryItem) error {
	ready := make([]*intake, len(items))
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
		return deliverydb.In(tx).ForgetArrived(ctx, app.Each(items, func(it *store.DeliveryItem) string { return it.SHA256 }))
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
func (t *taking) read(ctx context.Context, it *store.DeliveryItem) (*intake, error) {
	faces, bad, err := t.c.readings.of(ctx, it)
	if err != nil {
		return nil, err
	}
	if bad != nil { // another version read it
		return nil, deliverydb.In(t.c.store).RefuseDeliveryItem(ctx, it.ID, sentence.Of(bad))
	}
	client := t.delivery.Client
	if it.Client != nil {
		client = *it.Client
	}
	if _, err := t.c.library.Prints.Of(ctx, it.SHA256, 0); err != nil { // a large one that nobody measured yet
		return nil, err
	}
	in := &intake{
		c: t.c, person: &store.Person{Name: t.by}, client: &client, faces: faces, hash: it.SHA256, size: it.Bytes, explicit: true,
		arrival: Arrival{Name: app.FileName(it.Path), Origin: api.Origin(cmp.Or(it.Origin, t.delivery.Origin)), Family: it.Family, Range: it.Summary.Range, Settle: it.Settle},
	}

	return in, in.prepare(ctx)
}

// taken keeps the papers beside a font with its family, and marks it as taken.
func (t *taking) taken(ctx context.Context, tx *store.Store, it *store.DeliveryItem, r *api.IntakeResult) error {
	if err := licensedb.In(tx).AddPapers(ctx, t.beside(it, r.Family.Id)); err != nil {
		return err
	}
	if err := t.tagged(ctx, tx, r.Family.Id, it.Tags); err != nil {
		return err
	}
	now := *it
	now.Outcome, now.FamilyID, now.Why = string(r.Outcome), &r.Family.Id, r.Message
	return deliverydb.In(tx).TakeDeliveryItem(ctx, &now)
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
func (t *taking) one(ctx context.Context, it *store.DeliveryItem, in *intake) error {
	take := func(tx *store.Store) error {
		r, err := in.record(ctx, tx)
		if err != nil {
			return err
		}
		return errors.Join(t.taken(ctx, tx, it, r), deliverydb.In(tx).ForgetArrived(ctx, []string{it.SHA256}))
	}
	err := t.c.store.Tx(ctx, take)
	if !errors.Is(err, store.ErrTaken) {
		return err
	}
	same, err := t.c.sameBytes(ctx, in)
	var told *app.Error
	if errors.As(err, &told) { // in a family that was deleted
		return deliverydb.In(t.c.store).RefuseDeliveryItem(ctx, it.ID, told.Message)
	}
	if err != nil {
		return err
	}
	if same == nil { // its face was begun by somebody else at the same time
		return t.c.store.Tx(ctx, take)
	}
	return t.c.store.Tx(ctx, func(tx *store.Store) error { return t.taken(ctx, tx, it, same) })
}

// PaperContent opens a document that came with a family.
func (c *Imports) PaperContent(ctx context.Context, p *store.Person, id int64) (*licensing.Content, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	paper, err := licensedb.In(c.store).Paper(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "paper")
	}
	return c.licensing.Papers.ReadContent(ctx, paper.Name, paper.SHA256)
}
