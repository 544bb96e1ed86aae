package browse

import (
	"net/http"
	"net/http/httptest"
	"os"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/sites"
)

// TestPrivateNetworksAreNotReached visits pages of this machine without leave, and a page
// that asks for fonts, stylesheets, frames and scripts of it.
func TestPrivateNetworksAreNotReached(t *testing.T) {
	var hits atomic.Int32
	inner := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		hits.Add(1)
		_, _ = w.Write([]byte("secret"))
	}))
	t.Cleanup(inner.Close)
	outer := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		_, _ = w.Write([]byte(strings.ReplaceAll(`<!doctype html><title>Out</title><link rel="stylesheet" href="IN/a.css"><style>@font-face { font-family: Quay; src: url(IN/a.woff2); font-display: swap } p { font-family: Quay, sans-serif }</style>
<p>Text</p><iframe src="IN/frame"></iframe><img src="IN/x.png"><script src="IN/x.js"></script><script>fetch("IN/f", { mode: "no-cors" }); navigator.sendBeacon("IN/b"); new WebSocket("INWS/w"); new EventSource("IN/e")</script>`, "INWS", strings.Replace(inner.URL, "http", "ws", 1))))
	}))
	t.Cleanup(outer.Close)
	outer.Config.Handler = replaced(outer.Config.Handler, "IN", inner.URL)
	b, err := Start(t.Context(), Options{Elsewhere: map[string]string{"www.harbour.example:80": outer.Listener.Addr().String()}})
	require.NoError(t, err)
	t.Cleanup(b.Close)

	p, err := b.Inspect(t.Context(), inner.URL+"/", Plan{})
	require.NoError(t, err)
	require.Len(t, p.Findings, 1)
	assert.Equal(t, "page-unreachable", p.Findings[0].Code)
	assert.Contains(t, p.Findings[0].Message, "private network")

	p, err = b.Inspect(t.Context(), "http://www.harbour.example/", Plan{})
	require.NoError(t, err)
	assert.Equal(t, "Out", p.Title)
	var codes []string
	for _, f := range p.Findings {
		codes = append(codes, f.Code)
	}
	assert.Contains(t, codes, "font-error")
	assert.Zero(t, hits.Load(), "what lies in a private network was asked for")
}

// replaced puts one text in place of another in what a handler answers.
func replaced(h http.Handler, old, with string) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rec := httptest.NewRecorder()
		h.ServeHTTP(rec, r)
		w.Header().Set("Content-Type", rec.Header().Get("Content-Type"))
		_, _ = w.Write([]byte(strings.ReplaceAll(rec.Body.String(), old+"/", with+"/")))
	})
}

// TestTheBrowserHasNoPrivileges reads whose processes the browser's are, and that none is
// left when it is closed.
func TestTheBrowserHasNoPrivileges(t *testing.T) {
	b, err := Start(t.Context(), Options{})
	require.NoError(t, err)
	all := family(b.process)
	assert.Greater(t, len(all), 2)
	if os.Geteuid() == 0 {
		for _, p := range all {
			status, err := os.ReadFile("/proc/" + strconv.Itoa(p) + "/status")
			if err == nil {
				assert.Contains(t, string(status), "Uid:\t65534\t65534\t65534", p)
			}
		}
	}
	b.Close()
	for _, p := range all {
		assert.Eventually(t, func() bool {
			status, err := os.ReadFile("/proc/" + strconv.Itoa(p) + "/status")
			return err != nil || strings.Contains(string(status), "State:\tZ")
		}, 10*time.Second, 50*time.Millisecond, "process %d goes on", p)
	}
}

// TestVisitIsWhole looks at what a visit holds beside findings.
func TestVisitIsWhole(t *testing.T) {
	one := sites.Faultless()[0]
	servers := sites.Start([]sites.Site{one})
	t.Cleanup(servers.Close)
	b, err := Start(t.Context(), Options{Private: true})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	p, err := b.Inspect(t.Context(), servers.URL(one), Plan{})
	require.NoError(t, err)
	require.Len(t, p.Fonts, 2)
	for _, f := range p.Fonts {
		assert.Equal(t, http.StatusOK, f.Status)
		assert.Equal(t, "font/woff2", f.Type)
		assert.Equal(t, "Skerrow Sans", f.Family)
		assert.Len(t, f.SHA256, 64)
		assert.Greater(t, f.Bytes, f.Size, "headers count")
		assert.True(t, f.Used)
	}
	set := map[string]string{}
	for _, r := range p.Runs {
		if r.Width == Widths[1] {
			set[r.Selector] = r.PostScript
			assert.Equal(t, "Skerrow Sans, Skerrow Sans Fallback, Arial, sans-serif", r.Asked)
			assert.Empty(t, r.Faux)
		}
	}
	assert.Equal(t, map[string]string{"h1": "SkerrowSans-Bold", "p": "SkerrowSans-Regular", "li": "SkerrowSans-Regular"}, set)
	assert.Greater(t, len(p.Picture), 1000)
	assert.Positive(t, p.FirstText)
}
