package password

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"sync"

	"github.com/alexedwards/argon2id"
	"golang.org/x/crypto/argon2"
)

// ErrBusy says that too many passwords wait to be hashed; the caller is to come again.
var ErrBusy = errors.New("too many passwords are being checked")

// cost is what a hash takes: 19 MiB (RFC 9106, section 3.1, leaves the choice to the
// service).
var cost = argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Cheapen makes hashes cheap from now on. It is for tests, which sign in hundreds of
// times; the race detector makes a real hash take a second.
func Cheapen() { cost.Memory, cost.Iterations = 64, 1 }

// One password is hashed at a time, so that many who sign in at once do not take the
// memory that fonts need.
var (
	hashing = make(chan struct{}, 1)
	waiting = make(chan struct{}, 16)
)

// next waits until a password may be hashed; done ends that.
func next(ctx context.Context) (done func(), err error) {
	select {
	case waiting <- struct{}{}:
	default:
		return nil, ErrBusy
	}
	defer func() { <-waiting }()
	select {
	case hashing <- struct{}{}:
		return func() { <-hashing }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Hash returns what is kept of a password: its Argon2id hash with a salt, in the PHC
// string format. The error is ErrBusy or the context's.
func Hash(ctx context.Context, password string) (string, error) {
	done, err := next(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(password, &cost)
}

// Is reports whether a password is the one of a hash. An empty hash is of a password
// that nobody has; it takes as long as any other.
func Is(ctx context.Context, password, hash string) (bool, error) {
	done, err := next(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	if hash == "" {
		hash = unknown()
	}
	ok, err := argon2id.ComparePasswordAndHash(password, hash)
	return ok && err == nil, nil
}

// Derived returns the Argon2id hash of a text with a salt that the caller keeps, in hex: for
// short secrets of which several share one salt, so that one hash is enough to look one up.
// The error is ErrBusy or the context's.
func Derived(ctx context.Context, text, salt string) (string, error) {
	done, err := next(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return hex.EncodeToString(argon2.IDKey([]byte(text), []byte(salt), cost.Iterations, cost.Memory, cost.Parallelism, cost.KeyLength)), nil
}

// unknown returns the hash of a password that nobody has.
var unknown = sync.OnceValue(func() string {
	h, err := argon2id.CreateHash(rand.Text(), &cost)
	if err != nil {
		panic(err) // the system has no random numbers
	}
	return h
})
