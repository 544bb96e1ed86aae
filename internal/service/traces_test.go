package service_test

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	collector "go.opentelemetry.io/proto/otlp/collector/trace/v1"
	spans "go.opentelemetry.io/proto/otlp/trace/v1"
	"google.golang.org/protobuf/proto"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestTracesGoToACollector starts a collector and a service that sends it traces: a request's has
// its statements and files, a job's is its own, one that comes with a trace joins it, and nothing
// that is in the records leaves the service.
func TestTracesGoToACollector(t *testing.T) {
	var mu sync.Mutex
	var all []*spans.Span
	got := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		body := io.Reader(r.Body)
		if r.Header.Get("Content-Encoding") == "gzip" {
			body = must(gzip.NewReader(r.Body))(t)
		}
		var sent collector.ExportTraceServiceRequest
		assert.Equal(t, "/v1/traces", r.URL.Path)
		assert.NoError(t, proto.Unmarshal(must(io.ReadAll(body))(t), &sent))
		mu.Lock()
		defer mu.Unlock()
		for _, r := range sent.ResourceSpans {
			for _, s := range r.ScopeSpans {
				all = append(all, s.Spans...)
			}
		}
	}))
	defer got.Close()
	servicetest.Alone(t) // what is traced is so for the whole process
	t.Setenv("OTEL_BSP_SCHEDULE_DELAY", "50")
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.Traces = got.URL }), t, nil}
	s.admin = s.Client(t, api.RoleAdmin)
	s.client("Saltmarsh Secrets")
	s.family(foundry.Signage()[0])
	r := must(http.NewRequestWithContext(t.Context(), http.MethodGet, s.Address+"/api/v1/families/1", http.NoBody))(t)
	r.Header.Set("Authorization", "Bearer "+s.As(api.RoleAdmin).Token)
	r.Header.Set("Traceparent", "00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01")
	answer := must(http.DefaultClient.Do(r))(t)
	require.NoError(t, answer.Body.Close())
	require.Equal(t, http.StatusOK, answer.StatusCode)
	named := func(name string) (found []*spans.Span) {
		mu.Lock()
		defer mu.Unlock()
		for _, one := range all {
			if one.Name == name {
				found = append(found, one)
			}
		}
		return found
	}
	under := func(parent *spans.Span, name string) (n int) {
		for _, one := range named(name) {
			if string(one.TraceId) == string(parent.TraceId) {
				n++
			}
		}
		return n
	}
	jobs := func() (found []*spans.Span) {
		mu.Lock()
		defer mu.Unlock()
		for _, one := range all {
			if strings.HasPrefix(one.Name, "job ") {
				found = append(found, one)
			}
		}
		return found
	}
	require.Eventually(t, func() bool { return len(named("GET /api/v1/families/:id")) == 1 && len(jobs()) > 0 }, timeToSettle, settleEvery)
	added := named("POST /api/v1/files")
	require.Len(t, added, 1)
	assert.Positive(t, under(added[0], "statement"))
	assert.Positive(t, under(added[0], "file put"))
	read := named("GET /api/v1/families/:id")
	require.Len(t, read, 1)
	assert.Equal(t, "\x0a\xf7\x65\x19\x16\xcd\x43\xdd\x84\x48\xeb\x21\x1c\x80\x31\x9c", string(read[0].TraceId), "it joins the trace that it came with")
	for _, one := range jobs() {
		assert.Empty(t, one.ParentSpanId, "a job is a trace of its own")
	}
	mu.Lock()
	defer mu.Unlock()
	for _, one := range all {
		for _, secret := range []string{"Saltmarsh Secrets", s.As(api.RoleAdmin).Token, "Skerrow"} {
			assert.NotContains(t, one.String(), secret, "what is in the records stays in the service")
		}
	}
	o := service.Options{Listen: "127.0.0.1:0", Data: t.TempDir(), Database: s.Database, Traces: "nowhere"}
	require.ErrorContains(t, service.Run(t.Context(), o), `not "nowhere"`)
}
