package browse

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAPageCannotMakeItsReportLarge inspects a page whose names are as long as it likes, with
// more faces than anybody reads of.
func TestAPageCannotMakeItsReportLarge(t *testing.T) {
	long := strings.Repeat("ü", 300_000)
	var css strings.Builder
	for i := range 1500 {
		fmt.Fprintf(&css, "@font-face { font-family: 'f%d %s'; src: url(none-%d.woff2) }\n", i, long[:2000], i)
	}
	page := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/" {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = fmt.Fprintf(w, "<!doctype html><title>%s</title><style>%s</style><p id=%q class=%q style=\"font-family: 'f1 %s', '%s'\">Words %s</p>", long, css.String(), long, long, long[:2000], long, long)
	}))
	t.Cleanup(page.Close)
	b, err := Start(t.Context(), Options{Private: true})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	p, err := b.Inspect(t.Context(), page.URL+"/", Plan{})
	require.NoError(t, err)
	assert.NotEmpty(t, p.Findings)
	assert.LessOrEqual(t, len(p.Findings), mostTold)
	report, err := json.Marshal(p)
	require.NoError(t, err)
	assert.Less(t, len(report), 4<<20)
	for _, r := range p.Runs {
		assert.LessOrEqual(t, len(r.Selector), longestName+len("…"))
	}
	assert.NotContains(t, string(report), "\uFFFD", "no character is cut in two")
}
