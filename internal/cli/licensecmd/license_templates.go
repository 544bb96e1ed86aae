package licensecmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// fromTemplate begins terms with those of a template.
func fromTemplate(ctx context.Context, s *api.Client, name string, t *api.LicenseTerms) error {
	found, err := terminal.Call[api.TemplateList](s.ListTemplates(ctx))
	if err != nil {
		return err
	}
	i := slices.IndexFunc(found.Items, func(one api.Template) bool { return strings.EqualFold(one.Name, name) })
	if i < 0 {
		return fmt.Errorf("there is no template %q; `sparecrate license templates` lists them", name)
	}
	from := found.Items[i].Terms
	if from.Kind != nil {
		t.Kind = *from.Kind
	}
	if from.Uses != nil {
		t.Uses = *from.Uses
	}
	t.Licensor, t.Changes, t.PageViews, t.Seats, t.Apps, t.Renewal, t.Note = from.Licensor, from.Changes, from.PageViews, from.Seats, from.Apps, from.Renewal, from.Note
	if from.Months != nil {
		today := time.Now().UTC().Truncate(24 * time.Hour)
		t.From, t.Until = &openapi.Date{Time: today}, &openapi.Date{Time: today.AddDate(0, *from.Months, -1)}
	}
	return nil
}

func templatesCommand() *cli.Command {
	return &cli.Command{
		Name: "templates", Usage: "license templates: list, save, delete",
		Description: terminal.Example("`license add --like NAME` begins with one.", "sparecrate license templates"),
		Flags: append([]cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "save", Usage: "save the other options as the template `NAME`"}, &cli.StringFlag{Name: "delete", Usage: "delete the template `NAME`"},
			&cli.IntFlag{Name: "months", Usage: "how long such a license is valid"}}, slices.DeleteFunc(termFlags(), func(f cli.Flag) bool {
			return slices.Contains([]string{"client", "like", "from", "until", "reference", "document", "domain", "face", "price", "spdx"}, f.Names()[0])
		})...),
		Action: templates,
	}
}

func templates(ctx context.Context, c *cli.Command) error {
	s, _, err := terminal.Begin(c)
	if err != nil {
		return err
	}
	if c.IsSet("save") {
		var t api.LicenseTerms
		if err := readTerms(ctx, s, c, &t); err != nil {
			return err
		}
		terms := api.TemplateTerms{Licensor: t.Licensor, Changes: t.Changes, PageViews: t.PageViews, Seats: t.Seats, Apps: t.Apps, Renewal: t.Renewal, Note: t.Note}
		if t.Kind != "" {
			terms.Kind = &t.Kind
		}
		if t.Uses != nil {
			terms.Uses = &t.Uses
		}
		if c.IsSet("months") {
			months := c.Int("months")
			terms.Months = &months
		}
		made, err := terminal.Call[api.Template](s.SaveTemplate(ctx, api.NewTemplate{Name: c.String("save"), Terms: terms}))
		if err != nil {
			return err
		}
		return terminal.Show(c, made, func(w io.Writer) {
			_, _ = fmt.Fprintf(w, "Saved the template %s: %s.\n", made.Name, templateLine(made.Terms))
		})
	}
	found, err := terminal.Call[api.TemplateList](s.ListTemplates(ctx))
	if err != nil {
		return err
	}
	if c.IsSet("delete") {
		var all []terminal.Named
		for _, t := range found.Items {
			all = append(all, terminal.Named{ID: t.Id, Name: t.Name, More: t.CreatedBy})
		}
		id, err := terminal.Choose(c.String("delete"), "template", all)
		if err != nil {
			return err
		}
		if _, err := terminal.Call[terminal.Nothing](s.DeleteTemplate(ctx, id)); err != nil {
			return err
		}
		_, _ = fmt.Fprintln(c.Root().Writer, "Deleted; licenses created from it stay.")
		return nil
	}
	return terminal.Show(c, found.Items, func(w io.Writer) {
		var rows [][]any
		for _, t := range found.Items {
			rows = append(rows, []any{t.Id, t.Name, templateLine(t.Terms), t.CreatedBy})
		}
		terminal.Grid(w, []any{"No.", "Template", "Terms", "By"}, []string{"No."}, rows)
	})
}

func templateLine(t api.TemplateTerms) string {
	var parts []string
	if t.Kind != nil {
		parts = append(parts, string(*t.Kind))
	}
	if t.Uses != nil {
		parts = append(parts, uses(api.License{Uses: *t.Uses}))
	}
	if t.Months != nil {
		parts = append(parts, fmt.Sprintf("%d months", *t.Months))
	}
	for _, n := range []struct {
		what string
		of   *int64
	}{{"page views a month", t.PageViews}, {"seats", t.Seats}, {"apps", t.Apps}} {
		if n.of != nil {
			parts = append(parts, thousands(*n.of)+" "+n.what)
		}
	}
	return strings.Join(parts, "; ")
}
