package imports

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/delivery"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
	"sparecrate/internal/store/deliverydb"
)

// A delivery is what arrived together. Things are put into it one after the other
// (unload.go), looked through here, and the fonts that are marked are taken into
// the catalog (accept.go). Until then nothing of it is in the catalog.

// OpenDelivery opens a delivery.
func (c *Imports) OpenDelivery(ctx context.Context, p *store.Person, n api.NewDelivery) (*api.Delivery, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	origin, err := originOf(n.Origin)
	if err != nil {
		return nil, err
	}
	client := ""
	if n.Client != nil {
		client = *n.Client
	}
	owner, err := app.OpenClient(ctx, c.store, client)
	if err != nil {
		return nil, err
	}
	d := &store.Delivery{ClientID: owner.ID, Client: *owner, Origin: string(origin), State: deliverydb.DeliveryOpen, CreatedAt: c.now(), CreatedBy: p.Name}
	if n.Title != nil {
		d.Title = app.Shorten(strings.TrimSpace(*n.Title), 200)
	}
	if d.Title == "" {
		d.Title = "Delivery of " + c.now().Format("2 January 2006")
	}
	if err := deliverydb.In(c.store).AddDelivery(ctx, d); err != nil {
		return nil, err
	}
	return c.deliveryView(ctx, d, true)
}

// originOf checks an origin; unknown where none is given.
func originOf(o *api.Origin) (api.Origin, error) {
	if o == nil || *o == "" {
		return api.OriginUnknown, nil
	}
	if !o.Valid() {
		return "", app.InvalidField("origin", "bad-origin", "%q is not an origin; choose bought, client, open, commissioned, hosted or unknown.", *o)
	}
	return *o, nil
}

// Deliveries returns a page of deliveries, newest first.
func (c *Imports) Deliveries(ctx context.Context, p *store.Person, cursor *string, limit *int) (*api.DeliveryPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	found, err := deliverydb.In(c.store).Deliveries(ctx, at)
	if err != nil {
		return nil, err
	}
	found, next := app.CutPage(found, at, func(d store.Delivery) (string, int64) { return "", d.ID })
	out := &api.DeliveryPage{Items: []api.Delivery{}, Next: next}
	for i := range found {
		v, err := c.deliveryView(ctx, &found[i], false)
		if err != nil {
			return nil, err
		}
		out.Items = append(out.Items, *v)
	}
	return out, nil
}

// Delivery returns a delivery with the families in it.
func (c *Imports) Delivery(ctx context.Context, p *store.Person, id int64) (*api.Delivery, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := deliverydb.In(c.store).Delivery(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "delivery")
	}
	return c.deliveryView(ctx, d, true)
}

// TurnDown ends a delivery: what is not taken in stays out, and what is under way
// stops.
func (c *Imports) TurnDown(ctx context.Context, p *store.Person, id int64) (*api.Delivery, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d, err := deliverydb.In(tx).Delivery(ctx, id, true)
		if err != nil {
			return app.Explain(err, "delivery")
		}
		if d.State == deliverydb.DeliverySettled {
			return app.Problem(app.Conflict, "settled", "Nothing of this delivery is left to turn down.")
		}
		if err := deliverydb.In(tx).SetDeliveryState(ctx, id, deliverydb.DeliveryDown); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "turned down", d.Title, "")
	})
	if err != nil {
		return nil, err
	}
	return c.Delivery(ctx, p, id)
}

// openDelivery returns a delivery that things may be put into and decided on, locked.
func openDelivery(ctx context.Context, tx *store.Store, id int64) (*store.Delivery, error) {
	d, err := deliverydb.In(tx).Delivery(ctx, id, true)
	if err != nil {
		return nil, app.Explain(err, "delivery")
	}
	return d, takesThings(d)
}

// takesThings refuses what cannot be put into a delivery or decided on.
func takesThings(d *store.Delivery) error {
	switch d.State {
	case deliverydb.DeliveryDown:
		return app.Problem(app.Conflict, "turned-down", "This delivery was turned down; open another one.")
	case deliverydb.DeliveryAccepting:
		return app.Problem(app.Conflict, "accepting", "Fonts of this delivery are being taken in; wait until that is done.")
	}
	return nil
}

