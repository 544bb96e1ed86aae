package inspections

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
	"sparecrate/internal/inspect/recognize"
	"sparecrate/internal/inspect/survey"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/inspectiondb"
	"sparecrate/internal/usage"
	"sparecrate/internal/work"
)

const (
	pause       = time.Second // between two pages of a survey
	mostPicture = 6 << 20     // bytes
	ending      = 20 * time.Second
	// untilMeasured is how long fonts that were taken in just now are waited for.
	untilMeasured = time.Minute
)

// report is what is kept of a page.
type report struct {
	Page  *inspect.Page          `json:"page"`
	Boxes map[string]inspect.Box `json:"boxes"`
	Size  [2]int                 `json:"size"`
}

// summary is what is kept of an inspection as a whole.
type summary struct {
	Findings []inspect.Finding `json:"findings"` // of the site
	Left     []survey.Left     `json:"left"`
	Site     *survey.Proposal  `json:"site,omitempty"`
}

// inspect does a job of the kind inspect. What goes wrong is kept with the inspection.
func (c *Inspections) inspect(ctx context.Context, payload []byte, progress func(done, total int)) error {
	a, err := work.Payload[asked](payload)
	if err != nil {
		return err
	}
	i, err := inspectiondb.In(c.store).Inspection(ctx, a.Inspection)
	if errors.Is(err, store.ErrNotFound) {
		return nil // its site is gone
	}
	if err != nil || i.EndedAt != nil {
		return err
	}
	r := &run{Inspections: c, i: i, progress: progress}
	err = r.look(ctx)
	if ctx.Err() != nil {
		return ctx.Err() // it begins anew where it goes on
	}
	written, cancel := context.WithTimeout(context.WithoutCancel(ctx), ending)
	defer cancel()
	if err == nil {
		return r.end(written)
	}
	c.log.Warn("an inspection failed", "inspection", i.ID, "error", err)
	now := c.now()
	i.EndedAt, i.Error = &now, "It broke off. The log of the service says why."
	var told *app.Error
	if of := (forPeople{}); errors.As(err, &of) || errors.As(err, &told) {
		i.Error = app.Shorten(sentence.Of(err), 900)
	}
	return inspectiondb.In(c.store).EndInspection(written, i)
}

// forPeople is an error that says what people can do about it; others are for the log.
type forPeople struct{ error }

func (e forPeople) Unwrap() error { return e.error }

// run is an inspection under way.
type run struct {
	*Inspections
	i        *store.Inspection
	d        *usage.Site
	packs    []inspect.Pack
	pages    []*inspect.Page
	counts   []store.FindingCounts // of each page when it was kept
	said     summary
	progress func(done, total int)
}

// catalog is what is asked about fonts: the rooms of the service, on behalf of nobody.
type catalog struct {
	*Inspections
	viewer *store.Person
}

// Alike returns the faces that draw what a font file draws.
func (c catalog) Alike(ctx context.Context, _ string, font []byte) ([]api.Alike, error) {
	found, err := c.designs.Alike(ctx, c.viewer, bytes.NewReader(font))
	var told *app.Error
	if errors.As(err, &told) {
		return nil, nil // what cannot be measured is not known
	}
	if err != nil {
		return nil, err
	}
	return found.Items, nil
}

// Hosted returns families of a name that somebody else's server hosts.
func (c catalog) Hosted(ctx context.Context, name string) ([]api.FamilySummary, error) {
	origin := []api.Origin{api.OriginHosted}
	found, err := c.search.Families(ctx, c.viewer, api.ListFamiliesParams{Q: &name, Origin: &origin})
	var told *app.Error
	if errors.As(err, &told) {
		return nil, nil // a name that cannot be searched for
	}
	if err != nil {
		return nil, err
	}
	return found.Items, nil
}

// Verdict says whether a family may be used.
func (c catalog) Verdict(ctx context.Context, family int64, q api.GetVerdictParams) (*api.Verdict, error) {
	return c.licenses.Verdict(ctx, c.viewer, family, q)
}

// look looks at the pages.
func (r *run) look(ctx context.Context) (err error) {
	if err := inspectiondb.In(r.store).RemovePages(ctx, r.i.ID); err != nil {
		return err
	}
	if r.d, err = r.usage.LoadSite(ctx, r.i.SiteID); err != nil {
		return err
	}
	ids, err := r.of(ctx, r.d)
	if err != nil {
		return err
	}
	if r.packs, err = r.built(ctx, ids); err != nil {
		return err
	}
	if err := r.designs.AwaitMeasured(ctx, untilMeasured); err != nil {
		return err
	}
	b, err := browse.Start(ctx, browse.Options{Private: r.private})
	if err != nil {
		return forPeople{err}
	}
	defer b.Close()
	plan := browse.Plan{Packs: r.packs, Domains: r.d.Domains,
		Known: recognize.New(catalog{r.Inspections, &store.Person{Name: "inspection", Role: string(api.RoleViewer)}}, &recognize.Site{ID: r.d.ID, Client: r.d.Client.Name}).Known}
	for _, p := range r.d.RoleAssignments {
		if p.Selector != "" {
			role := usage.RoleAssignmentOf(p, r.family(p.FamilyID))
			plan.Roles = append(plan.Roles, inspect.Role{Title: role.Title(), Selector: p.Selector, Family: role.Family})
		}
	}
	r.said.Left = []survey.Left{}
	open := func(ctx context.Context, address string) (*inspect.Page, error) {
		p, err := b.Inspect(ctx, address, plan)
		if err != nil {
			return nil, err
		}
		return p, r.keep(ctx, p)
	}
	if r.i.Survey > 0 {
		err = r.follow(ctx, b, open)
	} else {
		err = r.each(ctx, open)
	}
	if err != nil {
		return err
	}
	r.said.Findings = append(r.said.Findings, survey.Absent(r.pages, r.packs)...)
	gone, err := r.fileURLs(ctx, b, ids)
	r.said.Findings = append(r.said.Findings, gone...)
	return err
}

