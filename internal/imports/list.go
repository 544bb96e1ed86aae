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
	"sparecrate/internal/classify"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
	"sparecrate/internal/store/importdb"
)

// A import is what arrived together. Things are put into it one after the other
// (unload.go), looked through here, and the fonts that are marked are taken into
// the catalog (accept.go). Until then nothing of it is in the catalog.

// StartImport opens a import.
func (c *Imports) StartImport(ctx context.Context, p *store.Person, n api.NewImport) (*api.Import, error) {
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
	d := &store.Import{ClientID: owner.ID, Client: *owner, Origin: string(origin), State: importdb.ImportOpen, CreatedAt: c.now(), CreatedBy: p.Name}
	if n.Title != nil {
		d.Title = app.Shorten(strings.TrimSpace(*n.Title), 200)
	}
	if d.Title == "" {
		d.Title = "Import of " + c.now().Format("2 January 2006")
	}
	if err := importdb.In(c.store).AddImport(ctx, d); err != nil {
		return nil, err
	}
	return c.importView(ctx, d, true)
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

// Imports returns a page of imports, newest first.
func (c *Imports) Imports(ctx context.Context, p *store.Person, cursor *string, limit *int) (*api.ImportPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	found, err := importdb.In(c.store).Imports(ctx, at)
	if err != nil {
		return nil, err
	}
	found, next := app.CutPage(found, at, func(d store.Import) (string, int64) { return "", d.ID })
	out := &api.ImportPage{Items: []api.Import{}, Next: next}
	for i := range found {
		v, err := c.importView(ctx, &found[i], false)
		if err != nil {
			return nil, err
		}
		out.Items = append(out.Items, *v)
	}
	return out, nil
}

// Import returns a import with the families in it.
func (c *Imports) Import(ctx context.Context, p *store.Person, id int64) (*api.Import, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := importdb.In(c.store).Import(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "import")
	}
	return c.importView(ctx, d, true)
}

// TurnDown ends a import: what is not taken in stays out, and what is under way
// stops.
func (c *Imports) TurnDown(ctx context.Context, p *store.Person, id int64) (*api.Import, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d, err := importdb.In(tx).Import(ctx, id, true)
		if err != nil {
			return app.Explain(err, "import")
		}
		if d.State == importdb.ImportFinished {
			return app.Problem(app.Conflict, "finished", "There is nothing left to discard in this import.")
		}
		if err := importdb.In(tx).SetImportState(ctx, id, importdb.ImportDiscarded); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "discarded import", d.Title, "")
	})
	if err != nil {
		return nil, err
	}
	return c.Import(ctx, p, id)
}

// openImport returns a import that things may be put into and decided on, locked.
func openImport(ctx context.Context, tx *store.Store, id int64) (*store.Import, error) {
	d, err := importdb.In(tx).Import(ctx, id, true)
	if err != nil {
		return nil, app.Explain(err, "import")
	}
	return d, takesThings(d)
}

// takesThings refuses what cannot be put into a import or decided on.
func takesThings(d *store.Import) error {
	switch d.State {
	case importdb.ImportDiscarded:
		return app.Problem(app.Conflict, "discarded", "This import was discarded. Start a new one.")
	case importdb.ImportAccepting:
		return app.Problem(app.Conflict, "accepting", "Fonts of this import are being added. Wait until that is finished.")
	}
	return nil
}

// ChangeImportItems says of fonts of a import whether they are taken, for
// whom, where they came from, and into which family.
func (c *Imports) ChangeImportItems(ctx context.Context, p *store.Person, id int64, change api.ImportChange) (*api.Import, error) {
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
			return nil, app.InvalidField("settle", "bad-settle", "%q does not resolve a conflict. Choose use for the font of the import, or keep for the other one.", *change.Settle)
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
		return nil, app.InvalidField("", "nothing-changed", "Say what to change: mark, client, origin, family, tags or settle.")
	}
	var items []int64
	if change.Items != nil {
		items = *change.Items
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		if _, err := openImport(ctx, tx, id); err != nil {
			return err
		}
		n, err := importdb.In(tx).ChangeImportItems(ctx, id, items, columns)
		if err != nil {
			return err
		}
		if change.Items != nil && int(n) != len(slices.Compact(slices.Sorted(slices.Values(items)))) {
			return app.InvalidField("items", "not-open", "Only fonts of this import that are not imported yet can be changed; that is true of %d of the %d.", n, len(items))
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return c.Import(ctx, p, id)
}

// ImportItems returns a page of the things of a import, with what would become
// of each.
func (c *Imports) ImportItems(ctx context.Context, p *store.Person, id int64, q api.ListImportItemsParams) (*api.ImportItemPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	d, err := importdb.In(c.store).Import(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "import")
	}
	kind := ""
	if q.Kind != nil && *q.Kind != "" {
		if !q.Kind.Valid() {
			return nil, app.InvalidField("kind", "bad-kind", "%q is not a kind of file. Choose font, document, archive, left-out or refused.", *q.Kind)
		}
		kind = string(*q.Kind)
	}
	items, err := importdb.In(c.store).ImportItems(ctx, id, kind, at)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(it store.ImportItem) (string, int64) { return "", it.ID })
	views, err := c.itemViews(ctx, d, items)
	return &api.ImportItemPage{Items: views, Next: next}, err
}

