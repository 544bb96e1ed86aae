// Package servicetest runs the whole service for tests: on loopback, with a
// database of its own, and people of every role to act as.
package servicetest

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/contracttest"
	"sparecrate/internal/demo"
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

// Filling fills a service with data before requests are answered and returns how the
// admin signs in. The one-time password is empty where that was done before.
type Filling func(ctx context.Context, c *rooms.Rooms, data, oneTimePassword string) (email, password string, err error)

// Demo fills in the demo studio.
func Demo(ctx context.Context, c *rooms.Rooms, data, oneTime string) (email, password string, err error) {
	in, err := demo.Fill(ctx, c, data, oneTime)
	if err != nil {
		return "", "", err
	}
	return in.Email, in.Password, nil
}

// WholeDemo fills in the demo studio with all that it has after some years.
func WholeDemo(ctx context.Context, c *rooms.Rooms, data, oneTime string) (email, password string, err error) {
	in, err := demo.Fill(ctx, c, data, oneTime)
	if err != nil {
		return "", "", err
	}
	if oneTime != "" {
		err = demo.More(ctx, c, in)
	}
	return in.Email, in.Password, err
}

// template is a service that was filled and then stopped; those that start with the
// same filling start with copies of its data.
type template struct {
	once   sync.Once
	filled *Service
}

var empty, demoStudio template

// Start runs a service until the test ends: an empty one with people, or one that is
// filled. more change how it runs. The package's TestMain must run mariadbtest.
func Start(t testing.TB, fill Filling, more ...func(*service.Options)) *Service {
	t.Helper()
	cheapen()
	parallel(t)
	from := &empty
	switch {
	case fill == nil:
		fill = ownPassword
	case reflect.ValueOf(fill).Pointer() == reflect.ValueOf(Demo).Pointer():
		from = &demoStudio
	default:
		s := &Service{Data: t.TempDir(), Database: mariadbtest.New(t), Log: &Buffer{}, people: map[api.Role]Person{}}
		s.start(t, fill, more...)
		s.addPeople(t, s.Crate)
		return s
	}
	from.once.Do(func() { from.filled = prepare(t, fill) })
	if from.filled == nil {
		t.Fatal("the data that tests start with could not be made; an earlier test says why")
	}
	s := &Service{Data: filepath.Join(t.TempDir(), "data"), Database: mariadbtest.Clone(t, from.filled.Database), Log: &Buffer{}, people: maps.Clone(from.filled.people)}
	if out, err := exec.Command("cp", "-a", from.filled.Data, s.Data).CombinedOutput(); err != nil { //nolint:gosec,noctx // our own folders
		t.Fatalf("copy the data: %v: %s", err, out)
	}
	s.start(t, nil, more...)
	return s
}

// prepare runs a service until it is filled and has done all work, and stops it.
func prepare(t testing.TB, fill Filling) *Service {
	t.Helper()
	data, err := os.MkdirTemp("", "sparecrate-template-") // it outlives the test
	require.NoError(t, err)
	mariadbtest.AtEnd(func() { _ = os.RemoveAll(data) })
	s := &Service{Data: filepath.Join(data, "data"), Database: mariadbtest.New(t), Log: &Buffer{}, people: map[api.Role]Person{}}
	stop := s.run(t, fill)
	s.addPeople(t, s.Crate)
	admin := s.Client(t, api.RoleAdmin)
	require.Eventually(t, func() bool {
		for _, state := range []api.JobState{api.JobWaiting, api.JobRunning} {
			jobs, err := admin.ListJobsWithResponse(t.Context(), &api.ListJobsParams{State: &state})
			if err != nil || jobs.JSON200 == nil || len(jobs.JSON200.Items) > 0 {
				return false
			}
		}
		return true
	}, 5*time.Minute, 100*time.Millisecond, "the work of the filling is done")
	stop()
	return s
}

// start runs the service until the test ends.
func (s *Service) start(t testing.TB, fill Filling, more ...func(*service.Options)) {
	t.Helper()
	t.Cleanup(s.run(t, fill, more...))
}

