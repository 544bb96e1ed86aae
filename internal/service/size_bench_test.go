package service_test

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// The studio of BenchmarkAtSize is a twentieth of this unless SPARECRATE_AT_SIZE is set (make size).
var wholeSize = servicetest.Size{Families: 20_000, FacesEach: 50, Clients: 500, Licenses: 5000, Sites: 5000, FamiliesEach: 4}

const (
	askEach      = 20 * time.Millisecond // 50 requests a second
	changeEach   = time.Second           // somebody changes something
	askFor       = 20 * time.Second
	peopleAtWork = 25
)

// BenchmarkAtSize has people read pages of a large studio, 50 a second whether or not the ones
// before are answered, while somebody changes something each second; everybody sees all. It says of
// each page in how many milliseconds 95 of 100 are answered, and how many times as long that is as
// asking who is signed in. To reach: 100 ms.
func BenchmarkAtSize(b *testing.B) {
	size := wholeSize
	if os.Getenv("SPARECRATE_AT_SIZE") == "" {
		size.Families, size.Clients, size.Licenses, size.Sites = size.Families/20, size.Clients/20, size.Licenses/20, size.Sites/20
	}
	defer debug.SetGCPercent(debug.SetGCPercent(service.GCPercent)) // as serve does
	s := servicetest.Start(b, nil)
	begun := time.Now()
	db := s.FillStudio(b, size)
	b.Logf("a studio of %d faces is there after %.0f s", size.Families*size.FacesEach, time.Since(begun).Seconds())
	tokens := s.Colleagues(b, peopleAtWork)
	var words []string
	rows, err := db.QueryContext(b.Context(), "SELECT name FROM families ORDER BY RAND(3) LIMIT 500")
	require.NoError(b, err)
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var name string
		require.NoError(b, rows.Scan(&name))
		words = append(words, strings.Fields(name)[0])
	}
	require.NoError(b, rows.Err())
	const first = 1000 // numbers of what was generated
	pages := map[string]func(rng *rand.Rand) string{
		"session": func(*rand.Rand) string { return "/session" },
		"home":    func(*rand.Rand) string { return "/due" },
		"catalog": func(*rand.Rand) string { return "/families?limit=60&total=true" },
		"search": func(rng *rand.Rand) string {
			return "/families?limit=60&total=true&q=" + url.QueryEscape(words[rng.IntN(len(words))])
		},
		"misspelled": func(rng *rand.Rand) string {
			return "/families?limit=60&total=true&q=" + url.QueryEscape(misspelled(rng, words[rng.IntN(len(words))]))
		},
		"family": func(rng *rand.Rand) string { return fmt.Sprintf("/families/%d", first+rng.IntN(size.Families)) },
		"site":   func(rng *rand.Rand) string { return fmt.Sprintf("/sites/%d", first+rng.IntN(size.Sites)) },
		"sites":  func(*rand.Rand) string { return "/sites" },
		"plan":   func(rng *rand.Rand) string { return fmt.Sprintf("/sites/%d/plan", first+rng.IntN(size.Sites)) },
	}
	var kinds []string
	for kind := range pages {
		kinds = append(kinds, kind)
	}
	slices.Sort(kinds)
	over := &http.Client{Timeout: time.Minute, Transport: &http.Transport{MaxIdleConnsPerHost: 256}}
	ask := func(ctx context.Context, method, path, body, token string) (int, time.Duration) {
		r, err := http.NewRequestWithContext(ctx, method, s.Address+"/api/v1"+path, strings.NewReader(body))
		require.NoError(b, err)
		r.Header.Set("Authorization", "Bearer "+token)
		r.Header.Set("Content-Type", "application/json")
		start := time.Now()
		answer, err := over.Do(r)
		if err != nil {
			return 0, time.Since(start)
		}
		_, _ = io.Copy(io.Discard, answer.Body)
		_ = answer.Body.Close()
		return answer.StatusCode, time.Since(start)
	}
	alone := map[string]time.Duration{}
	for _, kind := range kinds {
		var each []time.Duration
		for i := range 7 {
			rng := rand.New(rand.NewPCG(9, uint64(i))) //nolint:gosec // not for secrets
			status, d := ask(b.Context(), http.MethodGet, pages[kind](rng), "", tokens[0])
			require.True(b, status == http.StatusOK || kind == "plan" && status == http.StatusUnprocessableEntity, "%s: %d", kind, status) // a plan may be refused, with a reason
			each = append(each, d)
		}
		slices.Sort(each)
		alone[kind] = each[len(each)/2]
		b.Logf("%-10s alone %7.1f ms", kind, float64(alone[kind])/1e6)
	}
	took := map[string][]time.Duration{}
	failed := 0
	for b.Loop() {
		var mu sync.Mutex
		var all sync.WaitGroup
		stop, cancel := context.WithTimeout(b.Context(), askFor)
		all.Go(func() {
			for n := 0; stop.Err() == nil; n++ {
				status, _ := ask(b.Context(), http.MethodPost, "/clients", fmt.Sprintf(`{"name": "Added Meanwhile %d"}`, time.Now().UnixNano()), s.As(api.RoleAdmin).Token)
				require.Equal(b, http.StatusCreated, status)
				time.Sleep(changeEach)
			}
		})
		rng := rand.New(rand.NewPCG(3, 3)) //nolint:gosec // not for secrets
		for tick := time.NewTicker(askEach); stop.Err() == nil; <-tick.C {
			kind, token := kinds[rng.IntN(len(kinds))], tokens[rng.IntN(len(tokens))]
			path := pages[kind](rng)
			all.Go(func() {
				status, d := ask(b.Context(), http.MethodGet, path, "", token)
				mu.Lock()
				defer mu.Unlock()
				took[kind] = append(took[kind], d)
				if status == 0 || status >= http.StatusInternalServerError { // a plan may be refused, with a reason
					failed++
				}
			})
		}
		cancel()
		all.Wait()
	}
	percentile := func(kind string, p int) time.Duration {
		d := took[kind]
		slices.Sort(d)
		return d[len(d)*p/100]
	}
	for _, kind := range kinds {
		b.ReportMetric(float64(percentile(kind, 95))/1e6, kind+"-p95-ms")
		b.Logf("%-10s %4d, median %6.1f ms, 95 of 100 within %7.1f ms, %5.1f times who is signed in", kind, len(took[kind]),
			float64(percentile(kind, 50))/1e6, float64(percentile(kind, 95))/1e6, float64(percentile(kind, 95))/float64(percentile("session", 95)))
	}
	require.Zero(b, failed, "requests that got no good answer within a minute")
	b.ReportMetric(0, "ns/op")
}

// misspelled changes one letter of a word.
func misspelled(rng *rand.Rand, word string) string {
	letters := []rune(word)
	letters[1+rng.IntN(len(letters)-1)] = rune('a' + rng.IntN(26)) //nolint:gosec // a letter
	return string(letters)
}
