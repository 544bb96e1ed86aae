package service_test

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

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
	asksForWhatIsMeasured(t, text)
	found := regexp.MustCompile(`address=(http://127\.0\.0\.1:\d+/debug/pprof/)`).FindStringSubmatch(s.Log.String())
	require.NotNil(t, found)
	assert.Contains(t, read(found[1]), "goroutine")
	assert.NotContains(t, read(s.Address+"/debug/pprof/goroutine?debug=1"), "goroutine profile", "not where people come in")
}

// asksForWhatIsMeasured holds the dashboard and the alerts that come with the service against the
// metrics of one: every name and label in them is there.
func asksForWhatIsMeasured(t *testing.T, text string) {
	t.Helper()
	labels := map[string]string{"sparecrate_last_backup_timestamp_seconds": "", "sparecrate_remembered_answers_total": "result"}
	for line := range strings.Lines(text) {
		name, rest, _ := strings.Cut(strings.TrimSpace(line), "{")
		name, _, _ = strings.Cut(name, " ")
		labels[name] += rest
	}
	var expressions []string
	var dashboard struct {
		Panels []struct {
			Title   string
			Targets []struct{ Expr, LegendFormat string }
		}
	}
	require.NoError(t, json.Unmarshal(must(os.ReadFile("../../packaging/monitoring/dashboard.json"))(t), &dashboard))
	for _, p := range dashboard.Panels {
		assert.NotEmpty(t, p.Title)
		for _, one := range p.Targets {
			expressions = append(expressions, one.Expr)
		}
	}
	var alerts struct {
		Groups []struct {
			Rules []struct {
				Alert, Expr string
				Annotations map[string]string
			}
		}
	}
	require.NoError(t, yaml.Unmarshal(must(os.ReadFile("../../packaging/monitoring/alerts.yml"))(t), &alerts))
	for _, r := range alerts.Groups[0].Rules {
		assert.NotEmpty(t, r.Annotations["summary"], r.Alert)
		expressions = append(expressions, r.Expr)
	}
	require.Greater(t, len(expressions), 20)
	named := regexp.MustCompile(`\b((?:sparecrate|go_sql|process)_[a-z_]+)(?:\{([^}]*)\})?`)
	label := regexp.MustCompile(`([a-z_]+)=`)
	for _, e := range expressions {
		for _, found := range named.FindAllStringSubmatch(e, -1) {
			have, is := labels[found[1]]
			assert.True(t, is, "%s in %s is not measured", found[1], e)
			for _, l := range label.FindAllStringSubmatch(found[2], -1) {
				assert.True(t, l[1] == "job" || strings.Contains(have, l[1]+"="), "%s in %s", l[1], e)
			}
		}
		for _, by := range regexp.MustCompile(`by \(([^)]*)\)`).FindAllStringSubmatch(e, -1) {
			for _, l := range strings.Split(by[1], ", ") {
				assert.True(t, l == "instance" || strings.Contains(text, l+`="`), "%s in %s", l, e)
			}
		}
	}
}
