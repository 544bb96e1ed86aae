// Package studiocmd is what deals with the studio itself: `people`, `tokens`, `activity` and
// `jobs`.
package studiocmd

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// PeopleCommand is `people`.
func PeopleCommand() *cli.Command {
	return &cli.Command{
		Name: "people", Usage: "people with an account (admins)",
		Description: terminal.Example("A new person gets a one-time password to set their own with. Who leaves has the account closed: what they did stays in the records, and nothing lets them in.",
			"sparecrate people list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list everyone", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Shows names, e-mail addresses, roles, and what each sees.", "sparecrate people list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.PersonList](s.ListPeople(ctx))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, p := range found.Items {
							account := "open"
							switch {
							case p.Closed:
								account = "closed"
							case p.MustChangePassword:
								account = "one-time password"
							}
							if p.EndsOn != nil && !p.Closed {
								account += ", until " + p.EndsOn.String()
							}
							rows = append(rows, []any{p.Id, p.Name, p.Email, p.Role, seesWhat(p.Limited, p.Clients, p.Prices, p.Documents), account})
						}
						terminal.Grid(w, []any{"No.", "Name", "E-mail", "Role", "Sees", "Account"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a person", ArgsUsage: "NAME",
				Description: terminal.Example("Prints a one-time password to hand over, or sends it with --invite. With --client the person\nsees what is of these clients only, and prices and documents where you say so. A guest is one\nof a client's own people, who sees its shortlists, style guides and packs.\nAsks for your own password to add an admin.", "sparecrate people add --role viewer --email mads@lanternjaw.example --client 'Orrery Hall' 'Mads Birk'"),
				Flags: append([]cli.Flag{
					terminal.JSONFlag, terminal.OwnPasswordFlag(),
					&cli.StringFlag{Name: "email", Usage: "e-mail `ADDRESS`", Required: true},
					&cli.StringFlag{Name: "role", Usage: "guest, viewer, editor or admin", Value: "viewer"},
					&cli.StringFlag{Name: "until", Usage: "last `DAY` of the account, like 2027-03-31"},
					&cli.BoolFlag{Name: "invite", Usage: "send the one-time password to the person by e-mail"},
				}, limitFlags("the person")...),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NAME of the person")
					if err != nil {
						return err
					}
					n := api.NewPerson{Name: args[0], Email: c.String("email"), Role: api.Role(c.String("role")), Prices: rightGiven(c, "prices"), Documents: rightGiven(c, "documents"), Invite: rightGiven(c, "invite")}
					if n.Clients, err = clientsGiven(ctx, c, s); err != nil {
						return err
					}
					if n.EndsOn, err = terminal.DayFlag(c, "until"); err != nil {
						return err
					}
					p, err := terminal.WithPassword[api.AddedPerson](ctx, c, s, func(s *api.Client) (*http.Response, error) { return s.AddPerson(ctx, n) })
					if err != nil {
						return err
					}
					return handOver(c, p)
				},
			},
			{
				Name: "change", Usage: "change a person's name, role, or what they see", ArgsUsage: "WHO",
				Description: terminal.Example("WHO is a number or an e-mail address. When what a person sees changes, their sessions end.\nMaking a person an admin needs your password.", "sparecrate people change --role editor mads@lanternjaw.example"),
				Flags: append([]cli.Flag{
					terminal.JSONFlag, terminal.OwnPasswordFlag(), &cli.StringFlag{Name: "name", Usage: "the new `NAME`"}, &cli.StringFlag{Name: "role", Usage: "guest, viewer, editor or admin"},
					&cli.BoolFlag{Name: "all-clients", Usage: "limit the person to no client any more"},
					&cli.StringFlag{Name: "until", Usage: "last `DAY` of the account, like 2027-03-31"}, &cli.BoolFlag{Name: "no-end", Usage: "the account has no last day"},
				}, limitFlags("the person")...),
				Action: func(ctx context.Context, c *cli.Command) error {
					change := api.PersonChange{
						Name: terminal.Given(c, "name"), AllClients: rightGiven(c, "all-clients"), NoEnd: rightGiven(c, "no-end"),
						Prices: rightGiven(c, "prices"), Documents: rightGiven(c, "documents"),
					}
					var err error
					if change.EndsOn, err = terminal.DayFlag(c, "until"); err != nil {
						return err
					}
					if c.IsSet("client") {
						s, err := terminal.Connect()
						if err != nil {
							return err
						}
						if change.Clients, err = clientsGiven(ctx, c, s); err != nil {
							return err
						}
					}
					if c.IsSet("role") {
						role := api.Role(c.String("role"))
						change.Role = &role
					}
					if change == (api.PersonChange{}) {
						return terminal.Misused("say what is to be changed, like --name or --role; `sparecrate people change --help` shows what can be")
					}
					return changePerson(ctx, c, change, "")
				},
			},
			{
				Name: "close", Usage: "close an account: sessions, tokens and feeds end at once", ArgsUsage: "WHO", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("WHO is a number or an e-mail address. What the person did stays in the records.", "sparecrate people close mads@lanternjaw.example"),
				Action: func(ctx context.Context, c *cli.Command) error {
					closed := true
					return changePerson(ctx, c, api.PersonChange{Closed: &closed}, "closed")
				},
			},
			{
				Name: "open", Usage: "reopen a closed account", ArgsUsage: "WHO", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("The password is unchanged; create new tokens.", "sparecrate people open mads@lanternjaw.example"),
				Action: func(ctx context.Context, c *cli.Command) error {
					closed := false
					return changePerson(ctx, c, api.PersonChange{Closed: &closed}, "open")
				},
			},
			{
				Name: "password", Usage: "set a one-time password for a person", ArgsUsage: "WHO", Flags: []cli.Flag{terminal.JSONFlag, terminal.OwnPasswordFlag()},
				Description: terminal.Example("All sessions of the account end. WHO is a number or an e-mail address. Asks for your\nown password: the token that the command line keeps does not change passwords.", "sparecrate people password mads@lanternjaw.example"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, who, err := person(ctx, c)
					if err != nil {
						return err
					}
					p, err := terminal.WithPassword[api.AddedPerson](ctx, c, s, func(s *api.Client) (*http.Response, error) { return s.GivePassword(ctx, who.Id) })
					if err != nil {
						return err
					}
					return handOver(c, p)
				},
			},
		},
	}
}

