package handover

import (
	"bytes"
	"context"
	"io"
	"slices"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// proof is what a family may be used for, where it is used, and the evidence.
type proof struct {
	Studio   string          `json:"studio"`
	Day      string          `json:"day"`
	Family   familyRecord    `json:"family"`
	Licenses []licenseRecord `json:"licenses"`
	Uses     []useRecord     `json:"uses"`
	SignOffs []signOffRecord `json:"signOffs"`
	InZip    bool            `json:"-"`
}

type useRecord struct {
	Site      string      `json:"site"`
	Client    string      `json:"client"`
	Builder   string      `json:"builder"`
	Domains   []string    `json:"domains"`
	Roles     []string    `json:"roles"`
	Pages     []string    `json:"pages"`
	Since     string      `json:"since,omitempty"` // of the first pack that held it
	Last      string      `json:"last,omitempty"`
	Packs     int         `json:"packs"`
	Verdict   string      `json:"verdict"` // cleared, review or blocked
	Reasons   []string    `json:"reasons"`
	PageViews []monthLine `json:"pageViews"`
}

// Proof writes the proof of a family as a zip: a page to print, the documents and the licenses.
func (h *Handover) Proof(ctx context.Context, p *store.Person, family int64) (r io.ReadCloser, size int64, name string, err error) {
	b := h.bundle()
	v, err := b.proof(ctx, p, family)
	if err != nil {
		return nil, 0, "", err
	}
	v.InZip = true
	// The fonts themselves are no proof; their checksums are.
	b.entries = slices.DeleteFunc(b.entries, func(e pack.Entry) bool {
		return slices.ContainsFunc(v.Family.Files, func(f keptFile) bool { return f.Path == e.Path })
	})
	for i := range v.Family.Files {
		v.Family.Files[i].Path = ""
	}
	var page bytes.Buffer
	if err := pages.ExecuteTemplate(&page, "proof.html", v); err != nil {
		return nil, 0, "", err
	}
	b.write("proof.html", page.Bytes())
	if err := b.writeJSON("proof.json", v); err != nil {
		return nil, 0, "", err
	}
	staged, err := b.zip(ctx)
	if err != nil {
		return nil, 0, "", err
	}
	return staged.Reader(), staged.Size, pack.FileName(v.Family.Name+" proof "+v.Day, ""), nil
}

// ProofPage writes the same as one page to print.
func (h *Handover) ProofPage(ctx context.Context, p *store.Person, family int64, w io.Writer) error {
	v, err := h.bundle().proof(ctx, p, family)
	if err != nil {
		return err
	}
	for i := range v.Family.Files {
		v.Family.Files[i].Path = ""
	}
	for _, files := range append(app.Each(v.Licenses, func(l licenseRecord) []keptFile { return l.Documents }), v.Family.Documents) {
		for i := range files {
			files[i].Path = ""
		}
	}
	return pages.ExecuteTemplate(w, "proof.html", v)
}

func (b *bundle) proof(ctx context.Context, p *store.Person, id int64) (*proof, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s := b.h.store
	family, err := familydb.In(s).Family(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	studio, err := s.Studio(ctx)
	if err != nil {
		return nil, err
	}
	sheets, err := librarydb.In(s).SheetsOf(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	out := &proof{Studio: studio.Name, Day: b.h.now().Format(time.DateOnly), Licenses: []licenseRecord{}, Uses: []useRecord{}, SignOffs: []signOffRecord{}}
	if out.Family, err = b.familyOf(ctx, family, sheets[id], ""); err != nil {
		return nil, err
	}
	licenses, err := licensedb.In(s).LicensesOf(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	limits, err := b.h.limitsOf(ctx, licenses)
	if err != nil {
		return nil, err
	}
	for i := range licenses {
		out.Licenses = append(out.Licenses, b.licenseOf(ctx, &licenses[i], limits[licenses[i].ID], false))
	}
	return out, b.uses(ctx, out, id)
}

// verdictWords are the states of verdicts as they are told to people outside.
var verdictWords = map[license.State]string{license.Cleared: "cleared", license.Review: "review", license.Blocked: "blocked"}

// uses writes where a family is used, since when and how much, and who signed it off.
func (b *bundle) uses(ctx context.Context, out *proof, family int64) error {
	s := b.h.store
	sites, err := sitedb.SitesWith(ctx, s, family)
	if err != nil {
		return err
	}
	carried, err := packdb.In(s).CarriedSince(ctx, family)
	if err != nil {
		return err
	}
	pagesOf, err := sitedb.In(s).PagesOf(ctx, sites)
	if err != nil {
		return err
	}
	views, err := b.h.usage.ViewsOf(ctx, sites)
	if err != nil {
		return err
	}
	name := out.Family.Name
	known := map[int64]string{}
	for _, id := range sites {
		d, err := b.h.usage.LoadSite(ctx, id)
		if err != nil {
			return err
		}
		known[id] = d.Name
		one := useRecord{Site: d.Name, Client: d.Client.Name, Builder: d.Rules.Name, Domains: append([]string{}, d.Domains...), Roles: []string{}, Reasons: []string{}, Pages: app.Each(pagesOf[id], func(p store.SitePage) string { return p.URL }),
			PageViews: monthsOf(views, id), Packs: carried[id].Packs}
		if one.Packs > 0 {
			one.Since, one.Last = carried[id].First.Format(time.DateOnly), carried[id].Last.Format(time.DateOnly)
		}
		for _, p := range usage.RoleAssignmentsOf(d.Site, family, name) {
			one.Roles = append(one.Roles, p.Title())
		}
		for _, u := range d.Uses {
			if u.Family.ID == family {
				one.Verdict = verdictWords[u.Verdict.State]
				one.Reasons = app.Each(u.Verdict.Reasons, func(r license.Reason) string { return r.Message + " (" + r.Evidence + ")" })
			}
		}
		out.Uses = append(out.Uses, one)
	}
	signed, err := sitedb.In(s).AllSignOffs(ctx)
	if err != nil {
		return err
	}
	for _, o := range signed {
		if o.FamilyID == family {
			out.SignOffs = append(out.SignOffs, signOffOf(&o, known[o.SiteID], name))
		}
	}
	return nil
}
