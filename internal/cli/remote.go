package cli

import (
	"context"
	"fmt"
	"io"
	"net/http/cookiejar"
	"os"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/service"
)

func signInCommand() *cli.Command {
	return &cli.Command{
		Name:      "sign-in",
		Usage:     "sign in to a running service and remember it",
		ArgsUsage: "[ADDRESS]",
		Description: terminal.Example("Asks for the password, or reads it from --password-file. Stores a token that can be\nrevoked with `sparecrate tokens revoke`, never the password.",
			"sparecrate sign-in --email ines@lanternjaw.example http://127.0.0.1:8480"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "email", Usage: "your e-mail `ADDRESS`", Required: true, Sources: cli.EnvVars("SPARECRATE_EMAIL")},
			&cli.StringFlag{Name: "password-file", Usage: "`FILE` with the password, - for standard input"},
			&cli.StringFlag{Name: "code-file", Usage: "`FILE` with the code of the second factor, or a recovery code"},
			&cli.StringFlag{Name: "new-password-file", Usage: "`FILE` with the new password that replaces a one-time password"},
			&cli.StringFlag{Name: "scope", Usage: "what the command line may do on this machine: read, write or admin; default: all that you may"},
		},
		Action: signIn,
	}
}

func signIn(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() > 1 {
		return terminal.Misused("sign-in takes one URL, not %q", c.Args().Get(1))
	}
	address := c.Args().First()
	if address == "" {
		address = os.Getenv("SPARECRATE_ADDRESS")
	}
	if address == "" {
		address = "http://" + service.DefaultListen
	}
	password, err := terminal.Secret(c, "password-file", "Password: ")
	if err != nil {
		return err
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	s, err := terminal.Client(address, jar)
	if err != nil {
		return err
	}
	in, err := terminal.SignIn(ctx, c, s, c.String("email"), password)
	if err != nil {
		return err
	}
	if in.MustChangePassword {
		next, err := terminal.Secret(c, "new-password-file", "This password is a one-time one. Your own password: ")
		if err != nil {
			return err
		}
		if _, err := terminal.Call[terminal.Nothing](s.ChangePassword(ctx, api.PasswordChange{Current: password, New: next})); err != nil {
			return err
		}
	}
	host, err := os.Hostname()
	if err != nil {
		host = "this machine"
	}
	t, err := terminal.Call[api.AddedToken](s.AddToken(ctx, api.NewToken{Name: "command line on " + host, Scope: terminal.ScopeGiven(c, in.Role)}))
	if err != nil {
		return err
	}
	// The session served its purpose; the token is what is kept.
	if _, err := terminal.Call[terminal.Nothing](s.SignOut(ctx)); err != nil {
		return err
	}
	if err := terminal.Remember(&terminal.Remembered{Address: address, Token: t.Secret, TokenID: t.Token.Id}); err != nil {
		return err
	}
	return terminal.Show(c, in, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Signed in to %s as %s (%s).\n", address, in.Name, in.Role)
	})
}

func signOutCommand() *cli.Command {
	return &cli.Command{
		Name: "sign-out", Usage: "sign out: revoke this machine's token",
		Description: terminal.Example("Ends what `sparecrate sign-in` began.", "sparecrate sign-out"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			r, err := terminal.WhereTo()
			if err != nil {
				return err
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			if _, err := terminal.Call[terminal.Nothing](s.RevokeToken(ctx, r.TokenID)); err != nil {
				return err
			}
			path, err := terminal.SignInPath()
			if err != nil {
				return err
			}
			if err := os.Remove(path); err != nil {
				return err
			}
			return terminal.Show(c, map[string]string{"signedOutOf": r.Address}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Signed out of %s.\n", r.Address) })
		},
	}
}
