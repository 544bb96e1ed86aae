package inspectcmd

import (
	"bytes"
	"context"
	"mime/multipart"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
)

// asker asks the service what it knows of fonts.
type asker struct {
	s    *api.Client
	site *api.Site // that pages are of; nil where none was named
	seen map[string]*inspect.Known
}

// planned returns what the service knows of the pages beforehand, where it is to be asked.
func planned(ctx context.Context, c *cli.Command) (browse.Plan, error) {
	var plan browse.Plan
	if !c.Bool("catalog") && c.String("site") == "" {
		return plan, nil
	}
	s, err := terminal.Connect()
	if err != nil {
		return plan, err
	}
	a := &asker{s: s, seen: map[string]*inspect.Known{}}
	if name := c.String("site"); name != "" {
		id, err := terminal.FindSite(ctx, s, name)
		if err != nil {
			return plan, err
		}
		if a.site, err = terminal.Call[api.Site](s.GetSite(ctx, id)); err != nil {
			return plan, err
		}
		for _, r := range a.site.Roles {
			if r.Selector != "" {
				plan.Roles = append(plan.Roles, inspect.Role{Title: r.Title, Selector: r.Selector, Family: r.Family.Name})
			}
		}
	}
	plan.Known = a.known
	return plan, nil
}

// known looks each font up that came.
func (a *asker) known(ctx context.Context, v *inspect.Visit) error {
	for _, r := range v.Sent() {
		if r.Font.Known == nil {
			k, err := a.one(ctx, r)
			if err != nil {
				return err
			}
			r.Font.Known = k
		}
	}
	return nil
}

func (a *asker) one(ctx context.Context, r *inspect.Request) (*inspect.Known, error) {
	if k := a.seen[r.Font.SHA256]; k != nil {
		return k, nil
	}
	k := &inspect.Known{}
	a.seen[r.Font.SHA256] = k
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "font."+r.Font.Container)
	if err != nil {
		return nil, err
	}
	if _, err := part.Write(r.Body); err != nil {
		return nil, err
	}
	if err := form.Close(); err != nil {
		return nil, err
	}
	found, err := terminal.Call[api.AlikeList](a.s.FindAlikeWithBody(ctx, form.FormDataContentType(), &body))
	if terminal.IsProblem(err, "nothing-drawn") {
		return k, nil
	}
	if err != nil {
		return nil, err
	}
	of := a.nearest(found.Items)
	if of == nil {
		return k, nil
	}
	k.Family, k.Face, k.FamilyName, k.Style, k.Relation, k.Why, k.Client = of.Family.Id, of.Face, of.Family.Name, of.Style, string(of.Relation), of.Why, of.Client
	return k, a.weigh(ctx, k, of)
}

// nearest returns the face that a font is of: of those as near, one of the site's client.
func (a *asker) nearest(found []api.Alike) *api.Alike {
	var out *api.Alike
	for i := range found {
		f := &found[i]
		if f.Relation == api.RelationDifferent {
			continue
		}
		if out == nil || f.Relation == out.Relation && a.site != nil && f.Client == a.site.Client.Name && out.Client != f.Client {
			out = f
		}
	}
	return out
}

// weigh asks whether a family may be on the page.
func (a *asker) weigh(ctx context.Context, k *inspect.Known, of *api.Alike) error {
	use := api.UseWeb
	ask := &api.GetVerdictParams{Use: &use, Face: &of.Face}
	if of.Relation == api.RelationPart {
		ask.Change = &[]api.GetVerdictParamsChange{api.ChangeSubset}
	}
	if a.site != nil {
		ask.Site = &a.site.Id
	}
	verdict, err := terminal.Call[api.Verdict](a.s.GetVerdict(ctx, of.Family.Id, ask))
	if err != nil {
		return err
	}
	switch {
	case verdict.MayGoOut:
		k.Verdict = "cleared"
	case verdict.State == api.Barred:
		k.Verdict = "blocked"
	default:
		k.Verdict = "review"
	}
	k.Reasons = []string{}
	for _, r := range verdict.Reasons {
		if r.State != api.Clear {
			k.Reasons = append(k.Reasons, r.Message)
		}
	}
	k.OtherClient = a.site != nil && of.Client != a.site.Client.Name && k.Verdict != "cleared"
	return nil
}
