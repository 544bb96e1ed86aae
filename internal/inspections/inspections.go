// Package inspections has the published pages of sites inspected, once or again and again,
// and keeps what was found: what is new, what is gone, what somebody accepted and why.
package inspections

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"slices"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/catalogsearch"
	"sparecrate/internal/library"
	"sparecrate/internal/licensing"
	"sparecrate/internal/sentence"
	"sparecrate/internal/sites"
	"sparecrate/internal/store"
	"sparecrate/internal/store/inspectiondb"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/usage"
	"sparecrate/internal/work"
)

// The bounds of what is kept and done.
const (
	atOnce       = 2 // inspections, each with a browser of its own
	mostListed   = 100
	keptPictures = 2 // inspections of a site whose pictures are kept
	keptOf       = 200
	keptGone     = 2000
	mostUnderWay = 2 // of a site
	mostPages    = 20
	mostSurvey   = 100
	longest      = 6 * time.Hour // after which an inspection that has not ended never will
	jobInspect   = "inspect"
)

// Inspections inspects the published pages of sites.
type Inspections struct {
	store    *store.Store
	bucket   *bucket.Bucket
	queue    *work.Queue
	usage    *usage.Usage
	sites    *sites.Directory
	designs  *library.Designs
	licenses *licensing.Licensing
	search   *catalogsearch.Finding
	private  bool
	now      func() time.Time
	log      *slog.Logger
	note     app.Noter
}

// New returns the inspections of a database's sites, and has the queue do them.
func New(c *app.Core, u *usage.Usage, s *sites.Directory, designs *library.Designs, licenses *licensing.Licensing, search *catalogsearch.Finding) *Inspections {
	i := &Inspections{store: c.Store, bucket: c.Bucket, queue: c.Queue, usage: u, sites: s, designs: designs, licenses: licenses, search: search, private: c.Limits.Private, now: c.Now, log: c.Log, note: app.Notes(c.Now)}
	c.Queue.HandleAside(jobInspect, atOnce, i.inspect)
	return i
}

// asked is what a job is told.
type asked struct {
	Inspection int64 `json:"inspection"`
}

func jobKey(id int64) string { return fmt.Sprint(id) }

// List returns the inspections of a site, newest first, and when the next one is due.
func (c *Inspections) List(ctx context.Context, p *store.Person, site int64) (*api.InspectionList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	return c.list(ctx, d)
}

func (c *Inspections) list(ctx context.Context, d *usage.Site) (*api.InspectionList, error) {
	found, err := inspectiondb.In(c.store).Inspections(ctx, d.ID, mostListed)
	if err != nil {
		return nil, err
	}
	out := &api.InspectionList{Schedule: api.InspectionSchedule{Every: api.EveryNever}}
	if out.Items, err = c.views(ctx, d.Site, found); err != nil {
		return nil, err
	}
	if out.Pages, err = c.published(ctx, d); err != nil {
		return nil, err
	}
	s, err := inspectiondb.In(c.store).Schedule(ctx, d.ID)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	out.Schedule = api.InspectionSchedule{Every: api.InspectionScheduleEvery(s.Every), Survey: s.Survey, Next: &s.NextAt}
	return out, nil
}

// of returns the numbers of the sites whose pages and packs an inspection of a site is about:
// the site and its outlets, or one outlet.
func (c *Inspections) of(ctx context.Context, d *usage.Site) ([]int64, error) {
	if d.ParentID != nil {
		return []int64{d.ID}, nil
	}
	return sites.WithOutlets(ctx, c.sites, d)
}

// published returns the URLs of the pages of a site.
func (c *Inspections) published(ctx context.Context, d *usage.Site) ([]string, error) {
	ids, err := c.of(ctx, d)
	if err != nil {
		return nil, err
	}
	addresses, _, err := sites.PublishedPages(ctx, c.sites, d, ids)
	return append([]string{}, addresses...), err
}

