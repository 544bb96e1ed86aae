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
	"sparecrate/internal/inspect/recognize"
)

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
	var of *recognize.Site
	if name := c.String("site"); name != "" {
		id, err := terminal.FindSite(ctx, s, name)
		if err != nil {
			return plan, err
		}
		site, err := terminal.Call[api.Site](s.GetSite(ctx, id))
		if err != nil {
			return plan, err
		}
		for _, r := range site.Roles {
			if r.Selector != "" {
				plan.Roles = append(plan.Roles, inspect.Role{Title: r.Title, Selector: r.Selector, Family: r.Family.Name})
			}
		}
		of, plan.Domains = &recognize.Site{ID: id, Client: site.Client.Name}, site.Domains
	}
	plan.Known = recognize.New(catalog{s}, of).Known
	return plan, nil
}

// catalog asks the service what it knows of fonts.
type catalog struct{ s *api.Client }

// Alike sends a font.
func (c catalog) Alike(ctx context.Context, format string, font []byte) ([]api.Alike, error) {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "font."+format)
	if err != nil {
		return nil, err
	}
	if _, err := part.Write(font); err != nil {
		return nil, err
	}
	if err := form.Close(); err != nil {
		return nil, err
	}
	found, err := terminal.Call[api.AlikeList](c.s.FindAlikeWithBody(ctx, form.FormDataContentType(), &body))
	if terminal.IsProblem(err, "nothing-drawn") {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return found.Items, nil
}

// Hosted asks for families of a name that somebody else's server hosts.
func (c catalog) Hosted(ctx context.Context, name string) ([]api.FamilySummary, error) {
	origin := []api.Origin{api.OriginHosted}
	return terminal.AllFamilies(ctx, c.s, api.ListFamiliesParams{Q: &name, Origin: &origin})
}

// Verdict asks whether a family may be used.
func (c catalog) Verdict(ctx context.Context, family int64, q api.GetVerdictParams) (*api.Verdict, error) {
	return terminal.Call[api.Verdict](c.s.GetVerdict(ctx, family, &q))
}
