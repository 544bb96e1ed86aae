package importcmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// GapsCommand is `lacks`.
func GapsCommand() *cli.Command {
	return &cli.Command{
		Name: "gaps", Usage: "list families with missing details, and fix many at once",
		Description: terminal.Example("An option that fixes a gap applies to every listed family; what cannot be done is listed\nwith the reason.",
			"sparecrate gaps --what unconfirmed --confirm"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.Int64Flag{Name: "import", Usage: "only families of the import with this `NUMBER`"},
			&cli.StringFlag{Name: "client", Usage: "only families of the `CLIENT`, by name or number"},
			&cli.StringSliceFlag{Name: "what", Usage: "only families with this gap: license, unconfirmed, document, origin, mates, conflict; may be repeated"},
			&cli.BoolFlag{Name: "confirm", Usage: "confirm the open licenses that were recognized"},
			&cli.Int64Flag{Name: "license", Usage: "add them to the license with this `NUMBER`"},
			&cli.StringFlag{Name: "origin", Usage: "set their origin: bought, client, open, commissioned, hosted or unknown"},
			&cli.StringSliceFlag{Name: "tag", Usage: "add this tag; may be repeated"},
			&cli.BoolFlag{Name: "retire", Usage: "retire them"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			found, err := lacking(ctx, c, s)
			if err != nil {
				return err
			}
			if mends(c) {
				return mend(ctx, c, s, found)
			}
			return terminal.Show(c, api.GapPage{Items: found}, func(w io.Writer) {
				var rows [][]any
				for _, f := range found {
					for i, l := range f.Gaps {
						if i == 0 {
							rows = append(rows, []any{f.Family.Id, f.Client.Name + "/" + f.Family.Name, l.Message})
							continue
						}
						rows = append(rows, []any{"", "", l.Message})
					}
				}
				terminal.Grid(w, []any{"No.", "Family", "Gaps"}, []string{"No."}, rows)
			})
		},
	}
}

// lacking returns the families that a command is about.
func lacking(ctx context.Context, c *cli.Command, s *api.Client) ([]api.FamilyGaps, error) {
	limit := 200
	q := api.ListGapsParams{Limit: &limit}
	if c.IsSet("import") {
		q.Import = new(c.Int64("import"))
	}
	if v := c.String("client"); v != "" {
		id, err := terminal.FindClient(ctx, s, v)
		if err != nil {
			return nil, err
		}
		q.Client = &id
	}
	if c.IsSet("what") {
		var what []api.GapCode
		for _, code := range c.StringSlice("what") {
			what = append(what, api.GapCode(strings.TrimSpace(code)))
		}
		q.What = &what
	}
	found := []api.FamilyGaps{}
	for {
		page, err := terminal.Call[api.GapPage](s.ListGaps(ctx, &q))
		if err != nil {
			return nil, err
		}
		found = append(found, page.Items...)
		if page.Next == nil {
			return found, nil
		}
		q.Cursor = page.Next
	}
}

func mends(c *cli.Command) bool {
	return c.Bool("confirm") || c.IsSet("license") || c.IsSet("origin") || c.IsSet("tag") || c.Bool("retire")
}

// atOnceMended is how many families one call is about.
const atOnceMended = 500

// mend does with all families what the options ask for.
func mend(ctx context.Context, c *cli.Command, s *api.Client, found []api.FamilyGaps) error {
	all := &api.DoneFamilies{Done: []api.Ref{}, Refused: []api.RefusedFamily{}}
	for len(found) > 0 {
		n := min(len(found), atOnceMended)
		var families []int64
		for _, f := range found[:n] {
			families = append(families, f.Family.Id)
		}
		found = found[n:]
		if err := mendSome(ctx, c, s, families, all); err != nil {
			return err
		}
	}
	return terminal.Show(c, all, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Done for %s.\n", families(len(all.Done)))
		for _, r := range all.Refused {
			_, _ = fmt.Fprintf(w, "%s (%d): %s\n", r.Family.Name, r.Family.Id, r.Why)
		}
	})
}

func mendSome(ctx context.Context, c *cli.Command, s *api.Client, families []int64, all *api.DoneFamilies) error {
	add := func(done *api.DoneFamilies, err error) error {
		if err == nil {
			all.Done, all.Refused = append(all.Done, done.Done...), append(all.Refused, done.Refused...)
		}
		return err
	}
	if c.Bool("confirm") {
		if err := add(terminal.Call[api.DoneFamilies](s.ConfirmRecognized(ctx, api.SomeFamilies{Families: families}))); err != nil {
			return err
		}
	}
	if c.IsSet("license") {
		covered, err := terminal.Call[api.License](s.CoverFamilies(ctx, c.Int64("license"), api.SomeFamilies{Families: families}))
		if err != nil {
			return err
		}
		for _, f := range covered.Families {
			for _, id := range families {
				if f.Id == id {
					all.Done = append(all.Done, f)
				}
			}
		}
	}
	change := api.FamiliesChange{Families: families, Origin: (*api.Origin)(terminal.Given(c, "origin"))}
	if c.IsSet("tag") {
		change.Tags = new(c.StringSlice("tag"))
	}
	if c.Bool("retire") {
		change.Retired = new(true)
	}
	if change.Origin == nil && change.Tags == nil && change.Retired == nil {
		return nil
	}
	return add(terminal.Call[api.DoneFamilies](s.ChangeFamilies(ctx, change)))
}

func families(n int) string {
	if n == 1 {
		return "1 family"
	}
	return fmt.Sprintf("%d families", n)
}
