package catalog

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strconv"

	"sparecrate/api"
	"sparecrate/internal/bucket"
	"sparecrate/internal/delivery"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// jobAccept is the kind of job that takes the marked fonts of a delivery in.
const jobAccept = "accept"

// accepting is what such a job is told.
type accepting struct {
	Delivery int64  `json:"delivery"`
	By       string `json:"by"`
}

// Accept has the marked fonts of a delivery taken into the catalog, with the
// papers beside them, by a job.
func (c *Catalog) Accept(ctx context.Context, p *store.Person, id int64) (*api.Delivery, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	defer c.queue.Wake()
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d, err := openDelivery(ctx, tx, id)
		if err != nil {
			return err
		}
		packed, err := tx.Unpacking(ctx, id)
		if err != nil {
			return err
		}
		if len(packed) > 0 {
			return problem(Conflict, "unpacking", "%s is still being unpacked; wait until everything has been read.", packed[0].Path)
		}
		counts, err := tx.CountDeliveryItems(ctx, id)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(counts, func(n store.DeliveryCount) bool { return n.Kind == store.ItemFont && n.Marked > 0 }) {
			return problem(Conflict, "nothing-marked", "No font of this delivery is marked to be taken in.")
		}
		if err := tx.SetDeliveryState(ctx, id, store.DeliveryAccepting); err != nil {
			return err
		}
		return c.queue.Add(ctx, tx, work.Job{Kind: jobAccept, Key: strconv.FormatInt(id, 10), Title: cut("Take in "+d.Title, 290), Payload: accepting{id, p.Name}})
	})
	if err != nil {
		return nil, err
	}
	return c.Delivery(ctx, p, id)
}

// takeIn does a job of the kind accept. Each font is one transaction, so an
// interruption leaves those before it taken and the others marked.
func (c *Catalog) takeIn(ctx context.Context, payload []byte, progress func(done, total int)) error {
	var a accepting
	if err := json.Unmarshal(payload, &a); err != nil {
		return fmt.Errorf("%w: %w", work.ErrHopeless, err)
	}
	d, err := c.store.Delivery(ctx, a.Delivery, false)
	if err != nil {
		return err
	}
	papers, err := c.papersOf(ctx, a.Delivery)
	if err != nil {
		return err
	}
	total := 0
	counts, err := c.store.CountDeliveryItems(ctx, a.Delivery)
	if err != nil {
		return err
	}
	for _, n := range counts {
		if n.Kind == store.ItemFont {
			total = n.Marked
		}
	}
	done, left := 0, []string(nil)
	for at := (store.Page{Limit: 200}); ; {
		items, err := c.store.DeliveryItems(ctx, a.Delivery, store.ItemFont, at)
		if err != nil {
			return err
		}
		for i := range items {
			it := &items[i]
			at.AfterID = it.ID
			switch {
			case it.Taken:
			case !it.Marked:
				left = append(left, it.SHA256)
			default:
				now, err := c.store.Delivery(ctx, a.Delivery, false)
				if err != nil {
					return err
				}
				if now.State != store.DeliveryAccepting { // turned down meanwhile
					return nil
				}
				if err := c.takeItem(ctx, d, it, papers, a.By); err != nil {
					return err
				}
				done++
				progress(done, total)
			}
		}
		if len(items) < at.Limit {
			break
		}
	}
	// What is left out is decided on where its bytes are in the catalog.
	same, err := c.store.FilesByHash(ctx, left)
	if err != nil {
		return err
	}
	left = slices.DeleteFunc(left, func(hash string) bool { _, there := same[hash]; return there })
	return c.store.Tx(ctx, func(tx *store.Store) error {
		now, err := tx.Delivery(ctx, a.Delivery, true)
		if err != nil || now.State != store.DeliveryAccepting {
			return err
		}
		state := store.DeliverySettled
		if len(left) > 0 {
			state = store.DeliveryOpen
		}
		if err := tx.SetDeliveryState(ctx, a.Delivery, state); err != nil {
			return err
		}
		return c.note(ctx, tx, &store.Person{Name: a.By}, "took in delivery", d.Title, fmt.Sprintf("%d fonts", done))
	})
}

