package packaging

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/fingerprint"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Rebuilds bring a new version of a family to all sites that carry the old one.
type Rebuilds struct{ packs *Packaging }

// NewRebuilds returns the rebuilds of some packs.
func NewRebuilds(c *Packaging) *Rebuilds { return &Rebuilds{c} }

// behindPack is the last pack of an environment of a site, made from files of a family that
// are not in use any more.
type behindPack struct {
	site    *usage.Site
	pack    store.Pack
	changes []string // all that is otherwise now
	stops   string   // why it cannot be built now, empty where it can
}

// Plan says which sites carry an old version of a family, and what their packs would be
// built anew with.
func (c *Rebuilds) Plan(ctx context.Context, p *store.Person, family int64) (*api.RebuildPlan, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, found, err := c.behind(ctx, family)
	if err != nil {
		return nil, err
	}
	out := &api.RebuildPlan{Family: api.Ref{Id: f.ID, Name: f.Name}, Items: []api.Rebuild{}}
	for _, b := range found {
		one := api.Rebuild{Site: api.Ref{Id: b.site.ID, Name: b.site.Name}, Client: b.site.Client.Name, Builder: b.site.Rules.Name, Environment: b.pack.Environment, BuiltAt: b.pack.CreatedAt, Changes: b.changes}
		if b.stops != "" {
			one.Stops = &b.stops
		}
		out.Items = append(out.Items, one)
	}
	return out, nil
}

// behind finds the last packs that were made from files of a family that are not in use any
// more, by site.
func (c *Rebuilds) behind(ctx context.Context, family int64) (*store.Family, []behindPack, error) {
	f, err := familydb.In(c.packs.store).Family(ctx, family)
	if err != nil {
		return nil, nil, app.Explain(err, "family")
	}
	sites, err := sitedb.SitesWith(ctx, c.packs.store, family)
	if err != nil || len(sites) == 0 {
		return f, nil, err
	}
	packs, err := packdb.In(c.packs.store).LatestPacks(ctx, sites)
	if err != nil {
		return nil, nil, err
	}
	var out []behindPack
	loaded := map[int64]*usage.Site{}
	for _, p := range packs {
		d := loaded[p.SiteID]
		if d == nil {
			if d, err = c.packs.usage.LoadSite(ctx, p.SiteID); err != nil {
				return nil, nil, err
			}
			loaded[p.SiteID] = d
		}
		changes, err := fingerprint.Changes(d, &p)
		if err != nil {
			return nil, nil, err
		}
		if len(changes) == 0 || !fingerprint.CarriesOld(d, &p, f) {
			continue
		}
		b := behindPack{site: d, pack: p, changes: changes}
		var told *app.Error
		if err := mayBuild(d); errors.As(err, &told) {
			b.stops = told.Message
		} else if err != nil {
			return nil, nil, err
		}
		out = append(out, b)
	}
	slices.SortStableFunc(out, func(a, b behindPack) int {
		return bytes.Compare([]byte(a.site.Client.Name+"\x00"+a.site.Name), []byte(b.site.Client.Name+"\x00"+b.site.Name))
	})
	return f, out, nil
}

