package factors

import (
	"bytes"
	"context"
	"image/png"
	"strconv"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/factordb"
)

// sealedFor is what the secret of somebody's authenticator app is sealed for.
func sealedFor(person int64) string { return "totp " + strconv.FormatInt(person, 10) }

// errUnreadable refuses codes of an app whose secret was sealed with a key that is gone.
var errUnreadable = app.Problem(app.Conflict, "key-changed", "Codes of your authenticator app cannot be checked, as the service has another key for secrets than when you set it up. Use a recovery code or a passkey, or ask an admin to remove your second factors.")

// SealAll seals the secrets that an older version kept as they were.
func (s *Service) SealAll(ctx context.Context) error {
	return s.store.Tx(ctx, func(tx *store.Store) error {
		plain, err := factordb.In(tx).Unsealed(ctx)
		if err != nil {
			return err
		}
		for _, t := range plain {
			if err := factordb.In(tx).ReplaceSecret(ctx, t.PersonID, s.seals.Seal(t.Secret, sealedFor(t.PersonID))); err != nil {
				return err
			}
		}
		return nil
	})
}

const period = 30 // seconds that a code holds

// how is the algorithm of codes: six digits, each thirty seconds, by HMAC-SHA-1, which is
// what authenticator apps take (RFC 6238, section 4).
var how = totp.ValidateOpts{Period: period, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1}

// stepOf returns the step whose code this is: the present one, or one beside it, as clocks
// differ; 0 for none.
func stepOf(secret, code string, now time.Time) int64 {
	code = strings.ReplaceAll(strings.TrimSpace(code), " ", "")
	found := int64(0)
	for _, beside := range []int64{0, -1, 1} {
		at := now.Add(time.Duration(beside) * period * time.Second)
		if want, err := totp.GenerateCodeCustom(secret, at, how); err == nil && same(want, code) {
			found = at.Unix() / period
		}
	}
	return found
}

// StartTotp makes a secret for an authenticator app. It counts once a code of it was given.
func (s *Service) StartTotp(ctx context.Context, p *store.Person) (*api.TotpSetup, error) {
	if err := mine(p); err != nil {
		return nil, err
	}
	n, err := factordb.In(s.store).Count(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	if n.Totp > 0 {
		return nil, app.Problem(app.Conflict, "totp-set-up", "An authenticator app is set up already. Remove it first.")
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Spare Crate", AccountName: p.Email, Period: period, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1, SecretSize: 20})
	if err != nil {
		return nil, err
	}
	if err := factordb.In(s.store).PutTotp(ctx, p.ID, s.seals.Seal(key.Secret(), sealedFor(p.ID))); err != nil {
		return nil, err
	}
	const side = 220 // pixels
	picture, err := key.Image(side, side)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := png.Encode(&out, picture); err != nil {
		return nil, err
	}
	return &api.TotpSetup{Secret: key.Secret(), Uri: key.URL(), Picture: out.Bytes()}, nil
}

// ConfirmTotp sets the app up with the first code of it.
func (s *Service) ConfirmTotp(ctx context.Context, p *store.Person, code string) (out *api.AddedFactor, err error) {
	if err := mine(p); err != nil {
		return nil, err
	}
	if err := s.auth.MayTryCode(ctx, p.ID); err != nil {
		return nil, err
	}
	err = s.store.Tx(ctx, func(tx *store.Store) error {
		t, err := factordb.In(tx).Totp(ctx, p.ID)
		if err != nil {
			return app.Explain(err, "authenticator app that waits to be confirmed")
		}
		if t.ConfirmedAt != nil {
			return app.Problem(app.Conflict, "totp-set-up", "An authenticator app is set up already. Remove it first.")
		}
		secret, err := s.seals.Open(t.Secret, sealedFor(p.ID))
		if err != nil {
			return errUnreadable
		}
		step := stepOf(secret, code, s.now())
		if step == 0 {
			return app.InvalidField("code", "wrong-code", "This code is wrong. Enter the one that the app shows now; if it goes on, see that the clocks of both devices are right.")
		}
		if err := factordb.In(tx).TookCode(ctx, p.ID, step, s.now()); err != nil {
			return err
		}
		out, err = s.added(ctx, tx, p, "authenticator app")
		return err
	})
	return out, err
}

// RemoveTotp ends the codes of the app.
func (s *Service) RemoveTotp(ctx context.Context, p *store.Person) error {
	if err := mine(p); err != nil {
		return err
	}
	return s.store.Tx(ctx, func(tx *store.Store) error {
		if err := factordb.In(tx).DeleteTotp(ctx, p.ID); err != nil {
			return err
		}
		return s.removed(ctx, tx, p, "authenticator app")
	})
}
