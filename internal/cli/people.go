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

func tokensCommand() *cli.Command {
	return &cli.Command{
		Name: "tokens", Usage: "your tokens: list, add, withdraw",
		Description: example("A token lets a program in on your behalf. Its secret is shown once.", "sparecrate tokens add 'build pipeline'"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list your tokens", Flags: []cli.Flag{jsonFlag},
				Description: example("Shows when each was made and last used, never its secret.", "sparecrate tokens list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := begin(c)
					if err != nil {
						return err
					}
					found, err := call[api.TokenList](s.ListTokens(ctx))
					if err != nil {
						return err
					}
					return show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, t := range found.Items {
							used := "never"
							if t.LastUsedAt != nil {
								used = when(*t.LastUsedAt)
							}
							rows = append(rows, []any{t.Id, t.Name, when(t.CreatedAt), used})
						}
						grid(w, []any{"No.", "Name", "Made", "Last used"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "make a token", ArgsUsage: "NAME", Flags: []cli.Flag{jsonFlag},
				Description: example("Prints the token's secret, this once.", "sparecrate tokens add 'build pipeline'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := begin(c, "a NAME that says what the token is for")
					if err != nil {
						return err
					}
					t, err := call[api.AddedToken](s.AddToken(ctx, api.NewToken{Name: args[0]}))
					if err != nil {
						return err
					}
					return show(c, t, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "%s\nKeep it now; it is not shown again. Use it as SPARECRATE_TOKEN.\n", t.Secret)
					})
				},
			},
			{
				Name: "withdraw", Usage: "end a token", ArgsUsage: "NUMBER", Flags: []cli.Flag{jsonFlag},
				Description: example("Whoever uses the token is out from now on.", "sparecrate tokens withdraw 2"),
				Action: func(ctx context.Context, c *cli.Command) error {
					args, err := arguments(c, "the NUMBER of the token")
					if err != nil {
						return err
					}
					id, err := number(args[0], "token")
					if err != nil {
						return err
					}
					s, err := connect()
					if err != nil {
						return err
					}
					if _, err := call[nothing](s.WithdrawToken(ctx, id)); err != nil {
						return err
					}
					return show(c, map[string]int64{"withdrawn": id}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Withdrew token %d.\n", id) })
				},
			},
		},
	}
}

func peopleCommand() *cli.Command {
	return &cli.Command{
		Name: "people", Usage: "who has an account: list, add (admins)",
		Description: example("A new person gets a one-time password to set their own with.",
			"sparecrate people list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list everyone", Flags: []cli.Flag{jsonFlag},
				Description: example("Shows names, addresses and roles.", "sparecrate people list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := begin(c)
					if err != nil {
						return err
					}
					found, err := call[api.PersonList](s.ListPeople(ctx))
					if err != nil {
						return err
					}
					return show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, p := range found.Items {
							rows = append(rows, []any{p.Id, p.Name, p.Email, p.Role})
						}
						grid(w, []any{"No.", "Name", "E-mail", "Role"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a person", ArgsUsage: "NAME",
				Description: example("Prints a one-time password to hand over.", "sparecrate people add --role viewer --email mads@lanternjaw.example 'Mads Birk'"),
				Flags: []cli.Flag{
					jsonFlag,
					&cli.StringFlag{Name: "email", Usage: "e-mail `ADDRESS`", Required: true},
					&cli.StringFlag{Name: "role", Usage: "viewer, editor or admin", Value: "viewer"},
				},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := begin(c, "the NAME of the person")
					if err != nil {
						return err
					}
					p, err := call[api.AddedPerson](s.AddPerson(ctx, api.NewPerson{Name: args[0], Email: c.String("email"), Role: api.Role(c.String("role"))}))
					if err != nil {
						return err
					}
					return show(c, p, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "%s can sign in as %s with the one-time password %s\n", p.Person.Name, p.Person.Email, p.OneTimePassword)
					})
				},
			},
		},
	}
}

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
