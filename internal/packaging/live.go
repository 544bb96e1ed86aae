package packaging

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"io"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/bucket"
	"sparecrate/internal/builder"
	"sparecrate/internal/fingerprint"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Live is the secret addresses under which stylesheets and fonts of sites are served.
type Live struct {
	store *store.Store
	packs *Packaging
	now   func() time.Time
	note  app.Noter
	known *lru.Cache[string, *liveKnown] // by the hash of a live stylesheet's secret
}

// NewLive returns the live stylesheets of a database, over its packs.
func NewLive(c *app.Core, packs *Packaging) *Live {
	known, _ := lru.New[string, *liveKnown](mostLive) // the error is for sizes below one
	return &Live{c.Store, packs, c.Now, app.Notes(c.Now), known}
}

// List returns the live stylesheets of a site with their paths. A path is no secret to those who
// see the pages that load it; those of older sheets are known by their hash alone.
func (c *Live) List(ctx context.Context, p *store.Person, site int64) (*api.LiveStylesheetList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := sitedb.In(c.store).Site(ctx, site); err != nil {
		return nil, app.Explain(err, "site")
	}
	found, err := packdb.In(c.store).LiveStylesheets(ctx, site)
	if err != nil {
		return nil, err
	}
	return &api.LiveStylesheetList{Items: app.Each(found, liveView)}, nil
}

func liveView(l store.LiveStylesheet) api.LiveStylesheet {
	v := api.LiveStylesheet{Id: l.ID, CreatedAt: l.CreatedAt, CreatedBy: l.CreatedBy}
	if l.Secret != "" {
		path := livePath(l.Secret)
		v.Path = &path
	}
	return v
}

func livePath(secret string) string { return "/live/" + secret + "/" + liveCSS }

// Add makes an address under which a site's stylesheet and fonts are served
// from here, for prototypes and previews. What may not go out stops it, now and each
// time it is read.
func (c *Live) Add(ctx context.Context, p *store.Person, site int64) (*api.NewLiveStylesheet, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, err := c.site(ctx, site)
	if err != nil {
		return nil, err
	}
	if err := mayBuild(s); err != nil {
		return nil, err
	}
	secret := strings.ToLower(rand.Text())
	l := store.LiveStylesheet{SiteID: site, Hash: auth.SecretHash(secret), Secret: secret, CreatedAt: c.now(), CreatedBy: p.Name}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		l.ID = 0
		if err := packdb.In(tx).AddLiveStylesheet(ctx, &l); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "created live stylesheet", s.Name, "")
	})
	if err != nil {
		return nil, err
	}
	return &api.NewLiveStylesheet{Sheet: liveView(l), Path: livePath(secret)}, nil
}

// Revoke ends a live stylesheet.
func (c *Live) Revoke(ctx context.Context, p *store.Person, site, id int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	s, err := sitedb.In(c.store).Site(ctx, site)
	if err != nil {
		return app.Explain(err, "site")
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		if err := packdb.In(tx).RevokeLiveStylesheet(ctx, site, id, c.now()); err != nil {
			return app.Explain(err, "live stylesheet")
		}
		return c.note(ctx, tx, p, "revoked live stylesheet", s.Name, "")
	})
}

const liveCSS = "fonts.css"

// liveLayout is what stands behind a live stylesheet: its stylesheet, and which bytes each
// font is.
type liveLayout struct {
	fingerprint string // of all that the layout depends on
	sheet       []byte
	fonts       map[string]bucket.Hash // by path
}

// liveKnown is what was found out of a live stylesheet when a stamp and a day stood.
type liveKnown struct {
	stamp, day string
	site       int64
	hash       string // of the secret
	layout     *liveLayout
}

const mostLive = 256 // sheets that layouts are kept of

