package contracttest_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/contracttest"
)

// recorder is a test that keeps what it is failed with.
type recorder struct {
	testing.TB
	said []string
}

func (r *recorder) Errorf(format string, args ...any) {
	r.said = append(r.said, fmt.Sprintf(format, args...))
}

// TestAnswersAreHeldAgainstTheContract answers as the contract says, and in ways that
// it does not.
func TestAnswersAreHeldAgainstTheContract(t *testing.T) {
	for _, test := range []struct {
		name, path, kind, body string
		status                 int
		breaks                 string // empty where it keeps to it
	}{
		{"a list", "/tokens", "application/json", `{"items":[]}`, 200, ""},
		{"nothing for a list", "/tokens", "application/json", `{"items":null}`, 200, "items"},
		{"a field missing", "/tokens", "application/json", `{"items":[{"id":1,"createdAt":"2026-01-02T03:04:05Z"}]}`, 200, "name"},
		{"a number for a word", "/tokens", "application/json", `{"items":[{"id":1,"name":7,"createdAt":"2026-01-02T03:04:05Z"}]}`, 200, "name"},
		{"a role that is none", "/session", "application/json", `{"id":1,"name":"A","email":"a@b.example","role":"owner","mustChangePassword":false,"weekly":false,"closed":false}`, 200, "role"},
		{"a problem", "/tokens", "application/problem+json", `{"type":"about:blank","title":"Not Found","status":404,"code":"not-found","detail":"There is no such thing."}`, 404, ""},
		{"a problem without its code", "/tokens", "application/problem+json", `{"type":"about:blank","title":"Not Found","status":404,"detail":"There is no such thing."}`, 404, "code"},
		{"a call that is not there", "/fonts", "application/json", `{}`, 200, "no such call"},
		{"what is no JSON", "/tokens", "text/plain", `hello`, 200, ""},
	} {
		t.Run(test.name, func(t *testing.T) {
			s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
				w.Header().Set("Content-Type", test.kind)
				w.WriteHeader(test.status)
				_, _ = w.Write([]byte(test.body))
			}))
			defer s.Close()
			r := &recorder{TB: t}
			request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+"/api/v1"+test.path, http.NoBody)
			require.NoError(t, err)
			answer, err := contracttest.Client(r).Do(request)
			require.NoError(t, err)
			_ = answer.Body.Close()
			if test.breaks == "" {
				assert.Empty(t, r.said)
				return
			}
			require.Len(t, r.said, 1)
			assert.Contains(t, r.said[0], test.breaks)
		})
	}
}