// views shows inspections of a site with how far they are.
func (c *Inspections) views(ctx context.Context, site *store.Site, found []store.Inspection) ([]api.Inspection, error) {
	var keys []string
	for i := range found {
		if found[i].EndedAt == nil {
			keys = append(keys, jobKey(found[i].ID))
		}
	}
	jobs := map[string]store.Job{}
	if len(keys) > 0 {
		var err error
		if jobs, err = jobdb.In(c.store).JobsByKeys(ctx, jobInspect, keys); err != nil {
			return nil, err
		}
	}
	out := []api.Inspection{}
	for i := range found {
		one := &found[i]
		v := api.Inspection{Id: one.ID, Site: app.SiteRef(site), Survey: one.Survey, Scheduled: one.Scheduled, AskedAt: one.AskedAt, AskedBy: one.AskedBy, EndedAt: one.EndedAt, Pages: one.Pages, Bytes: one.Bytes,
			Errors: one.Errors, Warnings: one.Warnings, Notes: one.Notes, Accepted: one.Accepted, Fresh: one.Fresh, Gone: one.Gone, State: api.InspectionDone}
		job, has := jobs[jobKey(one.ID)]
		switch {
		case one.EndedAt != nil && one.Error != "":
			v.State, v.Error = api.InspectionFailed, &one.Error
		case one.EndedAt != nil:
		case !has || job.State == jobdb.JobFailed || job.State == jobdb.JobDone:
			lost := "It broke off, again and again. Ask whoever runs the service for its log."
			v.State, v.Error = api.InspectionFailed, &lost
		case job.State == jobdb.JobRunning:
			v.State = api.InspectionRunning
		default:
			v.State = api.InspectionWaiting
		}
		out = append(out, v)
	}
	return out, nil
}

// Start has published pages of a site inspected, in the background.
func (c *Inspections) Start(ctx context.Context, p *store.Person, site int64, in api.NewInspection) (*api.Inspection, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if err := app.Open(&d.Client); err != nil {
		return nil, err
	}
	i := store.Inspection{SiteID: site, AskedBy: p.Name}
	if in.Survey != nil {
		if i.Survey, err = surveyed(*in.Survey); err != nil {
			return nil, err
		}
	}
	if in.Pages != nil {
		if i.Addresses, err = addresses(d, *in.Pages); err != nil {
			return nil, err
		}
	}
	if err := c.start(ctx, d, &i); err != nil {
		return nil, err
	}
	views, err := c.views(ctx, d.Site, []store.Inspection{i})
	if err != nil {
		return nil, err
	}
	return &views[0], nil
}

func surveyed(n int) (int, error) {
	if n < 0 || n > mostSurvey {
		return 0, app.InvalidField("survey", "bad-number", "A survey inspects up to %d pages; 0 follows no links.", mostSurvey)
	}
	return n, nil
}

// addresses reads which pages are to be inspected.
func addresses(d *usage.Site, given []string) ([]string, error) {
	if len(given) > mostPages {
		return nil, app.InvalidField("pages", "bad-count", "Name up to %d pages at a time; a survey follows links.", mostPages)
	}
	var out []string
	for n, text := range given {
		field := fmt.Sprintf("pages.%d", n)
		address, err := sites.PageAddress(text)
		if err != nil {
			return nil, app.InvalidField(field, "bad-address", "%s", sentence.Of(err))
		}
		u, err := url.Parse(address)
		if err != nil {
			return nil, app.InvalidField(field, "bad-address", "%q is no URL of a page.", app.Shorten(text, 100))
		}
		if u.User != nil {
			return nil, app.InvalidField(field, "bad-address", "Remove the name and password from the URL: it is recorded, and everyone here can read it.")
		}
		if u.Host == "" {
			if len(d.Domains) == 0 {
				return nil, app.InvalidField(field, "no-domain", "%s has no domain. Enter it, or name the page by its whole URL.", d.Name)
			}
			u.Scheme, u.Host = "https", d.Domains[0]
		}
		if whole := u.String(); !slices.Contains(out, whole) {
			out = append(out, whole)
		}
	}
	return out, nil
}