// Build builds those packs anew, and puts them into one zip with their slips in order and a
// checklist. What may not go out is on the checklist with the reason. They are recorded
// together, once all are built.
func (c *Rebuilds) Build(ctx context.Context, p *store.Person, family int64) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	f, found, err := c.behind(ctx, family)
	if err != nil {
		return nil, 0, "", err
	}
	if len(found) == 0 {
		return nil, 0, "", app.Problem(app.Conflict, "nothing-old", "No site carries an old version of %s: every last pack was built from the files in use.", f.Name)
	}
	list := checklist{Family: f.Name}
	var entries []pack.Entry
	var all []*builtPack
	for _, b := range found {
		line := checkLine{Site: b.site.Name, Client: b.site.Client.Name, Builder: b.site.Rules.Name, Environment: b.pack.Environment, Changes: b.changes, Stops: b.stops, Before: b.pack.CreatedAt}
		if b.stops == "" {
			where, err := EnvironmentOf(b.site.Site, &b.pack.Environment)
			if err != nil {
				return nil, 0, "", err
			}
			one, err := build(ctx, c.packs, p, b.site, where)
			if err != nil {
				return nil, 0, "", err
			}
			all = append(all, one)
			base := fmt.Sprintf("%02d-%s", len(all), strings.TrimSuffix(one.pack.Name, ".zip"))
			line.Pack, line.Slip = base+".zip", base+"-slip.html"
			entries = append(entries,
				pack.Entry{Path: line.Slip, Blob: pack.BlobOf(one.slip), Place: -1},
				pack.Entry{Path: line.Pack, Blob: pack.Blob{SHA256: one.pack.SHA256, Bytes: one.pack.Bytes, Open: func() (io.ReadCloser, error) {
					r, _, err := c.packs.bucket.Open(ctx, bucket.Hash(one.pack.SHA256))
					return r, err
				}}})
		}
		list.Lines = append(list.Lines, line)
	}
	if len(entries) == 0 {
		return nil, 0, "", app.Problem(app.Conflict, "not-clear", "No pack of %s may go out: %s", f.Name, found[0].stops)
	}
	var page bytes.Buffer
	if err := checkPage.Execute(&page, list); err != nil {
		return nil, 0, "", err
	}
	entries = append([]pack.Entry{{Path: "checklist.html", Blob: pack.BlobOf(page.Bytes()), Place: -1}}, entries...)
	staged, err := c.packs.bucket.StageFrom(ctx, maxPack, func(w io.Writer) error { return pack.Zip(w, entries) })
	if err != nil {
		return nil, 0, "", err
	}
	err = c.packs.store.Tx(ctx, func(tx *store.Store) error {
		for _, one := range all {
			if err := one.record(ctx, c.packs, tx, p); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		staged.Close()
		return nil, 0, "", err
	}
	return staged.Reader(), staged.Size, pack.FileName(f.Name+" everywhere", ""), nil
}

// checklist is the page that a zip of rebuilt packs begins with.
type checklist struct {
	Family string
	Lines  []checkLine
}

type checkLine struct {
	Site, Client, Builder, Environment string
	Pack, Slip                         string // file names, empty where it was not built
	Stops                              string
	Changes                            []string
	Before                             time.Time
}

var checkPage = template.Must(template.New("").Funcs(template.FuncMap{"day": func(t time.Time) string { return t.Format(time.DateOnly) }}).Parse(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Family}} everywhere</title>
<style>
body { margin: 0 auto; max-width: 60rem; padding: 2rem 1.25rem; color: #1d2a2f; background: #fbfaf6; font: 1rem/1.5 sans-serif; }
h1 { font-size: 1.5rem; margin: 0 0 1rem; }
table { border-collapse: collapse; width: 100%; font-size: .92rem; }
th, td { text-align: left; padding: .4rem .5rem; border-bottom: 1px solid #cfd6d3; vertical-align: top; }
tr { break-inside: avoid; }
ul { margin: 0; padding-left: 1.1rem; }
.tick { width: .95rem; height: .95rem; border: 1.5px solid #51626a; border-radius: 3px; display: inline-block; }
.soft { color: #51626a; }
.stop { color: #8c2f1b; }
@media print { body { background: none; padding: 0; font-size: 9pt; max-width: none; } }
</style>
</head>
<body>
<h1>{{.Family}}: the new version, everywhere</h1>
<table>
<tr><th>Site</th><th>Pack and slip</th><th>What is otherwise now</th><th>Up</th><th>Published and checked</th></tr>
{{range .Lines}}<tr data-site="{{.Site}}"><td><strong>{{.Site}}</strong>{{with .Environment}}, {{.}}{{end}}<br><span class="soft">{{.Client}}; {{.Builder}}. Last pack of {{day .Before}}.</span></td>
<td>{{if .Stops}}<span class="stop">Not built: {{.Stops}}</span>{{else}}<a href="{{.Slip}}">{{.Slip}}</a><br><span class="soft">{{.Pack}}</span>{{end}}</td>
<td><ul>{{range .Changes}}<li>{{.}}</li>{{end}}</ul></td><td><span class="tick"></span></td><td><span class="tick"></span></td></tr>
{{end}}</table>
</body>
</html>
`))
