package sitecmd

import (
	"context"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

func liveCommand() *cli.Command {
	return &cli.Command{
		Name: "live", Usage: "live stylesheets, served by Spare Crate: create, list, revoke", ArgsUsage: "SITE",
		Description: terminal.Example("For prototypes and previews. Each time a page reads it counts as a page view of the site;\nwhat may not go out stops it. Its URL is also in the list.", "sparecrate site live 'Holmvik timetable'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "list", Usage: "list active live stylesheets"}, &cli.StringFlag{Name: "revoke", Usage: "revoke the live stylesheet with this `NUMBER`"}},
		Action:      liveStylesheets,
	}
}

func liveStylesheets(ctx context.Context, c *cli.Command) error {
	s, args, err := terminal.Begin(c, "a SITE, by number or name")
	if err != nil {
		return err
	}
	site, err := terminal.FindSite(ctx, s, args[0])
	if err != nil {
		return err
	}
	switch {
	case c.IsSet("revoke"):
		id, err := terminal.Number(c.String("revoke"), "live stylesheet")
		if err != nil {
			return err
		}
		if _, err := terminal.Call[terminal.Nothing](s.RevokeLiveStylesheet(ctx, site, id)); err != nil {
			return err
		}
		_, _ = fmt.Fprintf(c.Root().Writer, "Live stylesheet %d no longer works; pages that load it fall back to other fonts.\n", id)
		return nil
	case c.Bool("list"):
		found, err := terminal.Call[api.LiveStylesheetList](s.ListLiveStylesheets(ctx, site))
		if err != nil {
			return err
		}
		return terminal.Show(c, found.Items, func(w io.Writer) {
			var rows [][]any
			for _, l := range found.Items {
				where := "not known; make a new one"
				if l.Path != nil {
					if full, err := terminal.SecretAddress(l.Id, *l.Path); err == nil {
						where = full.Address
					}
				}
				rows = append(rows, []any{l.Id, terminal.When(l.CreatedAt), l.CreatedBy, where})
			}
			terminal.Grid(w, []any{"No.", "Made", "By", "URL"}, []string{"No."}, rows)
		})
	}
	made, err := terminal.Call[api.NewLiveStylesheet](s.AddLiveStylesheet(ctx, site))
	if err != nil {
		return err
	}
	full, err := terminal.SecretAddress(made.Sheet.Id, made.Path)
	if err != nil {
		return err
	}
	return terminal.Show(c, full, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "<link rel=\"stylesheet\" href=\"%s\">\nPut this line into the head of the page. `sparecrate site live --revoke %d %d` ends it.\nOnce it is in, `sparecrate inspections start --wait %d` says what the pages show.\n", full.Address, full.Number, site, site)
	})
}
