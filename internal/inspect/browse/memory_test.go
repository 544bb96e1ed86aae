package browse

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/sites"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/survey"
)

// TestAHundredPages surveys a hundred pages, each with fonts: neither the browser nor this
// process grows with their number. It takes minutes, and runs with SPARECRATE_ALL_PAGES.
func TestAHundredPages(t *testing.T) {
	if os.Getenv("SPARECRATE_ALL_PAGES") == "" {
		t.Skip("SPARECRATE_ALL_PAGES is not set")
	}
	const pages = 100
	body := sites.Faultless()[0].Files["index.html"].Body
	files := sites.Start(sites.Faultless()[:1])
	t.Cleanup(files.Close)
	base := files.URL(sites.Faultless()[0])
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var n int
		if _, err := fmt.Sscanf(r.URL.Path, "/%d", &n); err != nil && r.URL.Path != "/" {
			http.Redirect(w, r, base+strings.TrimPrefix(r.URL.Path, "/"), http.StatusFound)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = fmt.Fprintf(w, "%s<p>Page %d, and %s</p><a href=\"/%d\">on</a> <a href=\"/%d\">and on</a>", body, n, strings.Repeat("words that differ ", 20*n), 2*n+1, 2*n+2)
	}))
	t.Cleanup(server.Close)
	b, err := Start(t.Context(), Options{Private: true})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	var most atomic.Int64
	watching, stop := context.WithCancel(t.Context())
	defer stop()
	go func() {
		for watching.Err() == nil {
			total := int64(0)
			for _, p := range family(b.process) {
				total += private(p)
			}
			most.Store(max(most.Load(), total))
			time.Sleep(200 * time.Millisecond)
		}
	}()
	var heap []uint64
	var browser []int64
	found, err := survey.Run(t.Context(), server.URL+"/", survey.Options{Pages: pages, Fetch: b.Fetch, Inspect: func(ctx context.Context, address string) (*inspect.Page, error) {
		p, err := b.Inspect(ctx, address, Plan{})
		runtime.GC()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		heap, browser = append(heap, m.HeapAlloc), append(browser, most.Swap(0))
		return p, err
	}})
	require.NoError(t, err)
	require.Len(t, found.Pages, pages)
	top := func(all []int64) int64 {
		out := int64(0)
		for _, n := range all {
			out = max(out, n)
		}
		return out
	}
	early, late := top(browser[:20]), top(browser[80:])
	t.Logf("browser: %d MB over pages 1 to 20, %d MB over the last 20; this process holds %d MB after page 20, %d MB after page %d", early>>20, late>>20, heap[19]>>20, heap[len(heap)-1]>>20, pages)
	assert.Less(t, late, int64(400<<20), "the browser at its largest")
	assert.Less(t, late, early*3/2)
	assert.Less(t, int64(heap[len(heap)-1])-int64(heap[19]), int64(40<<20), "what is kept of eighty pages") //nolint:gosec // sizes
}
