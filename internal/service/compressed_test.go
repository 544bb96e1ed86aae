package service_test

import (
	"io"
	"net/http"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/service/servicetest"
)

// TestTheConsoleComesCompressed asks for the console's script as a browser does, and for a part
// of it; answers of the API are sent as they are.
func TestTheConsoleComesCompressed(t *testing.T) {
	s := servicetest.Start(t, nil)
	get := func(path string, headers ...string) (*http.Response, string) {
		t.Helper()
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.Address+path, http.NoBody)
		require.NoError(t, err)
		for i := 0; i < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		answer, err := (&http.Transport{DisableCompression: true}).RoundTrip(r)
		require.NoError(t, err)
		defer func() { _ = answer.Body.Close() }()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	_, page := get("/")
	script := regexp.MustCompile(`/assets/index-[^"]+\.js`).FindString(page)
	require.NotEmpty(t, script)
	plain, whole := get(script)
	assert.Empty(t, plain.Header.Get("Content-Encoding"))
	small, packed := get(script, "Accept-Encoding", "gzip")
	assert.Equal(t, "gzip", small.Header.Get("Content-Encoding"))
	assert.Less(t, len(packed), len(whole)/2)
	part, _ := get(script, "Accept-Encoding", "gzip", "Range", "bytes=0-99")
	assert.Empty(t, part.Header.Get("Content-Encoding"))
	api, _ := get("/api/v1/session", "Accept-Encoding", "gzip")
	assert.Empty(t, api.Header.Get("Content-Encoding"))
}
