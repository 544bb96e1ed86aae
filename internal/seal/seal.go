// Package seal encrypts the few secrets that the service must be able to read again, such as
// those of authenticator apps, before they are kept among the records: whoever has a copy of
// the database alone has none of them. AES-256 in Galois/Counter Mode (NIST SP 800-38D) with
// a random nonce; what a secret is for is authenticated with it, so that a row cannot be put
// in the place of another.
package seal

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// ErrUnreadable says that a secret was sealed with another key, for something else, or altered.
var ErrUnreadable = errors.New("the secret was sealed with another key")

const (
	keyBytes = 32
	mark     = "sealed:1:" // before what is sealed, with the version of how
)

// Key seals and opens secrets. Its zero value is not usable.
type Key struct{ aead cipher.AEAD }

func (Key) String() string { return "seal.Key" }

func from(raw []byte) (*Key, error) {
	block, err := aes.NewCipher(raw)
	if err != nil {
		return nil, err
	}
	aead, err := cipher.NewGCMWithRandomNonce(block)
	return &Key{aead}, err
}

// New returns a key that is kept nowhere, for as long as the process lives.
func New() *Key {
	raw := make([]byte, keyBytes)
	_, _ = rand.Read(raw) // which never fails
	k, err := from(raw)
	if err != nil {
		panic(err) // the size is right
	}
	return k
}

// Open reads the key in a file: 64 hexadecimal digits. Where there is no such file it is made,
// readable by its owner only. Several processes that start at once end up with the same key.
func Open(path string) (*Key, error) {
	text, err := os.ReadFile(path) //nolint:gosec // named by whoever runs the service
	if errors.Is(err, fs.ErrNotExist) {
		if err = create(path); err == nil {
			text, err = os.ReadFile(path) //nolint:gosec // the same
		}
	}
	if err != nil {
		return nil, fmt.Errorf("the key for secrets: %w", err)
	}
	raw, err := hex.DecodeString(strings.TrimSpace(string(text)))
	if err != nil || len(raw) != keyBytes {
		return nil, fmt.Errorf("the key for secrets in %s is not %d hexadecimal digits; put the right file back, or move it away to begin with a new key, with which everybody sets up their authenticator app anew", path, 2*keyBytes)
	}
	return from(raw)
}

// create writes a new key under a name that nobody has yet.
func create(path string) (err error) {
	f, err := os.CreateTemp(filepath.Dir(path), ".key-*")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.Remove(f.Name())) }()
	raw := make([]byte, keyBytes)
	_, _ = rand.Read(raw) // which never fails
	_, err = f.WriteString(hex.EncodeToString(raw) + "\n")
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return err
	}
	if err = os.Link(f.Name(), path); errors.Is(err, fs.ErrExist) {
		return nil // another process was first, and its key counts
	}
	return err
}

// Seal encrypts a secret that is for something, such as "totp 7".
func (k *Key) Seal(secret, purpose string) string {
	return mark + base64.RawStdEncoding.EncodeToString(k.aead.Seal(nil, nil, []byte(secret), []byte(purpose)))
}

// Sealed reports whether a text is what Seal returns.
func Sealed(text string) bool { return strings.HasPrefix(text, mark) }

// Open decrypts what Seal returned for the same purpose, and returns what was never sealed as
// it stands. The error is ErrUnreadable.
func (k *Key) Open(text, purpose string) (string, error) {
	if !Sealed(text) {
		return text, nil
	}
	raw, err := base64.RawStdEncoding.DecodeString(text[len(mark):])
	if err != nil {
		return "", ErrUnreadable
	}
	secret, err := k.aead.Open(nil, nil, raw, []byte(purpose))
	if err != nil {
		return "", ErrUnreadable
	}
	return string(secret), nil
}