// ChangeDeliveryItems says of fonts of a delivery whether they are taken, for
// whom, where they came from, and into which family.
func (c *Imports) ChangeDeliveryItems(ctx context.Context, p *store.Person, id int64, change api.DeliveryChange) (*api.Delivery, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	columns := map[string]any{}
	if change.Mark != nil {
		columns["marked"] = *change.Mark
	}
	if change.Client != nil {
		owner, err := app.OpenClient(ctx, c.store, *change.Client)
		if err != nil {
			return nil, err
		}
		columns["client_id"] = owner.ID
	}
	if change.Origin != nil {
		origin, err := originOf(change.Origin)
		if err != nil {
			return nil, err
		}
		columns["origin"] = string(origin)
	}
	if change.Family != nil {
		columns["family"] = app.Shorten(strings.TrimSpace(*change.Family), 200)
	}
	if change.Settle != nil {
		if *change.Settle != "" && !change.Settle.Valid() {
			return nil, app.InvalidField("settle", "bad-settle", "%q settles nothing; say use, for the font of the delivery, or keep, for the other one.", *change.Settle)
		}
		columns["settle"] = string(*change.Settle)
	}
	if change.Tags != nil {
		tags, err := library.Tags(*change.Tags)
		if err != nil {
			return nil, err
		}
		kept, err := json.Marshal(tags)
		if err != nil {
			return nil, err
		}
		columns["tags"] = string(kept)
	}
	if len(columns) == 0 {
		return nil, app.InvalidField("", "nothing-changed", "Say what is to change: mark, client, origin, family, tags or settle.")
	}
	var items []int64
	if change.Items != nil {
		items = *change.Items
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		if _, err := openDelivery(ctx, tx, id); err != nil {
			return err
		}
		n, err := deliverydb.In(tx).ChangeDeliveryItems(ctx, id, items, columns)
		if err != nil {
			return err
		}
		if change.Items != nil && int(n) != len(slices.Compact(slices.Sorted(slices.Values(items)))) {
			return app.InvalidField("items", "not-open", "Only fonts of this delivery that are not taken in yet can be changed; %d of the %d are.", n, len(items))
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return c.Delivery(ctx, p, id)
}

// DeliveryItems returns a page of the things of a delivery, with what would become
// of each.
func (c *Imports) DeliveryItems(ctx context.Context, p *store.Person, id int64, q api.ListDeliveryItemsParams) (*api.DeliveryItemPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	d, err := deliverydb.In(c.store).Delivery(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "delivery")
	}
	kind := ""
	if q.Kind != nil && *q.Kind != "" {
		if !q.Kind.Valid() {
			return nil, app.InvalidField("kind", "bad-kind", "%q is no kind of a thing; choose font, paper, archive, left-out or refused.", *q.Kind)
		}
		kind = string(*q.Kind)
	}
	items, err := deliverydb.In(c.store).DeliveryItems(ctx, id, kind, at)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(it store.DeliveryItem) (string, int64) { return "", it.ID })
	views, err := c.itemViews(ctx, d, items)
	return &api.DeliveryItemPage{Items: views, Next: next}, err
}

// deliveryView returns a delivery, with the families in it where whole is set.
func (c *Imports) deliveryView(ctx context.Context, d *store.Delivery, whole bool) (*api.Delivery, error) {
	v := &api.Delivery{
		Id: d.ID, Title: d.Title, Client: app.ClientRef(d.Client), Origin: api.Origin(d.Origin), State: api.DeliveryState(d.State),
		CreatedAt: d.CreatedAt, CreatedBy: d.CreatedBy, Families: []api.DeliveryFamily{},
	}
	counts, err := deliverydb.In(c.store).CountDeliveryItems(ctx, d.ID)
	if err != nil {
		return nil, err
	}
	for _, n := range counts {
		if n.Kind != deliverydb.ItemArchive { // what it holds is counted
			v.Bytes += n.Bytes
		}
		switch n.Kind {
		case deliverydb.ItemFont:
			v.Counts.Fonts, v.Counts.Marked, v.Counts.Taken = n.Count, n.Marked, n.Taken
		case deliverydb.ItemPaper:
			v.Counts.Papers = n.Count
		case deliverydb.ItemLeftOut:
			v.Counts.LeftOut = n.Count
		case deliverydb.ItemRefused:
			v.Counts.Refused = n.Count
		}
	}
	if d.State != deliverydb.DeliveryDown {
		packed, err := deliverydb.In(c.store).Unpacking(ctx, d.ID)
		if err != nil {
			return nil, err
		}
		v.Unpacking = len(packed)
	}
	if whole {
		page, err := c.deliveryFamilies(ctx, d, store.Page{Limit: app.DefaultPage + 1})
		if err != nil {
			return nil, err
		}
		v.Families, v.NextFamilies = page.Items, page.Next
	}
	return v, nil
}

