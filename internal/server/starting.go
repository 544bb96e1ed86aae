package server

import (
	"context"
	"encoding/json"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/server/edge"
)

// Entrance is what requests come by from the first moment on. While the service starts they wait a
// moment; where it waits for something itself, they are told so.
type Entrance struct {
	why     atomic.Pointer[string]
	opened  chan struct{}
	handler http.Handler // once opened
}

// startPatience is how long a request waits for the service to start.
const startPatience = 10 * time.Second

// NewEntrance returns an entrance that is not open.
func NewEntrance() *Entrance { return &Entrance{opened: make(chan struct{})} }

// Wait sets what the service waits for, a part of a sentence.
func (e *Entrance) Wait(why string) { e.why.Store(&why) }

// Open passes requests on from now on.
func (e *Entrance) Open(h http.Handler) {
	e.handler = h
	close(e.opened)
}

// ServeHTTP answers a request.
func (e *Entrance) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	patience := startPatience
	if e.why.Load() != nil || r.URL.Path == "/healthz" || r.URL.Path == "/readyz" {
		patience = 0
	}
	if e.isOpen(r.Context(), patience) {
		e.handler.ServeHTTP(w, r)
		return
	}
	why := "it starts"
	if said := e.why.Load(); said != nil {
		why = *said
	}
	if r.URL.Path == "/healthz" {
		_, _ = w.Write([]byte("ok\n"))
		return
	}
	w.Header().Set(echo.HeaderRetryAfter, edge.RetryAfter)
	w.Header().Set(echo.HeaderContentType, "application/problem+json")
	w.Header().Set("X-Content-Type-Options", "nosniff")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusServiceUnavailable)
	_ = json.NewEncoder(w).Encode(api.Problem{
		Type: "about:blank", Title: http.StatusText(http.StatusServiceUnavailable), Status: http.StatusServiceUnavailable, Code: "starting",
		Detail: "The service is not ready: " + why + ". Try again in some seconds.",
	})
}

func (e *Entrance) isOpen(ctx context.Context, patience time.Duration) bool {
	select {
	case <-e.opened:
		return true
	default:
	}
	if patience == 0 {
		return false
	}
	select {
	case <-e.opened:
		return true
	case <-ctx.Done():
	case <-time.After(patience):
	}
	return false
}
