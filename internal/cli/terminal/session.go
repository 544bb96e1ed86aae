package terminal

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

// OwnPasswordFlag names the file of the password of whoever runs a command.
func OwnPasswordFlag() cli.Flag {
	return &cli.StringFlag{Name: "password-file", Usage: "`FILE` with your own password, if asked for; - for standard input"}
}

// SignIn signs in with the password, and with a code where the service wants one: that of
// --code-file, or one that is asked for.
func SignIn(ctx context.Context, c *cli.Command, s *api.Client, email, password string) (*api.Person, error) {
	in := api.SignIn{Email: email, Password: password}
	p, err := Call[api.Person](s.SignIn(ctx, in))
	var refused refusal
	if !errors.As(err, &refused) || refused.code != "second-factor-needed" {
		return p, err
	}
	code, bad := Secret(c, "code-file", strings.TrimSuffix(refused.detail, ".")+": ")
	if bad != nil {
		return nil, fmt.Errorf("%w: %w", refused, bad)
	}
	in.Code = &code
	return Call[api.Person](s.SignIn(ctx, in))
}

// WithPassword makes a call with the token that is kept. Where the service wants the
// password for it, the person is asked, and the call is made in a session that ends
// with it.
func WithPassword[T any](ctx context.Context, c *cli.Command, s *api.Client, do func(*api.Client) (*http.Response, error)) (*T, error) {
	out, err := Call[T](do(s))
	var refused refusal
	if !errors.As(err, &refused) || refused.code != "password-needed" {
		return out, err
	}
	me, err := Call[api.Person](s.GetSession(ctx))
	if err != nil {
		return nil, err
	}
	in, err := Secret(c, "password-file", fmt.Sprintf("%s. Password of %s: ", refused.detail, me.Email))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", refused, err)
	}
	at, err := WhereTo()
	if err != nil {
		return nil, err
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	session, err := Client(at.Address, jar)
	if err != nil {
		return nil, err
	}
	if _, err := SignIn(ctx, c, session, me.Email, in); err != nil {
		return nil, err
	}
	out, err = Call[T](do(session))
	// What was done may have a secret in it that is shown this once, so it counts whether
	// or not the session ends as it should; a session that nobody has the cookie of lapses.
	if _, open := Call[Nothing](session.SignOut(context.WithoutCancel(ctx))); open != nil {
		_, _ = fmt.Fprintf(c.Root().ErrWriter, "the session for this call was not ended and lapses by itself: %v\n", open)
	}
	return out, err
}
