package inspections

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/inspect"
	"sparecrate/internal/store"
	"sparecrate/internal/store/inspectiondb"
	"sparecrate/internal/store/sitedb"
)

// found is a finding with the page that it is on, empty for the site as a whole.
type found struct {
	inspect.Finding
	page string
	mark string
}

// changing matches the parts of file names that a build makes anew each time.
var changing = regexp.MustCompile(`[0-9a-f]{6,}`)

// steady returns what stays the same in a URL as long as it is of the same file.
func steady(address string) string {
	address, _, _ = strings.Cut(address, "#")
	if strings.HasPrefix(address, "data:") {
		return "data:"
	}
	address, _, _ = strings.Cut(address, "?")
	return changing.ReplaceAllString(address, "*")
}

// marked gives findings of one inspection their marks, in the order in which they were
// found: the same fault has the same mark in the next inspection.
func marked(pages []*inspect.Page, ofSite []inspect.Finding) []found {
	var out []found
	times := map[string]int{}
	add := func(page string, f inspect.Finding) {
		key := strings.Join([]string{f.Code, steady(page), f.Selector, steady(f.URL)}, "\x00")
		times[key]++
		sum := sha256.Sum256(fmt.Appendf(nil, "%s\x00%d", key, times[key]))
		out = append(out, found{Finding: f, page: page, mark: hex.EncodeToString(sum[:])})
	}
	for _, p := range pages {
		for _, f := range p.Findings {
			add(p.Final, f)
		}
	}
	for _, f := range ofSite {
		add("", f)
	}
	return out
}

// blind are the codes of findings that keep a page from being seen whole: what was found on
// it before is neither there nor gone.
func blind(p *inspect.Page) bool {
	return slices.ContainsFunc(p.Findings, func(f inspect.Finding) bool {
		return slices.Contains([]string{"page-unreachable", "page-error", "redirect-circle", "page-never-ends", "page-hangs", "page-too-heavy"}, f.Code)
	})
}

// settle keeps the findings of an inspection beside those of before, and counts them.
func (c *Inspections) settle(ctx context.Context, tx *store.Store, i *store.Inspection, pages []*inspect.Page, ofSite []inspect.Finding) error {
	now := c.now()
	kept, err := inspectiondb.In(tx).Findings(ctx, i.SiteID, -1)
	if err != nil {
		return err
	}
	byMark := map[string]*store.Finding{}
	for n := range kept {
		byMark[kept[n].Mark] = &kept[n]
	}
	here := map[string]bool{}
	for _, f := range marked(pages, ofSite) {
		here[f.mark] = true
		one := byMark[f.mark]
		if one == nil {
			one = &store.Finding{SiteID: i.SiteID, Mark: f.mark, Code: f.Code, FirstID: i.ID, FirstAt: now}
		} else if one.GoneID != nil {
			one.FirstID, one.FirstAt, one.GoneID, one.GoneAt = i.ID, now, nil, nil
		}
		one.Severity, one.Message, one.Fix, one.Line, one.LastID = string(f.Severity), app.Shorten(f.Message, 4000), app.Shorten(f.Fix, 8000), f.Line, i.ID
		one.Page, one.Selector, one.URL, one.Evidence = app.Shorten(f.page, 2000), app.Shorten(f.Selector, 2000), app.Shorten(f.URL, 4000), app.Shorten(f.Evidence, 4000)
		if err := inspectiondb.In(tx).PutFinding(ctx, one); err != nil {
			return err
		}
		switch {
		case one.AcceptedOn(now):
			i.Accepted++
			continue
		case f.Severity == inspect.Error:
			i.Errors++
		case f.Severity == inspect.Warning:
			i.Warnings++
		default:
			i.Notes++
		}
		if one.FirstID == i.ID {
			i.Fresh++
		}
	}
	seen := map[string]bool{}
	for _, p := range pages {
		seen[steady(p.Final)] = !blind(p)
	}
	for n := range kept {
		one := &kept[n]
		looked := seen[steady(one.Page)] || one.Page == "" && (i.Survey > 0 || one.Code != "pages-differ")
		if here[one.Mark] || one.GoneID != nil || !looked {
			continue
		}
		one.GoneID, one.GoneAt = &i.ID, &now
		if err := inspectiondb.In(tx).PutFinding(ctx, one); err != nil {
			return err
		}
		i.Gone++
	}
	return inspectiondb.In(tx).ForgetGone(ctx, i.SiteID, keptGone)
}

// title returns what findings of a code say.
func title(code string) string {
	for _, c := range inspect.Codes {
		if c.Code == code {
			return c.Title
		}
	}
	return code
}

