package sitecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
)

func clientPackCommand() *cli.Command {
	return &cli.Command{
		Name: "client", Usage: "build a pack with all families of a client, for one person's computer", ArgsUsage: "CLIENT",
		Description: terminal.Example("All families that the client has, uses on a site or has a license of, with scripts that install\nand remove them on Linux, macOS and Windows. Families that are not cleared are not included, with the reason. --seat\ngives whom it is for a seat of each license that counts them; without --out only says what would\nbecome of it.",
			"sparecrate pack client --seat 'Marit Sund' --out holmvik.zip 'Holmvik Ferries'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "builder", Usage: "`KIND` of builder", Value: "desktop"},
			&cli.StringFlag{Name: "seat", Usage: "`NAME` of the person, as recorded in seats"},
			&cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a CLIENT, by number or name")
			if err != nil {
				return err
			}
			client, err := terminal.FindClient(ctx, s, args[0])
			if err != nil {
				return err
			}
			seat := terminal.Given(c, "seat")
			plan, err := terminal.Call[api.ClientPackPlan](s.PlanClientPack(ctx, client, &api.PlanClientPackParams{Builder: c.String("builder"), Seat: seat}))
			if err != nil {
				return err
			}
			out := c.String("out")
			if out == "" {
				return terminal.Show(c, plan, func(w io.Writer) { showClientPlan(w, plan, seat) })
			}
			r, err := s.BuildClientPack(ctx, client, api.NewClientPack{Builder: c.String("builder"), Seat: seat})
			n, err := terminal.Download(r, err, out)
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"file": out, "bytes": n, "plan": plan}, func(w io.Writer) {
				showClientPlan(w, plan, seat)
				_, _ = fmt.Fprintln(w)
				saved(w, out, n, "upload-slip.html")
			})
		},
	}
}

func showClientPlan(w io.Writer, plan *api.ClientPackPlan, seat *string) {
	var rows [][]any
	for _, f := range plan.Families {
		rows = append(rows, []any{f.Family.Name, terminal.Count(f.Faces, "face"), license.State(f.Verdict).Words(), ""})
	}
	for _, l := range plan.LeftOut {
		rows = append(rows, []any{l.Family, "not included", "", l.Why})
	}
	terminal.Grid(w, []any{"Family", "", "Verdict", "Why"}, nil, rows)
	for _, s := range plan.Seats {
		what := fmt.Sprintf("%d of %d seats are taken", s.Used, s.Of)
		switch {
		case s.Full:
			what += "; none is left"
		case s.Taken:
			what += "; " + *seat + " has one"
		case seat != nil:
			what += "; " + *seat + " takes one"
		}
		_, _ = fmt.Fprintf(w, "%s (%s): %s.\n", s.License.Name, s.Family, strings.TrimSpace(what))
	}
}
