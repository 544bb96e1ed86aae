package server_test

import (
	"bytes"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/bucket"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server"
	"sparecrate/internal/store"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func serve(t testing.TB, files fstest.MapFS) (*httptest.Server, *store.Store) {
	t.Helper()
	s, err := store.Open(t.Context(), mariadbtest.New(t))
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	c := rooms.New(s, bucket.InMemory(), func() time.Time { return time.Now().UTC() }, app.DefaultLimits, slog.New(slog.DiscardHandler))
	h := httptest.NewServer(server.Handler(server.Config{Catalog: c, Store: s, Console: files, Log: slog.New(slog.DiscardHandler), Secure: true}))
	t.Cleanup(h.Close)
	return h, s
}

func get(t testing.TB, address string) (*http.Response, string) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, address, nil)
	require.NoError(t, err)
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer func() { _ = answer.Body.Close() }()
	body, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	return answer, string(body)
}

func TestConsoleFiles(t *testing.T) {
	h, _ := serve(t, fstest.MapFS{
		"index.html": {Data: []byte("<!doctype html>the console")}, "assets/app-1a2b.js": {Data: []byte("let x")}, "mark.svg": {Data: []byte("<svg/>")},
	})
	for path, want := range map[string]struct {
		status int
		body   string
		cache  string
	}{
		"/": {200, "the console", "no-cache"}, "/families/12": {200, "the console", "no-cache"}, "/assets/app-1a2b.js": {200, "let x", "public, max-age=31536000, immutable"},
		"/mark.svg": {200, "<svg/>", ""}, "/assets/gone.js": {404, "not-found", ""}, "/assets": {200, "the console", "no-cache"}, "/../../etc/passwd.txt": {404, "not-found", ""},
	} {
		r, body := get(t, h.URL+path)
		assert.Equal(t, want.status, r.StatusCode, path)
		assert.Contains(t, body, want.body, path)
		assert.Equal(t, want.cache, r.Header.Get("Cache-Control"), path)
		assert.Equal(t, "nosniff", r.Header.Get("X-Content-Type-Options"), path)
		assert.Contains(t, r.Header.Get("Content-Security-Policy"), "default-src 'self'", path)
		assert.Equal(t, "DENY", r.Header.Get("X-Frame-Options"), path)
		assert.Equal(t, "same-origin", r.Header.Get("Cross-Origin-Opener-Policy"), path)
		assert.Equal(t, "same-origin", r.Header.Get("Cross-Origin-Resource-Policy"), path)
		assert.Contains(t, r.Header.Get("Permissions-Policy"), "camera=()", path)
		assert.Equal(t, "max-age=31536000; includeSubDomains", r.Header.Get("Strict-Transport-Security"), path)
	}
	bare, _ := serve(t, fstest.MapFS{})
	r, body := get(t, bare.URL+"/")
	assert.Equal(t, http.StatusNotFound, r.StatusCode)
	assert.Contains(t, body, "make build")
}

// TestDatabaseGone closes the database under a running server: it says that it
// is not ready, and a request ends in a sentence with the number of its log line.
func TestDatabaseGone(t *testing.T) {
	h, s := serve(t, fstest.MapFS{})
	r, _ := get(t, h.URL+"/readyz")
	assert.Equal(t, http.StatusOK, r.StatusCode)
	require.NoError(t, s.Close())
	r, body := get(t, h.URL+"/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, r.StatusCode)
	assert.Contains(t, body, "database: ")
	r, _ = get(t, h.URL+"/healthz")
	assert.Equal(t, http.StatusOK, r.StatusCode, "the process itself is well")
	q, err := http.NewRequestWithContext(t.Context(), http.MethodGet, h.URL+"/api/v1/families", nil)
	require.NoError(t, err)
	q.Header.Set("Authorization", "Bearer sc_any")
	failed, err := http.DefaultClient.Do(q)
	require.NoError(t, err)
	defer func() { _ = failed.Body.Close() }()
	text, err := io.ReadAll(failed.Body)
	require.NoError(t, err)
	assert.Equal(t, http.StatusServiceUnavailable, failed.StatusCode)
	assert.Equal(t, "5", failed.Header.Get("Retry-After"))
	assert.NotContains(t, strings.ToLower(string(text)), "sql", "nothing of the inside is shown")
}

// TestGuessingIsSlowedDown tries more passwords than a person would.
func TestGuessingIsSlowedDown(t *testing.T) {
	h, _ := serve(t, fstest.MapFS{})
	statuses := map[int]int{}
	for range 40 {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, h.URL+"/api/v1/session", strings.NewReader(`{"email":"a@b.example","password":"guess"}`))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		_ = answer.Body.Close()
		statuses[answer.StatusCode]++
		if answer.StatusCode == http.StatusTooManyRequests {
			assert.NotEmpty(t, answer.Header.Get("Retry-After"))
		}
	}
	assert.Equal(t, map[int]int{http.StatusUnauthorized: 10, http.StatusTooManyRequests: 30}, statuses)
}

// TestTheCookieIsBoundToTheHost signs in where cookies go over HTTPS only.
func TestTheCookieIsBoundToTheHost(t *testing.T) {
	h, s := serve(t, fstest.MapFS{"index.html": {Data: []byte("x")}})
	password, err := auth.New(s, func() time.Time { return time.Now().UTC() }, app.Limits{}).FirstStart(t.Context(), "Lanternjaw Studio", "Ines Varga", "ines@lanternjaw.example")
	require.NoError(t, err)
	body, err := json.Marshal(map[string]string{"email": "ines@lanternjaw.example", "password": password})
	require.NoError(t, err)
	r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, h.URL+"/api/v1/session", bytes.NewReader(body))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer func() { _ = answer.Body.Close() }()
	require.Equal(t, http.StatusOK, answer.StatusCode)
	cookies := answer.Cookies()
	require.Len(t, cookies, 1)
	c := cookies[0]
	assert.Equal(t, "__Host-sparecrate_session", c.Name)
	assert.True(t, c.Secure && c.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, c.SameSite)
	assert.Equal(t, "/", c.Path)
	assert.Empty(t, c.Domain)
	assert.InDelta(t, 8*time.Hour, time.Until(c.Expires), float64(2*time.Minute), "it ends where it is not used")
}
