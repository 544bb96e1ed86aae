package licensing

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/scope"
	"sparecrate/internal/usage"
)

// Licenses returns a page of the register, newest first.
func (c *Licensing) Licenses(ctx context.Context, p *store.Person, cursor *string, limit *int, client *int64) (*api.LicensePage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	items, err := licensedb.In(c.store).Licenses(ctx, at, client)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(l store.License) (string, int64) { return "", l.ID })
	views, err := c.licenseViews(ctx, items)
	if err != nil {
		return nil, err
	}
	return &api.LicensePage{Items: views, Next: next}, nil
}

// License returns a license.
func (c *Licensing) License(ctx context.Context, p *store.Person, id int64) (*api.License, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	v, err := c.licenseViews(ctx, []store.License{*l})
	if err != nil {
		return nil, err
	}
	return &v[0], nil
}

// AddLicense records a license.
func (c *Licensing) AddLicense(ctx context.Context, p *store.Person, t api.LicenseTerms) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	l, err := c.terms(ctx, t)
	if err != nil {
		return nil, err
	}
	l.Version, l.CreatedAt, l.CreatedBy = 1, c.now(), p.Name
	c.approvedBy(p, l)
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		l.ID = 0
		if err := licensedb.In(tx).AddLicense(ctx, l, t.Families); err != nil {
			return err
		}
		if err := c.keepVersion(ctx, tx, p, l); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "recorded license", usage.LicenseName(*l), describe(*l))
	})
	if err != nil {
		return nil, err
	}
	return c.License(ctx, p, l.ID)
}

// ChangeLicense replaces a license's terms; the ones before are kept in the activity.
func (c *Licensing) ChangeLicense(ctx context.Context, p *store.Person, id int64, ifMatch string, t api.LicenseTerms) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	l, err := c.terms(ctx, t)
	if err != nil {
		return nil, err
	}
	l.ID, l.Version = id, version
	c.approvedBy(p, l)
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		before, err := licensedb.In(tx).License(ctx, id)
		if err != nil {
			return err
		}
		if err := c.keepFirst(ctx, tx, before); err != nil {
			return err
		}
		families := t.Families
		if scope.Of(ctx) != nil { // what it covers that whoever changes it does not see stays covered
			whole, err := licensedb.In(tx).License(scope.Everything(ctx), id)
			if err != nil {
				return err
			}
			for _, f := range whole.Families {
				if !slices.ContainsFunc(before.Families, func(seen store.Family) bool { return seen.ID == f.ID }) {
					families = append(families, f.ID)
				}
			}
		}
		if !p.Prices {
			l.Price, l.Currency = before.Price, before.Currency
		}
		if err := licensedb.In(tx).ChangeLicense(ctx, l, families); err != nil {
			return err
		}
		changed := *l
		changed.Version++
		if err := c.keepVersion(ctx, tx, p, &changed); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed license", usage.LicenseName(*l), "was: "+describe(*before)+"; now: "+describe(*l))
	})
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	return c.License(ctx, p, id)
}

// approvedBy marks terms that an admin writes as approved. Those of an editor are not:
// what a font itself forbids they allow once an admin has approved them.
func (c *Licensing) approvedBy(p *store.Person, l *store.License) {
	if app.Require(p, api.RoleAdmin) == nil {
		now := c.now()
		l.ApprovedAt, l.ApprovedBy = &now, p.Name
	}
}

// ApproveLicense lets a license allow what fonts themselves forbid. It is for the terms
// that the admin saw.
func (c *Licensing) ApproveLicense(ctx context.Context, p *store.Person, id int64, ifMatch string) (*api.License, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		l, err := licensedb.In(tx).License(ctx, id)
		if err != nil {
			return err
		}
		if err := c.keepFirst(ctx, tx, l); err != nil {
			return err
		}
		if err := licensedb.In(tx).ApproveLicense(ctx, id, version, p.Name, c.now()); err != nil {
			return err
		}
		l.Version++
		if err := c.keepVersion(ctx, tx, p, l); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "approved license", usage.LicenseName(*l), describe(*l))
	})
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	return c.License(ctx, p, id)
}