// importView returns a import, with the families in it where whole is set.
func (c *Imports) importView(ctx context.Context, d *store.Import, whole bool) (*api.Import, error) {
	v := &api.Import{
		Id: d.ID, Title: d.Title, Client: app.ClientRef(d.Client), Origin: api.Origin(d.Origin), State: api.ImportState(d.State),
		CreatedAt: d.CreatedAt, CreatedBy: d.CreatedBy, Families: []api.ImportFamily{},
	}
	counts, err := importdb.In(c.store).CountImportItems(ctx, d.ID)
	if err != nil {
		return nil, err
	}
	for _, n := range counts {
		if n.Kind != importdb.ItemArchive { // what it holds is counted
			v.Bytes += n.Bytes
		}
		switch n.Kind {
		case importdb.ItemFont:
			v.Counts.Fonts, v.Counts.Marked, v.Counts.Taken = n.Count, n.Marked, n.Taken
		case importdb.ItemDocument:
			v.Counts.Documents = n.Count
		case importdb.ItemLeftOut:
			v.Counts.LeftOut = n.Count
		case importdb.ItemRefused:
			v.Counts.Refused = n.Count
		}
	}
	if d.State != importdb.ImportDiscarded {
		packed, err := importdb.In(c.store).Unpacking(ctx, d.ID)
		if err != nil {
			return nil, err
		}
		v.Unpacking = len(packed)
	}
	if whole {
		page, err := c.importFamilies(ctx, d, store.Page{Limit: app.DefaultPage + 1})
		if err != nil {
			return nil, err
		}
		v.Families, v.NextFamilies = page.Items, page.Next
	}
	return v, nil
}

// ImportFamilies returns a page of the families that marked and taken fonts of a
// import make up, in the order of the names that the fonts say.
func (c *Imports) ImportFamilies(ctx context.Context, p *store.Person, id int64, cursor *string, limit *int) (*api.ImportFamilyPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	d, err := importdb.In(c.store).Import(ctx, id, false)
	if err != nil {
		return nil, app.Explain(err, "import")
	}
	return c.importFamilies(ctx, d, at)
}

// arriving is a family as it would be.
type arriving struct {
	view   api.ImportFamily
	styles map[string]classify.Style // by the face's key
	faces  []store.ItemFace
}

// importFamilies returns a page of families as they would be: the first has those that
// people gave fonts, too. It reads one font of each face, however many there are.
func (c *Imports) importFamilies(ctx context.Context, d *store.Import, at store.Page) (*api.ImportFamilyPage, error) {
	out := &api.ImportFamilyPage{Items: []api.ImportFamily{}}
	names, err := importdb.In(c.store).ArrivedNames(ctx, d.ID, at)
	if err != nil {
		return nil, err
	}
	names, out.Next = app.CutPage(names, at, func(name string) (string, int64) { return name, 1 })
	items, err := importdb.In(c.store).ArrivedFaces(ctx, d.ID, names)
	if err != nil {
		return nil, err
	}
	if at.AfterID == 0 {
		more, err := importdb.In(c.store).ArrivedOtherwise(ctx, d.ID)
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
	slices.SortFunc(out.Items, func(a, b api.ImportFamily) int {
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Client.Id, b.Client.Id))
	})
	return out, nil
}

func newArriving(name string, client store.Client, family *store.FamilyHead) *arriving {
	g := &arriving{view: api.ImportFamily{Name: name, Client: app.ClientRef(client)}, styles: map[string]classify.Style{}}
	if family != nil {
		g.view.Family = &api.Ref{Id: family.ID, Name: family.Name}
		for _, face := range family.Faces {
			g.styles[face.FaceKey] = classify.Style{Name: face.Style, Weight: face.Weight, Italic: face.Slope != "upright", Variable: face.Variable}
		}
	}
	return g
}

func (g *arriving) add(f store.ItemFace) {
	g.styles[f.Key] = classify.Style{Name: f.Style, Weight: f.Weight, Italic: f.Italic, Variable: f.Variable}
	if !slices.ContainsFunc(g.faces, func(o store.ItemFace) bool { return o.Key == f.Key }) {
		g.faces = append(g.faces, f)
	}
}

// done returns the family with its styles in order, and what it lacks.
func (g *arriving) done() api.ImportFamily {
	slices.SortFunc(g.faces, func(a, b store.ItemFace) int {
		return cmp.Or(cmp.Compare(a.Width, b.Width), cmp.Compare(a.Weight, b.Weight), compareBool(a.Italic, b.Italic), cmp.Compare(a.Style, b.Style))
	})
	g.view.Styles = app.Each(g.faces, func(f store.ItemFace) string { return f.Style })
	all := make([]classify.Style, 0, len(g.styles))
	for _, s := range g.styles {
		all = append(all, s)
	}
	slices.SortFunc(all, func(a, b classify.Style) int {
		return cmp.Or(cmp.Compare(a.Weight, b.Weight), cmp.Compare(a.Name, b.Name))
	})
	g.view.Warnings = append([]string{}, classify.Mates(all)...)
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
