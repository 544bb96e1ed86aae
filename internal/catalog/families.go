package catalog

import (
	"context"
	"errors"
	"slices"

	"sparecrate/api"
	"sparecrate/font/coverage"
	"sparecrate/font/facts"
	"sparecrate/internal/store"
)

// Families gives a page of families by name, those that match all words of q.
func (c *Catalog) Families(ctx context.Context, p *store.Person, q api.ListFamiliesParams) (*api.FamilyPage, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := page(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	var client int64
	if q.Client != nil && *q.Client != "" {
		found, err := c.findClient(ctx, *q.Client)
		if err != nil {
			return nil, err
		}
		client = found.ID
	}
	text := ""
	if q.Q != nil {
		text = *q.Q
	}
	items, err := c.store.Families(ctx, text, client, at)
	if err != nil {
		return nil, err
	}
	items, next := turn(items, at, func(f store.Family) (string, int64) { return f.Name, f.ID })
	licenses, sites, err := c.store.Uses(ctx, each(items, func(f store.Family) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	return &api.FamilyPage{Next: next, Items: each(items, func(f store.Family) api.FamilySummary {
		s := summary(f)
		s.Licenses, s.Sites = licenses[f.ID], sites[f.ID]
		return s
	})}, nil
}

func summary(f store.Family) api.FamilySummary {
	s := api.FamilySummary{Id: f.ID, Name: f.Name, Client: clientRef(f.Client), Origin: api.Origin(f.Origin), Faces: []api.PreviewFace{}}
	worst := -1
	order := []facts.Level{facts.Installable, facts.NotStated, facts.Editable, facts.PreviewPrint, facts.Restricted}
	for _, face := range f.Faces {
		cur := current(face)
		if cur == nil {
			continue
		}
		s.Faces = append(s.Faces, api.PreviewFace{Style: face.Style, Weight: face.Weight, Slope: face.Slope, FileId: cur.FileID, Place: cur.Place, Container: api.Container(cur.File.Container)})
		if s.Sample == "" {
			s.Sample = cur.Facts.Names.SampleText
		}
		if r := slices.Index(order, cur.Facts.Embedding.Level); r > worst {
			worst, s.Permission = r, string(cur.Facts.Embedding.Level)
		}
	}
	return s
}

// current gives the file of a face that packs take.
func current(f store.Face) *store.FaceFile {
	for i := range f.Files {
		if f.Files[i].Current {
			return &f.Files[i]
		}
	}
	return nil
}

// Family gives a family with all that is known of it.
func (c *Catalog) Family(ctx context.Context, p *store.Person, id int64) (*api.Family, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, err := c.store.Family(ctx, id)
	if err != nil {
		return nil, explain(err, "family")
	}
	return c.familyView(ctx, f)
}

func (c *Catalog) familyView(ctx context.Context, f *store.Family) (*api.Family, error) {
	licenses, err := c.store.LicensesOf(ctx, []int64{f.ID})
	if err != nil {
		return nil, err
	}
	sites, err := c.store.SitesOf(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	papers, err := c.store.Papers(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	v := &api.Family{
		Papers: each(papers, paperView),
		Id:     f.ID, Name: f.Name, Client: clientRef(f.Client), Origin: api.Origin(f.Origin), Note: f.Note, Etag: etag(f.Version),
		Licenses: each(licenses, licenseView), Sites: each(sites, func(s store.Site) api.Ref { return api.Ref{Id: s.ID, Name: s.Name} }),
		Faces: []api.Face{},
	}
	var files []store.FaceFile
	for _, face := range f.Faces {
		if cur := current(face); cur != nil {
			files = append(files, *cur)
		}
	}
	containers, err := c.containers(ctx, files)
	if err != nil {
		return nil, err
	}
	for _, face := range f.Faces {
		cur := current(face)
		if cur == nil {
			continue
		}
		v.Faces = append(v.Faces, api.Face{
			Containers: containers[face.ID],
			Id:         face.ID, Style: face.Style, Permission: cur.Facts.Embedding.Words(), Facts: cur.Facts,
			Files: each(face.Files, func(l store.FaceFile) api.File {
				return api.File{
					Id: l.FileID, Name: l.File.Name, Sha256: l.File.SHA256, Bytes: l.File.Bytes, Container: api.Container(l.File.Container),
					Version: l.Version, Current: l.Current, AddedAt: l.File.AddedAt, AddedBy: l.File.AddedBy,
				}
			}),
		})
	}
	return v, nil
}

// Languages gives the names of the languages that facts tell of by code.
func (c *Catalog) Languages(p *store.Person) (*api.LanguageList, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return &api.LanguageList{Items: each(coverage.Codes(), func(code string) api.Language {
		return api.Language{Code: code, Name: coverage.LanguageName(code), Widely: slices.Contains(coverage.Widely, code)}
	})}, nil
}

// ChangeFamily changes origin, client or note.
func (c *Catalog) ChangeFamily(ctx context.Context, p *store.Person, id int64, ifMatch string, ch api.FamilyChange) (*api.Family, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := matched(ifMatch)
	if err != nil {
		return nil, err
	}
	if ch.Origin != nil && !ch.Origin.Valid() {
		return nil, invalid("origin", "bad-origin", "%q is not an origin; choose bought, client, open, commissioned, hosted or unknown.", *ch.Origin)
	}
	if ch.Client != nil {
		if _, err := c.client(ctx, "client", *ch.Client); err != nil {
			return nil, err
		}
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		f, err := tx.Family(ctx, id)
		if err != nil {
			return err
		}
		f.Version = version
		before := "origin " + f.Origin + ", client " + f.Client.Name
		if ch.Origin != nil {
			f.Origin = string(*ch.Origin)
		}
		if ch.Client != nil {
			f.ClientID = *ch.Client
		}
		if ch.Note != nil {
			f.Note = cut(*ch.Note, 5000)
		}
		if err := tx.ChangeFamily(ctx, f); err != nil {
			return err
		}
		if err := index(ctx, tx, id); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed family", f.Name, "was: "+before)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, invalid("client", "name-taken", "That client has a family of this name already.")
	}
	if err != nil {
		return nil, explain(err, "family")
	}
	return c.Family(ctx, p, id)
}
