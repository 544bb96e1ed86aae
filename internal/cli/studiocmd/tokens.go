package studiocmd

import (
	"context"
	"fmt"
	"io"
	"net/http"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// TokensCommand is `tokens`.
func TokensCommand() *cli.Command {
	return &cli.Command{
		Name: "tokens", Usage: "API tokens: list, add, revoke",
		Description: terminal.Example("A token lets a program in on your behalf. Its secret is shown once.", "sparecrate tokens add 'build pipeline'"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list your tokens", Flags: []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "everyone", Usage: "list the tokens of all people (admin)"}},
				Description: terminal.Example("Shows what each may do, when it was made and last used, and when it expires, never\nits secret.", "sparecrate tokens list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					everyone := c.Bool("everyone")
					found, err := terminal.Call[api.TokenList](s.ListTokens(ctx, &api.ListTokensParams{Everyone: &everyone}))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, t := range found.Items {
							used := "never"
							if t.LastUsedAt != nil {
								used = terminal.When(*t.LastUsedAt)
							}
							rows = append(rows, []any{t.Id, t.Name, t.Person.Name, t.Scope, seesWhat(t.Limited, t.Clients, t.Prices, t.Documents), terminal.When(t.CreatedAt), used, terminal.When(t.ExpiresAt)})
						}
						terminal.Grid(w, []any{"No.", "Name", "Person", "Scope", "Sees", "Made", "Last used", "Expires"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "create a token", ArgsUsage: "NAME", Flags: append([]cli.Flag{
					terminal.JSONFlag, terminal.OwnPasswordFlag(),
					&cli.StringFlag{Name: "scope", Usage: "what it may do: read, write or admin", Value: string(api.ScopeWrite)},
					&cli.IntFlag{Name: "days", Usage: "valid for this `NUMBER` of days; default: 90, or as long as your own token"},
				}, limitFlags("the token")...),
				Description: terminal.Example("Prints the token's secret, this once. Made with the token of this machine, it may\ndo less than that and ends with it; for any other your password is asked for.", "sparecrate tokens add --scope read 'build pipeline'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "a NAME that says what the token is for")
					if err != nil {
						return err
					}
					var days *int
					if c.IsSet("days") {
						n := c.Int("days")
						days = &n
					}
					n := api.NewToken{Name: args[0], Scope: terminal.ScopeGiven(c, ""), Days: days, Prices: rightGiven(c, "prices"), Documents: rightGiven(c, "documents")}
					if n.Clients, err = clientsGiven(ctx, c, s); err != nil {
						return err
					}
					t, err := terminal.WithPassword[api.AddedToken](ctx, c, s, func(s *api.Client) (*http.Response, error) { return s.AddToken(ctx, n) })
					if err != nil {
						return err
					}
					return terminal.Show(c, t, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "%s\nKeep it now; it is not shown again. Use it as SPARECRATE_TOKEN.\n", t.Secret)
					})
				},
			},
			{
				Name: "revoke", Usage: "revoke a token", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Whoever uses the token is out from now on, and so are tokens that were made with it.\nAn admin ends anybody's.", "sparecrate tokens revoke 2"),
				Action: func(ctx context.Context, c *cli.Command) error {
					args, err := terminal.Arguments(c, "the NUMBER of the token")
					if err != nil {
						return err
					}
					id, err := terminal.Number(args[0], "token")
					if err != nil {
						return err
					}
					s, err := terminal.Connect()
					if err != nil {
						return err
					}
					if _, err := terminal.Call[terminal.Nothing](s.RevokeToken(ctx, id)); err != nil {
						return err
					}
					return terminal.Show(c, map[string]int64{"revoked": id}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Withdrew token %d.\n", id) })
				},
			},
		},
	}
}
