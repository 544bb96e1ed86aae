package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"sparecrate/api"
	"sparecrate/internal/service"
)

// remembered is the sign-in kept between calls.
type remembered struct {
	Address string `json:"address"`
	Token   string `json:"token"`
	TokenID int64  `json:"tokenId"`
}

func signInPath() (string, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("find the folder for settings: %w", err)
	}
	return filepath.Join(dir, "sparecrate", "sign-in.json"), nil
}

// whereTo finds the service and the token: from variables, else from the last
// sign-in.
func whereTo() (*remembered, error) {
	r := &remembered{}
	path, err := signInPath()
	if err == nil {
		b, err := os.ReadFile(path)
		if err == nil {
			err = json.Unmarshal(b, r)
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("read the sign-in at %s: %w", path, err)
		}
	}
	if v := os.Getenv("SPARECRATE_ADDRESS"); v != "" && v != r.Address {
		r = &remembered{Address: v} // a token is for the service that gave it
	}
	if v := os.Getenv("SPARECRATE_TOKEN"); v != "" {
		r.Token = v
	}
	if r.Address == "" {
		r.Address = "http://" + service.DefaultListen
	}
	if r.Token == "" {
		return nil, fmt.Errorf("not signed in to %s; run `sparecrate sign-in`, or set SPARECRATE_TOKEN", r.Address)
	}
	return r, nil
}

// addressed is a secret address that the service made.
type addressed struct {
	Number  int64  `json:"number"`
	Address string `json:"address"`
}

// secretAddress puts the path of one behind the address of the service.
func secretAddress(number int64, path string) (addressed, error) {
	at, err := whereTo()
	if err != nil {
		return addressed{}, err
	}
	return addressed{number, strings.TrimSuffix(at.Address, "/") + path}, nil
}

// connect gives a client of the service one is signed in to.
func connect() (*api.Client, error) {
	r, err := whereTo()
	if err != nil {
		return nil, err
	}
	return client(r.Address, nil, func(_ context.Context, req *http.Request) error {
		req.Header.Set("Authorization", "Bearer "+r.Token)
		return nil
	})
}

// begin checks the arguments of a call and connects to the service.
func begin(c *cli.Command, names ...string) (*api.Client, []string, error) {
	args, err := arguments(c, names...)
	if err != nil {
		return nil, nil, err
	}
	s, err := connect()
	return s, args, err
}

func client(address string, jar http.CookieJar, editors ...api.RequestEditorFn) (*api.Client, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme == "" || u.Host == "" {
		return nil, misused("%q is not an address; it looks like http://%s", address, service.DefaultListen)
	}
	options := []api.ClientOption{api.WithHTTPClient(&http.Client{Jar: jar})}
	for _, e := range editors {
		options = append(options, api.WithRequestEditorFn(e))
	}
	return api.NewClient(strings.TrimSuffix(address, "/")+"/api/v1", options...)
}

// call reads an answer of the service: T where it went well, else an error in
// the service's words.
func call[T any](r *http.Response, err error) (*T, error) {
	body, err := answer(r, err)
	if err != nil {
		return nil, err
	}
	out := new(T)
	if len(body) > 0 {
		err = json.Unmarshal(body, out)
	}
	return out, err
}

// nothing is an answer without content.
type nothing struct{}

func answer(r *http.Response, err error) ([]byte, error) {
	if err != nil {
		var u *url.Error
		if errors.As(err, &u) && !errors.Is(err, context.Canceled) {
			return nil, fmt.Errorf("the service at %s cannot be reached (%w); is it running?", u.URL, u.Err)
		}
		return nil, err
	}
	defer func() { _ = r.Body.Close() }()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("the answer of the service broke off: %w", err)
	}
	if r.StatusCode < http.StatusMultipleChoices {
		return body, nil
	}
	var p api.Problem
	if json.Unmarshal(body, &p) != nil || p.Detail == "" {
		return nil, fmt.Errorf("the service answered %s, which is none of its own answers; is %s a Spare Crate?", r.Status, r.Request.URL.Host)
	}
	if p.Code == "unknown-token" || p.Code == "not-signed-in" {
		return nil, fmt.Errorf("%s Run `sparecrate sign-in`", p.Detail)
	}
	if r.StatusCode < http.StatusInternalServerError {
		return nil, refusal{p.Code, strings.TrimSuffix(p.Detail, ".")}
	}
	return nil, errors.New(strings.TrimSuffix(p.Detail, "."))
}

// refusal is an answer of the service that says what is wrong with what was sent.
type refusal struct{ code, detail string }

func (r refusal) Error() string { return r.detail }

// isRefusal reports whether an error is of one file only, so that others may go
// on.
func isRefusal(err error) bool {
	var r refusal
	var f *fs.PathError
	return errors.As(err, &r) || errors.As(err, &f)
}

