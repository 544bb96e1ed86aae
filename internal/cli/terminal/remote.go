package terminal

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
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

// Remembered is the sign-in kept between calls.
type Remembered struct {
	Address string `json:"address"`
	Token   string `json:"token"`
	TokenID int64  `json:"tokenId"`
}

// SignInPath is where the sign-in is kept.
func SignInPath() (string, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("find the folder for settings: %w", err)
	}
	return filepath.Join(dir, "sparecrate", "sign-in.json"), nil
}

// WhereTo finds the service and the token: from variables, else from the last
// sign-in.
func WhereTo() (*Remembered, error) {
	r := &Remembered{}
	path, err := SignInPath()
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
		r = &Remembered{Address: v} // a token is for the service that gave it
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

// SecretAddress puts the path of one behind the address of the service.
func SecretAddress(number int64, path string) (addressed, error) {
	at, err := WhereTo()
	if err != nil {
		return addressed{}, err
	}
	return addressed{number, strings.TrimSuffix(at.Address, "/") + path}, nil
}

// Connect returns a client of the service one is signed in to.
func Connect() (*api.Client, error) {
	r, err := WhereTo()
	if err != nil {
		return nil, err
	}
	return Client(r.Address, nil, func(_ context.Context, req *http.Request) error {
		req.Header.Set("Authorization", "Bearer "+r.Token)
		return nil
	})
}

// Begin checks the arguments of a call and connects to the service.
func Begin(c *cli.Command, names ...string) (*api.Client, []string, error) {
	args, err := Arguments(c, names...)
	if err != nil {
		return nil, nil, err
	}
	s, err := Connect()
	return s, args, err
}

// Client returns a client of the service at an address.
func Client(address string, jar http.CookieJar, editors ...api.RequestEditorFn) (*api.Client, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme == "" || u.Host == "" {
		return nil, Misused("%q is not a URL; it looks like http://%s", address, service.DefaultListen)
	}
	options := []api.ClientOption{api.WithHTTPClient(&http.Client{Jar: jar})}
	for _, e := range editors {
		options = append(options, api.WithRequestEditorFn(e))
	}
	return api.NewClient(strings.TrimSuffix(address, "/")+"/api/v1", options...)
}

// Call reads an answer of the service: T where it went well, else an error in
// the service's words.
func Call[T any](r *http.Response, err error) (*T, error) {
	body, err := Answer(r, err)
	if err != nil {
		return nil, err
	}
	out := new(T)
	if len(body) > 0 {
		err = json.Unmarshal(body, out)
	}
	return out, err
}

// Nothing is an answer without content.
type Nothing struct{}

// Answer reads an answer of the service, or its refusal as an error in the service's words.
func Answer(r *http.Response, err error) ([]byte, error) {
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
		return nil, fmt.Errorf("the service answered %s, which Spare Crate does not send; is %s the right server?", r.Status, r.Request.URL.Host)
	}
	if p.Code == "unknown-token" || p.Code == "not-signed-in" {
		return nil, fmt.Errorf("%s Run `sparecrate sign-in`", p.Detail)
	}
	if r.StatusCode < http.StatusInternalServerError {
		r := refusal{code: p.Code, detail: strings.TrimSuffix(p.Detail, ".")}
		if p.Field != nil {
			r.field = *p.Field
		}
		return nil, r
	}
	return nil, errors.New(strings.TrimSuffix(p.Detail, "."))
}

// refusal is an answer of the service that says what is wrong with what was sent.
type refusal struct{ code, detail, field string }

func (r refusal) Error() string { return r.detail }

// IsRefusal reports whether an error is of one file only, so that others may go
// on.
func IsRefusal(err error) bool {
	var r refusal
	var f *fs.PathError
	return errors.As(err, &r) || errors.As(err, &f)
}

// IsProblem reports whether an error is the service's answer of a code.
func IsProblem(err error, code string) bool {
	var r refusal
	return errors.As(err, &r) && r.code == code
}

// ScopeGiven is the scope that a call names, else the widest that a role may have.
func ScopeGiven(c *cli.Command, role api.Role) *api.TokenScope {
	scope := api.TokenScope(c.String("scope"))
	if scope == "" {
		scope = api.ScopeWrite
		if role == api.RoleAdmin {
			scope = api.ScopeAdmin
		}
	}
	return &scope
}

// Secret reads a password from the file a flag names, or from the terminal
// without showing it.
func Secret(c *cli.Command, flag, prompt string) (string, error) {
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
		return "", Misused("there is no terminal to ask for a password; give it with --%s", flag)
	}
	if err != nil {
		return "", fmt.Errorf("read the password: %w", err)
	}
	return strings.TrimRight(string(b), "\r\n"), nil
}

// Remember keeps a sign-in for later calls.
func Remember(r *Remembered) error {
	path, err := SignInPath()
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

// Number reads a record's number.
func Number(text, what string) (int64, error) {
	id, err := strconv.ParseInt(text, 10, 64)
	if err != nil || id < 1 {
		return 0, Misused("%q is not the number of a %s", text, what)
	}
	return id, nil
}
