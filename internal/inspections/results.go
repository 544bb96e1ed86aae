package inspections

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/export"
	"sparecrate/internal/store"
	"sparecrate/internal/store/inspectiondb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/version"
)

// mostReport bounds the report of a page, bytes unpacked.
const mostReport = 64 << 20

// result is an inspection with all that is kept of it.
type result struct {
	i       *store.Inspection
	site    *store.Site
	kept    []store.InspectedPage
	reports []report
	said    summary
}

func (r *result) pages() []*inspect.Page {
	return app.Each(r.reports, func(r report) *inspect.Page { return r.Page })
}

// read reads an inspection.
func (c *Inspections) read(ctx context.Context, p *store.Person, id int64) (*result, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	i, err := inspectiondb.In(c.store).Inspection(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "inspection")
	}
	r := &result{i: i}
	if r.site, err = sitedb.In(c.store).Site(ctx, i.SiteID); err != nil {
		return nil, app.Explain(err, "site")
	}
	if i.Summary != "" {
		if err := json.Unmarshal([]byte(i.Summary), &r.said); err != nil {
			return nil, fmt.Errorf("read the summary of inspection %d: %w", id, err)
		}
	}
	if r.kept, err = inspectiondb.In(c.store).Pages(ctx, id); err != nil {
		return nil, err
	}
	for n := range r.kept {
		one, err := unpacked(r.kept[n].Report)
		if err != nil {
			return nil, fmt.Errorf("read the report of page %d of inspection %d: %w", n, id, err)
		}
		r.kept[n].Report = nil
		r.reports = append(r.reports, *one)
	}
	return r, nil
}

func unpacked(b []byte) (*report, error) {
	z, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	var out report
	return &out, json.NewDecoder(io.LimitReader(z, mostReport)).Decode(&out)
}

// found returns what an inspection found as it was then, with what people say of it now, and
// what it did not find any more.
func (c *Inspections) found(ctx context.Context, r *result) (here, gone []api.SiteFinding, err error) {
	kept, err := inspectiondb.In(c.store).Findings(ctx, r.i.SiteID, -1)
	if err != nil {
		return nil, nil, err
	}
	byMark := map[string]*store.Finding{}
	here, gone = []api.SiteFinding{}, []api.SiteFinding{}
	for n := range kept {
		byMark[kept[n].Mark] = &kept[n]
		if kept[n].GoneID != nil && *kept[n].GoneID == r.i.ID {
			gone = append(gone, view(&kept[n], r.i.ID, c.now()))
		}
	}
	for _, f := range marked(r.pages(), r.said.Findings) {
		then := store.Finding{Code: f.Code, Severity: string(f.Severity), Message: f.Message, Fix: f.Fix, Page: f.page, Selector: f.Selector, URL: f.URL, Line: f.Line, Evidence: f.Evidence, FirstAt: r.i.AskedAt}
		if one := byMark[f.mark]; one != nil {
			then.ID, then.FirstID, then.FirstAt, then.GoneID, then.GoneAt = one.ID, one.FirstID, one.FirstAt, one.GoneID, one.GoneAt
			then.AcceptedAt, then.AcceptedBy, then.AcceptedUntil, then.Reason = one.AcceptedAt, one.AcceptedBy, one.AcceptedUntil, one.Reason
		}
		here = append(here, view(&then, r.i.ID, c.now()))
	}
	rank := map[api.FindingSeverity]int{api.FindingError: 0, api.FindingWarning: 1, api.FindingNote: 2}
	slices.SortStableFunc(here, func(a, b api.SiteFinding) int { return rank[a.Severity] - rank[b.Severity] })
	return here, gone, nil
}

// Result returns an inspection with its pages, what was found and what changed.
func (c *Inspections) Result(ctx context.Context, p *store.Person, id int64) (*api.InspectionResult, error) {
	r, err := c.read(ctx, p, id)
	if err != nil {
		return nil, err
	}
	return c.result(ctx, r)
}

