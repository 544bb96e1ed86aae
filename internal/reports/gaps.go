package reports

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/classify"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/reportdb"
	"sparecrate/internal/usage"
)

// lookedAtOnce is how many families are looked at in a step, mostLooked how many for a page.
const (
	lookedAtOnce = 200
	mostLooked   = 5000
)

// Gaps returns a page of the families that lack something, by name.
func (r *Reports) Gaps(ctx context.Context, p *store.Person, q api.ListGapsParams) (*api.GapPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	var wanted []api.GapCode
	if q.What != nil {
		for _, code := range *q.What {
			if !code.Valid() {
				return nil, app.InvalidField("what", "bad-lack", "%q is not a known gap. Choose license, unconfirmed, document, origin, mates or conflict.", code)
			}
			wanted = append(wanted, code)
		}
	}
	imp, client := int64(0), int64(0)
	if q.Import != nil {
		imp = *q.Import
	}
	if q.Client != nil {
		client = *q.Client
	}
	out := []api.FamilyGaps{}
	step := at
	step.Limit = lookedAtOnce
	for looked := 0; len(out) < at.Limit && looked < mostLooked; looked += lookedAtOnce {
		families, err := reportdb.In(r.store).FamiliesToLookAt(ctx, imp, client, step)
		if err != nil {
			return nil, err
		}
		found, err := r.gapsOf(ctx, families)
		if err != nil {
			return nil, err
		}
		for _, f := range found {
			if wanted == nil || slices.ContainsFunc(f.Gaps, func(l api.Gap) bool { return slices.Contains(wanted, l.Code) }) {
				out = append(out, f)
			}
		}
		if len(families) < lookedAtOnce {
			break
		}
		last := families[len(families)-1]
		step.AfterName, step.AfterID = last.Name, last.ID
	}
	items, next := app.CutPage(out, at, func(f api.FamilyGaps) (string, int64) { return f.Family.Name, f.Family.Id })
	return &api.GapPage{Items: items, Next: next}, nil
}

// gapsOf says what some families lack; those that lack nothing are left out.
func (r *Reports) gapsOf(ctx context.Context, families []store.Family) ([]api.FamilyGaps, error) {
	ids := app.Each(families, func(f store.Family) int64 { return f.ID })
	weighed, err := r.usage.Weigh(ctx, ids)
	if err != nil {
		return nil, err
	}
	unsettled, err := reportdb.In(r.store).UnsettledFiles(ctx, ids)
	if err != nil {
		return nil, err
	}
	var out []api.FamilyGaps
	for _, f := range families {
		v := api.FamilyGaps{Family: api.Ref{Id: f.ID, Name: f.Name}, Client: app.ClientRef(f.Client), Origin: api.Origin(f.Origin), Faces: f.FaceCount, Gaps: []api.Gap{}, Recognized: recognized(weighed, f.ID)}
		gaps := func(code api.GapCode, format string, args ...any) {
			v.Gaps = append(v.Gaps, api.Gap{Code: code, Message: fmt.Sprintf(format, args...)})
		}
		if n := unsettled[f.ID]; n > 0 {
			gaps(api.GapConflict, "%s: choose which one to use.", app.Number(n, "file"))
		}
		licenses := weighed.LicensesOf(f.ID)
		switch {
		case len(v.Recognized) > 0:
			gaps(api.GapUnconfirmed, "Its files mention %s, which is not confirmed yet.", strings.Join(v.Recognized, ", "))
		case len(licenses) == 0:
			gaps(api.GapLicense, "No license is recorded.")
		case !slices.ContainsFunc(licenses, func(l store.License) bool { return len(l.Documents) > 0 }):
			gaps(api.GapDocument, "No document proves its license.")
		}
		if f.Origin == string(api.OriginUnknown) {
			gaps(api.GapOrigin, "Nobody knows where it came from.")
		}
		for _, w := range classify.Mates(app.Each(weighed.Styles[f.ID], styleOf)) {
			gaps(api.GapMates, "%s", w)
		}
		if len(v.Gaps) > 0 {
			out = append(out, v)
		}
	}
	return out, nil
}

// recognized are the open licenses that a family's files speak of and that are not recorded.
func recognized(s *usage.Evidence, family int64) []string {
	var said []license.Finding
	for _, f := range s.Faces[family] {
		said = append(said, f.Says()...)
	}
	out := []string{}
	for _, one := range license.Propose(append(said, s.Documents[family]...)) {
		if !slices.ContainsFunc(s.LicensesOf(family), func(l store.License) bool { return l.SPDX == one.License }) {
			out = append(out, one.License)
		}
	}
	if len(s.LicensesOf(family)) > 0 {
		return []string{} // another license is what it is used under
	}
	return out
}

// styleOf is a face as its mates are looked for.
func styleOf(f usage.FaceStyle) classify.Style {
	return classify.Style{Name: f.Style, Weight: f.Metadata.Style.Weight, Italic: f.Metadata.Style.Slope != metadata.Upright, Variable: f.Variable}
}
