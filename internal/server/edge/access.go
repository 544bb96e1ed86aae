// Package edge is what every request passes on its way to an answer, and on its way
// back: limits of bodies, who asks, least roles, the contract, ETags, answers that are
// remembered, problems, and the log.
package edge

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"
	"github.com/mileusna/useragent"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sessiondb"
)

const (
	cookieName      = "sparecrate_session"
	secureCookie    = "__Host-" + cookieName // a browser takes it over HTTPS from this host only (RFC 6265bis, section 4.1.3)
	sessionLifetime = 7 * 24 * time.Hour
	sessionIdle     = 8 * time.Hour
)

const (
	// Base is where the API's paths begin.
	Base = "/api/v1"
	// EventsPath is the call that stays open, below Base.
	EventsPath = "/events"
)

// What a session holds: whose it is, the turn of the account it was begun in, and when,
// from where and with what it was begun.
const (
	SessionPerson  = "person"
	SessionTurn    = "turn"
	sessionStarted = "started"
	sessionAddress = "address"
	sessionBrowser = "browser"
	confirmedAt    = "confirmed"
	ceremony       = "ceremony"
	signedOn       = "signed-on"
	signedOnBy     = "signed-on-by"
)

// Begin begins the session of a person who has signed in.
func Begin(ctx context.Context, sessions *scs.SessionManager, p *store.Person) {
	sessions.Put(ctx, SessionPerson, p.ID)
	sessions.Put(ctx, SessionTurn, p.Turn)
	sessions.Put(ctx, sessionStarted, time.Now().Unix())
	Confirm(ctx, sessions)
	sessions.Put(ctx, sessionAddress, bounded(PlaceIn(ctx), mostAddress))
	sessions.Put(ctx, sessionBrowser, browserIn(ctx))
}

// confirmedFor is how long the password counts as just given.
const confirmedFor = 10 * time.Minute

// Confirm notes in a session that its person has just given the password, or more.
func Confirm(ctx context.Context, sessions *scs.SessionManager) {
	sessions.Put(ctx, confirmedAt, time.Now().Unix())
}

// Confirmed refuses what only somebody does who has just given the password.
func Confirmed(ctx context.Context, sessions *scs.SessionManager) error {
	p := Who(ctx)
	if p != nil && p.Token == nil && time.Since(time.Unix(sessions.GetInt64(ctx, confirmedAt), 0)) > confirmedFor {
		return app.Problem(app.Forbidden, "confirm-password", "Enter your password again to change how you sign in.")
	}
	return nil
}

// BySignOn notes in a session that it was begun by a sign-on provider, with its identity token
// and the hash of the provider's own session.
func BySignOn(ctx context.Context, sessions *scs.SessionManager, token, theirs string) {
	sessions.Put(ctx, signedOn, token)
	sessions.Put(ctx, signedOnBy, theirs)
}

// SignedOn returns the identity token of a session that was begun by a sign-on provider.
func SignedOn(ctx context.Context, sessions *scs.SessionManager) (token string, by bool) {
	if !sessions.Exists(ctx, signedOn) {
		return "", false
	}
	return sessions.GetString(ctx, signedOn), true
}

// WithRequest returns the context of a request with where it comes from and what it was made
// with, for routes that nobody is identified on.
func WithRequest(e *echo.Context) context.Context {
	ctx := context.WithValue(e.Request().Context(), placeKey{}, e.RealIP())
	return context.WithValue(ctx, browserKey{}, e.Request().UserAgent())
}

// KeepCeremony keeps what the answer of a browser is held against, in its session.
func KeepCeremony(ctx context.Context, sessions *scs.SessionManager, kept string) {
	sessions.Put(ctx, ceremony, kept)
}

// Ceremony returns what was kept, once.
func Ceremony(ctx context.Context, sessions *scs.SessionManager) string {
	return sessions.PopString(ctx, ceremony)
}

// SessionKey returns what the session of a request is kept under; empty where there is none.
func SessionKey(ctx context.Context, sessions *scs.SessionManager) string {
	token := sessions.Token(ctx)
	if token == "" {
		return ""
	}
	sum := sha256.Sum256([]byte(token)) // as the session manager does with HashTokenInStore
	return base64.RawURLEncoding.EncodeToString(sum[:])
}

type browserKey struct{}

// browserIn returns what a request was made with, in words.
func browserIn(ctx context.Context) string {
	agent, _ := ctx.Value(browserKey{}).(string)
	known := useragent.Parse(agent)
	said := known.Name
	if said != "" && known.OS != "" {
		said += " on " + known.OS
	}
	// Whoever asks can call it anything: it is kept short, and printable.
	return bounded(metadata.Printable(strings.ToValidUTF8(said, "")), mostBrowser)
}

