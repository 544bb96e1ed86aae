package service_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"runtime"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"sparecrate/api"
	"sparecrate/internal/service/servicetest"
)

// BenchmarkManyFiles sends 50,000 files into one import (make size; otherwise a twentieth), as the
// command line does, while somebody looks at its page twice a second. It says how many times as long
// as the least that keeping them takes this is (to reach: 2), how many times as long the last tenth
// takes as the first, how many times as much memory is used at the end as after the first tenth, and
// in how many milliseconds 95 of 100 looks at the page are answered.
func BenchmarkManyFiles(b *testing.B) {
	files := 50_000
	if os.Getenv("SPARECRATE_AT_SIZE") == "" {
		files /= 20
	}
	const batch = 250
	s := servicetest.Start(b, nil)
	admin := s.Client(b, api.RoleAdmin)
	next := manyFonts(b)
	db := bareDatabase(b)
	folder := b.TempDir()
	for b.Loop() {
		opened, err := admin.StartImportWithResponse(b.Context(), api.NewImport{})
		require.NoError(b, err)
		id := opened.JSON201.Id
		looked := lookAt(b, s, id)
		var took, least []time.Duration // by batch
		var memory []uint64
		for range files / batch {
			fonts := make([][]byte, batch)
			for i := range fonts {
				fonts[i] = next()
			}
			begin := time.Now()
			g, ctx := errgroup.WithContext(b.Context())
			g.SetLimit(4)
			for i, data := range fonts {
				g.Go(func() error {
					kind, body := upload(b, "x", data, "path", fmt.Sprintf("%d/%d.ttf", len(took), i))
					r, err := admin.AddImportItemWithBodyWithResponse(ctx, id, kind, body)
					if err == nil && r.JSON200 == nil {
						err = errors.New(string(r.Body))
					}
					return err
				})
			}
			require.NoError(b, g.Wait())
			took = append(took, time.Since(begin))
			begin = time.Now()
			for _, data := range fonts {
				bare(b, db, folder, append(data, 0, 0, 0, 0))
			}
			least = append(least, time.Since(begin))
			runtime.GC()
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			memory = append(memory, m.HeapAlloc)
		}
		tenth := max(1, len(took)/10)
		total := func(of []time.Duration) (sum time.Duration) {
			for _, d := range of {
				sum += d
			}
			return sum
		}
		looks := looked()
		b.Logf("%d files after %.0f s; heap %d MB after a tenth, %d MB at the end; %d looks, half of them within %.0f ms", files, total(took).Seconds(), memory[tenth-1]>>20, memory[len(memory)-1]>>20, len(looks), float64(looks[len(looks)/2])/1e6)
		b.ReportMetric(float64(total(took))/float64(total(least)), "adding/bare")
		b.ReportMetric(float64(total(took[len(took)-tenth:]))/float64(total(took[:tenth])), "last/first")
		b.ReportMetric(float64(memory[len(memory)-1])/float64(memory[tenth-1]), "memory")
		b.ReportMetric(float64(looks[len(looks)*95/100])/1e6, "page-p95-ms")
	}
	b.ReportMetric(0, "ns/op")
}

// lookAt asks for what the page of an import shows, twice a second until what it returns is called,
// which returns how long each took, in order.
func lookAt(b *testing.B, s *servicetest.Service, id int64) func() []time.Duration {
	b.Helper()
	ctx, stop := context.WithCancel(b.Context())
	var looks []time.Duration
	var looking sync.WaitGroup
	looking.Go(func() {
		for tick := time.NewTicker(500 * time.Millisecond); ctx.Err() == nil; <-tick.C {
			for _, path := range []string{"", "/families?limit=60", "/items?limit=60"} {
				r, err := http.NewRequestWithContext(ctx, http.MethodGet, fmt.Sprintf("%s/api/v1/imports/%d%s", s.Address, id, path), nil)
				require.NoError(b, err)
				r.Header.Set("Authorization", "Bearer "+s.As(api.RoleEditor).Token)
				start := time.Now()
				answer, err := http.DefaultClient.Do(r)
				if err != nil {
					continue // it is over
				}
				require.Equal(b, http.StatusOK, answer.StatusCode, path)
				_, _ = io.Copy(io.Discard, answer.Body)
				_ = answer.Body.Close()
				looks = append(looks, time.Since(start))
			}
		}
	})
	return func() []time.Duration {
		stop()
		looking.Wait()
		slices.Sort(looks)
		return looks
	}
}
