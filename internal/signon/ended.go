package signon

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"

	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/sessiondb"
)

// logoutEvent is what a logout token says has happened (OpenID Connect Back-Channel Logout 1.0,
// section 2.4).
const logoutEvent = "http://schemas.openid.net/event/backchannel-logout"

// freshFor is how old a logout token may be: one that somebody has kept ends nothing later.
const freshFor = 5 * time.Minute

func subjectHash(issuer, subject string) string { return auth.SecretHash(issuer + "\n" + subject) }

// sessionHash is what is kept of a provider's session; of one that has no name, that there was
// one.
func sessionHash(issuer, session string) string {
	return auth.SecretHash("session of " + issuer + "\n" + session)
}

// Ended ends the sessions here whose session at the provider has ended, as its logout token
// says (OpenID Connect Back-Channel Logout 1.0, section 2.6), and returns whose they were,
// where that is known, and how many.
func (s *Service) Ended(ctx context.Context, token string) (*store.Person, int64, error) {
	p, err := s.known(ctx)
	if err != nil {
		return nil, 0, err
	}
	bad := app.Problem(app.Invalid, "bad-logout-token", "This is no logout token of the sign-on provider for this service.")
	verifying, cancel := context.WithTimeout(oidc.ClientContext(ctx, s.http), patience)
	defer cancel()
	id, err := p.VerifierContext(verifying, &oidc.Config{ClientID: s.config.ClientID}).Verify(verifying, token)
	if err != nil {
		return nil, 0, bad
	}
	var said struct {
		Events  map[string]json.RawMessage `json:"events"`
		Session string                     `json:"sid"`
		Nonce   *json.RawMessage           `json:"nonce"` // which identity tokens have, and logout tokens must not
	}
	if id.Claims(&said) != nil || said.Nonce != nil || said.Session == "" && id.Subject == "" {
		return nil, 0, bad
	}
	if _, is := said.Events[logoutEvent]; !is || time.Since(id.IssuedAt).Abs() > freshFor {
		return nil, 0, bad
	}
	// With both, only the session that is named ends (section 2.7).
	if said.Session != "" {
		n, err := sessiondb.In(s.store).EndSignedOn(ctx, 0, sessionHash(id.Issuer, said.Session), time.Now().UTC())
		return nil, n, err
	}
	person, err := accountdb.In(s.store).PersonBySubject(ctx, subjectHash(id.Issuer, id.Subject))
	if errors.Is(err, store.ErrNotFound) {
		return nil, 0, nil
	}
	if err != nil {
		return nil, 0, err
	}
	n, err := sessiondb.In(s.store).EndSignedOn(ctx, person.ID, "", time.Now().UTC())
	return person, n, err
}