// What is kept of where a session was begun, characters.
const (
	mostBrowser = 100
	mostAddress = 64
)

func bounded(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most])
	}
	return s
}

// NewSessions returns the sessions of browsers, which are kept among the records.
func NewSessions(s *store.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = &sessionStore{s, m.Codec}
	m.Lifetime, m.IdleTimeout = sessionLifetime, sessionIdle
	m.HashTokenInStore = true
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.Secure = cookieName, true, secure
	if secure {
		m.Cookie.Name = secureCookie
	}
	m.Cookie.SameSite = http.SameSiteStrictMode
	return m
}

// sessionStore keeps sessions among the records, so that any process knows them.
type sessionStore struct {
	store *store.Store
	codec scs.Codec
}

// Delete, Find and Commit without a context complete the interface; the session
// manager calls those with one.
func (s *sessionStore) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }

func (s *sessionStore) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

func (s *sessionStore) Commit(token string, b []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, b, expiry)
}

func (s *sessionStore) DeleteCtx(ctx context.Context, token string) error {
	return sessiondb.In(s.store).DeleteSession(ctx, token, time.Now().UTC())
}

func (s *sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	found, err := sessiondb.In(s.store).Session(ctx, token, time.Now().UTC())
	if errors.Is(err, store.ErrNotFound) {
		return nil, false, nil
	}
	if err != nil {
		return nil, false, err
	}
	return found.Data, true, nil
}

func (s *sessionStore) CommitCtx(ctx context.Context, token string, b []byte, expiry time.Time) error {
	_, values, err := s.codec.Decode(b)
	if err != nil {
		return err
	}
	v := store.Session{Token: token, Data: b, Expiry: expiry.UTC(), SeenAt: time.Now().UTC()}
	v.PersonID, _ = values[SessionPerson].(int64)
	v.Turn, _ = values[SessionTurn].(int)
	v.Address, _ = values[sessionAddress].(string)
	v.Browser, _ = values[sessionBrowser].(string)
	if by, is := values[signedOnBy].(string); is {
		v.SignedOn = &by
	}
	v.StartedAt = v.SeenAt
	if started, is := values[sessionStarted].(int64); is {
		v.StartedAt = time.Unix(started, 0).UTC()
	}
	return sessiondb.In(s.store).SaveSession(ctx, &v)
}

type personKey struct{}

// Who returns the person a request comes from; nil where nobody is signed in.
func Who(ctx context.Context) *store.Person {
	p, _ := ctx.Value(personKey{}).(*store.Person)
	return p
}

// waysIn are the paths of those who want to sign in.
var waysIn = []string{Base + "/session", Base + "/session/passkey/options", Base + "/session/passkey"}

// Identified finds the person behind a bearer token or a session, and lets
// nobody else pass but those who want to sign in.
func Identified(c *rooms.Rooms, sessions *scs.SessionManager) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(e *echo.Context) error {
			r := e.Request()
			ctx := r.Context()
			var p *store.Person
			var err error
			if secret, ok := strings.CutPrefix(r.Header.Get(echo.HeaderAuthorization), "Bearer "); ok {
				p, err = c.Auth.PersonByToken(ctx, strings.TrimSpace(secret))
			} else if id := sessions.GetInt64(ctx, SessionPerson); id != 0 {
				p, err = c.Auth.PersonBySession(ctx, id, sessions.GetInt(ctx, SessionTurn))
				if _, by := SignedOn(ctx, sessions); by && p != nil {
					p.SignedOn, p.MustAddFactor = true, false // which is the provider's to ask
				}
			}
			if err != nil {
				return err
			}
			signingIn := r.Method == http.MethodPost && slices.Contains(waysIn, r.URL.Path) || r.URL.Path == Base+"/session/ways"
			if p == nil && !signingIn {
				return &app.Error{Kind: app.Unauthenticated, Code: "not-signed-in", Message: "Sign in first."}
			}
			if p != nil && p.Token != nil && p.Token.Scope == string(api.ScopeRead) && r.Method != http.MethodGet && r.Method != http.MethodHead {
				return &app.Error{Kind: app.Forbidden, Code: "token-scope", Message: "This token may only read. Make one with the scope write for this."}
			}
			ctx = context.WithValue(context.WithValue(app.AsSeenBy(ctx, p), personKey{}, p), placeKey{}, e.RealIP())
			ctx = context.WithValue(ctx, browserKey{}, r.UserAgent())
			e.SetRequest(r.WithContext(ctx))
			return next(e)
		}
	}
}

// Settled lets only those pass who have a password of their own.
func Settled(c *rooms.Rooms) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(e *echo.Context) error {
			if err := c.Permit(Who(e.Request().Context()), viewer); err != nil {
				return err
			}
			return next(e)
		}
	}
}
