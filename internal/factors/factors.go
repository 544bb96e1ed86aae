// Package factors is what lets people in beside or in place of their password: codes of
// authenticator apps (RFC 6238), passkeys (Web Authentication, level 2), and recovery
// codes for when these are lost.
package factors

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base32"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/go-webauthn/webauthn/webauthn"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/password"
	"sparecrate/internal/seal"
	"sparecrate/internal/store"
	"sparecrate/internal/store/factordb"
)

// Service is the second factors of people.
type Service struct {
	store *store.Store
	auth  *auth.Auth
	now   func() time.Time
	note  app.Noter
	keys  func() (*webauthn.WebAuthn, error)
	seals *seal.Key
}

// New returns the second factors over records.
func New(c *app.Core, a *auth.Auth) *Service {
	s := &Service{store: c.Store, auth: a, now: c.Now, note: app.Notes(c.Now), seals: c.Limits.Secrets}
	if s.seals == nil {
		s.seals = seal.New()
	}
	s.keys = sync.OnceValues(func() (*webauthn.WebAuthn, error) { return relyingParty(c.Limits.Address) })
	return s
}

// relyingParty is the service as passkeys know it, by the address that browsers reach it at.
// Passkeys are for names: at a loopback address they are for localhost.
func relyingParty(address string) (*webauthn.WebAuthn, error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return nil, app.Problem(app.Conflict, "no-address", "Passkeys need the address that people reach the service at. Ask whoever runs it to set --address.")
	}
	host := u.Hostname()
	if ip := net.ParseIP(host); ip != nil {
		if !ip.IsLoopback() {
			return nil, app.Problem(app.Conflict, "no-address", "Passkeys need a name, and this service is reached at the number %s. Ask whoever runs it to give it a name, and to set --address.", host)
		}
		host = "localhost"
		u.Host = net.JoinHostPort(host, u.Port())
	}
	return webauthn.New(&webauthn.Config{RPID: host, RPDisplayName: "Spare Crate", RPOrigins: []string{u.Scheme + "://" + u.Host}})
}

// mine refuses changes of second factors by tokens.
func mine(p *store.Person) error {
	switch {
	case p == nil:
		return app.Require(p, api.RoleViewer)
	case p.Token != nil:
		return app.Problem(app.Forbidden, "password-needed", "A token cannot change how its person signs in. Sign in with the password, in the console.")
	}
	return nil
}

