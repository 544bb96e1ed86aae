// Package recognize finds out which fonts of a catalog published pages load, and whether
// they may be there. What the catalog answers is handed in, so that both the service and
// its client can ask.
package recognize

import (
	"context"

	"sparecrate/api"
	"sparecrate/internal/inspect"
)

// Catalog is what is asked.
type Catalog interface {
	// Alike returns the faces that draw what a font file draws, the nearest first; none
	// where nothing that it draws can be measured.
	Alike(ctx context.Context, container string, font []byte) ([]api.Alike, error)
	// Verdict says whether a family may be used.
	Verdict(ctx context.Context, family int64, q api.GetVerdictParams) (*api.Verdict, error)
}

// Site is the site that pages are of.
type Site struct {
	ID     int64
	Client string
}

// Fonts are the fonts of pages that were looked up. It is for one goroutine.
type Fonts struct {
	catalog Catalog
	site    *Site
	seen    map[string]*inspect.Known // by SHA-256
}

// New returns fonts that are looked up in a catalog, for a site or, with nil, for none.
func New(c Catalog, site *Site) *Fonts {
	return &Fonts{catalog: c, site: site, seen: map[string]*inspect.Known{}}
}

// Known looks each font up that a page loaded.
func (f *Fonts) Known(ctx context.Context, v *inspect.Visit) error {
	for _, r := range v.Sent() {
		if r.Font.Known == nil {
			k, err := f.one(ctx, r)
			if err != nil {
				return err
			}
			r.Font.Known = k
		}
	}
	return nil
}

func (f *Fonts) one(ctx context.Context, r *inspect.Request) (*inspect.Known, error) {
	if k := f.seen[r.Font.SHA256]; k != nil {
		return k, nil
	}
	found, err := f.catalog.Alike(ctx, r.Font.Container, r.Body)
	if err != nil {
		return nil, err
	}
	k := &inspect.Known{}
	if of := f.nearest(found); of != nil {
		k.Family, k.Face, k.FamilyName, k.Style, k.Relation, k.Why, k.Client = of.Family.Id, of.Face, of.Family.Name, of.Style, string(of.Relation), of.Why, of.Client
		k.File = of.Exact != nil && *of.Exact
		if err := f.weigh(ctx, k, of); err != nil {
			return nil, err
		}
	}
	f.seen[r.Font.SHA256] = k
	return k, nil
}

// nearest returns the face that a font is of: of those as near, one of the site's client.
func (f *Fonts) nearest(found []api.Alike) *api.Alike {
	var out *api.Alike
	for i := range found {
		a := &found[i]
		if a.Relation == api.RelationDifferent {
			continue
		}
		if out == nil || a.Relation == out.Relation && f.site != nil && a.Client == f.site.Client && out.Client != a.Client {
			out = a
		}
	}
	return out
}

// weigh asks whether a family may be on the page.
func (f *Fonts) weigh(ctx context.Context, k *inspect.Known, of *api.Alike) error {
	use := api.UseWeb
	ask := api.GetVerdictParams{Use: &use, Face: &of.Face}
	if of.Relation == api.RelationPart {
		ask.Change = &[]api.GetVerdictParamsChange{api.ChangeSubset}
	}
	if f.site != nil {
		ask.Site = &f.site.ID
	}
	verdict, err := f.catalog.Verdict(ctx, of.Family.Id, ask)
	if err != nil {
		return err
	}
	switch {
	case verdict.MayGoOut:
		k.Verdict = "cleared"
	case verdict.State == api.Barred:
		k.Verdict = "blocked"
	default:
		k.Verdict = "review"
	}
	k.Reasons = []string{}
	for _, r := range verdict.Reasons {
		if r.State != api.Clear {
			k.Reasons = append(k.Reasons, r.Message)
		}
	}
	k.OtherClient = f.site != nil && of.Client != f.site.Client && k.Verdict != "cleared"
	return nil
}
