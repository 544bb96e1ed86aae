package handover

import (
	"cmp"
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// What is written of records, for people and as JSON. Days are written as 2006-01-02.

type keptFile struct {
	Path   string `json:"path,omitempty"` // in the zip; empty where it is not in there
	Name   string `json:"name"`
	SHA256 string `json:"sha256"`
	Bytes  int64  `json:"bytes"`
	Note   string `json:"note,omitempty"` // what it is of the family, or why it is not in the zip
}

// Href is the path as a relative URL.
func (f keptFile) Href() string { return (&url.URL{Path: f.Path}).EscapedPath() }

// Size writes the bytes for people.
func (f keptFile) Size() string {
	switch {
	case f.Bytes < 1000:
		return fmt.Sprintf("%d B", f.Bytes)
	case f.Bytes < 1_000_000:
		return fmt.Sprintf("%.1f kB", float64(f.Bytes)/1000)
	}
	return fmt.Sprintf("%.1f MB", float64(f.Bytes)/1e6)
}

type licenseRecord struct {
	ID        int64      `json:"id"`
	Kind      string     `json:"kind"`
	SPDX      string     `json:"spdx,omitempty"`
	GrantedTo string     `json:"grantedTo"`
	Licensor  string     `json:"licensor,omitempty"`
	Reference string     `json:"reference,omitempty"`
	Uses      []string   `json:"uses"`
	From      string     `json:"from,omitempty"`
	Until     string     `json:"until,omitempty"` // empty for perpetual
	Domains   []string   `json:"domains,omitempty"`
	Families  []string   `json:"families"`
	Limits    []string   `json:"limits,omitempty"`
	Seats     []string   `json:"seats,omitempty"`
	Apps      []string   `json:"apps,omitempty"`
	Price     string     `json:"price,omitempty"`
	Note      string     `json:"note,omitempty"`
	Renews    int64      `json:"renews,omitempty"`
	RenewedBy int64      `json:"renewedBy,omitempty"`
	Documents []keptFile `json:"documents"`
}

// Term says from when until when for people.
func (l licenseRecord) Term() string {
	switch {
	case l.From == "" && l.Until == "":
		return "perpetual"
	case l.Until == "":
		return "from " + l.From
	case l.From == "":
		return "until " + l.Until
	}
	return l.From + " to " + l.Until
}

func day(t *time.Time) string {
	if t == nil {
		return ""
	}
	return t.Format(time.DateOnly)
}

// licenseOf writes a license with its documents in a folder of the bundle. What it costs is
// told where that is asked for.
func (b *bundle) licenseOf(ctx context.Context, l *store.License, limits []license.Limit, priced bool) licenseRecord {
	out := licenseRecord{ID: l.ID, Kind: l.Kind, SPDX: l.SPDX, GrantedTo: l.GrantedTo.Name, Licensor: l.Licensor, Reference: l.Reference, Uses: l.Uses, From: day(l.Begins), Until: day(l.Ends),
		Domains: l.Domains, Families: app.Each(l.Families, func(f store.Family) string { return f.Name }), Note: l.Note, Documents: []keptFile{}}
	if l.Kind == string(api.KindOpen) {
		out.GrantedTo = "everybody"
	}
	for _, limit := range limits {
		out.Limits = append(out.Limits, limit.Said())
	}
	for _, p := range l.Allocations {
		line := p.Name + ", since " + p.Since.Format(time.DateOnly)
		if p.Measure == string(license.Seats) {
			out.Seats = append(out.Seats, line)
		} else {
			out.Apps = append(out.Apps, line)
		}
	}
	if priced && l.Price != nil {
		out.Price = fmt.Sprintf("%d.%02d %s", *l.Price/100, *l.Price%100, l.Currency)
	}
	if l.Renews != nil {
		out.Renews = *l.Renews
	}
	if l.RenewedBy != nil {
		out.RenewedBy = *l.RenewedBy
	}
	folder := fmt.Sprintf("licenses/license-%d", l.ID)
	for _, d := range slices.SortedFunc(slices.Values(l.Documents), func(x, y store.Document) int { return cmp.Compare(x.ID, y.ID) }) {
		out.Documents = append(out.Documents, keptFile{Path: b.keep(ctx, folder, d.Name, d.SHA256, d.Bytes), Name: d.Name, SHA256: d.SHA256, Bytes: d.Bytes})
	}
	return out
}

type familyRecord struct {
	ID        int64      `json:"id"`
	Name      string     `json:"name"`
	Client    string     `json:"client"`
	Origin    string     `json:"origin"`
	Foundry   string     `json:"foundry,omitempty"`
	Designer  string     `json:"designer,omitempty"`
	Note      string     `json:"note,omitempty"`
	Faces     []string   `json:"faces"`
	Files     []keptFile `json:"files"`
	Documents []keptFile `json:"documents"`
	Hosted    []string   `json:"hosted,omitempty"` // URLs of stylesheets that it is served from
	LeftOut   string     `json:"leftOut,omitempty"`
}

// familyOf writes a family with its original files and documents in a folder of the bundle; the
// fonts stay out where leftOut says why.
func (b *bundle) familyOf(ctx context.Context, f *store.Family, sheets []store.HostedStylesheet, leftOut string) (familyRecord, error) {
	out := familyRecord{ID: f.ID, Name: f.Name, Client: f.Client.Name, Origin: f.Origin, Foundry: f.Foundry, Designer: f.Designer, Note: f.Note, Faces: []string{}, Files: []keptFile{}, Documents: []keptFile{}, LeftOut: leftOut}
	folder := "families/" + safeName(f.Name)
	at := map[int64]int{}
	for _, face := range f.Faces {
		out.Faces = append(out.Faces, face.Style)
		for _, file := range face.Files {
			note := file.Outcome
			if file.Current {
				note = "in use"
			}
			if _, had := at[file.FileID]; had {
				if file.Current {
					out.Files[at[file.FileID]].Note = note
				}
				continue
			}
			at[file.FileID] = len(out.Files)
			one := keptFile{Name: file.File.Name, SHA256: file.File.SHA256, Bytes: file.File.Bytes, Note: strings.TrimSpace(face.Style + " " + file.Version + "; " + note)}
			if leftOut == "" {
				one.Path = b.keep(ctx, folder, file.File.Name, file.File.SHA256, file.File.Bytes)
			}
			out.Files = append(out.Files, one)
		}
	}
	docs, err := licensedb.In(b.h.store).FamilyDocuments(ctx, f.ID)
	if err != nil {
		return out, err
	}
	for _, p := range docs {
		out.Documents = append(out.Documents, keptFile{Path: b.keep(ctx, folder+"/documents", p.Name, p.SHA256, p.Bytes), Name: p.Name, SHA256: p.SHA256, Bytes: p.Bytes})
	}
	for _, s := range sheets {
		if s.URL != "" {
			out.Hosted = append(out.Hosted, s.URL)
		}
	}
	return out, nil
}

type signOffRecord struct {
	Site    string `json:"site,omitempty"`
	Builder string `json:"builder,omitempty"` // of packs without a site
	Family  string `json:"family"`
	Verdict string `json:"verdict"` // that it was given for
	Reason  string `json:"reason"`
	By      string `json:"by"`
	At      string `json:"at"`
	Until   string `json:"until,omitempty"`
	Revoked string `json:"revoked,omitempty"` // when and by whom
}

func signOffOf(o *store.SignOff, site, family string) signOffRecord {
	out := signOffRecord{Site: site, Builder: o.Builder, Family: family, Verdict: o.State, Reason: o.Reason, By: o.Person, At: o.At.Format(time.DateOnly), Until: day(o.Ends)}
	if o.RevokedAt != nil {
		out.Revoked = o.RevokedAt.Format(time.DateOnly) + " by " + o.RevokedBy
	}
	return out
}

// monthLine is the page views of a month.
type monthLine struct {
	Month  string `json:"month"`
	Views  int64  `json:"views"`
	Source string `json:"source"`
}

func monthsOf(views []store.Views, site int64) []monthLine {
	out := []monthLine{}
	for _, v := range views {
		if v.SiteID == site {
			out = append(out, monthLine{v.Month.Format(app.MonthForm), v.Views, v.Source})
		}
	}
	return out
}

// mayGo says whether the fonts of a family go along to a client: its own do, and those of a
// license that lets everybody have them or was granted to it.
func mayGo(f *store.Family, client int64, licenses []store.License) bool {
	return f.ClientID == client || slices.ContainsFunc(licenses, func(l store.License) bool {
		return l.Kind == string(api.KindOpen) || l.GrantedToID == client
	})
}

// limitsOf returns what is counted against the limits of licenses, by license.
func (h *Handover) limitsOf(ctx context.Context, all []store.License) (map[int64][]license.Limit, error) {
	counts, err := h.usage.Counted(all, func() (*usage.PageViews, error) { return h.usage.ReadPageViews(ctx) })
	if err != nil {
		return nil, err
	}
	return counts.Limits, nil
}