// view shows a finding as it is kept; in is the inspection that new ones are new in.
func view(f *store.Finding, in int64, now time.Time) api.SiteFinding {
	v := api.SiteFinding{Id: f.ID, Code: f.Code, Title: title(f.Code), Severity: api.FindingSeverity(f.Severity), Message: f.Message, Fix: f.Fix, Page: f.Page, State: api.FindingOpen, Since: f.FirstAt, GoneAt: f.GoneAt,
		Fresh: f.FirstID == in && f.GoneID == nil}
	v.Selector = given(f.Selector)
	v.Url = given(f.URL)
	v.Evidence = given(f.Evidence)
	if f.Line > 0 {
		v.Line = &f.Line
	}
	if f.AcceptedAt != nil {
		v.Acceptance = &api.Acceptance{By: f.AcceptedBy, At: *f.AcceptedAt, Reason: f.Reason, Until: app.Day(f.AcceptedUntil)}
	}
	switch {
	case f.GoneID != nil:
		v.State = api.FindingGone
	case f.AcceptedOn(now):
		v.State, v.Fresh = api.FindingAccepted, false
	}
	return v
}

// Findings returns what inspections found on a site, the worst first.
func (c *Inspections) Findings(ctx context.Context, p *store.Person, site int64, state *api.FindingState) (*api.FindingList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := sitedb.In(c.store).Site(ctx, site); err != nil {
		return nil, app.Explain(err, "site")
	}
	which := int64(0)
	if state != nil && *state == api.FindingGone {
		which = -1
	}
	kept, err := inspectiondb.In(c.store).Findings(ctx, site, which)
	if err != nil {
		return nil, err
	}
	newest, err := inspectiondb.In(c.store).NewestOf(ctx, site)
	if err != nil {
		return nil, err
	}
	out := &api.FindingList{Items: []api.SiteFinding{}}
	for i := range kept {
		if v := view(&kept[i], newest, c.now()); state == nil && v.State == api.FindingOpen || state != nil && v.State == *state {
			out.Items = append(out.Items, v)
		}
	}
	return out, nil
}

// Accept accepts a finding, with a reason and for a time.
func (c *Inspections) Accept(ctx context.Context, p *store.Person, id int64, in api.NewAcceptance) (*api.SiteFinding, error) {
	reason, err := app.RequiredText("reason", in.Reason)
	if err != nil {
		return nil, err
	}
	now := c.now()
	until := app.DateOf(in.Until)
	if until != nil && until.Before(now.UTC().Truncate(24*time.Hour)) {
		return nil, app.InvalidField("until", "past-day", "The last day is past. Choose one that is to come, or none.")
	}
	return c.change(ctx, p, id, "accepted finding", func(f *store.Finding) error {
		if f.GoneID != nil {
			return app.Problem(app.Conflict, "finding-gone", "This is not found any more; there is nothing to accept.")
		}
		f.AcceptedAt, f.AcceptedBy, f.AcceptedUntil, f.Reason = &now, p.Name, until, app.Shorten(reason, 500)
		return nil
	})
}

// Reopen takes the acceptance of a finding back.
func (c *Inspections) Reopen(ctx context.Context, p *store.Person, id int64) (*api.SiteFinding, error) {
	return c.change(ctx, p, id, "reopened finding", func(f *store.Finding) error {
		f.AcceptedAt, f.AcceptedBy, f.AcceptedUntil, f.Reason = nil, "", nil, ""
		return nil
	})
}

// change changes what people say of a finding.
func (c *Inspections) change(ctx context.Context, p *store.Person, id int64, what string, do func(*store.Finding) error) (*api.SiteFinding, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	var out api.SiteFinding
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		f, err := inspectiondb.In(tx).Finding(ctx, id)
		if err != nil {
			return app.Explain(err, "finding")
		}
		site, err := sitedb.In(tx).Site(ctx, f.SiteID)
		if err != nil {
			return app.Explain(err, "site")
		}
		if err := app.Open(&site.Client); err != nil {
			return err
		}
		if err := do(f); err != nil {
			return err
		}
		if err := inspectiondb.In(tx).PutFinding(ctx, f); err != nil {
			return err
		}
		newest, err := inspectiondb.In(tx).NewestOf(ctx, f.SiteID)
		if err != nil {
			return err
		}
		out = view(f, newest, c.now())
		return c.note(ctx, tx, p, what, site.Name, app.Shorten(strings.TrimSpace(f.Code+" "+f.Selector+" "+f.Reason), 500))
	})
	if err != nil {
		return nil, err
	}
	return &out, nil
}

// given returns a text that is there, nil for none.
func given(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}