// family returns the name of a family of the site.
func (r *run) family(id int64) string {
	for _, u := range r.d.Uses {
		if u.Family.ID == id {
			return u.Family.Name
		}
	}
	return ""
}

// each looks at the pages that are named.
func (r *run) each(ctx context.Context, open func(context.Context, string) (*inspect.Page, error)) error {
	var together survey.Together
	for n, address := range r.i.Addresses {
		r.progress(n, len(r.i.Addresses))
		p, err := open(ctx, address)
		if err != nil {
			return err
		}
		together.Add(p)
	}
	r.said.Findings = together.Findings(r.pages)
	return nil
}

// follow looks at the pages that sitemaps and links lead to.
func (r *run) follow(ctx context.Context, b *browse.Browser, open func(context.Context, string) (*inspect.Page, error)) error {
	var failed error
	found, err := survey.Run(ctx, r.i.Addresses[0], survey.Options{Pages: r.i.Survey, Pause: pause, Fetch: b.Fetch, Inspect: func(ctx context.Context, address string) (*inspect.Page, error) {
		if failed != nil {
			return nil, failed
		}
		p, err := open(ctx, address)
		failed = err
		return p, err
	}, Told: func(done, known int, _ string) { r.progress(done, min(known, r.i.Survey)) }})
	if failed != nil {
		return failed
	}
	if err != nil {
		return forPeople{err}
	}
	r.said.Findings, r.said.Left, r.said.Site = found.Findings, found.Left, &found.Site
	return nil
}

// keep keeps what was seen on a page.
func (r *run) keep(ctx context.Context, p *inspect.Page) error {
	packed, err := packedReport(p)
	if err != nil {
		return err
	}
	kept := store.InspectedPage{InspectionID: r.i.ID, Place: len(r.pages), URL: app.Shorten(p.Final, 2000), Title: app.Shorten(p.Title, 300), Status: p.Status, Bytes: p.Bytes, Report: packed}
	if len(p.Picture) > 0 && len(p.Picture) <= mostPicture {
		kept.Picture, kept.Pictured = p.Picture, true
	}
	kept.FindingCounts = counted(p.Findings)
	p.Picture = nil
	r.pages, r.counts = append(r.pages, p), append(r.counts, kept.FindingCounts)
	r.i.Bytes += p.Bytes
	return inspectiondb.In(r.store).PutPage(ctx, &kept)
}

// packedReport packs what is kept of a page.
func packedReport(p *inspect.Page) ([]byte, error) {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	if err := json.NewEncoder(z).Encode(report{p, p.Boxes, p.Size}); err != nil {
		return nil, fmt.Errorf("write the report of a page: %w", err)
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("write the report of a page: %w", err)
	}
	return packed.Bytes(), nil
}

// keepAgain keeps pages anew whose findings are others since all were seen.
func (r *run) keepAgain(ctx context.Context, tx *store.Store) error {
	for place, p := range r.pages {
		counts := counted(p.Findings)
		if counts == r.counts[place] {
			continue
		}
		packed, err := packedReport(p)
		if err != nil {
			return err
		}
		if err := inspectiondb.In(tx).ChangeReport(ctx, &store.InspectedPage{InspectionID: r.i.ID, Place: place, Report: packed, FindingCounts: counts}); err != nil {
			return err
		}
	}
	return nil
}

// counted counts findings by severity.
func counted(found []inspect.Finding) (n store.FindingCounts) {
	for _, f := range found {
		switch f.Severity {
		case inspect.Error:
			n.Errors++
		case inspect.Warning:
			n.Warnings++
		default:
			n.Notes++
		}
	}
	return n
}

// end keeps what was found.
func (r *run) end(ctx context.Context) error {
	b, err := json.Marshal(r.said)
	if err != nil {
		return fmt.Errorf("write what an inspection found: %w", err)
	}
	return r.store.Tx(ctx, func(tx *store.Store) error {
		i := *r.i
		now := r.now()
		i.EndedAt, i.Pages, i.Summary = &now, len(r.pages), string(b)
		if err := r.keepAgain(ctx, tx); err != nil {
			return err
		}
		if err := r.settle(ctx, tx, &i, r.pages, r.said.Findings); err != nil {
			return err
		}
		if err := inspectiondb.In(tx).EndInspection(ctx, &i); err != nil {
			return err
		}
		return inspectiondb.In(tx).Thin(ctx, i.SiteID, keptPictures, keptOf)
	})
}
