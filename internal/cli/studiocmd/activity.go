package studiocmd

import (
	"context"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// ActivityCommand is `activity`.
func ActivityCommand() *cli.Command {
	return &cli.Command{
		Name: "activity", Usage: "list who did what, when",
		Description: terminal.Example("The newest comes first. Options narrow the list; --out exports all of it.", "sparecrate activity --person 'Ines Varga' --from 2026-09-01 --find Skerrow"),
		Flags: []cli.Flag{
			terminal.JSONFlag, &cli.IntFlag{Name: "limit", Usage: "how many entries", Value: 30},
			&cli.StringFlag{Name: "person", Usage: "`NAME` of who did it"},
			&cli.StringFlag{Name: "action", Usage: "what was done, like `'built pack'`"},
			&cli.StringFlag{Name: "find", Usage: "`TEXT` in what it was done to or in its details"},
			&cli.StringFlag{Name: "client", Usage: "only what belongs to this `CLIENT`, by name or number"},
			&cli.StringFlag{Name: "from", Usage: "first `DAY`, like 2026-09-01"},
			&cli.StringFlag{Name: "to", Usage: "last `DAY`, like 2026-09-30"},
			&cli.StringFlag{Name: "out", Usage: "CSV `FILE` to export to"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			from, err := terminal.DayFlag(c, "from")
			if err != nil {
				return err
			}
			to, err := terminal.DayFlag(c, "to")
			if err != nil {
				return err
			}
			person, action, find := terminal.Given(c, "person"), terminal.Given(c, "action"), terminal.Given(c, "find")
			client, err := terminal.GivenClient(ctx, s, c)
			if err != nil {
				return err
			}
			if out := c.String("out"); out != "" {
				r, err := s.GetActivityFile(ctx, &api.GetActivityFileParams{Person: person, Action: action, Q: find, From: from, To: to, Client: client})
				n, err := terminal.Download(r, err, out)
				if err != nil {
					return err
				}
				_, _ = fmt.Fprintf(c.Root().Writer, "Saved %s (%s).\n", out, terminal.Size(n))
				return nil
			}
			limit := c.Int("limit")
			found, err := terminal.Call[api.ActivityPage](s.ListActivity(ctx, &api.ListActivityParams{Limit: &limit, Person: person, Action: action, Q: find, From: from, To: to, Client: client}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found.Items, func(w io.Writer) {
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "No activity matches.")
				}
				for _, a := range found.Items {
					_, _ = fmt.Fprintf(w, "%s  %s %s: %s\n", terminal.When(a.At), a.Person, a.Action, a.Subject)
					if a.Detail != "" {
						_, _ = fmt.Fprintf(w, "                  %s\n", a.Detail)
					}
				}
			})
		},
	}
}
