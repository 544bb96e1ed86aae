package auth

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/netip"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/password"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/factordb"
)

const secretPrefix = "sc_" // tells our tokens apart where they leak

// oneTimeLife is how long a one-time password lets somebody in.
const oneTimeLife = 7 * 24 * time.Hour

func hashed(ctx context.Context, secret string) (string, error) {
	hash, err := password.Hash(ctx, secret)
	return hash, whenBusy(err)
}

func isSecret(ctx context.Context, secret, hash string) (bool, error) {
	is, err := password.Is(ctx, secret, hash)
	return is, whenBusy(err)
}

func whenBusy(err error) error {
	if errors.Is(err, password.ErrBusy) {
		return app.TooManyRequests(3*time.Second, "Too many people are signing in at this moment. Try again in a few seconds.")
	}
	return err
}

// FirstStart makes the studio and an admin where there are no people yet, and
// gives the admin's one-time password. Both are empty where people exist.
func (c *Auth) FirstStart(ctx context.Context, studio, name, email string) (password string, err error) {
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		password = ""
		people, err := accountdb.In(tx).People(ctx)
		if err != nil || len(people) > 0 {
			return err
		}
		secret, hash, err := oneTime(ctx)
		if err != nil {
			return err
		}
		if err := tx.AddClient(ctx, &store.Client{Name: studio, Studio: true}); err != nil {
			return err
		}
		admin := store.Person{Name: name, Email: email, Role: string(api.RoleAdmin), PasswordHash: hash, MustChangePassword: true, PasswordEnds: c.oneTimeEnds(), CreatedAt: c.now(), Prices: true, Documents: true}
		if err := accountdb.In(tx).AddPerson(ctx, &admin); err != nil {
			return err
		}
		password = secret
		return c.note(ctx, tx, &admin, "began", studio, "first start")
	})
	if errors.Is(err, store.ErrTaken) {
		return "", nil // another process was first
	}
	return password, err
}

// How often a password may be guessed. What is right does not count.
const (
	placeTries   = 30 // from one network address
	placeWindow  = time.Minute
	pairTries    = 10 // for one account from one network address
	pairWindow   = 5 * time.Minute
	accountTries = 100 // for one account from addresses that it never signed in from
	// SP 800-63B-4, section 3.2.2, allows at most 100.
	accountWindow = time.Hour
	PlacesKept    = 60 * 24 * time.Hour
	AttemptsKept  = 24 * time.Hour
)

