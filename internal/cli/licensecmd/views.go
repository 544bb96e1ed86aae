package licensecmd

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
)

// ViewsCommand is `views`.
func ViewsCommand() *cli.Command {
	views := func(name, about, usage, text, line string, more []string, do func(context.Context, *api.Client, int64, []string) (*api.SiteViews, error)) *cli.Command {
		return &cli.Command{
			Name: name, Usage: about, ArgsUsage: usage, Flags: []cli.Flag{terminal.JSONFlag}, Description: terminal.Example(text, line),
			Action: func(ctx context.Context, c *cli.Command) error {
				names := append([]string{"a SITE, by number or name"}, more...)
				if c.Args().Len() < len(names) {
					_, err := terminal.Arguments(c, names...)
					return err
				}
				s, err := terminal.Connect()
				if err != nil {
					return err
				}
				site, err := terminal.FindSite(ctx, s, c.Args().First())
				if err != nil {
					return err
				}
				v, err := do(ctx, s, site, c.Args().Tail())
				if err != nil {
					return err
				}
				return terminal.Show(c, v, func(w io.Writer) { showViews(w, v) })
			},
		}
	}
	return &cli.Command{
		Name: "views", Usage: "page views of a site by month, against license limits",
		Description: terminal.Example("Licenses with a limit of page views count them over all sites that use what they cover.", "sparecrate views show 'Orrery Hall visitor site'"),
		Commands: []*cli.Command{
			views("show", "show the months, and where they are going", "SITE", "Says in which month a limit is passed if it goes on like this.", "sparecrate views show 'Orrery Hall visitor site'", nil,
				func(ctx context.Context, s *api.Client, site int64, _ []string) (*api.SiteViews, error) {
					return terminal.Call[api.SiteViews](s.GetViews(ctx, site))
				}),
			views("enter", "enter the page views of months", "SITE MONTH=VIEWS...", "Values of a month are replaced; earlier values are in the activity.", "sparecrate views enter 'Holmvik timetable' 2026-09=18250 2026-10=19100",
				[]string{"a MONTH=VIEWS, like 2026-10=19100"}, enterViews),
			views("import", "read page views out of a CSV file", "SITE FILE", "A row a month or a day, with the date in one column and the number in another; days are\nsummed by month.", "sparecrate views import 'Holmvik timetable' views.csv",
				[]string{"a FILE"}, func(ctx context.Context, s *api.Client, site int64, args []string) (*api.SiteViews, error) {
					body, kind, err := terminal.Form(args[0], nil)
					if err != nil {
						return nil, err
					}
					defer func() { _ = body.Close() }()
					return terminal.Call[api.SiteViews](s.ImportViewsWithBody(ctx, site, kind, body))
				}),
		},
	}
}

func enterViews(ctx context.Context, s *api.Client, site int64, args []string) (*api.SiteViews, error) {
	var in api.NewViews
	for _, a := range args {
		month, text, ok := strings.Cut(a, "=")
		n, err := strconv.ParseInt(strings.NewReplacer(",", "", "_", "", " ", "").Replace(text), 10, 64)
		if !ok || err != nil {
			return nil, terminal.Misused("%q is no month with a number; write it like 2026-10=19100", a)
		}
		in.Items = append(in.Items, api.MonthViews{Month: month, Views: n})
	}
	return terminal.Call[api.SiteViews](s.SetViews(ctx, site, in))
}

// showViews prints the months with a bar each; the longest is the largest month or cap.
func showViews(w io.Writer, v *api.SiteViews) {
	const width = 40
	most := int64(1)
	for _, m := range v.Months {
		most = max(most, m.Views)
	}
	for _, l := range v.Limits {
		most = max(most, l.Cap)
	}
	_, _ = fmt.Fprintf(w, "%s: page views by month\n\n", v.Site.Name)
	for _, m := range v.Months {
		_, _ = fmt.Fprintf(w, "  %s  %12s  %s\n", m.Month, thousands(m.Views), strings.Repeat("█", int(m.Views*width/most)))
	}
	if len(v.Months) == 0 {
		_, _ = fmt.Fprintln(w, "  None were counted yet.")
	}
	for _, m := range v.Live {
		note := ""
		if m.Jump {
			note = "; one day had many times more than the days before"
		}
		_, _ = fmt.Fprintf(w, "\n  %s  %12s  visitors of live stylesheets, counted apart%s\n", m.Month, thousands(m.Visitors), note)
	}
	for _, l := range v.Limits {
		_, _ = fmt.Fprintf(w, "\n%s allows %s a month; all its sites had %s", strings.ToUpper(l.License.Name[:1])+l.License.Name[1:], thousands(l.Cap), thousands(l.Latest))
		if l.Month != nil {
			_, _ = fmt.Fprintf(w, " in %s", *l.Month)
		}
		_, _ = fmt.Fprintln(w, ".")
		switch {
		case l.Reached != nil && l.Latest > l.Cap:
			_, _ = fmt.Fprintln(w, "It is over its limit.")
		case l.Reached != nil:
			_, _ = fmt.Fprintf(w, "If it goes on like this (%+d a month) the limit is passed in %s.\n", l.Trend, *l.Reached)
		}
	}
}

func thousands(n int64) string { return license.Grouped(n) }
