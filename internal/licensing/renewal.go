package licensing

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/stated"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// Evidence is a document as it is sent along.
type Evidence struct {
	Name string
	Body io.Reader
}

// Renew records the next term of a license, with its document, all or nothing. The license
// stays as it is; seats and apps go on in the next term.
func Renew(ctx context.Context, c *Licensing, p *store.Person, id int64, in api.Renewing, proof *Evidence) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	before, err := licensedb.In(c.store).License(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	next, err := nextTerm(ctx, c, before, in)
	if err != nil {
		return nil, err
	}
	var document *store.Document
	if proof != nil {
		staged, err := stageDocument(c, proof.Name, proof.Body)
		if err != nil {
			return nil, err
		}
		defer staged.Close()
		if err := c.bucket.Put(ctx, staged); err != nil {
			return nil, err
		}
		document = &store.Document{Name: app.FileName(proof.Name), SHA256: string(staged.Hash), Bytes: staged.Size, AddedAt: c.now(), AddedBy: p.Name}
		if err := c.Documents.ReadText(ctx, document.Name, document.SHA256); err != nil {
			return nil, err
		}
	}
	next.Version, next.CreatedAt, next.CreatedBy, next.Renews = 1, c.now(), p.Name, &before.ID
	c.approvedBy(p, next)
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		next.ID = 0
		if err := licensedb.In(tx).AddLicense(ctx, next, app.Each(before.Families, func(f store.Family) int64 { return f.ID })); err != nil {
			return err
		}
		if err := licensedb.In(tx).Renewed(ctx, next); err != nil {
			return err
		}
		if err := c.keepVersion(ctx, tx, p, next); err != nil {
			return err
		}
		for _, place := range before.Allocations {
			place.ID, place.LicenseID = 0, next.ID
			if err := licensedb.In(tx).AddAllocation(ctx, &place); err != nil {
				return err
			}
		}
		if document != nil {
			document.ID, document.LicenseID = 0, next.ID
			if err := licensedb.In(tx).AddDocument(ctx, document); err != nil {
				return err
			}
			if err := c.note(ctx, tx, p, "added document", usage.LicenseName(*next), document.Name+", SHA-256 "+document.SHA256); err != nil {
				return err
			}
		}
		return c.note(ctx, tx, p, "renewed license", usage.LicenseName(*before), fmt.Sprintf("by license %d: %s", next.ID, describe(*next)))
	})
	if errors.Is(err, store.ErrStale) {
		return nil, renewedAlready(before)
	}
	if err != nil {
		return nil, err
	}
	return c.License(ctx, p, next.ID)
}

func renewedAlready(l *store.License) error {
	by := "another license"
	if l.RenewedBy != nil {
		by = fmt.Sprintf("license %d", *l.RenewedBy)
	}
	return app.Problem(app.Conflict, "renewed-already", "License %d is renewed already, by %s. Change that one, or renew it when it ends.", l.ID, by)
}

// nextTerm returns the terms of a license after it has ended: those of now, with what was
// sent in their place.
func nextTerm(ctx context.Context, c *Licensing, l *store.License, in api.Renewing) (*store.License, error) {
	switch {
	case l.RenewedBy != nil:
		return nil, renewedAlready(l)
	case l.Ends == nil:
		return nil, app.Problem(app.Conflict, "perpetual", "License %d is perpetual: there is nothing to renew. To change its terms, edit it.", l.ID)
	}
	first := l.Ends.AddDate(0, 0, 1)
	if in.From != nil {
		first = in.From.Time
	}
	last := app.DateOf(in.Until)
	if last == nil {
		until := after(first, l)
		last = &until
	}
	if in.Perpetual != nil && *in.Perpetual {
		if in.Until != nil {
			return nil, app.InvalidField("until", "perpetual-until", "A perpetual license has no last day. Remove one of the two.")
		}
		last = nil
	}
	if last != nil && !last.After(*l.Ends) {
		return nil, app.InvalidField("until", "ends-no-later", "The next term ends on %s, and the one before lasts until %s already. Enter a later last day.", last.Format(time.DateOnly), l.Ends.Format(time.DateOnly))
	}
	terms := api.LicenseTerms{Kind: api.LicenseKind(l.Kind), GrantedTo: l.GrantedToID, Licensor: &l.Licensor, Reference: &l.Reference, Note: in.Note,
		Uses: app.Each(l.Uses, func(u string) api.Use { return api.Use(u) }), From: app.Day(&first), Until: app.Day(last), Domains: &l.Domains, Faces: &l.FaceIDs,
		PageViews: orElse(in.PageViews, l.PageViews), Seats: orElse(in.Seats, l.Seats), Apps: orElse(in.Apps, l.Apps), Price: in.Price,
		Families: app.Each(l.Families, func(f store.Family) int64 { return f.ID })}
	terms.Licensor, terms.Reference = orElse(in.Licensor, terms.Licensor), orElse(in.Reference, terms.Reference)
	if in.Price != nil {
		terms.Currency = orElse(in.Currency, &l.Currency)
	}
	changes := changesView(l.Changes)
	terms.Changes = &changes
	if l.SPDX != "" {
		terms.Spdx = &l.SPDX
	}
	if l.Renewal != "" && last != nil {
		renewal := api.Renewal(l.Renewal)
		terms.Renewal = &renewal
	}
	return c.terms(ctx, terms)
}

// after returns the last day of a term that begins on a day and is as long as a license's; a
// year where that has no first day.
func after(first time.Time, l *store.License) time.Time {
	if l.Begins == nil {
		return first.AddDate(1, 0, -1)
	}
	end := l.Ends.AddDate(0, 0, 1)
	if months := (end.Year()-l.Begins.Year())*12 + int(end.Month()-l.Begins.Month()); months > 0 && stated.MonthsLater(*l.Begins, months).Equal(*l.Ends) {
		return stated.MonthsLater(first, months)
	}
	return first.Add(l.Ends.Sub(*l.Begins))
}

func orElse[T any](given, else_ *T) *T {
	if given != nil {
		return given
	}
	return else_
}

// stageDocument reads a document that is sent, within the bounds of documents.
func stageDocument(c *Licensing, name string, r io.Reader) (*bucket.Staged, error) {
	staged, err := c.bucket.Stage(r, c.limits.DocumentBytes)
	if errors.Is(err, bucket.ErrTooLarge) {
		return nil, tooLarge(c.limits.DocumentBytes)
	}
	if err != nil {
		return nil, err
	}
	if staged.Size == 0 {
		staged.Close()
		return nil, app.InvalidField("file", "empty-document", "“%s” is empty and proves nothing; choose the right file.", app.FileName(name))
	}
	return staged, nil
}

func tooLarge(limit int64) error {
	return app.Problem(app.TooLarge, "document-too-large", "The document is too large: at most %d MB are taken.", limit>>20)
}
