package sites

import (
	"context"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/pack"
	"sparecrate/internal/packaging"
	"sparecrate/internal/store"
)

// Plan says what a pack for a site would hold.
func (dir *Directory) Plan(ctx context.Context, p *store.Person, site int64, environment *string) (*api.Plan, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := dir.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	where, err := packaging.EnvironmentOf(d.Site, environment)
	if err != nil {
		return nil, err
	}
	l, err := dir.packaging.LayOut(ctx, d, where)
	if err != nil {
		return nil, err
	}
	view, err := dir.siteView(ctx, d)
	if err != nil {
		return nil, err
	}
	view.Warnings = app.Each(l.Warnings, packaging.WarningView)
	plan := &api.Plan{Site: *view, Environment: where, For: l.Rules.For, Files: app.Each(l.Entries, packaging.PlanFile), Ready: len(d.Uses) > 0, Delivered: l.Delivered(), Styles: l.Styles, Pastes: app.Each(l.Pastes, packaging.PasteView),
		MissingUrls: append([]string{}, l.Awaits...), MissingStylesheetUrl: l.Sheet, Warnings: view.Warnings, Slip: string(l.Slip), Pending: l.Pending}
	plan.SlowSeconds = float32(pack.SlowSeconds(plan.Delivered))
	for _, u := range d.Uses {
		plan.Ready = plan.Ready && u.MayGoOut()
	}
	if !plan.Ready && l.Rules.URLs.After { // what is pasted puts the fonts to work
		plan.Styles, plan.Pastes = "", []api.Paste{}
	}
	for _, e := range l.Entries {
		plan.Bytes += e.Bytes
	}
	if l.Rules.Styles.Form == builder.StylesStylesheet || l.Rules.Styles.Form == builder.StylesLinked {
		plan.Stylesheet = plan.Styles
	}
	plan.Faces, err = dir.packaging.PlanFaces(ctx, d, l)
	return plan, err
}
