package service_test

import (
	"bytes"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"log/slog"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/certificate"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// certified writes a certificate for this machine and its key into a folder.
func certified(t testing.TB, folder string, number int64) *x509.Certificate {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{
		SerialNumber: big.NewInt(number), Subject: pkix.Name{CommonName: "localhost"}, DNSNames: []string{"localhost"}, IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
		NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign,
	}
	made, err := x509.CreateCertificate(rand.Reader, c, c, key.Public(), key)
	require.NoError(t, err)
	raw, err := x509.MarshalPKCS8PrivateKey(key)
	require.NoError(t, err)
	for name, block := range map[string]*pem.Block{"key.pem": {Type: "PRIVATE KEY", Bytes: raw}, "cert.pem": {Type: "CERTIFICATE", Bytes: made}} {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path+".new", pem.EncodeToMemory(block), 0o600))
		require.NoError(t, os.Rename(path+".new", path))
	}
	read, err := x509.ParseCertificate(made)
	require.NoError(t, err)
	return read
}

// TestHTTPSByTheServiceItself signs in over HTTPS, and goes on over a change of the certificate,
// also to one that cannot be used.
func TestHTTPSByTheServiceItself(t *testing.T) {
	folder := t.TempDir()
	roots := x509.NewCertPool()
	roots.AddCert(certified(t, folder, 1))
	cert, key := filepath.Join(folder, "cert.pem"), filepath.Join(folder, "key.pem")
	s := servicetest.Start(t, nil, func(o *service.Options) { o.TLSCert, o.TLSKey = cert, key })
	assert.Contains(t, s.Address, "https://127.0.0.1:")
	ask := func(change ...func(*tls.Config)) (*http.Response, error) {
		config := &tls.Config{RootCAs: roots} //nolint:gosec // the least is what is tried
		for _, f := range change {
			f(config)
		}
		c := &http.Client{Transport: &http.Transport{TLSClientConfig: config, ForceAttemptHTTP2: true, DisableKeepAlives: true}}
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.Address+"/api/v1/session", bytes.NewReader(jsonOf(t, api.SignIn{Email: s.As(api.RoleEditor).Email, Password: s.As(api.RoleEditor).Password})))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		answer, err := c.Do(r)
		if err == nil {
			_ = answer.Body.Close()
		}
		return answer, err
	}
	r, err := ask()
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, r.StatusCode)
	assert.Equal(t, 2, r.ProtoMajor)
	assert.NotEmpty(t, r.Header.Get("Strict-Transport-Security"))
	assert.Equal(t, "no-store", r.Header.Get("Cache-Control"))
	require.Len(t, r.Cookies(), 1)
	assert.Equal(t, "__Host-sparecrate_session", r.Cookies()[0].Name)
	assert.True(t, r.Cookies()[0].Secure && r.Cookies()[0].HttpOnly)
	_, err = ask(func(c *tls.Config) { c.MaxVersion = tls.VersionTLS11 })
	require.Error(t, err, "nothing older than TLS 1.2")

	roots.AddCert(certified(t, folder, 2))
	require.Eventually(t, func() bool {
		r, err := ask()
		return err == nil && r.TLS.PeerCertificates[0].SerialNumber.Int64() == 2
	}, 20*time.Second, 200*time.Millisecond, "the new certificate is taken without a start")
	require.NoError(t, os.WriteFile(cert, []byte("no certificate"), 0o600))
	time.Sleep(1200 * time.Millisecond) // past the time that the files are not looked at again
	r, err = ask()
	require.NoError(t, err)
	assert.Equal(t, int64(2), r.TLS.PeerCertificates[0].SerialNumber.Int64(), "the one of before goes on")
	assert.Contains(t, s.Log.String(), "the new certificate cannot be used")

	_, err = certificate.Config(cert, key, slog.New(slog.DiscardHandler))
	require.ErrorContains(t, err, "cannot be used")
	_, err = certificate.Config(filepath.Join(folder, "none.pem"), key, slog.New(slog.DiscardHandler))
	assert.ErrorContains(t, err, "none.pem")
}
