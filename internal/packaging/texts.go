package packaging

import (
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// licensesOf are the licenses of a family as a pack names them; where none of an open kind
// is recorded, the one that its own words point to.
func licensesOf(u *usage.SiteFamily) []pack.License {
	out := app.Each(u.Licenses, func(l store.License) pack.License {
		one := pack.License{Name: usage.LicenseName(l), SPDX: l.SPDX}
		if at := slices.IndexFunc(u.Open, func(p license.Proposal) bool { return p.License == l.SPDX }); at >= 0 {
			one.Reserved = u.Open[at].Reserved
		}
		return one
	})
	recorded := slices.ContainsFunc(u.Licenses, func(l store.License) bool { return l.Kind == string(api.KindOpen) })
	if !recorded && len(u.Open) > 0 {
		p := u.Open[0]
		out = append(out, pack.License{Name: p.Title + ", as the font itself says; not confirmed", SPDX: p.License, Reserved: p.Reserved, Unconfirmed: true})
	}
	return out
}

// licenseTexts gives the licenses of a packing their texts: the documents kept of them, the
// documents that came with the families and what the fonts hold of them, else the standard text.
func (c *Packaging) licenseTexts(ctx context.Context, p *packing, d *usage.Site) error {
	var families, licenses []int64
	for i := range d.Uses {
		families = append(families, d.Uses[i].Family.ID)
		for _, l := range d.Uses[i].Licenses {
			licenses = append(licenses, l.ID)
		}
	}
	kept, err := licensedb.In(c.store).TextsOf(ctx, families, licenses)
	if err != nil {
		return err
	}
	for i := range d.Uses {
		u, f := &d.Uses[i], &p.Families[i]
		for k := range f.Licenses {
			one := &f.Licenses[k]
			var texts []license.Text
			var documents []license.Text // of this license alone
			for _, t := range kept {
				switch {
				case k < len(u.Licenses) && t.LicenseID == u.Licenses[k].ID:
					documents = append(documents, license.Text{Source: t.Name, Body: t.Body})
				case t.FamilyID == u.Family.ID:
					texts = append(texts, license.Text{Source: t.Name, Body: t.Body})
				}
			}
			texts = append(slices.Clone(documents), texts...)
			for _, face := range u.Family.Faces {
				if cur := face.Current(); cur != nil {
					texts = append(texts, license.Text{Source: "name record 13", Body: cur.Metadata.Names.License})
				}
			}
			switch {
			case license.FullText(one.SPDX) != "":
				found := license.TextFor(one.SPDX, texts)
				one.Text, one.Source = found.Body, found.Source
			case len(documents) > 0 && one.SPDX != "": // one that only this studio knows
				one.Text, one.Source = documents[0].Body, documents[0].Source
			}
		}
	}
	return nil
}
