package sitecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

func everywhereCommand() *cli.Command {
	return &cli.Command{
		Name: "everywhere", Usage: "rebuild the packs of all sites that use an old version of a family", ArgsUsage: "FAMILY",
		Description: terminal.Example("Lists the sites whose last pack was built from files that are no longer in use. With --out their\npacks are rebuilt, in one zip with the upload slips and a checklist; families that are not cleared are on the\nchecklist with the reason.",
			"sparecrate pack everywhere 'Skerrow Sans'"),
		Flags: []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "out", Usage: "build the packs and save them as `FILE`"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			plan, err := terminal.Call[api.RebuildPlan](s.PlanRebuild(ctx, family))
			if err != nil {
				return err
			}
			out := c.String("out")
			if out == "" {
				return terminal.Show(c, plan, func(w io.Writer) { showRebuild(w, plan) })
			}
			r, err := s.Rebuild(ctx, family)
			n, err := terminal.Download(r, err, out)
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"file": out, "bytes": n, "plan": plan}, func(w io.Writer) {
				showRebuild(w, plan)
				_, _ = fmt.Fprintln(w)
				saved(w, out, n, "checklist.html")
			})
		},
	}
}

func showRebuild(w io.Writer, plan *api.RebuildPlan) {
	if len(plan.Items) == 0 {
		_, _ = fmt.Fprintf(w, "No site carries an old version of %s.\n", plan.Family.Name)
		return
	}
	var rows [][]any
	for _, one := range plan.Items {
		says := strings.Join(one.Changes, " ")
		if one.Stops != nil {
			says = "Cannot be built: " + *one.Stops
		}
		rows = append(rows, []any{one.Site.Name, one.Client, orDash(one.Environment), terminal.When(one.BuiltAt), says})
	}
	terminal.Grid(w, []any{"Site", "Client", "Environment", "Last pack", "Changes"}, nil, rows)
}
