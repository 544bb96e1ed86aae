package factors

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"strconv"
	"strings"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/store"
	"sparecrate/internal/store/factordb"
)

// user is a person as Web Authentication knows one.
type user struct {
	person *store.Person
	keys   []webauthn.Credential
}

const handlePrefix = "person " // of what an authenticator keeps for whose a passkey is

func (u *user) WebAuthnID() []byte {
	return []byte(handlePrefix + strconv.FormatInt(u.person.ID, 10))
}
func (u *user) WebAuthnName() string                       { return u.person.Email }
func (u *user) WebAuthnDisplayName() string                { return u.person.Name }
func (u *user) WebAuthnCredentials() []webauthn.Credential { return u.keys }

func (s *Service) user(ctx context.Context, p *store.Person) (*user, error) {
	found, err := factordb.In(s.store).Passkeys(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	u := &user{person: p}
	for _, k := range found {
		var c webauthn.Credential
		if err := json.Unmarshal([]byte(k.Credential), &c); err != nil {
			return nil, err
		}
		u.keys = append(u.keys, c)
	}
	return u, nil
}

func handleOf(id []byte) string {
	return auth.SecretHash("passkey " + base64.RawURLEncoding.EncodeToString(id))
}

// mostPasskeys bounds the passkeys of a person.
const mostPasskeys = 20

// StartPasskey begins to add a passkey: what the browser is given, and what the session
// keeps until it answers.
func (s *Service) StartPasskey(ctx context.Context, p *store.Person) (options *protocol.CredentialCreation, kept string, err error) {
	if err := mine(p); err != nil {
		return nil, "", err
	}
	keys, err := s.keys()
	if err != nil {
		return nil, "", err
	}
	u, err := s.user(ctx, p)
	if err != nil {
		return nil, "", err
	}
	if len(u.keys) >= mostPasskeys {
		return nil, "", app.Problem(app.Conflict, "too-many-passkeys", "You have %d passkeys. Remove one that is not used any more.", mostPasskeys)
	}
	options, session, err := keys.BeginRegistration(u,
		webauthn.WithExclusions(webauthn.Credentials(u.keys).CredentialDescriptors()),
		webauthn.WithAuthenticatorSelection(protocol.AuthenticatorSelection{
			ResidentKey: protocol.ResidentKeyRequirementRequired, RequireResidentKey: protocol.ResidentKeyRequired(), UserVerification: protocol.VerificationRequired,
		}))
	if err != nil {
		return nil, "", err
	}
	b, err := json.Marshal(session)
	return options, string(b), err
}

// errCeremony refuses an answer of a browser that does not fit what it was asked.
func errCeremony(err error) error {
	var told *protocol.Error
	why := err.Error()
	if errors.As(err, &told) && told.Details != "" {
		why = told.Details
	}
	return app.Problem(app.Invalid, "bad-passkey", "This passkey was not taken: %s. Start again.", strings.TrimSuffix(why, "."))
}

// AddPasskey adds the passkey that the browser made.
func (s *Service) AddPasskey(ctx context.Context, p *store.Person, kept, name string, credential []byte) (out *api.AddedFactor, err error) {
	if err := mine(p); err != nil {
		return nil, err
	}
	if name, err = app.RequiredText("name", name); err != nil {
		return nil, err
	}
	keys, err := s.keys()
	if err != nil {
		return nil, err
	}
	var session webauthn.SessionData
	if kept == "" || json.Unmarshal([]byte(kept), &session) != nil {
		return nil, app.Problem(app.Conflict, "no-ceremony", "No passkey is being added in this session. Start again.")
	}
	answer, err := protocol.ParseCredentialCreationResponseBytes(credential)
	if err != nil {
		return nil, errCeremony(err)
	}
	u, err := s.user(ctx, p)
	if err != nil {
		return nil, err
	}
	made, err := keys.CreateCredential(u, session, answer)
	if err != nil {
		return nil, errCeremony(err)
	}
	body, err := json.Marshal(made)
	if err != nil {
		return nil, err
	}
	err = s.store.Tx(ctx, func(tx *store.Store) error {
		err := factordb.In(tx).AddPasskey(ctx, &factordb.Passkey{PersonID: p.ID, Handle: handleOf(made.ID), Name: name, Credential: string(body), CreatedAt: s.now()})
		if errors.Is(err, store.ErrTaken) {
			return app.Problem(app.Conflict, "passkey-known", "This passkey is set up already.")
		}
		if err != nil {
			return err
		}
		out, err = s.added(ctx, tx, p, "passkey "+name)
		return err
	})
	return out, err
}

// RemovePasskey removes one of a person's passkeys.
func (s *Service) RemovePasskey(ctx context.Context, p *store.Person, id int64) error {
	if err := mine(p); err != nil {
		return err
	}
	return s.store.Tx(ctx, func(tx *store.Store) error {
		if err := factordb.In(tx).DeletePasskey(ctx, p.ID, id); err != nil {
			return app.Explain(err, "passkey")
		}
		return s.removed(ctx, tx, p, "passkey")
	})
}

// StartSignIn begins to sign in with a passkey, whosever it is.
func (s *Service) StartSignIn(ctx context.Context, place string) (options *protocol.CredentialAssertion, kept string, err error) {
	if err := s.auth.MayTryFrom(ctx, place); err != nil {
		return nil, "", err
	}
	keys, err := s.keys()
	if err != nil {
		return nil, "", err
	}
	options, session, err := keys.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationRequired))
	if err != nil {
		return nil, "", err
	}
	b, err := json.Marshal(session)
	return options, string(b), err
}

// SignIn returns the person whose passkey has answered. It stands for the password and the
// second factor: whoever uses it has it and was verified by it.
func (s *Service) SignIn(ctx context.Context, place, kept string, credential []byte) (*store.Person, error) {
	if err := s.auth.MayTryFrom(ctx, place); err != nil {
		return nil, err
	}
	keys, err := s.keys()
	if err != nil {
		return nil, err
	}
	var session webauthn.SessionData
	if kept == "" || json.Unmarshal([]byte(kept), &session) != nil {
		return nil, app.Problem(app.Conflict, "no-ceremony", "No sign-in with a passkey is under way. Start again.")
	}
	unknown := app.Problem(app.Unauthenticated, "unknown-passkey", "This passkey is not known here; it may have been removed. Sign in with your password.")
	answer, err := protocol.ParseCredentialRequestResponseBytes(credential)
	if err != nil {
		return nil, errCeremony(err)
	}
	var whose *user
	_, used, err := keys.ValidatePasskeyLogin(func(_, handle []byte) (webauthn.User, error) {
		text, is := strings.CutPrefix(string(handle), handlePrefix)
		id, err := strconv.ParseInt(text, 10, 64)
		if !is || err != nil {
			return nil, unknown
		}
		p, err := s.auth.Open(ctx, id)
		if err != nil {
			return nil, err
		}
		whose, err = s.user(ctx, p)
		return whose, err
	}, session, answer)
	if err != nil {
		var told *app.Error
		if errors.As(err, &told) {
			return nil, told
		}
		return nil, unknown
	}
	if used.Authenticator.CloneWarning {
		return nil, app.Problem(app.Unauthenticated, "copied-passkey", "This passkey seems to have been copied, so it is not taken. Sign in with your password, remove the passkey and add a new one.")
	}
	body, err := json.Marshal(used)
	if err != nil {
		return nil, err
	}
	return whose.person, factordb.In(s.store).UsedPasskey(ctx, handleOf(used.ID), string(body), s.now())
}
