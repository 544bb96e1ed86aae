package service_test

import (
	"io"
	"net/http"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestWhatIsMeasured works a little and reads the metrics and profiles of it.
func TestWhatIsMeasured(t *testing.T) {
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.Debug = "127.0.0.1:0" }), t, nil}
	s.admin = s.Client(t, api.RoleAdmin)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	for range 2 {
		require.Equal(t, http.StatusOK, must(s.admin.GetFamilyWithResponse(ctx, b.of["families"]))(t).StatusCode())
	}
	read := func(address string, header ...string) string {
		r := request(t, http.DefaultClient, "GET", address, "", header...)
		require.Equal(t, http.StatusOK, r.StatusCode)
		text, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		return string(text)
	}
	require.Eventually(t, func() bool {
		return regexp.MustCompile(`sparecrate_job_seconds_count\{kind="[a-z-]+",outcome="done"\} [1-9]`).MatchString(read(s.Address+"/metrics", "Authorization", "Bearer "+s.As(api.RoleAdmin).Token))
	}, 30*time.Second, 100*time.Millisecond, "jobs by kind and end")
	text := read(s.Address+"/metrics", "Authorization", "Bearer "+s.As(api.RoleAdmin).Token)
	for _, line := range []string{
		`sparecrate_bucket_operations_total\{operation="put",result="good"\} [1-9]`, `sparecrate_remembered_answers_total\{result="hit"\} [1-9]`,
		`sparecrate_jobs\{state="waiting"\} \d`, `sparecrate_jobs\{state="failed"\} 0`, `sparecrate_jobs_oldest_seconds \d`,
		`go_sql_open_connections\{db_name="records"\} [1-9]`, `sparecrate_http_request_seconds_count\{method="GET",route="/api/v1/families/:id",status="200"\} [2-9]`,
	} {
		assert.Regexp(t, "(?m)^"+line, text)
	}
	assert.NotContains(t, text, "Amberly", "numbers, and nothing of clients")
	found := regexp.MustCompile(`address=(http://127\.0\.0\.1:\d+/debug/pprof/)`).FindStringSubmatch(s.Log.String())
	require.NotNil(t, found)
	assert.Contains(t, read(found[1]), "goroutine")
	assert.NotContains(t, read(s.Address+"/debug/pprof/goroutine?debug=1"), "goroutine profile", "not where people come in")
}
