package reports

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/inspectiondb"
)

// inspected says what the newest inspection of each site found that nobody accepted, the new
// first.
func (r *Reports) inspected(ctx context.Context, d *dueList) error {
	open, err := inspectiondb.In(r.store).OpenFindings(ctx)
	if err != nil || len(open) == 0 {
		return err
	}
	newest, err := inspectiondb.In(r.store).Newest(ctx)
	if err != nil {
		return err
	}
	bySite := map[int64][]store.Finding{}
	for i := range open {
		if !open[i].AcceptedOn(r.now()) {
			bySite[open[i].SiteID] = append(bySite[open[i].SiteID], open[i])
		}
	}
	for _, id := range slices.Sorted(maps.Keys(bySite)) {
		site, last := d.Sites[id], newest[id]
		if site == nil || last.ID == 0 {
			continue
		}
		d.add(api.DueItem{Kind: api.DueFindings, State: api.Review, Sites: []api.Ref{app.SiteRef(site)}, Message: inspectedSays(site.Name, bySite[id], &last)}, site.Client, nil)
	}
	return nil
}

// inspectedSays writes what an inspection found, in a sentence or two.
func inspectedSays(site string, open []store.Finding, last *store.Inspection) string {
	errors, fresh := 0, []store.Finding{}
	for _, f := range open {
		if f.Severity == "error" {
			errors++
		}
		if f.FirstID == last.ID {
			fresh = append(fresh, f)
		}
	}
	first := open[0]
	news := ""
	if last.Gone > 0 || len(fresh) < len(open) { // else all is new, as in a first inspection
		news = fmt.Sprintf(", %d of them new", len(fresh))
		if len(fresh) > 0 {
			first = fresh[0]
		}
	}
	return fmt.Sprintf("The pages of %s, inspected on %s, have %s and %s%s. %s", site, last.EndedAt.Format(time.DateOnly), app.Number(errors, "error"), app.Number(len(open)-errors, "warning"), news, app.Shorten(first.Message, 300))
}
