package cli

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

func when(t time.Time) string { return t.Local().Format("2006-01-02 15:04") }

func activityCommand() *cli.Command {
	return &cli.Command{
		Name: "activity", Usage: "who did what, when",
		Description: example("The newest comes first.", "sparecrate activity --limit 20"),
		Flags:       []cli.Flag{jsonFlag, &cli.IntFlag{Name: "limit", Usage: "how many lines", Value: 30}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := begin(c)
			if err != nil {
				return err
			}
			limit := c.Int("limit")
			found, err := call[api.ActivityPage](s.ListActivity(ctx, &api.ListActivityParams{Limit: &limit}))
			if err != nil {
				return err
			}
			return show(c, found.Items, func(w io.Writer) {
				for _, a := range found.Items {
					_, _ = fmt.Fprintf(w, "%s  %s %s: %s\n", when(a.At), a.Person, a.Action, a.Subject)
					if a.Detail != "" {
						_, _ = fmt.Fprintf(w, "                  %s\n", a.Detail)
					}
				}
			})
		},
	}
}
