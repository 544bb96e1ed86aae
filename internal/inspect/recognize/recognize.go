// Package recognize finds out which fonts of a catalog published pages load, and whether
// they may be there. What the catalog answers is handed in, so that both the service and
// its client can ask.
package recognize

import (
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/origin"
)

// Catalog is what is asked.
type Catalog interface {
	// Alike returns the faces that draw what a font file draws, the nearest first; none
	// where nothing that it draws can be measured.
	Alike(ctx context.Context, format string, font []byte) ([]api.Alike, error)
	// Hosted returns families of a name that somebody else's server hosts.
	Hosted(ctx context.Context, name string) ([]api.FamilySummary, error)
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
	seen    map[string]*inspect.Known // by SHA-256, and the server where that is somebody else's
}

// New returns fonts that are looked up in a catalog, for a site or, with nil, for none.
func New(c Catalog, site *Site) *Fonts {
	return &Fonts{catalog: c, site: site, seen: map[string]*inspect.Known{}}
}

// Known looks each font up that a page loaded.
func (f *Fonts) Known(ctx context.Context, v *inspect.Visit) error {
	for _, r := range v.Sent() {
		if r.Font.Known == nil {
			host := ""
			if u, err := url.Parse(r.URL); err == nil && origin.OtherServer(v.Final, r.URL) {
				host = u.Host
			}
			k, err := f.one(ctx, r, host)
			if err != nil {
				return err
			}
			r.Font.Known = k
		}
	}
	return nil
}

// one looks a font up; host is the server that it comes from, where that is somebody else's.
func (f *Fonts) one(ctx context.Context, r *inspect.Request, host string) (*inspect.Known, error) {
	key := r.Font.SHA256 + " " + host
	if k := f.seen[key]; k != nil {
		return k, nil
	}
	k := &inspect.Known{}
	hosted, err := f.hosted(ctx, r, host, k)
	if err != nil {
		return nil, err
	}
	if !hosted {
		if err := f.drawn(ctx, r, host, k); err != nil {
			return nil, err
		}
	}
	f.seen[key] = k
	return k, nil
}

// hosted looks for a family that the catalog has as hosted by the server that a font comes from.
func (f *Fonts) hosted(ctx context.Context, r *inspect.Request, host string, k *inspect.Known) (bool, error) {
	name := r.Font.Metadata.Names.FamilyName()
	if host == "" || name == "" {
		return false, nil
	}
	found, err := f.catalog.Hosted(ctx, name)
	if err != nil {
		return false, err
	}
	at := slices.IndexFunc(found, func(s api.FamilySummary) bool {
		return strings.EqualFold(s.Name, name) && slices.ContainsFunc(s.Hosts, func(h string) bool {
			return !origin.OtherServer("https://"+h, "https://"+host)
		})
	})
	if at < 0 {
		return false, nil
	}
	k.Family, k.FamilyName, k.Style, k.Relation, k.Client = found[at].Id, found[at].Name, r.Font.Metadata.Names.StyleName(), "hosted", found[at].Client.Name
	k.Why = fmt.Sprintf("A family that the catalog has as hosted by %s.", host)
	return true, f.weigh(ctx, k, api.GetVerdictParams{}, api.UseWebHosted)
}

// drawn looks for the face that draws what a font draws.
func (f *Fonts) drawn(ctx context.Context, r *inspect.Request, host string, k *inspect.Known) error {
	found, err := f.catalog.Alike(ctx, r.Font.Format, r.Body)
	if err != nil {
		return err
	}
	of := f.nearest(found)
	if of == nil {
		return nil
	}
	k.Family, k.Face, k.FamilyName, k.Style, k.Relation, k.Why, k.Client = of.Family.Id, of.Face, of.Family.Name, of.Style, string(of.Relation), of.Why, of.Client
	k.File = of.Exact != nil && *of.Exact
	ask := api.GetVerdictParams{Face: &of.Face}
	if of.Relation == api.RelationPart {
		ask.Change = &[]api.GetVerdictParamsChange{api.ChangeSubset}
	}
	if host != "" { // a server of the client's own under another name sends as the site does
		return f.weigh(ctx, k, ask, api.UseWebHosted, api.UseWeb)
	}
	return f.weigh(ctx, k, ask, api.UseWeb)
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

// weigh asks whether a family may be on the page in one of some uses.
func (f *Fonts) weigh(ctx context.Context, k *inspect.Known, ask api.GetVerdictParams, uses ...api.Use) error {
	if f.site != nil {
		ask.Site = &f.site.ID
	}
	for i := range uses {
		ask.Use = &uses[i]
		verdict, err := f.catalog.Verdict(ctx, k.Family, ask)
		if err != nil {
			return err
		}
		switch {
		case verdict.MayGoOut:
			k.Verdict = "cleared"
		case verdict.State == api.Blocked:
			k.Verdict = "blocked"
		default:
			k.Verdict = "review"
		}
		k.Reasons = []string{}
		for _, r := range verdict.Reasons {
			if r.State != api.Cleared {
				k.Reasons = append(k.Reasons, r.Message)
			}
		}
		if verdict.MayGoOut {
			break
		}
	}
	k.OtherClient = f.site != nil && k.Client != f.site.Client && k.Verdict != "cleared"
	return nil
}
