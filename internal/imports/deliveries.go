package imports

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/delivery"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
	"sparecrate/internal/store/deliverydb"
	"sparecrate/internal/store/facedb"
	"sparecrate/internal/store/familydb"
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

// review knows the catalog as far as a delivery's things ask for it.
type review struct {
	c        *Imports
	delivery *store.Delivery
	holders  map[string][]store.Holder       // by hash
	families map[string]*store.FamilyHead    // by client and name, nil for none
	joins    map[string]string               // the family that a name of a client leads to
	twice    map[string]*store.DeliveryItem  // the first thing with some bytes, by client and hash
	links    map[int64][]store.FaceFile      // the catalog's files by face
	crowded  *deliverydb.Crowded             // faces that several fonts may be for
	marked   map[string][]store.DeliveryItem // marked fonts by client, family and face
	groups   map[string]*weighing            // the same, weighed
	prints   map[string]*identity.Print      // of fonts of the delivery, by hash
	thorough bool                            // it may take long: what is not measured yet is measured
}

func (c *Imports) newReview(ctx context.Context, d *store.Delivery, items []store.DeliveryItem) (*review, error) {
	var hashes []string
	for _, it := range items {
		if it.Kind == deliverydb.ItemFont && (it.Meets == nil || it.Meets.InCatalog) {
			hashes = append(hashes, it.SHA256)
		}
	}
	r := &review{c: c, delivery: d, families: map[string]*store.FamilyHead{}, joins: map[string]string{}, twice: map[string]*store.DeliveryItem{}, holders: map[string][]store.Holder{}, links: map[int64][]store.FaceFile{}, marked: map[string][]store.DeliveryItem{}, groups: map[string]*weighing{}, prints: map[string]*identity.Print{}}
	found, err := facedb.In(c.store).Holders(ctx, hashes)
	for _, h := range found {
		r.holders[h.SHA256] = append(r.holders[h.SHA256], h)
	}
	return r, err
}

// holder returns who has a font's bytes: its client, else another one; nil where none
// has. What was removed or deleted counts for nobody.
func (r *review) holder(it *store.DeliveryItem) *store.Holder {
	var other *store.Holder
	all := r.holders[it.SHA256]
	for i := range all {
		h := &all[i]
		switch {
		case h.Removed || h.Shelf == store.Deleted:
		case h.ClientID == r.client(it).ID:
			return h
		case other == nil:
			other = h
		}
	}
	return other
}

// client returns whom a font is for.
func (r *review) client(it *store.DeliveryItem) store.Client {
	if it.Client != nil {
		return *it.Client
	}
	return r.delivery.Client
}

// family returns the name of the family that a face goes into, and that family
// where it is there.
func (r *review) family(ctx context.Context, it *store.DeliveryItem, f store.ItemFace) (string, *store.FamilyHead, error) {
	client := r.client(it)
	name := it.Family
	if it.Meets != nil && !it.Meets.Named {
		return f.Family, nil, nil // it has just come
	}
	if name == "" {
		key := fmt.Sprintf("%d %s", client.ID, f.Family)
		if _, known := r.joins[key]; !known {
			r.joins[key] = f.Family
			remembered, err := familydb.In(r.c.store).RememberedFamily(ctx, client.ID, f.Family)
			if err == nil {
				r.joins[key] = remembered.Name
			} else if !errors.Is(err, store.ErrNotFound) {
				return "", nil, err
			}
		}
		name = r.joins[key]
	}
	key := fmt.Sprintf("%d %s", client.ID, strings.ToLower(name))
	found, known := r.families[key]
	if !known {
		var err error
		if found, err = deliverydb.In(r.c.store).HeadsByName(ctx, client.ID, name); err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", nil, err
		}
		r.families[key] = found
	}
	return name, found, nil
}

