package catalog

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"strings"
	"sync"

	"github.com/alexedwards/argon2id"

	"sparecrate/api"
	"sparecrate/internal/store"
)

const (
	minPassword  = 10
	secretPrefix = "sc_" // tells our tokens apart where they leak
)

// hashing takes 19 MiB (RFC 9106, section 3.1, leaves the choice to the service): with
// hashOne, many who sign in at once do not take the memory that fonts need.
var hashing = &argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// hashOne lets one password be hashed at a time.
var hashOne sync.Mutex

func hashed(secret string) (string, error) {
	hashOne.Lock()
	defer hashOne.Unlock()
	return argon2id.CreateHash(secret, hashing)
}

func isSecret(secret, hash string) bool {
	hashOne.Lock()
	defer hashOne.Unlock()
	ok, err := argon2id.ComparePasswordAndHash(secret, hash)
	return ok && err == nil
}

// FirstStart makes the studio and an admin where there are no people yet, and
// gives the admin's one-time password. Both are empty where people exist.
func (c *Catalog) FirstStart(ctx context.Context, studio, name, email string) (password string, err error) {
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		password = ""
		people, err := tx.People(ctx)
		if err != nil || len(people) > 0 {
			return err
		}
		secret, hash, err := oneTime()
		if err != nil {
			return err
		}
		if err := tx.AddClient(ctx, &store.Client{Name: studio, Studio: true}); err != nil {
			return err
		}
		admin := store.Person{Name: name, Email: email, Role: string(api.RoleAdmin), PasswordHash: hash, MustChangePassword: true, CreatedAt: c.now()}
		if err := tx.AddPerson(ctx, &admin); err != nil {
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

// SignIn checks a password. Whether the address or the password is wrong is not told.
func (c *Catalog) SignIn(ctx context.Context, email, password string) (*store.Person, error) {
	p, err := c.store.PersonByEmail(ctx, strings.TrimSpace(email))
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	hash := nobody
	if p != nil {
		hash = p.PasswordHash
	}
	// An unknown address takes as long as a wrong password, and a closed account.
	if !isSecret(password, hash) || p == nil || p.ClosedAt != nil {
		return nil, problem(Unauthenticated, "wrong-sign-in", "The e-mail address or the password is wrong.")
	}
	return p, nil
}

// nobody is the hash of a password that nobody has.
var nobody = func() string {
	h, err := hashed(rand.Text())
	if err != nil {
		panic(err) // the system has no random numbers
	}
	return h
}()

// PersonBySession gives the person of a session that began in a turn; nil where the
// account is closed or all its sessions were ended since.
func (c *Catalog) PersonBySession(ctx context.Context, id int64, turn int) (*store.Person, error) {
	p, err := c.store.Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || p != nil && (p.ClosedAt != nil || p.Turn != turn) {
		return nil, nil
	}
	return p, err
}

// PersonByToken gives the person a token's secret stands for.
func (c *Catalog) PersonByToken(ctx context.Context, secret string) (*store.Person, error) {
	t, err := c.store.TokenByHash(ctx, secretHash(secret))
	if errors.Is(err, store.ErrNotFound) {
		return nil, problem(Unauthenticated, "unknown-token", "This token is not known; it may have been withdrawn. Sign in again with `sparecrate sign-in`.")
	}
	if err != nil {
		return nil, err
	}
	// To the minute is enough and spares a write with every call.
	if now := c.now(); t.LastUsedAt == nil || now.Sub(*t.LastUsedAt).Minutes() >= 1 {
		if err := c.store.TouchToken(ctx, t.ID, now); err != nil {
			return nil, err
		}
	}
	return &t.Person, nil
}

func secretHash(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// Me gives the person who asks, also with a one-time password.
func (c *Catalog) Me(p *store.Person) (api.Person, error) {
	if p == nil {
		return api.Person{}, must(p, api.RoleViewer)
	}
	return personView(*p), nil
}

// ChangePassword sets a person's own password. All sessions end; the one it is done
// from is to go on with the next turn.
func (c *Catalog) ChangePassword(ctx context.Context, p *store.Person, current, next string) error {
	if p == nil {
		return must(p, api.RoleViewer)
	}
	if !isSecret(current, p.PasswordHash) {
		return invalid("current", "wrong-password", "The current password is wrong.")
	}
	if len([]rune(next)) < minPassword {
		return invalid("new", "password-too-short", "A password needs at least %d characters; a few words do well.", minPassword)
	}
	if next == current {
		return invalid("new", "password-unchanged", "The new password is the old one; choose another.")
	}
	hash, err := hashed(next)
	if err != nil {
		return err
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.SetPassword(ctx, p.ID, hash, false); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "changed password", p.Email, "")
	})
}

// Tokens gives a person's own tokens.
func (c *Catalog) Tokens(ctx context.Context, p *store.Person) ([]api.Token, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	tokens, err := c.store.Tokens(ctx, p.ID)
	return each(tokens, tokenView), err
}

// AddToken makes a token; the secret is given this once.
func (c *Catalog) AddToken(ctx context.Context, p *store.Person, name string) (*api.AddedToken, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	name, err := required("name", name)
	if err != nil {
		return nil, err
	}
	secret := secretPrefix + rand.Text() + rand.Text()
	t := store.Token{PersonID: p.ID, Name: name, Hash: secretHash(secret), CreatedAt: c.now()}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		t.ID = 0
		if err := tx.AddToken(ctx, &t); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "made token", name, "")
	})
	if err != nil {
		return nil, err
	}
	return &api.AddedToken{Token: tokenView(t), Secret: secret}, nil
}

// WithdrawToken ends one of a person's own tokens.
func (c *Catalog) WithdrawToken(ctx context.Context, p *store.Person, id int64) error {
	if err := must(p, api.RoleViewer); err != nil {
		return err
	}
	return explain(c.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.DropToken(ctx, p.ID, id); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "withdrew token", "", "")
	}), "token")
}

func tokenView(t store.Token) api.Token {
	return api.Token{Id: t.ID, Name: t.Name, CreatedAt: t.CreatedAt, LastUsedAt: t.LastUsedAt}
}
