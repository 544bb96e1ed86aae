// Package certificate encrypts connections with a certificate that is read again when it changes.
package certificate

import (
	"crypto/tls"
	"fmt"
	"log/slog"
	"os"
	"sync"
	"time"
)

// certificate is a certificate and its key in files, which are read again when they change.
type certificate struct {
	cert, key string
	log       *slog.Logger

	mu     sync.Mutex
	read   *tls.Certificate
	looked time.Time
	stood  [2]time.Time // when the files were changed that were read
}

// lookEvery is how long the files are not looked at again.
const lookEvery = time.Second

// Config returns how connections are encrypted with a certificate and its key, both PEM (RFC
// 7468), the certificate with those of its issuers behind it. Files that change are read
// again; where these cannot be used, the certificate of before goes on and the log says why.
func Config(cert, key string, log *slog.Logger) (*tls.Config, error) {
	c := &certificate{cert: cert, key: key, log: log}
	if err := c.load(); err != nil {
		return nil, fmt.Errorf("the certificate %s with the key %s cannot be used: %w", cert, key, err)
	}
	return &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) { return c.now(), nil }}, nil
}

// load reads the files.
func (c *certificate) load() error {
	stands, err := c.changed()
	if err != nil {
		return err
	}
	read, err := tls.LoadX509KeyPair(c.cert, c.key)
	if err != nil {
		return err
	}
	c.read, c.stood = &read, stands
	return nil
}

// changed returns when the files were changed last.
func (c *certificate) changed() (at [2]time.Time, err error) {
	for i, name := range []string{c.cert, c.key} {
		info, err := os.Stat(name)
		if err != nil {
			return at, err
		}
		at[i] = info.ModTime()
	}
	return at, nil
}

// now returns the certificate as the files have it.
func (c *certificate) now() *tls.Certificate {
	c.mu.Lock()
	defer c.mu.Unlock()
	if time.Since(c.looked) < lookEvery {
		return c.read
	}
	c.looked = time.Now()
	stands, err := c.changed()
	if err == nil && stands == c.stood {
		return c.read
	}
	if err == nil {
		err = c.load()
	}
	if err != nil {
		c.log.Error("the new certificate cannot be used; the one of before goes on", "certificate", c.cert, "error", err)
	} else {
		c.log.Info("the certificate was read again", "certificate", c.cert, "ends", c.read.Leaf.NotAfter)
	}
	return c.read
}