// terms checks what was sent and turns it into a record.
func (c *Licensing) terms(ctx context.Context, t api.LicenseTerms) (*store.License, error) {
	if !t.Kind.Valid() {
		return nil, app.InvalidField("kind", "bad-kind", "%q is not a kind of license; choose bought, client, open or commissioned.", t.Kind)
	}
	client, err := app.OpenClientOf(ctx, c.store, "grantedTo", t.GrantedTo)
	if err != nil {
		return nil, err
	}
	l := &store.License{Kind: string(t.Kind), GrantedToID: client.ID, GrantedTo: *client, Begins: app.DateOf(t.From), Ends: app.DateOf(t.Until)}
	if len(t.Uses) == 0 {
		return nil, app.InvalidField("uses", "no-use", "Say what the license allows: at least one of web, web-hosted, desktop, app, document, server.")
	}
	for _, u := range t.Uses {
		if !u.Valid() {
			return nil, badUse("uses", u)
		}
		if !slices.Contains(l.Uses, string(u)) {
			l.Uses = append(l.Uses, string(u))
		}
	}
	if l.Begins != nil && l.Ends != nil && l.Ends.Before(*l.Begins) {
		return nil, app.InvalidField("until", "ends-before-start", "The license ends on %s, before it begins on %s. Correct one of the days.",
			l.Ends.Format(time.DateOnly), l.Begins.Format(time.DateOnly))
	}
	if len(t.Families) == 0 {
		return nil, app.InvalidField("families", "no-family", "Say which families the license covers.")
	}
	for _, id := range t.Families {
		f, err := familydb.In(c.store).Family(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			return nil, app.InvalidField("families", "unknown-family", "There is no family with the number %d.", id)
		}
		if err != nil {
			return nil, err
		}
		l.Families = append(l.Families, *f)
	}
	l.Changes = map[string]string{}
	if t.Changes != nil {
		for c, said := range map[license.Change]*api.Consent{license.Subset: t.Changes.Subset, license.Outlines: t.Changes.Outlines, license.Name: t.Changes.Name, license.Format: t.Changes.Format} {
			if said == nil || *said == api.ConsentNotSaid {
				continue
			}
			if !said.Valid() {
				return nil, app.InvalidField("changes", "bad-consent", "%q is no answer; choose yes, no or not-said.", *said)
			}
			l.Changes[string(c)] = string(*said)
		}
	}
	if err := limitsOf(l, t); err != nil {
		return nil, err
	}
	for _, text := range []struct {
		from *string
		to   *string
		max  int
	}{{t.Licensor, &l.Licensor, 200}, {t.Reference, &l.Reference, 200}, {t.Note, &l.Note, 5000}} {
		if text.from != nil {
			*text.to = app.Shorten(strings.TrimSpace(*text.from), text.max)
		}
	}
	return l, nil
}

// describe says a license's terms in a line, for the activity.
func describe(l store.License) string {
	term := "always"
	switch {
	case l.Begins != nil && l.Ends != nil:
		term = l.Begins.Format(time.DateOnly) + " to " + l.Ends.Format(time.DateOnly)
	case l.Begins != nil:
		term = "from " + l.Begins.Format(time.DateOnly)
	case l.Ends != nil:
		term = "until " + l.Ends.Format(time.DateOnly)
	}
	names := app.Each(l.Families, func(f store.Family) string { return f.Name })
	s := fmt.Sprintf("%s for %s by %s, reference %s; %s; %s; covers %s", l.Kind, l.GrantedTo.Name, orNone(l.Licensor), orNone(l.Reference),
		strings.Join(l.Uses, ", "), term, strings.Join(names, ", "))
	for _, c := range license.Changes {
		if said := l.Changes[string(c)]; said != "" {
			s += fmt.Sprintf("; %s: %s", c, said)
		}
	}
	for _, one := range fieldsOf(l) {
		if one.extra && one.value != "" {
			s += "; " + one.name + ": " + one.value
		}
	}
	if l.Note != "" {
		s += "; note: " + l.Note
	}
	return s
}

func orNone(s string) string {
	if s == "" {
		return "(none)"
	}
	return s
}

// AddDocument keeps a document as evidence of a license.
func (c *Licensing) AddDocument(ctx context.Context, p *store.Person, id int64, name string, r io.Reader) (*api.Document, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	l, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	name = app.FileName(name)
	staged, err := stageDocument(c, name, r)
	if err != nil {
		return nil, err
	}
	defer staged.Close()
	if err := c.bucket.Put(ctx, staged); err != nil {
		return nil, err
	}
	return c.keepDocument(ctx, p, l, store.Document{Name: name, SHA256: string(staged.Hash), Bytes: staged.Size})
}

// keepDocument records a document, whose bytes are in the bucket, with a license.
func (c *Licensing) keepDocument(ctx context.Context, p *store.Person, l *store.License, d store.Document) (*api.Document, error) {
	d.LicenseID, d.AddedAt, d.AddedBy = l.ID, c.now(), p.Name
	if err := c.Documents.ReadText(ctx, d.Name, d.SHA256); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		d.ID = 0
		if err := licensedb.In(tx).AddDocument(ctx, &d); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "added document", usage.LicenseName(*l), d.Name+", SHA-256 "+d.SHA256)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.Problem(app.Conflict, "same-document", "This document is kept with the license already, byte for byte.")
	}
	if err != nil {
		return nil, err
	}
	v := documentView(d)
	return &v, nil
}

// DocumentContent opens the bytes of a document.
func (c *Licensing) DocumentContent(ctx context.Context, p *store.Person, id int64) (*Content, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := licensedb.In(c.store).Document(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "document")
	}
	return c.Documents.ReadContent(ctx, d.Name, d.SHA256)
}

func changesView(changes map[string]string) api.LicensedChanges {
	said := func(c license.Change) *api.Consent {
		v := api.Consent(changes[string(c)])
		if v == "" {
			v = api.ConsentNotSaid
		}
		return &v
	}
	return api.LicensedChanges{Subset: said(license.Subset), Outlines: said(license.Outlines), Name: said(license.Name), Format: said(license.Format)}
}

func documentView(d store.Document) api.Document {
	return api.Document{Id: d.ID, Name: d.Name, Sha256: d.SHA256, Bytes: d.Bytes, AddedAt: d.AddedAt, AddedBy: d.AddedBy}
}