// Read returns a file behind a live stylesheet: its stylesheet, or a font that names. Whoever
// reads the stylesheet counts as a visitor of the site, once a day from one network
// address. Anybody can read it, so the count is kept apart from page views.
//
// As long as nothing changes, a font is one statement and one file; after a change the
// verdict is worked out anew, and the layout where something changed in it.
func (c *Live) Read(ctx context.Context, place, secret, path string) ([]byte, error) {
	hash := auth.SecretHash(secret)
	stamp, err := c.store.Stamp(ctx)
	if err != nil {
		return nil, err
	}
	var data []byte
	var known *liveKnown
	err = c.packs.conversion.Repairing(ctx, func() (err error) {
		if known, err = c.behind(ctx, hash, stamp); err != nil {
			return err
		}
		if path == liveCSS {
			data = known.layout.sheet
			return nil
		}
		font, is := known.layout.fonts[path]
		if !is {
			return noSheet
		}
		if data, err = c.packs.bucket.Read(ctx, font); err != nil {
			c.known.Remove(hash) // what was made of it may be made anew, with other bytes
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	if path == liveCSS {
		day := c.now().UTC().Truncate(24 * time.Hour)
		visitor := auth.SecretHash(hash + day.Format(time.DateOnly) + auth.PlaceOf(place))[:32]
		err = packdb.In(c.store).CountVisitor(ctx, known.site, day, visitor)
	}
	return data, err
}

var noSheet = app.Problem(app.Missing, "no-such-sheet", "There is no such live stylesheet, or it was revoked.")

// behind returns what stands behind a live stylesheet, if that may go out.
func (c *Live) behind(ctx context.Context, hash, stamp string) (*liveKnown, error) {
	day := c.now().UTC().Format(time.DateOnly) // verdicts are of a day
	was, is := c.known.Get(hash)
	if is && was.stamp == stamp && was.day == day {
		return was, nil
	}
	l, err := packdb.In(c.store).LiveStylesheetByHash(ctx, hash)
	if errors.Is(err, store.ErrNotFound) {
		return nil, noSheet
	}
	if err != nil {
		return nil, err
	}
	s, err := c.site(ctx, l.SiteID)
	if err != nil {
		return nil, err
	}
	if err := mayBuild(s); err != nil {
		return nil, err
	}
	madeOf, err := json.Marshal(fingerprint.For(s, ""))
	if err != nil {
		return nil, err
	}
	now := &liveKnown{stamp: stamp, day: day, site: s.ID, hash: hash}
	if is && was.layout.fingerprint == string(madeOf) {
		now.layout = was.layout
	} else if now.layout, err = c.layout(ctx, s, string(madeOf)); err != nil {
		return nil, err
	}
	c.known.Add(hash, now)
	return now, nil
}

// layout makes what stands behind a live stylesheet.
func (c *Live) layout(ctx context.Context, s *usage.Site, fingerprint string) (*liveLayout, error) {
	packed, err := c.packs.layOut(ctx, s, "", c.packs.conversion.Made)
	if err != nil {
		return nil, err
	}
	out := &liveLayout{fingerprint: fingerprint, sheet: []byte(packed.Styles), fonts: map[string]bucket.Hash{}}
	for _, e := range packed.Entries {
		if strings.HasSuffix(e.Path, ".woff2") || strings.HasSuffix(e.Path, ".woff") {
			out.fonts[e.Path] = bucket.Hash(e.SHA256)
		}
		if e.Path == liveCSS {
			r, err := e.Open()
			if err != nil {
				return nil, err
			}
			if out.sheet, err = io.ReadAll(r); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// site is a site as pages show it that read its live stylesheet, whatever it is
// delivered to: fonts beside a stylesheet.
func (c *Live) site(ctx context.Context, id int64) (*usage.Site, error) {
	s, err := sitedb.In(c.store).Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	rules, _ := builder.ShippedOf(usage.FallbackBuilder)
	return c.packs.usage.WeighSite(ctx, s, usage.BuilderRules{Rules: rules, Version: 1, Shipped: true}, nil)
}
