package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// similarCommand is `family similar`.
func similarCommand() *cli.Command {
	return &cli.Command{
		Name: "similar", Usage: "list families that look like one", ArgsUsage: "FAMILY",
		Description: terminal.Example("Compares what is measured of outlines: weight, stroke contrast, x-height, width,\nroundness, slant, and how the letters are drawn. Names do not count.", "sparecrate family similar 'Skerrow Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: matchesOf("No family in the catalog looks like it.", func(ctx context.Context, s *api.Client, id int64) (*http.Response, error) {
			return s.ListSimilarFamilies(ctx, id)
		}),
	}
}

// pairingsCommand is `family pairings`.
func pairingsCommand() *cli.Command {
	return &cli.Command{
		Name: "pairings", Usage: "list families that go together with one, and why", ArgsUsage: "FAMILY",
		Description: terminal.Example("Good pairs differ clearly in kind, weight or stroke contrast, and agree in x-height.", "sparecrate family pairings 'Skerrow Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: matchesOf("No family in the catalog goes together with it.", func(ctx context.Context, s *api.Client, id int64) (*http.Response, error) {
			return s.ListPairings(ctx, id)
		}),
	}
}

// matchesOf lists the families that a call finds for one; none says that there are none.
func matchesOf(none string, call func(ctx context.Context, s *api.Client, id int64) (*http.Response, error)) cli.ActionFunc {
	return func(ctx context.Context, c *cli.Command) error {
		s, f, err := terminal.WithFamily(ctx, c)
		if err != nil {
			return err
		}
		found, err := terminal.Call[api.FamilyMatchList](call(ctx, s, f.Id))
		if err != nil {
			return err
		}
		return terminal.Show(c, found, func(w io.Writer) {
			if found.Appearance == nil {
				_, _ = fmt.Fprintf(w, "%s cannot be compared: none of its faces has Latin letters, or they are not measured yet.\n", f.Name)
				return
			}
			a := found.Appearance
			_, _ = fmt.Fprintf(w, "%s: %s, stems %.0f %% of the cap height, contrast %.1f to 1, x-height %.0f %%\n", strings.TrimSpace(f.Name+" "+found.Style), a.Kind, a.Stem, a.Contrast, a.XHeight)
			if len(found.Items) == 0 {
				_, _ = fmt.Fprintln(w, none)
				return
			}
			var rows [][]any
			for _, m := range found.Items {
				rows = append(rows, []any{m.Family.Id, strings.TrimSpace(m.Family.Name + " " + m.Style), m.Family.Client.Name, fmt.Sprintf("%.2f", m.Score), strings.Join(m.Why, " ")})
			}
			terminal.Grid(w, []any{"No.", "Face", "Client", "Score", "Why"}, []string{"No.", "Score"}, rows)
		})
	}
}