// papersOf gives the papers of a delivery by path.
func (c *Catalog) papersOf(ctx context.Context, id int64) (map[string]store.DeliveryItem, error) {
	papers := map[string]store.DeliveryItem{}
	for at := (store.Page{Limit: 500}); ; {
		items, err := c.store.DeliveryItems(ctx, id, store.ItemPaper, at)
		if err != nil {
			return nil, err
		}
		for _, it := range items {
			at.AfterID = it.ID
			papers[it.Path] = it
		}
		if len(items) < at.Limit {
			return papers, nil
		}
	}
}

// takeItem takes one font in. What cannot be is refused, and says why.
func (c *Catalog) takeItem(ctx context.Context, d *store.Delivery, it *store.DeliveryItem, papers map[string]store.DeliveryItem, by string) error {
	data, err := c.bucket.Read(ctx, bucket.Hash(it.SHA256))
	if err != nil {
		return err
	}
	faces, err := readFacts(data, path.Base(it.Path))
	if err != nil { // another version read it
		return c.store.RefuseDeliveryItem(ctx, it.ID, sentence(err))
	}
	client := d.Client
	if it.Client != nil {
		client = *it.Client
	}
	in := &intake{
		c: c, person: &store.Person{Name: by}, client: &client, faces: faces, hash: it.SHA256, size: it.Bytes,
		arrival: Arrival{Name: fileName(it.Path), Origin: api.Origin(cmp.Or(it.Origin, d.Origin)), Family: it.Family},
	}
	if err := in.prepare(ctx); err != nil {
		return err
	}
	taken := func(ctx context.Context, tx *store.Store, r *api.IntakeResult) error {
		for _, p := range delivery.Beside(it.Path, slices.Sorted(maps.Keys(papers))) {
			paper := papers[p]
			err := tx.AddPaper(ctx, &store.Paper{FamilyID: r.Family.Id, Name: fileName(p), SHA256: paper.SHA256, Bytes: paper.Bytes, AddedAt: c.now(), AddedBy: by})
			if err != nil {
				return err
			}
		}
		now := *it
		now.Outcome, now.FamilyID, now.Why = string(r.Outcome), &r.Family.Id, r.Message
		return tx.TakeDeliveryItem(ctx, &now)
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		r, err := in.record(ctx, tx)
		if err != nil {
			return err
		}
		return taken(ctx, tx, r)
	})
	if errors.Is(err, store.ErrTaken) { // these bytes are in the catalog
		same, err := c.sameBytes(ctx, it.SHA256)
		var told *Error
		if errors.As(err, &told) { // in a family that was deleted
			return c.store.RefuseDeliveryItem(ctx, it.ID, told.Message)
		}
		if err != nil {
			return err
		}
		if same != nil {
			return c.store.Tx(ctx, func(tx *store.Store) error { return taken(ctx, tx, same) })
		}
	}
	return err
}

// PaperContent opens a document that came with a family.
func (c *Catalog) PaperContent(ctx context.Context, p *store.Person, id int64) (r io.ReadCloser, size int64, name string, err error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, 0, "", err
	}
	paper, err := c.store.Paper(ctx, id)
	if err != nil {
		return nil, 0, "", explain(err, "paper")
	}
	r, size, err = c.bucket.Open(ctx, bucket.Hash(paper.SHA256))
	return r, size, paper.Name, err
}

// KeepPaper keeps a document that came with a family as evidence of a license.
func (c *Catalog) KeepPaper(ctx context.Context, p *store.Person, licenseID, paperID int64) (*api.Document, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	paper, err := c.store.Paper(ctx, paperID)
	if err != nil {
		return nil, explain(err, "paper")
	}
	l, err := c.store.License(ctx, licenseID)
	if err != nil {
		return nil, explain(err, "license")
	}
	return c.keepDocument(ctx, p, l, store.Document{Name: paper.Name, SHA256: paper.SHA256, Bytes: paper.Bytes})
}

func paperView(p store.Paper) api.Paper {
	return api.Paper{Id: p.ID, Name: p.Name, Bytes: p.Bytes, Sha256: p.SHA256, AddedAt: p.AddedAt, AddedBy: p.AddedBy}
}
