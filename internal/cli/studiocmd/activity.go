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
		Name: "activity", Usage: "activity: who did what, when",
		Description: terminal.Example("The newest comes first.", "sparecrate activity --limit 20"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.IntFlag{Name: "limit", Usage: "how many entries", Value: 30}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			limit := c.Int("limit")
			found, err := terminal.Call[api.ActivityPage](s.ListActivity(ctx, &api.ListActivityParams{Limit: &limit}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found.Items, func(w io.Writer) {
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
