package licensing

import (
	"context"
	"errors"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// ConfirmRecognized records, for each of some families, the open licenses that its files
// speak of.
func ConfirmRecognized(ctx context.Context, c *Licensing, p *store.Person, families []int64) (*api.DoneFamilies, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	return app.EachFamily(ctx, families, func(id int64) (*store.Family, error) { return familydb.In(c.store).Family(ctx, id) }, func(f *store.Family) error {
		found, covered, err := c.said(ctx, f.ID)
		if err != nil {
			return err
		}
		confirmed := 0
		for _, one := range license.Propose(found) {
			if slices.ContainsFunc(covered, func(l store.License) bool { return l.SPDX == one.License }) {
				continue
			}
			if _, err := c.Confirm(ctx, p, f.ID, api.Confirmation{Spdx: one.License}); err != nil {
				return err
			}
			confirmed++
		}
		if confirmed == 0 {
			return app.Problem(app.Conflict, "not-proposed", "Its files do not mention an open license that is not recorded.")
		}
		return nil
	})
}

// Cover has a license cover more families. The terms stay what they are.
func Cover(ctx context.Context, c *Licensing, p *store.Person, id int64, families []int64) (*api.License, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		l, err := licensedb.In(tx).License(ctx, id)
		if err != nil {
			return app.Explain(err, "license")
		}
		before := *l
		ids := app.Each(l.Families, func(f store.Family) int64 { return f.ID })
		var names []string
		for _, one := range families {
			f, err := familydb.In(tx).Family(ctx, one)
			if errors.Is(err, store.ErrNotFound) {
				return app.InvalidField("families", "unknown-family", "There is no family with the number %d.", one)
			}
			if err != nil {
				return err
			}
			if err := app.NotDeleted(f); err != nil {
				return err
			}
			if !slices.Contains(ids, one) {
				ids, names = append(ids, one), append(names, f.Name)
				l.Families = append(l.Families, *f)
			}
		}
		if len(names) == 0 {
			return nil
		}
		if err := c.keepFirst(ctx, tx, &before); err != nil {
			return err
		}
		if app.Require(p, api.RoleAdmin) != nil {
			l.ApprovedAt, l.ApprovedBy = nil, "" // an admin approved it for the families that it had
		}
		if err := licensedb.In(tx).ChangeLicense(ctx, l, ids); err != nil {
			return err
		}
		changed := *l
		changed.Version++
		if err := c.keepVersion(ctx, tx, p, &changed); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed license", usage.LicenseName(*l), "covers "+sentence.List(names)+", too")
	})
	if err != nil {
		return nil, err
	}
	return c.License(ctx, p, id)
}