// Of returns what somebody has.
func (s *Service) Of(ctx context.Context, p *store.Person) (*api.Factors, error) {
	if err := mine(p); err != nil {
		return nil, err
	}
	n, err := factordb.In(s.store).Count(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	keys, err := factordb.In(s.store).Passkeys(ctx, p.ID)
	return &api.Factors{Totp: n.Totp > 0, RecoveryCodes: n.Codes, Needed: s.auth.NeedsFactor(p), Passkeys: app.Each(keys, func(k factordb.Passkey) api.Passkey {
		return api.Passkey{Id: k.ID, Name: k.Name, CreatedAt: k.CreatedAt, LastUsedAt: k.LastUsedAt}
	})}, err
}

// recoveryCodes is how many there are at first.
const recoveryCodes = 10

// codes makes new recovery codes, of 50 bits each.
func (s *Service) codes(ctx context.Context, tx *store.Store, person int64) ([]string, error) {
	out, hashes, salt := make([]string, recoveryCodes), make([]string, recoveryCodes), rand.Text()
	for i := range out {
		var raw [7]byte
		_, _ = rand.Read(raw[:]) // which never fails
		text := strings.ToLower(base32.StdEncoding.EncodeToString(raw[:])[:10])
		out[i] = text[:5] + "-" + text[5:]
		var err error
		if hashes[i], err = hashed(ctx, person, out[i], salt); err != nil {
			return nil, err
		}
	}
	return out, factordb.In(tx).PutCodes(ctx, person, salt, hashes)
}

// hashed is what is kept of a recovery code, however it is typed. Codes are short, so they are
// stretched like passwords; those of versions that did not do so have no salt.
func hashed(ctx context.Context, person int64, code, salt string) (string, error) {
	plain := strings.Map(func(r rune) rune {
		if r == '-' || r == ' ' {
			return -1
		}
		return r
	}, strings.ToLower(strings.TrimSpace(code)))
	text := fmt.Sprintf("recovery %d %s", person, plain)
	if salt == "" {
		return auth.SecretHash(text), nil
	}
	return password.Derived(ctx, text, salt)
}

// added makes recovery codes where the factor that was just added is the first.
func (s *Service) added(ctx context.Context, tx *store.Store, p *store.Person, what string) (*api.AddedFactor, error) {
	n, err := factordb.In(tx).Count(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	out := &api.AddedFactor{}
	if n.Codes == 0 {
		made, err := s.codes(ctx, tx, p.ID)
		if err != nil {
			return nil, err
		}
		out.RecoveryCodes = &made
	}
	return out, s.note(ctx, tx, p, "added second factor", p.Email, what)
}

// RenewCodes makes new recovery codes; those of before end.
func (s *Service) RenewCodes(ctx context.Context, p *store.Person) (*api.AddedFactor, error) {
	if err := mine(p); err != nil {
		return nil, err
	}
	out := &api.AddedFactor{}
	return out, s.store.Tx(ctx, func(tx *store.Store) error {
		n, err := factordb.In(tx).Count(ctx, p.ID)
		if err != nil {
			return err
		}
		if !n.Any() {
			return app.Problem(app.Conflict, "no-factor", "Recovery codes stand in for a second factor. Set one up first.")
		}
		made, err := s.codes(ctx, tx, p.ID)
		if err != nil {
			return err
		}
		out.RecoveryCodes = &made
		return s.note(ctx, tx, p, "renewed recovery codes", p.Email, "")
	})
}

// removed ends recovery codes where no second factor is left, and refuses to take away the
// last one of somebody who needs one.
func (s *Service) removed(ctx context.Context, tx *store.Store, p *store.Person, what string) error {
	n, err := factordb.In(tx).Count(ctx, p.ID)
	if err != nil {
		return err
	}
	if !n.Any() {
		if s.auth.NeedsFactor(p) {
			return app.Problem(app.Conflict, "factor-needed", "The studio asks for a second factor, and this is your only one. Add another first.")
		}
		if err := factordb.In(tx).PutCodes(ctx, p.ID, "", nil); err != nil {
			return err
		}
	}
	return s.note(ctx, tx, p, "removed second factor", p.Email, what)
}

// RemoveAll removes the second factors of somebody who has lost them; for admins. The
// person's sessions end.
func (s *Service) RemoveAll(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return err
	}
	if err := mine(p); err != nil {
		return err
	}
	if p.ID == id {
		return app.Problem(app.Conflict, "own-account", "Change your own second factors under your account.")
	}
	return s.store.Tx(ctx, func(tx *store.Store) error {
		of, err := s.auth.EndSessionsOf(ctx, tx, id)
		if err != nil {
			return app.Explain(err, "person")
		}
		if err := factordb.In(tx).Forget(ctx, id); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "removed second factor", of.Name, "all of them")
	})
}

// Check holds what somebody gives beside the right password: nothing is needed where there
// is no second factor.
func (s *Service) Check(ctx context.Context, p *store.Person, code string) error {
	n, err := factordb.In(s.store).Count(ctx, p.ID)
	if err != nil || !n.Any() {
		return err
	}
	if strings.TrimSpace(code) == "" {
		how := "Enter the code that your authenticator app shows, or a recovery code."
		if n.Totp == 0 {
			how = "Sign in with your passkey, or enter a recovery code."
		}
		return app.Problem(app.Unauthenticated, "second-factor-needed", "%s", how)
	}
	if err := s.auth.MayTryCode(ctx, p.ID); err != nil {
		return err
	}
	right, unreadable := false, error(nil)
	err = s.store.Tx(ctx, func(tx *store.Store) error {
		t, err := factordb.In(tx).Totp(ctx, p.ID)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err == nil && t.ConfirmedAt != nil {
			secret, bad := s.seals.Open(t.Secret, sealedFor(p.ID))
			unreadable = bad
			if step := stepOf(secret, code, s.now()); bad == nil && step > t.LastStep {
				right = true
				return factordb.In(tx).TookCode(ctx, p.ID, step, s.now())
			}
		}
		salt, err := factordb.In(tx).Salt(ctx, p.ID)
		if err != nil {
			return err
		}
		hash, err := hashed(ctx, p.ID, code, salt)
		if err != nil {
			return err
		}
		if right, err = factordb.In(tx).TakeCode(ctx, p.ID, hash); err != nil || !right {
			return err
		}
		return s.note(ctx, tx, p, "used recovery code", p.Email, "")
	})
	if err != nil {
		return err
	}
	if !right && unreadable != nil {
		return errUnreadable
	}
	if !right {
		return app.Problem(app.Unauthenticated, "wrong-code", "This code is wrong, or it was used already. Enter the one that your authenticator app shows now, or a recovery code.")
	}
	return s.auth.CodeTaken(ctx, p.ID)
}

func same(a, b string) bool { return subtle.ConstantTimeCompare([]byte(a), []byte(b)) == 1 }