// start keeps an inspection and asks for its work.
func (c *Inspections) start(ctx context.Context, d *usage.Site, i *store.Inspection) error {
	if len(i.Addresses) == 0 {
		var err error
		if i.Addresses, err = c.published(ctx, d); err != nil {
			return err
		}
	}
	if len(i.Addresses) == 0 {
		return app.Problem(app.Conflict, "no-pages", "%s has no domain, and no page is named by its URL. Enter its domain, or name a page.", d.Name)
	}
	i.AskedAt = c.now()
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		i.ID = 0
		n, err := inspectiondb.In(tx).UnderWay(ctx, d.ID, i.AskedAt.Add(-longest))
		if err != nil {
			return err
		}
		if n >= mostUnderWay {
			return app.Problem(app.Conflict, "under-way", "%d inspections of %s are under way. Wait until one has ended.", n, d.Name)
		}
		if err := inspectiondb.In(tx).AddInspection(ctx, i); err != nil {
			return err
		}
		return c.queue.Add(ctx, tx, work.Job{Kind: jobInspect, Key: jobKey(i.ID), Title: "Inspect " + d.Name, Payload: asked{i.ID}})
	})
	if err == nil {
		c.queue.Wake()
	}
	return err
}

// The times between two inspections of a schedule.
var spans = map[api.InspectionScheduleEvery]int{api.EveryDay: 1, api.EveryWeek: 7}

// Schedule has a site inspected each day or week, or not any more.
func (c *Inspections) Schedule(ctx context.Context, p *store.Person, site int64, in api.InspectionSchedule) (*api.InspectionList, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	if err := app.Open(&d.Client); err != nil {
		return nil, err
	}
	days, has := spans[in.Every]
	if !has && in.Every != api.EveryNever {
		return nil, app.InvalidField("every", "bad-span", "%q is no schedule; choose day, week or never.", app.Shorten(string(in.Every), 20))
	}
	survey, err := surveyed(in.Survey)
	if err != nil {
		return nil, err
	}
	if has {
		pages, err := c.published(ctx, d)
		if err != nil {
			return nil, err
		}
		if len(pages) == 0 {
			return nil, app.Problem(app.Conflict, "no-pages", "%s has no domain, and no page is named by its URL. Enter its domain, or name a page.", d.Name)
		}
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if !has {
			if err := inspectiondb.In(tx).DeleteSchedule(ctx, site); err != nil {
				return err
			}
			return c.note(ctx, tx, p, "stopped inspections", d.Name, "")
		}
		s := store.InspectionSchedule{SiteID: site, Every: string(in.Every), Survey: survey, NextAt: nextNight(c.now(), days), Person: p.Name}
		if err := inspectiondb.In(tx).PutSchedule(ctx, &s); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "scheduled inspections", d.Name, "each "+string(in.Every))
	})
	if err != nil {
		return nil, err
	}
	return c.list(ctx, d)
}

// nextNight returns three at night, UTC, so many days from now: pages are inspected when few
// people visit them.
func nextNight(now time.Time, days int) time.Time {
	const hour = 3
	day := now.UTC().Truncate(24*time.Hour).AddDate(0, 0, days)
	return day.Add(hour * time.Hour)
}

// KeepInspecting starts the inspections that are due until ctx ends.
func (c *Inspections) KeepInspecting(ctx context.Context) {
	tick := time.NewTicker(time.Minute)
	defer tick.Stop()
	for {
		if err := c.StartDue(ctx); err != nil && ctx.Err() == nil {
			c.log.Error("inspections that are due cannot be started", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// StartDue starts the inspections that are due. Of several processes one starts each; one
// that was due several times while nobody ran is done once.
func (c *Inspections) StartDue(ctx context.Context) error {
	due, err := inspectiondb.In(c.store).DueSchedules(ctx, c.now())
	if err != nil {
		return err
	}
	var failed []error
	for i := range due {
		s := &due[i]
		ours, err := inspectiondb.In(c.store).ClaimSchedule(ctx, s, nextNight(c.now(), max(spans[api.InspectionScheduleEvery(s.Every)], 1)))
		if err != nil {
			return err
		}
		if !ours {
			continue
		}
		d, err := c.usage.LoadSite(ctx, s.SiteID)
		if err == nil && d.Client.ClosedAt == nil {
			err = c.start(ctx, d, &store.Inspection{SiteID: s.SiteID, Survey: s.Survey, Scheduled: true, AskedBy: s.Person})
		}
		var told *app.Error
		if err != nil && !errors.As(err, &told) { // a site without pages is not inspected
			failed = append(failed, err)
		}
	}
	return errors.Join(failed...)
}