func signInCommand() *cli.Command {
	return &cli.Command{
		Name:      "sign-in",
		Usage:     "sign in to a running service and remember it",
		ArgsUsage: "[ADDRESS]",
		Description: example("Asks for the password, or takes it from --password-file. What is kept is a token\nthat can be withdrawn with `sparecrate tokens withdraw`, never the password.",
			"sparecrate sign-in --email ines@lanternjaw.example http://127.0.0.1:8480"),
		Flags: []cli.Flag{
			jsonFlag,
			&cli.StringFlag{Name: "email", Usage: "your e-mail `ADDRESS`", Required: true, Sources: cli.EnvVars("SPARECRATE_EMAIL")},
			&cli.StringFlag{Name: "password-file", Usage: "`FILE` that holds the password, - for standard input"},
			&cli.StringFlag{Name: "new-password-file", Usage: "`FILE` that holds the password to set in place of a one-time one"},
			&cli.StringFlag{Name: "scope", Usage: "what the command line may do on this machine: read, write or admin; all that you may when left out"},
		},
		Action: signIn,
	}
}

func signIn(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() > 1 {
		return misused("sign-in takes one address, not %q", c.Args().Get(1))
	}
	address := c.Args().First()
	if address == "" {
		address = os.Getenv("SPARECRATE_ADDRESS")
	}
	if address == "" {
		address = "http://" + service.DefaultListen
	}
	password, err := secret(c, "password-file", "Password: ")
	if err != nil {
		return err
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	s, err := client(address, jar)
	if err != nil {
		return err
	}
	in, err := call[api.Person](s.SignIn(ctx, api.SignIn{Email: c.String("email"), Password: password}))
	if err != nil {
		return err
	}
	if in.MustChangePassword {
		next, err := secret(c, "new-password-file", "This password is a one-time one. Your own password: ")
		if err != nil {
			return err
		}
		if _, err := call[nothing](s.ChangePassword(ctx, api.PasswordChange{Current: password, New: next})); err != nil {
			return err
		}
	}
	host, err := os.Hostname()
	if err != nil {
		host = "this machine"
	}
	t, err := call[api.AddedToken](s.AddToken(ctx, api.NewToken{Name: "command line on " + host, Scope: scopeGiven(c, in.Role)}))
	if err != nil {
		return err
	}
	// The session served its purpose; the token is what is kept.
	if _, err := call[nothing](s.SignOut(ctx)); err != nil {
		return err
	}
	if err := remember(&remembered{address, t.Secret, t.Token.Id}); err != nil {
		return err
	}
	return show(c, in, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Signed in to %s as %s (%s).\n", address, in.Name, in.Role)
	})
}

// scopeGiven is the scope that a call names, else the widest that a role may have.
func scopeGiven(c *cli.Command, role api.Role) *api.TokenScope {
	scope := api.TokenScope(c.String("scope"))
	if scope == "" {
		scope = api.ScopeWrite
		if role == api.RoleAdmin {
			scope = api.ScopeAdmin
		}
	}
	return &scope
}

// secret reads a password from the file a flag names, or from the terminal
// without showing it.
func secret(c *cli.Command, flag, prompt string) (string, error) {
	var b []byte
	var err error
	switch file := c.String(flag); {
	case file == "-":
		b, err = io.ReadAll(io.LimitReader(os.Stdin, 1000))
	case file != "":
		b, err = os.ReadFile(file)
	case term.IsTerminal(int(os.Stdin.Fd())):
		_, _ = fmt.Fprint(c.Root().ErrWriter, prompt)
		b, err = term.ReadPassword(int(os.Stdin.Fd()))
		_, _ = fmt.Fprintln(c.Root().ErrWriter)
	default:
		return "", misused("there is no terminal to ask for a password; give it with --%s", flag)
	}
	if err != nil {
		return "", fmt.Errorf("read the password: %w", err)
	}
	return strings.TrimRight(string(b), "\r\n"), nil
}

func remember(r *remembered) error {
	path, err := signInPath()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	b, err := json.Marshal(r)
	if err != nil {
		return err
	}
	return os.WriteFile(path, b, 0o600)
}

func signOutCommand() *cli.Command {
	return &cli.Command{
		Name: "sign-out", Usage: "withdraw this machine's token and forget it",
		Description: example("Ends what `sparecrate sign-in` began.", "sparecrate sign-out"),
		Flags:       []cli.Flag{jsonFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := arguments(c); err != nil {
				return err
			}
			r, err := whereTo()
			if err != nil {
				return err
			}
			s, err := connect()
			if err != nil {
				return err
			}
			if _, err := call[nothing](s.WithdrawToken(ctx, r.TokenID)); err != nil {
				return err
			}
			path, err := signInPath()
			if err != nil {
				return err
			}
			if err := os.Remove(path); err != nil {
				return err
			}
			return show(c, map[string]string{"signedOutOf": r.Address}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Signed out of %s.\n", r.Address) })
		},
	}
}

// number reads a record's number.
func number(text, what string) (int64, error) {
	id, err := strconv.ParseInt(text, 10, 64)
	if err != nil || id < 1 {
		return 0, misused("%q is not the number of a %s", text, what)
	}
	return id, nil
}
