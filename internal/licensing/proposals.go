package licensing

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// OpenLicenses returns the open licenses that are recognised.
func (c *Licensing) OpenLicenses(p *store.Person) (*api.OpenLicenseList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return &api.OpenLicenseList{Items: app.Each(license.KnownLicenses, func(k license.Known) api.OpenLicense {
		return api.OpenLicense{Spdx: k.ID, Title: k.Title, Copies: k.Copies}
	})}, nil
}

// said returns what the files of a family and the documents beside them say of a license.
func (c *Licensing) said(ctx context.Context, id int64) (found []license.Finding, covered []store.License, err error) {
	s, err := c.usage.Weigh(ctx, []int64{id})
	if err != nil {
		return nil, nil, err
	}
	return s.Said(id), s.LicensesOf(id), nil
}

// Proposals returns the open licenses that a family seems to be under, and what warns.
func (c *Licensing) Proposals(ctx context.Context, p *store.Person, id int64) (*api.ProposalList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := familydb.In(c.store).Family(ctx, id); err != nil {
		return nil, app.Explain(err, "family")
	}
	found, covered, err := c.said(ctx, id)
	if err != nil {
		return nil, err
	}
	beside, err := licensedb.In(c.store).FamilyDocuments(ctx, id)
	if err != nil {
		return nil, err
	}
	view := func(f license.Finding) api.Finding {
		v := api.Finding{Source: f.At(), Quote: f.Quote}
		if f.Signal != "" {
			signal := string(f.Signal)
			v.Signal, v.Phrase = &signal, &f.Phrase
		}
		if i := slices.IndexFunc(beside, func(p store.FamilyDocument) bool { return p.Name == f.Source }); i >= 0 {
			v.FamilyDocument = &beside[i].ID
		}
		return v
	}
	out := &api.ProposalList{Items: []api.Proposal{}, Warnings: app.Each(license.Warnings(found), view)}
	for _, one := range license.Propose(found) {
		v := api.Proposal{Spdx: one.License, Title: one.Title, Copies: one.Copies, Confidence: float32(one.Confidence), Findings: app.Each(one.Findings, view), Reserved: append([]string{}, one.Reserved...)}
		if i := slices.IndexFunc(covered, func(l store.License) bool { return l.SPDX == one.License }); i >= 0 {
			v.License = &api.Ref{Id: covered[i].ID, Name: usage.LicenseName(covered[i])}
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// Confirm records an open license that a person has looked at. Its evidence is the
// document that says so where there is one, else the words of the font itself.
func (c *Licensing) Confirm(ctx context.Context, p *store.Person, id int64, n api.Confirmation) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	f, err := familydb.In(c.store).Family(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	found, covered, err := c.said(ctx, id)
	if err != nil {
		return nil, err
	}
	all := license.Propose(found)
	i := slices.IndexFunc(all, func(one license.Proposal) bool { return one.License == n.Spdx })
	if i < 0 {
		return nil, app.InvalidField("spdx", "not-proposed", "Nothing in %s mentions %s. Record the license by hand, with its document.", f.Name, n.Spdx)
	}
	one := all[i]
	if slices.ContainsFunc(covered, func(l store.License) bool { return l.SPDX == n.Spdx && l.Kind == string(api.KindOpen) }) {
		return nil, app.Problem(app.Conflict, "confirmed-already", "%s is recorded under %s already.", f.Name, n.Spdx)
	}
	client, err := c.store.Studio(ctx)
	if err != nil {
		return nil, err
	}
	terms := api.LicenseTerms{Kind: api.KindOpen, GrantedTo: client.ID, Spdx: &one.License, Licensor: &f.Foundry, Reference: &one.Title, Families: []int64{id}, Note: n.Note,
		Uses: app.Each(license.Uses, func(u license.Use) api.Use { return api.Use(u) })}
	if terms.Note == nil && len(one.Reserved) > 0 {
		note := "Reserved for the unchanged font: " + strings.Join(one.Reserved, ", ") + "."
		terms.Note = &note
	}
	terms.Changes = &api.LicensedChanges{}
	for change, to := range map[license.Change]**api.Consent{license.Subset: &terms.Changes.Subset, license.Outlines: &terms.Changes.Outlines, license.Name: &terms.Changes.Name} {
		if said := api.Consent(one.Changes[change]); said != "" {
			*to = &said
		}
	}
	added, err := c.AddLicense(ctx, p, terms)
	if err != nil {
		return nil, err
	}
	beside, err := licensedb.In(c.store).FamilyDocuments(ctx, id)
	if err != nil {
		return nil, err
	}
	kept := map[string]bool{}
	for _, says := range one.Findings {
		for _, doc := range beside {
			if doc.Name == says.Source && !kept[doc.SHA256] {
				kept[doc.SHA256] = true
				if _, err := c.AttachFamilyDocument(ctx, p, added.Id, doc.ID); err != nil {
					return nil, err
				}
			}
		}
	}
	if len(kept) == 0 {
		if _, err := c.AddDocument(ctx, p, added.Id, f.Name+" - what the font says.txt", c.spoken(f, one)); err != nil {
			return nil, err
		}
	}
	return c.License(ctx, p, added.Id)
}

// spoken writes down what a family's fonts say of their license, with their hashes.
func (c *Licensing) spoken(f *store.Family, one license.Proposal) io.Reader {
	var b strings.Builder
	fmt.Fprintf(&b, "%s: %s (%s)\n\n", f.Name, one.Title, one.License)
	for _, says := range one.Findings {
		fmt.Fprintf(&b, "%s: “%s”\n", says.At(), says.Quote)
	}
	for _, face := range f.Faces {
		cur := face.Current()
		if cur == nil {
			continue
		}
		fmt.Fprintf(&b, "\n%s, %s, SHA-256 %s\n", cur.Metadata.Names.Full, cur.File.Name, cur.File.SHA256)
		for _, r := range []struct{ what, text string }{{"Copyright", cur.Metadata.Names.Copyright}, {"License", cur.Metadata.Names.License}, {"License address", cur.Metadata.Names.LicenseURL}} {
			if r.text != "" {
				fmt.Fprintf(&b, "%s: %s\n", r.what, r.text)
			}
		}
	}
	return strings.NewReader(b.String())
}
