package doctor_test

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/doctor"
)

// certificate writes a certificate that ends at a time.
func certificate(t *testing.T, ends time.Time) string {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	made, err := x509.CreateCertificate(rand.Reader, &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: ends.Add(-time.Hour * 9000), NotAfter: ends}, &x509.Certificate{SerialNumber: big.NewInt(1)}, &key.PublicKey, key)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "cert.pem")
	require.NoError(t, os.WriteFile(path, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: made}), 0o600))
	return path
}

// speaks listens and says a line to whoever comes.
func speaks(t *testing.T, line string) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed at the end
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			_, _ = io.WriteString(c, line)
			_ = c.Close()
		}
	}()
	return l.Addr().String()
}

// TestWhatIsFound looks at a service that is well, and at one that has each fault there is.
func TestWhatIsFound(t *testing.T) {
	open := func(context.Context, func(backup.Source) error) error { return nil } // what is inside is looked at on the command line
	provider := httptest.NewServer(nil)
	provider.Config.Handler = http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = fmt.Fprintf(w, `{"issuer": %q}`, provider.URL) })
	defer provider.Close()
	running := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = io.WriteString(w, "ready\n") }))
	defer running.Close()
	sick := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		http.Error(w, "files: their disk is full", http.StatusServiceUnavailable)
	}))
	defer sick.Close()
	folder := func(mode os.FileMode) string {
		path := filepath.Join(t.TempDir(), "data")
		require.NoError(t, os.Mkdir(path, mode))
		require.NoError(t, os.Chmod(path, mode)) //nolint:gosec // as it is asked
		return path
	}
	file := func(mode os.FileMode) string {
		path := filepath.Join(t.TempDir(), "secrets.key")
		require.NoError(t, os.WriteFile(path, []byte("x"), mode))
		return path
	}
	backups := func(at time.Time) string {
		path := t.TempDir()
		place, err := bucket.OpenPlace(t.Context(), path, true)
		require.NoError(t, err)
		require.NoError(t, place.Put(t.Context(), "backups/"+at.UTC().Format("2006-01-02T15-04-05")+"-000Z.json", func(w io.Writer) error { _, err := io.WriteString(w, "{}"); return err }))
		require.NoError(t, place.Close())
		return path
	}
	well := doctor.Service{
		Data: folder(0o700), KeyFile: file(0o600), Listen: strings.TrimPrefix(running.URL, "http://"), Address: running.URL,
		Mail: speaks(t, "220 mail.example\r\n"), Issuer: provider.URL, Backups: backups(time.Now()), Open: open,
	}
	for _, f := range doctor.Look(t.Context(), well) {
		assert.Equal(t, doctor.Good, f.State, "%s: %s", f.What, f.Said)
	}
	for name, c := range map[string]struct {
		change func(s *doctor.Service)
		state  string
		says   string
	}{
		"no folder":      {func(s *doctor.Service) { s.Data += "/nothing" }, doctor.Fault, "data folder: "},
		"an open folder": {func(s *doctor.Service) { s.Data = folder(0o755) }, doctor.Warning, "others on this machine can look"},
		"no key":         {func(s *doctor.Service) { s.KeyFile += "x" }, doctor.Warning, "key for secrets: "},
		"an open key":    {func(s *doctor.Service) { s.KeyFile = file(0o644) }, doctor.Fault, "others on this machine can read"},
		"no database": {func(s *doctor.Service) {
			s.Open = func(context.Context, func(backup.Source) error) error { return errors.New("it is gone") }
		}, doctor.Fault, "records: it is gone"},
		"not running":          {func(s *doctor.Service) { s.Listen = "127.0.0.1:1" }, doctor.Warning, "nothing answers at http://127.0.0.1:1"},
		"not ready":            {func(s *doctor.Service) { s.Listen = strings.TrimPrefix(sick.URL, "http://") }, doctor.Fault, "not ready: files: their disk is full"},
		"no address":           {func(s *doctor.Service) { s.Address = "" }, doctor.Warning, "there is none but"},
		"no such address":      {func(s *doctor.Service) { s.Address = "fonts" }, doctor.Fault, "is no address"},
		"an address elsewhere": {func(s *doctor.Service) { s.Address = "http://127.0.0.1:1" }, doctor.Warning, "is not reached at"},
		"no certificate":       {func(s *doctor.Service) { s.TLSCert = file(0o600) }, doctor.Fault, "is no certificate in PEM"},
		"one that ended":       {func(s *doctor.Service) { s.TLSCert = certificate(t, time.Now().Add(-time.Hour)) }, doctor.Fault, "certificate: it ended on"},
		"one that ends":        {func(s *doctor.Service) { s.TLSCert = certificate(t, time.Now().Add(240*time.Hour)) }, doctor.Warning, "certificate: it ends on"},
		"one that holds":       {func(s *doctor.Service) { s.TLSCert = certificate(t, time.Now().Add(2400*time.Hour)) }, doctor.Good, "certificate: it holds until"},
		"no mail server":       {func(s *doctor.Service) { s.Mail = "" }, doctor.Warning, "mail: there is no mail server"},
		"mail that is away":    {func(s *doctor.Service) { s.Mail = "127.0.0.1:1" }, doctor.Fault, "127.0.0.1:1 does not answer"},
		"mail that is none":    {func(s *doctor.Service) { s.Mail = speaks(t, "SSH-2.0\r\n") }, doctor.Fault, "is no mail server"},
		"no provider":          {func(s *doctor.Service) { s.Issuer = "http://127.0.0.1:1" }, doctor.Fault, "does not answer"},
		"another provider":     {func(s *doctor.Service) { s.Issuer = running.URL }, doctor.Fault, "calls itself"},
		"no backups":           {func(s *doctor.Service) { s.Backups = "" }, doctor.Warning, "nobody said where"},
		"an empty place":       {func(s *doctor.Service) { s.Backups = t.TempDir() }, doctor.Fault, "there is none in"},
		"an old backup":        {func(s *doctor.Service) { s.Backups = backups(time.Now().Add(-100 * time.Hour)) }, doctor.Warning, "the last one is of"},
	} {
		s := well
		c.change(&s)
		all := ""
		for _, f := range doctor.Look(t.Context(), s) {
			all += f.State + " " + f.What + ": " + f.Said + "\n"
			assert.Equal(t, f.State == doctor.Good, f.Do == "", "%s: what to do, and only where something is", name)
		}
		found := false
		for line := range strings.SplitSeq(all, "\n") {
			found = found || strings.HasPrefix(line, c.state+" ") && strings.Contains(line, c.says)
		}
		assert.True(t, found, "%s: %q in\n%s", name, c.says, all)
	}
}
