// Package servicetest runs the whole service for tests: on loopback, with a
// database of its own, and people of every role to act as.
package servicetest

import (
	"bytes"
	"context"
	"log/slog"
	"net/http"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/contracttest"
	"sparecrate/internal/mariadb/mariadbtest"
	secrets "sparecrate/internal/password"
	"sparecrate/internal/rooms"
	"sparecrate/internal/service"
)

// Service is a running service.
type Service struct {
	Address string
	Data    string // its data folder
	// Database is the data source name of its database.
	Database string
	Log      *Buffer
	Crate    *rooms.Rooms
	people   map[api.Role]Person
}

// Person is somebody who can sign in.
type Person struct{ Email, Password, Token string }

// Buffer is a log that may be read while it is written.
type Buffer struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (b *Buffer) Write(p []byte) (int, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.b.Write(p)
}

func (b *Buffer) String() string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.b.String()
}

// Start runs a service until the test ends. fill, where given, is called with
// the catalog before requests are answered and returns the admin's password.
// more change how it runs. The package's TestMain must be mariadbtest.Main.
func Start(t testing.TB, fill func(ctx context.Context, c *rooms.Rooms, data, oneTimePassword string) (email, password string, err error), more ...func(*service.Options)) *Service {
	t.Helper()
	cheapen()
	s := &Service{Data: t.TempDir(), Database: mariadbtest.New(t), Log: &Buffer{}, people: map[api.Role]Person{}}
	if fill == nil {
		fill = ownPassword
	}
	ctx, stop := context.WithCancel(context.Background())
	ready, done := make(chan string, 1), make(chan error, 1)
	options := service.Options{
		Listen: "127.0.0.1:0", Private: true, Data: s.Data, Database: s.Database, Studio: "Lanternjaw Studio", AdminName: "Ines Varga", AdminEmail: "ines@lanternjaw.example",
		Log: slog.New(slog.NewTextHandler(s.Log, &slog.HandlerOptions{Level: slog.LevelDebug})),
		Prepare: func(ctx context.Context, c *rooms.Rooms, oneTime string) error {
			s.Crate = c
			email, password, err := fill(ctx, c, s.Data, oneTime)
			s.people[api.RoleAdmin] = Person{Email: email, Password: password}
			return err
		},
		Ready: func(address string) { ready <- address },
	}
	for _, change := range more {
		change(&options)
	}
	go func() { done <- service.Run(ctx, options) }()
	select {
	case s.Address = <-ready:
	case err := <-done:
		stop()
		t.Fatalf("the service did not start: %v", err)
	}
	t.Cleanup(func() {
		stop()
		select {
		case err := <-done:
			require.NoError(t, err, "the service stops cleanly")
		case <-time.After(time.Minute):
			t.Error("the service does not stop")
		}
		if t.Failed() {
			t.Log(s.Log.String())
		}
	})
	s.addPeople(t, s.Crate)
	return s
}

// cheapen makes the hashes of passwords cheap; one test would spend seconds on them.
var cheapen = sync.OnceFunc(secrets.Cheapen)

const password = "a few words do well"

func ownPassword(ctx context.Context, c *rooms.Rooms, _, oneTime string) (email, own string, err error) {
	const admin = "ines@lanternjaw.example"
	p, err := c.Auth.SignIn(ctx, "", admin, oneTime)
	if err != nil {
		return "", "", err
	}
	return admin, password, c.Auth.ChangePassword(ctx, p, oneTime, password)
}

// addPeople makes an editor and a viewer, and a token for each role.
func (s *Service) addPeople(t testing.TB, c *rooms.Rooms) {
	t.Helper()
	ctx := context.Background()
	in := s.people[api.RoleAdmin]
	admin, err := c.Auth.SignIn(ctx, "", in.Email, in.Password)
	require.NoError(t, err)
	for _, role := range []api.Role{api.RoleEditor, api.RoleViewer} {
		email := string(role) + "@lanternjaw.example"
		added, err := c.Auth.AddPerson(ctx, admin, api.NewPerson{Name: "The " + string(role), Email: email, Role: role})
		require.NoError(t, err)
		p, err := c.Auth.SignIn(ctx, "", email, added.OneTimePassword)
		require.NoError(t, err)
		require.NoError(t, c.Auth.ChangePassword(ctx, p, added.OneTimePassword, password))
		s.people[role] = Person{Email: email, Password: password}
	}
	for role, who := range s.people {
		p, err := c.Auth.SignIn(ctx, "", who.Email, who.Password)
		require.NoError(t, err)
		token, err := c.Auth.AddToken(ctx, p, api.NewToken{Name: "test", Scope: scopeOf(role)})
		require.NoError(t, err)
		who.Token = token.Secret
		s.people[role] = who
	}
}

// scopeOf is the widest scope that a role may have.
func scopeOf(r api.Role) *api.TokenScope {
	scope := api.ScopeWrite
	if r == api.RoleAdmin {
		scope = api.ScopeAdmin
	}
	return &scope
}

// As gives how a person of a role signs in.
func (s *Service) As(role api.Role) Person { return s.people[role] }

// Client gives the generated client, acting as a role; with no role as nobody. What
// is answered must keep to the contract, but in benchmarks, which that would weigh on.
func (s *Service) Client(t testing.TB, role api.Role) *api.ClientWithResponses {
	t.Helper()
	over := http.DefaultClient
	if _, measured := t.(*testing.B); !measured {
		over = contracttest.Client(t)
	}
	c, err := api.NewClientWithResponses(s.Address+"/api/v1", api.WithHTTPClient(over), api.WithRequestEditorFn(func(_ context.Context, r *http.Request) error {
		if role != "" {
			r.Header.Set("Authorization", "Bearer "+s.people[role].Token)
		}
		return nil
	}))
	require.NoError(t, err)
	return c
}
