package service_test

import (
	"io"
	"net/http"
	"regexp"
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/internal/demo/foundry"
)

// BenchmarkLive reads a font behind a live stylesheet a thousand times a second, with service
// and readers on one processor together. To reach: a p99 under 20 ms.
func BenchmarkLive(b *testing.B) {
	s := open(b)
	family := s.family(foundry.Signage()[0], "origin", "commissioned")
	license := s.license(1, nil, family)
	s.document(license.Id)
	site := s.site("Signs", 1, family)
	sheet, err := s.admin.AddLiveStylesheetWithResponse(b.Context(), site)
	require.NoError(b, err)
	require.NotNil(b, sheet.JSON201, "%s", sheet.Body)
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 64}}
	read := func(path string) []byte {
		r, err := client.Get(s.Address + path) //nolint:noctx // as pages do
		require.NoError(b, err)
		defer func() { _ = r.Body.Close() }()
		body, err := io.ReadAll(r.Body)
		require.NoError(b, err)
		require.Equal(b, http.StatusOK, r.StatusCode, "%s", body)
		return body
	}
	font := regexp.MustCompile(`url\("?([^")]+\.woff2)`).FindSubmatch(read(sheet.JSON201.Path))
	require.NotNil(b, font)
	address := regexp.MustCompile(`[^/]+$`).ReplaceAllString(sheet.JSON201.Path, string(font[1]))
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	const aSecond = 1000
	for range b.N {
		var mu sync.Mutex
		var took []time.Duration
		var all sync.WaitGroup
		begun := time.Now()
		for i := range 5 * aSecond {
			time.Sleep(time.Until(begun.Add(time.Duration(i) * time.Second / aSecond)))
			due := time.Now()
			all.Go(func() {
				read(address)
				mu.Lock()
				defer mu.Unlock()
				took = append(took, time.Since(due))
			})
		}
		all.Wait()
		slices.Sort(took)
		b.ReportMetric(float64(len(took))/time.Since(begun).Seconds(), "reads/s")
		b.ReportMetric(float64(took[len(took)*99/100].Microseconds())/1000, "p99-ms")
		b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "median-ms")
	}
}
