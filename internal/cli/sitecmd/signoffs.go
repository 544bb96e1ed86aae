package sitecmd

import (
	"context"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

func signOffCommand() *cli.Command {
	c := &cli.Command{
		Name: "sign-off", Usage: "sign off a family that is not cleared on a site", ArgsUsage: "SITE FAMILY REASON",
		Description: terminal.Example("An editor can sign off a family that needs review, an admin also a blocked one. The sign-off\nis valid for the current reasons, and with --until to the end of that day.", `sparecrate site sign-off --until 2030-12-31 "Growers' almanac" 'Tidegarth Poster' 'The foundry agreed by letter'`),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "until", Usage: "last `DAY`, like 2027-03-31"}},
	}
	c.Action = func(ctx context.Context, c *cli.Command) error {
		s, args, err := terminal.Begin(c, "a SITE, by number or name", "a FAMILY, by number or name", "the REASON in writing")
		if err != nil {
			return err
		}
		n := api.NewSignOff{Reason: args[2]}
		if n.Until, err = terminal.DayFlag(c, "until"); err != nil {
			return err
		}
		site, err := terminal.FindSite(ctx, s, args[0])
		if err != nil {
			return err
		}
		if n.Family, err = terminal.FindFamily(ctx, s, args[1]); err != nil {
			return err
		}
		v, err := terminal.Call[api.Site](s.AddSignOff(ctx, site, n))
		if err != nil {
			return err
		}
		return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
	}
	return c
}

// signedFor says what a sign-off is for.
func signedFor(o *api.SignOff) string {
	if o.Site != nil {
		return o.Site.Name
	}
	return "packs for " + *o.Builder
}

func addSignOffCommand() *cli.Command {
	return &cli.Command{
		Name: "add", Usage: "sign off a family in packs without a site", ArgsUsage: "FAMILY REASON",
		Description: terminal.Example("For packs of `pack family`. An editor can sign off a family that needs review, an admin also a\nblocked one; it is valid for the current reasons. For a site, use `site sign-off`.", `sparecrate sign-offs add --builder desktop 'Tidegarth Poster' 'The foundry agreed by letter'`),
		Flags: []cli.Flag{
			terminal.JSONFlag, &cli.StringFlag{Name: "builder", Usage: "`KIND` of builder", Required: true}, &cli.StringFlag{Name: "until", Usage: "last `DAY`, like 2027-03-31"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name", "the REASON in writing")
			if err != nil {
				return err
			}
			n := api.NewFamilySignOff{Builder: c.String("builder"), Reason: args[1]}
			if n.Until, err = terminal.DayFlag(c, "until"); err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			o, err := terminal.Call[api.SignOff](s.AddFamilySignOff(ctx, family, n))
			if err != nil {
				return err
			}
			return terminal.Show(c, o, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s is signed off for %s (no. %d).\n", o.Family.Name, signedFor(o), o.Id)
			})
		},
	}
}

// SignOffsCommand is `sign-offs`.
func SignOffsCommand() *cli.Command {
	return &cli.Command{
		Name: "sign-offs", Usage: "sign-offs: add, list, revoke",
		Description: terminal.Example("A sign-off clears a family on a site in spite of its verdict, as long as the reasons stay the same.", "sparecrate sign-offs list"),
		Commands: []*cli.Command{
			addSignOffCommand(),
			{
				Name: "list", Usage: "list sign-offs, newest first",
				Description: terminal.Example("States: holds, ended, revoked, and overtaken where the reasons are others now.", "sparecrate sign-offs list --state holds"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "site", Usage: "only of `SITE`, by number or name"}, &cli.StringFlag{Name: "state", Usage: "only those in `STATE`"}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					var q api.ListSignOffsParams
					if q.State = (*api.SignOffState)(terminal.Given(c, "state")); c.IsSet("site") {
						id, err := terminal.FindSite(ctx, s, c.String("site"))
						if err != nil {
							return err
						}
						q.Site = &id
					}
					found, err := terminal.Call[api.SignOffList](s.ListSignOffs(ctx, &q))
					if err != nil {
						return err
					}
					return terminal.Show(c, found, func(w io.Writer) {
						var rows [][]any
						for _, o := range found.Items {
							until := "the reasons change"
							if o.Until != nil {
								until = o.Until.String()
							}
							rows = append(rows, []any{o.Id, signedFor(&o), o.Family.Name, o.State, o.Standing, o.By, terminal.When(o.At), until, o.Reason})
						}
						terminal.Grid(w, []any{"No.", "For", "Family", "Verdict", "State", "By", "On", "Until", "Reason"}, []string{"No."}, rows)
						_, _ = fmt.Fprintf(w, "\nHolding: %d\n", found.Holding)
					})
				},
			},
			{
				Name: "revoke", Usage: "revoke a sign-off; it stays in the history", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("NUMBER is the one that `sign-offs list` shows.", "sparecrate sign-offs revoke 1"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NUMBER of the sign-off")
					if err != nil {
						return err
					}
					id, err := terminal.Number(args[0], "sign-off")
					if err != nil {
						return err
					}
					o, err := terminal.Call[api.SignOff](s.RevokeSignOff(ctx, id))
					if err != nil {
						return err
					}
					return terminal.Show(c, o, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Sign-off %d of %s on %s is revoked.\n", o.Id, o.Family.Name, signedFor(o))
					})
				},
			},
		},
	}
}
