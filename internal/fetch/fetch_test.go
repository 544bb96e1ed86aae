package fetch_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fetch"
)

func server(t *testing.T) *httptest.Server {
	mux := http.NewServeMux()
	mux.HandleFunc("/sheet.css", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/css; charset=utf-8")
		_, _ = io.WriteString(w, "body {}")
	})
	mux.HandleFunc("/moved", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/sheet.css", http.StatusFound) })
	mux.HandleFunc("/round", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/round", http.StatusFound) })
	mux.HandleFunc("/file", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "file:///etc/passwd", http.StatusFound)
	})
	mux.HandleFunc("/large", func(w http.ResponseWriter, _ *http.Request) { _, _ = io.WriteString(w, strings.Repeat("x", 5000)) })
	mux.HandleFunc("/stream", func(w http.ResponseWriter, _ *http.Request) {
		for range 100 {
			_, _ = io.WriteString(w, strings.Repeat("x", 500))
			w.(http.Flusher).Flush()
		}
	})
	mux.HandleFunc("/down", func(w http.ResponseWriter, _ *http.Request) { http.Error(w, "no", http.StatusServiceUnavailable) })
	s := httptest.NewServer(mux)
	t.Cleanup(s.Close)
	return s
}

func get(t *testing.T, f *fetch.Fetcher, address string) (string, error) {
	got, err := f.Get(t.Context(), address, 2000)
	if err != nil {
		return "", err
	}
	defer func() { _ = got.Body.Close() }()
	b, err := io.ReadAll(got.Body)
	return got.Type + " " + got.Address + " " + string(b), err
}

func TestGet(t *testing.T) {
	s := server(t)
	f := fetch.New(true)
	for _, path := range []string{"/sheet.css", "/moved"} {
		got, err := get(t, f, s.URL+path)
		require.NoError(t, err)
		assert.Equal(t, "text/css "+s.URL+"/sheet.css body {}", got)
	}
	for address, c := range map[string]struct {
		says  string
		again bool
	}{
		s.URL + "/round":             {"redirects more than 5 times", false},
		s.URL + "/file":              {"is not a URL", false},
		s.URL + "/none":              {"answered 404 Not Found", false},
		s.URL + "/down":              {"answered 503", true},
		s.URL + "/large":             {"sends more than 1 kB", false},
		s.URL + "/stream":            {"sends more than 1 kB", false},
		"file:///etc/passwd":         {"is not a URL", false},
		"https://u:p@type.example/x": {"contains a user name or password", false},
		"http://127.0.0.1:1/x":       {"cannot be reached", true},
		"http://\x7f/":               {"is not a URL", false},
	} {
		_, err := get(t, f, address)
		var told *fetch.Error
		require.ErrorAs(t, err, &told, address)
		assert.Contains(t, told.Message, c.says, address)
		assert.Equal(t, c.again, told.Again, address)
	}
}

func TestPrivateAddressesAreNotReached(t *testing.T) {
	s := server(t)
	f := fetch.New(false)
	for _, address := range []string{s.URL + "/sheet.css", strings.Replace(s.URL, "127.0.0.1", "localhost", 1) + "/sheet.css", "http://[::1]:80/", "http://169.254.169.254/", "http://0.0.0.0/", "http://[::ffff:10.0.0.1]/"} {
		_, err := get(t, f, address)
		var told *fetch.Error
		require.ErrorAs(t, err, &told, address)
		assert.Contains(t, told.Message, "private network", address)
		assert.False(t, told.Again)
	}
	for address, public := range map[string]bool{
		"8.8.4.4": true, "2606:4700::1": true, "10.1.2.3": false, "172.16.0.1": false, "192.168.1.1": false, "100.64.0.1": false, "169.254.0.1": false,
		"127.0.0.1": false, "224.0.0.1": false, "255.255.255.255": false, "::": false, "fe80::1": false, "fd00::1": false, "ff02::1": false,
		"::ffff:127.0.0.1": false, "64:ff9b::7f00:1": false, "2002:7f00:1::": false, "192.0.2.9": false,
	} {
		assert.Equal(t, public, fetch.Public(netip.MustParseAddr(address)), address)
	}
}