// handOver shows a one-time password.
func handOver(c *cli.Command, p *api.AddedPerson) error {
	return terminal.Show(c, p, func(w io.Writer) {
		if p.Invited {
			_, _ = fmt.Fprintf(w, "%s was invited by e-mail to %s.\n", p.Person.Name, p.Person.Email)
			return
		}
		_, _ = fmt.Fprintf(w, "%s can sign in as %s with the one-time password %s\n", p.Person.Name, p.Person.Email, p.OneTimePassword)
	})
}

// person finds who a command is about, by number or e-mail address.
func person(ctx context.Context, c *cli.Command) (*api.Client, *api.Person, error) {
	s, args, err := terminal.Begin(c, "WHO it is about, by number or e-mail address")
	if err != nil {
		return nil, nil, err
	}
	found, err := terminal.Call[api.PersonList](s.ListPeople(ctx))
	if err != nil {
		return nil, nil, err
	}
	for _, p := range found.Items {
		if strconv.FormatInt(p.Id, 10) == args[0] || strings.EqualFold(p.Email, args[0]) {
			return s, &p, nil
		}
	}
	return nil, nil, fmt.Errorf("nobody has the number or the e-mail address %q; `sparecrate people list` shows who there is", args[0])
}

// changePerson changes an account; state is what is said of it, its role where that
// is empty.
func changePerson(ctx context.Context, c *cli.Command, change api.PersonChange, state string) error {
	s, who, err := person(ctx, c)
	if err != nil {
		return err
	}
	p, err := terminal.WithPassword[api.Person](ctx, c, s, func(s *api.Client) (*http.Response, error) { return s.ChangePerson(ctx, who.Id, change) })
	if err != nil {
		return err
	}
	return terminal.Show(c, p, func(w io.Writer) {
		if state == "" {
			_, _ = fmt.Fprintf(w, "%s (%s): %s, sees %s.\n", p.Name, p.Email, p.Role, seesWhat(p.Limited, p.Clients, p.Prices, p.Documents))
			return
		}
		_, _ = fmt.Fprintf(w, "The account of %s (%s) is %s.\n", p.Name, p.Email, state)
	})
}