func (c *Inspections) result(ctx context.Context, r *result) (*api.InspectionResult, error) {
	views, err := c.views(ctx, r.site, []store.Inspection{*r.i})
	if err != nil {
		return nil, err
	}
	out := &api.InspectionResult{Inspection: views[0], Pages: []api.PageInspected{}, Left: []api.UnreadPage{}, Families: families(r.pages())}
	for _, k := range r.kept {
		out.Pages = append(out.Pages, api.PageInspected{Place: k.Place, Url: k.URL, Title: k.Title, Status: k.Status, Bytes: k.Bytes, Errors: k.Errors, Warnings: k.Warnings, Notes: k.Notes, Picture: k.Pictured})
	}
	for _, l := range r.said.Left {
		out.Left = append(out.Left, api.UnreadPage{Url: l.URL, Why: l.Why})
	}
	if out.Findings, out.Gone, err = c.found(ctx, r); err != nil {
		return nil, err
	}
	if s := r.said.Site; s != nil {
		out.Proposal = &api.SiteProposal{Domain: s.Domain, Pages: append([]string{}, s.Pages...), Roles: []api.ProposedRole{}}
		for _, role := range s.Roles {
			one := api.ProposedRole{Role: role.Role, Selector: role.Selector, Name: role.Family, Weight: role.Weight, Style: role.Style}
			for _, f := range out.Families {
				if f.WebFont && strings.EqualFold(f.Name, role.Family) {
					one.Family = f.Family
				}
			}
			out.Proposal.Roles = append(out.Proposal.Roles, one)
		}
	}
	return out, nil
}

// families sums up what text of pages is set in.
func families(pages []*inspect.Page) []api.FamilyOnPages {
	out := []api.FamilyOnPages{}
	at := map[string]int{}
	counted := map[string]bool{}
	for _, p := range pages {
		for _, f := range p.Families {
			key := fmt.Sprint(strings.ToLower(f.Family), f.Sent)
			if _, has := at[key]; !has {
				at[key] = len(out)
				name := f.Family
				if !f.Sent { // what stands there on the machine of inspections has names of its own
					name = strings.TrimPrefix(name, "Inspection ")
				}
				out = append(out, api.FamilyOnPages{Name: name, WebFont: f.Sent})
			}
			one := &out[at[key]]
			one.Characters += f.Characters
			one.Pages++
		}
	}
	for _, p := range pages {
		for _, f := range p.Fonts {
			n, has := at[fmt.Sprint(strings.ToLower(f.Family), true)]
			if !has || f.SHA256 == "" || counted[f.SHA256] {
				continue
			}
			counted[f.SHA256] = true
			one := &out[n]
			var before int64
			if one.Bytes != nil {
				before = *one.Bytes
			}
			total := before + f.Size
			one.Bytes = &total
			files := []string{f.URL}
			if one.Files != nil {
				files = append(*one.Files, f.URL)
			}
			one.Files = &files
			if k := f.Known; k != nil && one.Verdict == nil {
				one.Why, one.Verdict = given(k.Why), given(k.Verdict)
				if k.Family != 0 {
					one.Family = &api.Ref{Id: k.Family, Name: k.FamilyName}
				}
				if len(k.Reasons) > 0 {
					one.Reasons = &k.Reasons
				}
			}
		}
	}
	slices.SortStableFunc(out, func(a, b api.FamilyOnPages) int {
		return cmp.Or(b.Characters-a.Characters, strings.Compare(a.Name, b.Name))
	})
	return out
}