func (c *Imports) itemViews(ctx context.Context, d *store.Delivery, items []store.DeliveryItem) ([]api.DeliveryItem, error) {
	r, err := c.newReview(ctx, d, items)
	if err != nil {
		return nil, err
	}
	out := []api.DeliveryItem{}
	for i := range items {
		it := &items[i]
		v := api.DeliveryItem{
			Id: it.ID, Path: it.Path, Kind: api.DeliveryKind(it.Kind), Bytes: it.Bytes, Why: it.Why, Marked: it.Marked, Taken: it.Taken,
			Faces: []string{}, Problems: append([]string{}, it.Summary.Problems...),
		}
		if it.Kind == deliverydb.ItemFont {
			if err := r.font(ctx, it, &v); err != nil {
				return nil, err
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// font says what would become of a font, or what became of it.
func (r *review) font(ctx context.Context, it *store.DeliveryItem, v *api.DeliveryItem) error {
	client, origin := app.ClientRef(r.client(it)), api.Origin(cmp.Or(it.Origin, r.delivery.Origin))
	v.Client, v.Origin = &client, &origin
	first := it.Summary.Faces[0]
	for _, f := range it.Summary.Faces {
		v.Faces = append(v.Faces, f.Style)
	}
	if first.Version != "" {
		v.Version = &first.Version
	}
	name, family, err := r.family(ctx, it, first)
	if err != nil {
		return err
	}
	v.Family = &name
	if name != first.Family {
		moved := true
		v.Moved = &moved
	}
	if it.Taken {
		outcome := api.Outcome(it.Outcome)
		v.Outcome, v.FamilyId = &outcome, it.FamilyID
		return nil
	}
	if family != nil {
		v.FamilyId = &family.ID
	}
	if h := r.holder(it); h != nil && (h.ClientID == r.client(it).ID || !it.Marked) {
		v.Family, v.FamilyId, v.Moved = &h.Family, &h.FamilyID, nil
	}
	outcome, why, undecided, err := r.outcome(ctx, it, name, family)
	if err != nil {
		return err
	}
	if it.Summary.Part != "" {
		why = fmt.Sprintf("It was served for %s. %s", it.Summary.Part, why)
	}
	v.Outcome, v.Why = &outcome, why
	if undecided {
		v.Undecided = &undecided
	}
	if len(it.Tags) > 0 {
		v.Tags = &it.Tags
	}
	if it.Settle != "" {
		settle := api.Settle(it.Settle)
		v.Settle = &settle
	}
	return nil
}

// outcome weighs a font against the catalog and the rest of the delivery: what it is, that
// in a sentence, and whether a person has to decide before it can be taken in.
func (r *review) outcome(ctx context.Context, it *store.DeliveryItem, name string, family *store.FamilyHead) (api.Outcome, string, bool, error) {
	first, client := it.Summary.Faces[0], r.client(it)
	owners := ""
	if h := r.holder(it); h != nil {
		switch {
		case h.ClientID == client.ID:
			return api.OutcomeSame, fmt.Sprintf("These bytes are in the catalog already, as %s.", h.File), false, nil
		case !it.Marked:
			return api.OutcomeSame, fmt.Sprintf("These bytes are in the catalog already, as %s of %s. Mark it to record it for %s, too.", h.File, h.Client, client.Name), false, nil
		}
		owners = fmt.Sprintf(" %s has these bytes, too; each keeps licenses, sites and notes of its own.", h.Client)
	}
	key := fmt.Sprintf("%d %s", client.ID, it.SHA256)
	if before := r.twice[key]; before != nil {
		return api.OutcomeSame, fmt.Sprintf("The same bytes as %s.", before.Path), false, nil
	}
	r.twice[key] = it
	w, err := r.weighed(ctx, it, name, family)
	if err != nil {
		return "", "", false, err
	}
	outcome, why := w.outcome(), w.says(first.Version, it.Summary.Container)
	switch n := len(it.Summary.Faces); {
	case n > 1:
		why = fmt.Sprintf("A collection of %d faces, the first of the family %s.", n, name)
	case outcome == api.OutcomeNew && !w.there && family != nil && len(w.files) == 1:
		why = fmt.Sprintf("New: %s, a style that %s does not have yet.", first.Style, name)
	}
	return outcome, why + owners, w.undecided() && len(it.Summary.Faces) == 1, nil
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
