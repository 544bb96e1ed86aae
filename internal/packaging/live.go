package packaging

import (
	"context"
	"crypto/rand"
	"errors"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/builder"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// LiveSheets gives the live sheets of a site; their secrets are not kept.
func (c *Packaging) LiveSheets(ctx context.Context, p *store.Person, site int64) (*api.LiveSheetList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := c.store.Site(ctx, site); err != nil {
		return nil, app.Explain(err, "site")
	}
	found, err := c.store.LiveSheets(ctx, site)
	if err != nil {
		return nil, err
	}
	return &api.LiveSheetList{Items: app.Each(found, liveView)}, nil
}

func liveView(l store.LiveSheet) api.LiveSheet {
	return api.LiveSheet{Id: l.ID, CreatedAt: l.CreatedAt, CreatedBy: l.CreatedBy}
}

// AddLiveSheet makes an address under which a site's stylesheet and fonts are served
// from here, for prototypes and previews. What may not go out stops it, now and each
// time it is read.
func (c *Packaging) AddLiveSheet(ctx context.Context, p *store.Person, site int64) (*api.NewLiveSheet, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, err := c.liveSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if err := mayBuild(s); err != nil {
		return nil, err
	}
	secret := strings.ToLower(rand.Text())
	l := store.LiveSheet{SiteID: site, Hash: auth.SecretHash(secret), CreatedAt: c.now(), CreatedBy: p.Name}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		l.ID = 0
		if err := tx.AddLiveSheet(ctx, &l); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "made live sheet", s.Name, "")
	})
	if err != nil {
		return nil, err
	}
	return &api.NewLiveSheet{Sheet: liveView(l), Path: "/live/" + secret + "/" + liveCSS}, nil
}

// WithdrawLiveSheet ends a live sheet.
func (c *Packaging) WithdrawLiveSheet(ctx context.Context, p *store.Person, site, id int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	s, err := c.store.Site(ctx, site)
	if err != nil {
		return app.Explain(err, "site")
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.WithdrawLiveSheet(ctx, site, id, c.now()); err != nil {
			return app.Explain(err, "live sheet")
		}
		return c.note(ctx, tx, p, "withdrew live sheet", s.Name, "")
	})
}

const liveCSS = "fonts.css"

// Live returns a file behind a live sheet: its stylesheet, or a font that names. Whoever
// reads the stylesheet counts as a visitor of the site, once a day from one network
// address. Anybody can read it, so the count is kept apart from page views.
func (c *Packaging) Live(ctx context.Context, place, secret, path string) ([]byte, error) {
	none := app.Problem(app.Missing, "no-such-sheet", "There is no such live sheet, or it was withdrawn.")
	l, err := c.store.LiveSheetByHash(ctx, auth.SecretHash(secret))
	if errors.Is(err, store.ErrNotFound) {
		return nil, none
	}
	if err != nil {
		return nil, err
	}
	s, err := c.liveSite(ctx, l.SiteID)
	if err != nil {
		return nil, err
	}
	if err := mayBuild(s); err != nil {
		return nil, err
	}
	var data []byte
	err = c.conversion.Repairing(ctx, func() error {
		packed, err := c.Assemble(ctx, s, "")
		if err != nil {
			return err
		}
		i := slices.IndexFunc(packed.Entries, func(e pack.Entry) bool {
			return e.Path == path && (path == liveCSS || strings.HasSuffix(path, ".woff2") || strings.HasSuffix(path, ".woff"))
		})
		if i < 0 {
			return none
		}
		r, err := packed.Entries[i].Open()
		if err != nil {
			return err
		}
		defer func() { _ = r.Close() }()
		data, err = io.ReadAll(r)
		return err
	})
	if err == nil && path == liveCSS {
		day := c.now().UTC().Truncate(24 * time.Hour)
		visitor := auth.SecretHash(l.Hash + day.Format(time.DateOnly) + auth.PlaceOf(place))[:32]
		err = c.store.CountVisitor(ctx, s.ID, day, visitor)
	}
	return data, err
}

// liveSite is a site as pages show it that read its live sheet, whatever it is
// delivered to: fonts beside a stylesheet.
func (c *Packaging) liveSite(ctx context.Context, id int64) (*usage.Site, error) {
	s, err := c.store.Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	rules, _ := builder.ShippedOf(usage.FallbackBuilder)
	return c.usage.WeighSite(ctx, s, usage.BuilderRules{Rules: rules, Version: 1, Shipped: true}, nil)
}