// DeliveryFamilies returns a page of the families that marked and taken fonts of a
// delivery make up, in the order of the names that the fonts say.
func (c *Imports) DeliveryFamilies(ctx context.Context, p *store.Person, id int64, cursor *string, limit *int) (*api.DeliveryFamilyPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	d, err := deliverydb.In(c.store).Delivery(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "delivery")
	}
	return c.deliveryFamilies(ctx, d, at)
}

// arriving is a family as it would be.
type arriving struct {
	view   api.DeliveryFamily
	styles map[string]delivery.Style // by the face's key
	faces  []store.ItemFace
}

// deliveryFamilies returns a page of families as they would be: the first has those that
// people gave fonts, too. It reads one font of each face, however many there are.
func (c *Imports) deliveryFamilies(ctx context.Context, d *store.Delivery, at store.Page) (*api.DeliveryFamilyPage, error) {
	out := &api.DeliveryFamilyPage{Items: []api.DeliveryFamily{}}
	names, err := deliverydb.In(c.store).ArrivedNames(ctx, d.ID, at)
	if err != nil {
		return nil, err
	}
	names, out.Next = app.CutPage(names, at, func(name string) (string, int64) { return name, 1 })
	items, err := deliverydb.In(c.store).ArrivedFaces(ctx, d.ID, names)
	if err != nil {
		return nil, err
	}
	if at.AfterID == 0 {
		more, err := deliverydb.In(c.store).ArrivedOtherwise(ctx, d.ID)
		if err != nil {
			return nil, err
		}
		items = append(items, more...)
	}
	r, err := c.newReview(ctx, d, nil)
	if err != nil {
		return nil, err
	}
	byKey := map[string]*arriving{}
	for i := range items {
		it := &items[i]
		for _, f := range it.Summary.Faces {
			name, family, err := r.family(ctx, it, f)
			if err != nil {
				return nil, err
			}
			client := r.client(it)
			key := fmt.Sprintf("%s %d", strings.ToLower(name), client.ID)
			g := byKey[key]
			if g == nil {
				g = newArriving(name, client, family)
				byKey[key] = g
			}
			g.add(f)
		}
	}
	for _, g := range byKey {
		out.Items = append(out.Items, g.done())
	}
	slices.SortFunc(out.Items, func(a, b api.DeliveryFamily) int {
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Client.Id, b.Client.Id))
	})
	return out, nil
}

func newArriving(name string, client store.Client, family *store.FamilyHead) *arriving {
	g := &arriving{view: api.DeliveryFamily{Name: name, Client: app.ClientRef(client)}, styles: map[string]delivery.Style{}}
	if family != nil {
		g.view.Family = &api.Ref{Id: family.ID, Name: family.Name}
		for _, face := range family.Faces {
			g.styles[face.FaceKey] = delivery.Style{Name: face.Style, Weight: face.Weight, Italic: face.Slope != "upright", Variable: face.Variable}
		}
	}
	return g
}

func (g *arriving) add(f store.ItemFace) {
	g.styles[f.Key] = delivery.Style{Name: f.Style, Weight: f.Weight, Italic: f.Italic, Variable: f.Variable}
	if !slices.ContainsFunc(g.faces, func(o store.ItemFace) bool { return o.Key == f.Key }) {
		g.faces = append(g.faces, f)
	}
}

// done returns the family with its styles in order, and what it lacks.
func (g *arriving) done() api.DeliveryFamily {
	slices.SortFunc(g.faces, func(a, b store.ItemFace) int {
		return cmp.Or(cmp.Compare(a.Width, b.Width), cmp.Compare(a.Weight, b.Weight), compareBool(a.Italic, b.Italic), cmp.Compare(a.Style, b.Style))
	})
	g.view.Styles = app.Each(g.faces, func(f store.ItemFace) string { return f.Style })
	all := make([]delivery.Style, 0, len(g.styles))
	for _, s := range g.styles {
		all = append(all, s)
	}
	slices.SortFunc(all, func(a, b delivery.Style) int {
		return cmp.Or(cmp.Compare(a.Weight, b.Weight), cmp.Compare(a.Name, b.Name))
	})
	g.view.Warnings = append([]string{}, delivery.Mates(all)...)
	return g.view
}

func compareBool(a, b bool) int {
	switch {
	case a == b:
		return 0
	case b:
		return -1
	}
	return 1
}
