package licensing

import (
	"context"
	"io"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/documents"
	"sparecrate/internal/license"
	"sparecrate/internal/stated"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
)

// ReadDocument reads the terms that a license document states. Nothing of it is kept.
func ReadDocument(ctx context.Context, c *Licensing, p *store.Person, sent Evidence) (*api.StatedTerms, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	data, err := io.ReadAll(io.LimitReader(sent.Body, c.limits.DocumentBytes+1))
	if err != nil {
		return nil, err
	}
	if int64(len(data)) > c.limits.DocumentBytes {
		return nil, tooLarge(c.limits.DocumentBytes)
	}
	return termsIn(ctx, c, app.FileName(sent.Name), data)
}

// FamilyDocumentTerms reads the terms that a document which came with a family states.
func FamilyDocumentTerms(ctx context.Context, c *Licensing, p *store.Person, id int64) (*api.StatedTerms, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	doc, err := licensedb.In(c.store).FamilyDocument(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "document")
	}
	data, err := c.bucket.Read(ctx, bucket.Hash(doc.SHA256))
	if err != nil {
		return nil, err
	}
	return termsIn(ctx, c, doc.Name, data)
}

// termsIn reads what a document states, and which client and families of the catalog it names.
func termsIn(ctx context.Context, c *Licensing, name string, data []byte) (*api.StatedTerms, error) {
	body, err := documents.Text(ctx, name, data)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err != nil || strings.TrimSpace(body) == "" {
		return nil, app.InvalidField("file", "no-text", "No text can be read in %s: it is a picture, locked, or not a PDF, web page or text file. Enter the terms by hand; it can be kept as evidence all the same.", name)
	}
	clients, err := c.store.Clients(ctx)
	if err != nil {
		return nil, err
	}
	out := &api.StatedTerms{Name: name, Terms: []api.StatedTerm{}, Families: []api.Ref{}, Warnings: []api.Finding{}}
	text := license.Text{Source: name, Body: body}
	for _, s := range stated.Read(text, app.Each(clients, func(c store.Client) string { return c.Name })) {
		one := api.StatedTerm{Field: api.StatedTermField(s.Field), Quote: s.Quote, Where: s.Place}
		if s.Value != "" {
			one.Value = &s.Value
		}
		if s.Open != "" {
			one.Open = &s.Open
		}
		out.Terms = append(out.Terms, one)
		if at := slices.IndexFunc(clients, func(c store.Client) bool { return c.Name == s.Value }); s.Field == stated.Grantee && at >= 0 {
			ref := app.ClientRef(clients[at])
			out.Client = &ref
		}
	}
	found := license.Read(text)
	for _, f := range license.Warnings(found) {
		out.Warnings = append(out.Warnings, api.Finding{Source: f.At(), Quote: f.Quote})
	}
	if all := license.Propose(found); len(all) > 0 && all[0].Confidence > 0.8 {
		out.Spdx = &all[0].License
	}
	names, err := licensedb.In(c.store).FamilyNames(ctx)
	if err != nil {
		return nil, err
	}
	at := stated.NamedIn(body, app.Each(names, func(f store.Family) string { return f.Name }))
	for _, i := range at {
		out.Families = append(out.Families, api.Ref{Id: names[i].ID, Name: names[i].Name})
	}
	return out, nil
}