// run runs the service until stop is called.
func (s *Service) run(t testing.TB, fill Filling, more ...func(*service.Options)) (end func()) {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	ready, done := make(chan string, 1), make(chan error, 1)
	options := service.Options{
		Listen: "127.0.0.1:0", Private: true, Data: s.Data, Database: s.Database, Studio: "Lanternjaw Studio", AdminName: "Ines Varga", AdminEmail: "ines@lanternjaw.example",
		Log: slog.New(slog.NewTextHandler(s.Log, &slog.HandlerOptions{Level: slog.LevelDebug})),
		Prepare: func(ctx context.Context, c *rooms.Rooms, oneTime string) error {
			s.Crate = c
			if fill == nil {
				return nil
			}
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
	return func() {
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
	}
}

// known are the tests that run beside others already, or are not to.
var known sync.Map

// Alone keeps a test from running beside others; call it before Start. It is for tests
// that look at the whole process.
func Alone(t testing.TB) { known.Store(t.Name(), true) }

// parallel lets a test run beside others: most of the time it waits for its database.
func parallel(t testing.TB) {
	t.Helper()
	one, is := t.(*testing.T)
	if !is || strings.Contains(t.Name(), "/") { // whoever runs a part of a test waits for it
		return
	}
	if _, had := known.LoadOrStore(t.Name(), true); !had {
		one.Parallel()
	}
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

// Colleagues adds viewers, and returns a token of each.
func (s *Service) Colleagues(t testing.TB, n int) (tokens []string) {
	t.Helper()
	ctx := context.Background()
	in := s.people[api.RoleAdmin]
	admin, err := s.Crate.Auth.SignIn(ctx, "", in.Email, in.Password)
	require.NoError(t, err)
	for i := range n {
		email := fmt.Sprintf("colleague%d@lanternjaw.example", i)
		added, err := s.Crate.Auth.AddPerson(ctx, admin, api.NewPerson{Name: fmt.Sprintf("Colleague %d", i), Email: email, Role: api.RoleViewer})
		require.NoError(t, err)
		p, err := s.Crate.Auth.SignIn(ctx, "", email, added.OneTimePassword)
		require.NoError(t, err)
		require.NoError(t, s.Crate.Auth.ChangePassword(ctx, p, added.OneTimePassword, password))
		p, err = s.Crate.Auth.SignIn(ctx, "", email, password)
		require.NoError(t, err)
		token, err := s.Crate.Auth.AddToken(ctx, p, api.NewToken{Name: "test"})
		require.NoError(t, err)
		tokens = append(tokens, token.Secret)
	}
	return tokens
}

// scopeOf is the widest scope that a role may have.
func scopeOf(r api.Role) *api.TokenScope {
	scope := api.ScopeWrite
	if r == api.RoleAdmin {
		scope = api.ScopeAdmin
	}
	return &scope
}

// As returns how a person of a role signs in.
func (s *Service) As(role api.Role) Person { return s.people[role] }

// Client returns the generated client, acting as a role by its token; with no role as
// nobody. What is answered must keep to the contract, but in benchmarks, which that
// would weigh on.
func (s *Service) Client(t testing.TB, role api.Role) *api.ClientWithResponses {
	t.Helper()
	return s.client(t, nil, func(_ context.Context, r *http.Request) error {
		if role != "" {
			r.Header.Set("Authorization", "Bearer "+s.people[role].Token)
		}
		return nil
	})
}

// Session returns the generated client of a person of a role who signed in with the password.
func (s *Service) Session(t testing.TB, role api.Role) *api.ClientWithResponses {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := s.client(t, jar, func(context.Context, *http.Request) error { return nil })
	in, err := c.SignInWithResponse(t.Context(), api.SignIn{Email: s.people[role].Email, Password: s.people[role].Password})
	require.NoError(t, err)
	require.NotNil(t, in.JSON200, "%s", in.Body)
	return c
}

func (s *Service) client(t testing.TB, jar http.CookieJar, edit api.RequestEditorFn) *api.ClientWithResponses {
	t.Helper()
	over := &http.Client{}
	if _, measured := t.(*testing.B); !measured {
		over = contracttest.Client(t)
	}
	over.Jar = jar
	c, err := api.NewClientWithResponses(s.Address+"/api/v1", api.WithHTTPClient(over), api.WithRequestEditorFn(edit))
	require.NoError(t, err)
	return c
}
