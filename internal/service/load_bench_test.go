package service_test

import (
	"io"
	"net/http"
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
)

// BenchmarkPages reads everyday pages by 32 clients at once, over connections that are
// kept, and says how many times as long each takes as asking who is signed in, which is
// one statement.
func BenchmarkPages(b *testing.B) {
	s := open(b)
	for _, d := range foundry.Signage() {
		s.family(d)
	}
	var least float64 // of a page, seconds
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 64}}
	for _, page := range []struct{ name, path string }{
		{"session", "/api/v1/session"}, {"catalog", "/api/v1/families"}, {"family", "/api/v1/families/1"}, {"search", "/api/v1/families?q=skerrow"}, {"clients", "/api/v1/clients"},
	} {
		b.Run(page.name, func(b *testing.B) {
			b.SetParallelism(16)
			b.RunParallel(func(pb *testing.PB) {
				for pb.Next() {
					r, err := http.NewRequestWithContext(b.Context(), http.MethodGet, s.Address+page.path, nil)
					require.NoError(b, err)
					r.Header.Set("Authorization", "Bearer "+s.As(api.RoleViewer).Token)
					answer, err := client.Do(r)
					require.NoError(b, err)
					_, _ = io.Copy(io.Discard, answer.Body)
					_ = answer.Body.Close()
					require.Equal(b, http.StatusOK, answer.StatusCode)
				}
			})
			each := b.Elapsed().Seconds() / float64(b.N)
			if page.name == "session" {
				least = each
			}
			b.ReportMetric(1/each, "pages/s")
			b.ReportMetric(each/least, "times-session")
		})
	}
}