// Page returns what an inspection saw on a page.
func (c *Inspections) Page(ctx context.Context, p *store.Person, id int64, place int) (*api.InspectedPage, error) {
	r, err := c.read(ctx, p, id)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(r.kept, func(k store.InspectedPage) bool { return k.Place == place })
	if at < 0 {
		return nil, app.Problem(app.Missing, "not-found", "There is no such page of this inspection.")
	}
	here, _, err := c.found(ctx, r)
	if err != nil {
		return nil, err
	}
	one := r.reports[at]
	g := one.Page
	out := &api.InspectedPage{Place: place, Url: g.URL, Final: g.Final, Title: g.Title, Status: g.Status, Bytes: g.Bytes, FirstTextMs: g.FirstText, FinalTextMs: g.FinalText, FontShift: float32(g.Shift),
		Fonts: []api.FontOnPage{}, Runs: []api.RunOnPage{}, Findings: []api.SiteFinding{}, Width: one.Size[0], Height: one.Size[1]}
	for _, f := range here {
		if f.Page == g.Final {
			out.Findings = append(out.Findings, f)
		}
	}
	for _, f := range g.Fonts {
		v := api.FontOnPage{Url: f.URL, Status: f.Status, Type: f.Type, Bytes: f.Bytes, Size: f.Size, Format: f.Format, Family: f.Family, Style: f.Style, Version: f.Version, Sha256: f.SHA256, Used: f.Used, Characters: f.Characters, Failed: given(f.Failed)}
		if k := f.Known; k != nil {
			v.Why, v.Verdict = given(k.Why), given(k.Verdict)
			if k.Family != 0 {
				v.Known = &api.Ref{Id: k.Family, Name: k.FamilyName}
			}
		}
		out.Fonts = append(out.Fonts, v)
	}
	for _, t := range g.Runs {
		v := api.RunOnPage{Selector: t.Selector, Width: t.Width, Asked: t.Asked, Weight: t.Weight, Style: t.Style, Used: t.Used, WebFont: t.Sent, Characters: t.Characters, Faux: t.Faux, Sample: t.Sample}
		if box, has := one.Boxes[t.Selector]; has && t.Width == one.Size[0] {
			v.Box = &api.BoxOnPage{X: float32(box.X), Y: float32(box.Y), Width: float32(box.Width), Height: float32(box.Height)}
		}
		out.Runs = append(out.Runs, v)
	}
	return out, nil
}

// Picture returns the picture of a page as PNG.
func (c *Inspections) Picture(ctx context.Context, p *store.Person, id int64, place int) ([]byte, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	i, err := inspectiondb.In(c.store).Inspection(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "inspection")
	}
	if _, err := sitedb.In(c.store).Site(ctx, i.SiteID); err != nil {
		return nil, app.Explain(err, "site")
	}
	picture, err := inspectiondb.In(c.store).Picture(ctx, id, place)
	return picture, app.Explain(err, "picture; those of older inspections are not kept")
}

// File writes an inspection for programs: as JSON, SARIF or JUnit XML. The name is that of
// the file.
func (c *Inspections) File(ctx context.Context, p *store.Person, id int64, format string, w io.Writer) (name string, err error) {
	r, err := c.read(ctx, p, id)
	if err != nil {
		return "", err
	}
	pages := r.pages()
	if len(r.said.Findings) > 0 {
		where := cmp.Or(strings.Join(r.i.Addresses[:min(1, len(r.i.Addresses))], ""), r.site.Name)
		pages = append(pages, &inspect.Page{URL: where, Final: where, Servers: []string{}, Fonts: []inspect.LoadedFont{}, Runs: []inspect.ShownRun{}, Families: []inspect.ShownFamily{}, Findings: r.said.Findings})
	}
	base := fmt.Sprintf("inspection-%d", id)
	switch format {
	case "json":
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		e.SetIndent("", "  ")
		return base + ".json", e.Encode(export.Result{Pages: pages})
	case "sarif":
		return base + ".sarif", export.SARIF(w, pages, version.String())
	case "junit":
		return base + ".xml", export.JUnit(w, pages, inspect.Warning)
	}
	return "", app.InvalidField("format", "bad-format", "%q is no format of an inspection; choose json, sarif or junit.", app.Shorten(format, 20))
}

// Printed is an inspection as it is printed.
type Printed struct {
	*api.InspectionResult
	Client   string
	Pictures map[int][]byte // PNG by place, of the first pages
}

// mostPrinted bounds the pictures that are printed.
const mostPrinted = 3

// Print returns an inspection to be printed.
func (c *Inspections) Print(ctx context.Context, p *store.Person, id int64) (*Printed, error) {
	r, err := c.read(ctx, p, id)
	if err != nil {
		return nil, err
	}
	all, err := c.result(ctx, r)
	if err != nil {
		return nil, err
	}
	out := &Printed{InspectionResult: all, Client: r.site.Client.Name, Pictures: map[int][]byte{}}
	for _, k := range r.kept {
		if !k.Pictured || len(out.Pictures) >= mostPrinted {
			continue
		}
		picture, err := inspectiondb.In(c.store).Picture(ctx, id, k.Place)
		if err != nil {
			return nil, app.Explain(err, "picture")
		}
		out.Pictures[k.Place] = picture
	}
	return out, nil
}
