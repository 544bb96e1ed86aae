package imports

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"sparecrate/api"
	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/facedb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/importdb"
)

// review knows the catalog as far as a import's things ask for it.
type review struct {
	c        *Imports
	imp      *store.Import
	holders  map[string][]store.Holder     // by hash
	families map[string]*store.FamilyHead  // by client and name, nil for none
	joins    map[string]string             // the family that a name of a client leads to
	twice    map[string]*store.ImportItem  // the first thing with some bytes, by client and hash
	links    map[int64][]store.FaceFile    // the catalog's files by face
	crowded  *importdb.Crowded             // faces that several fonts may be for
	marked   map[string][]store.ImportItem // marked fonts by client, family and face
	groups   map[string]*weighing          // the same, weighed
	prints   map[string]*identity.Print    // of fonts of the import, by hash
	thorough bool                          // it may take long: what is not measured yet is measured
}

func (c *Imports) newReview(ctx context.Context, d *store.Import, items []store.ImportItem) (*review, error) {
	var hashes []string
	for _, it := range items {
		if it.Kind == importdb.ItemFont && (it.Meets == nil || it.Meets.InCatalog) {
			hashes = append(hashes, it.SHA256)
		}
	}
	r := &review{c: c, imp: d, families: map[string]*store.FamilyHead{}, joins: map[string]string{}, twice: map[string]*store.ImportItem{}, holders: map[string][]store.Holder{}, links: map[int64][]store.FaceFile{}, marked: map[string][]store.ImportItem{}, groups: map[string]*weighing{}, prints: map[string]*identity.Print{}}
	found, err := facedb.In(c.store).Holders(ctx, hashes)
	for _, h := range found {
		r.holders[h.SHA256] = append(r.holders[h.SHA256], h)
	}
	return r, err
}

// holder returns who has a font's bytes: its client, else another one; nil where none
// has. What was removed or deleted counts for nobody.
func (r *review) holder(it *store.ImportItem) *store.Holder {
	var other *store.Holder
	all := r.holders[it.SHA256]
	for i := range all {
		h := &all[i]
		switch {
		case h.Removed || h.Status == store.Deleted:
		case h.ClientID == r.client(it).ID:
			return h
		case other == nil:
			other = h
		}
	}
	return other
}

// client returns whom a font is for.
func (r *review) client(it *store.ImportItem) store.Client {
	if it.Client != nil {
		return *it.Client
	}
	return r.imp.Client
}

// family returns the name of the family that a face goes into, and that family
// where it is there.
func (r *review) family(ctx context.Context, it *store.ImportItem, f store.ItemFace) (string, *store.FamilyHead, error) {
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
		if found, err = importdb.In(r.c.store).HeadsByName(ctx, client.ID, name); err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", nil, err
		}
		r.families[key] = found
	}
	return name, found, nil
}

func (c *Imports) itemViews(ctx context.Context, d *store.Import, items []store.ImportItem) ([]api.ImportItem, error) {
	r, err := c.newReview(ctx, d, items)
	if err != nil {
		return nil, err
	}
	out := []api.ImportItem{}
	for i := range items {
		it := &items[i]
		v := api.ImportItem{
			Id: it.ID, Path: it.Path, Kind: api.ImportKind(it.Kind), Bytes: it.Bytes, Why: it.Why, Marked: it.Marked, Taken: it.Taken,
			Faces: []string{}, Problems: append([]string{}, it.Summary.Problems...),
		}
		if it.Kind == importdb.ItemFont {
			if err := r.font(ctx, it, &v); err != nil {
				return nil, err
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// font says what would become of a font, or what became of it.
func (r *review) font(ctx context.Context, it *store.ImportItem, v *api.ImportItem) error {
	client, origin := app.ClientRef(r.client(it)), api.Origin(cmp.Or(it.Origin, r.imp.Origin))
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

// outcome weighs a font against the catalog and the rest of the import: what it is, that
// in a sentence, and whether a person has to decide before it can be taken in.
func (r *review) outcome(ctx context.Context, it *store.ImportItem, name string, family *store.FamilyHead) (api.Outcome, string, bool, error) {
	first, client := it.Summary.Faces[0], r.client(it)
	owners := ""
	if h := r.holder(it); h != nil {
		switch {
		case h.ClientID == client.ID:
			return api.OutcomeSame, fmt.Sprintf("These bytes are in the catalog already, as %s.", h.File), false, nil
		case !it.Marked:
			return api.OutcomeSame, fmt.Sprintf("Duplicate of %s of %s, already in the catalog. Select it to add it for %s, too.", h.File, h.Client, client.Name), false, nil
		}
		owners = fmt.Sprintf(" %s has the same file; each keeps its own licenses, sites and notes.", h.Client)
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
	outcome, why := w.outcome(), w.says(first.Version, it.Summary.Format)
	switch n := len(it.Summary.Faces); {
	case n > 1:
		why = fmt.Sprintf("A collection of %d faces, the first of the family %s.", n, name)
	case outcome == api.OutcomeNew && !w.there && family != nil && len(w.files) == 1:
		why = fmt.Sprintf("New: %s, a style that %s does not have yet.", first.Style, name)
	}
	return outcome, why + owners, w.undecided() && len(it.Summary.Faces) == 1, nil
}