// SignIn checks a password. Whether the address or the password is wrong is not told.
// place is the network address that the attempt comes from.
func (c *Auth) SignIn(ctx context.Context, place, email, password string) (*store.Person, error) {
	email = strings.TrimSpace(email)
	p, err := accountdb.In(c.store).PersonByEmail(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	place = SecretHash("place " + PlaceOf(place))
	tries := []attempt{{SecretHash("from " + place), placeTries, placeWindow}, {SecretHash("pair " + place + strings.ToLower(email)), pairTries, pairWindow}}
	known := false
	if p != nil {
		if known, err = accountdb.In(c.store).KnownPlace(ctx, p.ID, place); err != nil {
			return nil, err
		}
	}
	if !known { // so that a stranger's guesses do not lock out the one who signs in every day
		tries = append(tries, attempt{SecretHash("account " + strings.ToLower(email)), accountTries, accountWindow})
	}
	if err := c.mayTry(ctx, "Too many attempts to sign in.", tries...); err != nil {
		return nil, err
	}
	hash := ""
	if p != nil {
		hash = p.PasswordHash
	}
	// An unknown address takes as long as a wrong password, and a closed account.
	right, err := isSecret(ctx, password, hash)
	if err != nil {
		return nil, err
	}
	if !right || p == nil || p.ClosedAt != nil {
		return nil, app.Problem(app.Unauthenticated, "wrong-sign-in", "The e-mail address or the password is wrong.")
	}
	for _, t := range tries {
		if err := accountdb.In(c.store).Succeeded(ctx, t.subject); err != nil {
			return nil, err
		}
	}
	if over(p, c.now()) {
		return nil, app.Problem(app.Unauthenticated, "account-ended", "This account ended on %s. Ask the studio to prolong it.", lastDay(*p).Format("2 January 2006"))
	}
	if p.PasswordEnds != nil && p.PasswordEnds.Before(c.now()) {
		return nil, app.Problem(app.Unauthenticated, "password-expired", "This one-time password has expired. Ask an admin for a new one; on the service's machine, `sparecrate admin reset` makes one for an admin.")
	}
	return p, accountdb.In(c.store).KeepPlace(ctx, p.ID, place, c.now())
}

// attempt is something that may be tried so often within a window.
type attempt struct {
	subject string
	limit   int
	window  time.Duration
}

// mayTry counts a try and refuses it where a limit is reached.
func (c *Auth) mayTry(ctx context.Context, what string, all ...attempt) error {
	for _, a := range all {
		wait, err := accountdb.In(c.store).Attempt(ctx, a.subject, a.limit, a.window)
		if err != nil {
			return err
		}
		if wait > 0 {
			return app.TooManyRequests(wait, "%s Wait %s and try again.", what, wait.Round(time.Second))
		}
	}
	return nil
}

// PlaceOf is what counts as one network address: of IPv6, the network of one customer.
func PlaceOf(address string) string {
	ip, err := netip.ParseAddr(address)
	if err != nil || ip.Unmap().Is4() {
		return address
	}
	if net, err := ip.Prefix(64); err == nil {
		return net.String()
	}
	return address
}

// PersonBySession returns the person of a session that began in a turn; nil where the
// account is closed or all its sessions were ended since.
func (c *Auth) PersonBySession(ctx context.Context, id int64, turn int) (*store.Person, error) {
	p, err := accountdb.In(c.store).Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || p != nil && (p.ClosedAt != nil || p.Turn != turn || over(p, c.now())) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if c.NeedsFactor(p) {
		if p.SecondFactor, err = hasFactor(ctx, c, p); err != nil {
			return nil, err
		}
		p.MustAddFactor = !p.SecondFactor
	}
	return c.withLimits(ctx, p)
}

// hasFactor says whether somebody has a second factor.
func hasFactor(ctx context.Context, c *Auth, p *store.Person) (bool, error) {
	n, err := factordb.In(c.store).Count(ctx, p.ID)
	return n.Any(), err
}

// PersonByToken returns the person a token's secret stands for, with no more rights
// than the token's scope has.
func (c *Auth) PersonByToken(ctx context.Context, secret string) (*store.Person, error) {
	t, err := accountdb.In(c.store).TokenByHash(ctx, SecretHash(secret))
	if errors.Is(err, store.ErrNotFound) || err == nil && (t.Person.ClosedAt != nil || over(&t.Person, c.now())) {
		return nil, app.Problem(app.Unauthenticated, "unknown-token", "This token is not known; it may have been revoked, or the password was changed.")
	}
	if err != nil {
		return nil, err
	}
	now := c.now()
	if !now.Before(t.ExpiresAt) {
		return nil, app.Problem(app.Unauthenticated, "token-expired", "This token expired on %s. Sign in again with `sparecrate sign-in`, or make a new token.", t.ExpiresAt.Format("2 January 2006"))
	}
	// To the minute is enough and spares a write with every call.
	if t.LastUsedAt == nil || now.Sub(*t.LastUsedAt).Abs() >= time.Minute {
		if err := accountdb.In(c.store).TouchToken(ctx, t.ID, now); err != nil {
			return nil, err
		}
	}
	p := t.Person
	p.Token = t
	if _, err := c.withLimits(ctx, &p); err != nil {
		return nil, err
	}
	if t.Limited {
		of, err := accountdb.In(c.store).ClientsOfTokens(ctx, []int64{t.ID})
		if err != nil {
			return nil, err
		}
		t.Clients = of[t.ID]
	}
	narrowed(&p, t)
	// What admins do concerns all clients, so a token for some does none of it.
	if (t.Scope != string(api.ScopeAdmin) || p.Limited) && p.Role == string(api.RoleAdmin) {
		p.Role = string(api.RoleEditor)
	}
	return &p, nil
}

// SecretHash returns what is kept of a secret with enough randomness of its own: its SHA-256.
func SecretHash(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// Me returns the person who asks, also with a one-time password.
func (c *Auth) Me(ctx context.Context, p *store.Person) (api.Person, error) {
	if p == nil {
		return api.Person{}, app.Require(p, api.RoleViewer)
	}
	me, err := *p, error(nil)
	me.SecondFactor, err = hasFactor(ctx, c, p)
	return personView(me), err
}

// ChangePassword sets a person's own password. All sessions, tokens and calendar links
// end; the session it is done from is to go on with the next turn.
func (c *Auth) ChangePassword(ctx context.Context, p *store.Person, current, next string) error {
	if p == nil {
		return app.Require(p, api.RoleViewer)
	}
	if p.Token != nil {
		return needsPassword("A token cannot change the password. Sign in with the password, in the console or with `sparecrate sign-in`.")
	}
	if err := c.ownPassword(ctx, p, "current", current); err != nil {
		return err
	}
	if next == current {
		return app.InvalidField("new", "password-unchanged", "The new password is the old one; choose another.")
	}
	if err := password.Check(next, p.Name, p.Email); err != nil {
		return app.InvalidField("new", "weak-password", "%s", sentence.Of(err))
	}
	hash, err := hashed(ctx, next)
	if err != nil {
		return err
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		if err := accountdb.In(tx).SetPassword(ctx, p.ID, hash, nil, c.now()); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed password", p.Email, "")
	})
}

// oneTimeEnds is when a one-time password made now runs out.
func (c *Auth) oneTimeEnds() *time.Time {
	ends := c.now().Add(oneTimeLife)
	return &ends
}
