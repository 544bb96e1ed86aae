// Package server answers HTTP: the API of the contract (api/openapi.yaml) over
// the catalog, the console's files, and health and metrics. It holds no rules:
// a handler reads a request, asks the catalog, and writes what it says.
package server

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"sparecrate/internal/catalog"
	"sparecrate/internal/store"
)

const (
	base = "/api/v1"
	// maxJSON bounds requests that are not uploads; those are bounded by the catalog as they stream.
	maxJSON = 1 << 20
	// gracePeriod is how long requests may go on after the service was told to stop.
	gracePeriod = 30 * time.Second
	// Sign-in attempts from one address: these many at once, then one every two seconds.
	signInBurst = 30
	signInRate  = 0.5
)

// Config is what a server needs.
type Config struct {
	Catalog *catalog.Catalog
	Store   *store.Store // for sessions
	Console fs.FS        // the built console; index.html at its root
	Log     *slog.Logger
	Secure  bool // cookies only over HTTPS
}

// Handler gives everything the service answers.
func Handler(c Config) http.Handler {
	e := echo.New()
	e.Logger = c.Log
	m := newMetrics()
	sessions := newSessions(c.Store, c.Secure)
	h := &handlers{catalog: c.Catalog, sessions: sessions}

	e.HTTPErrorHandler = problems(c.Log)
	e.Use(middleware.RequestID(), logged(c.Log, m), middleware.Recover(), secured)
	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") })
	e.GET("/readyz", func(ctx *echo.Context) error {
		if err := c.Catalog.Ready(ctx.Request().Context()); err != nil {
			return ctx.String(http.StatusServiceUnavailable, "the database does not answer\n")
		}
		return ctx.String(http.StatusOK, "ready\n")
	})
	e.GET("/metrics", echo.WrapHandler(m.handler()), identified(c.Catalog, sessions))

	limiter := middleware.NewRateLimiterMemoryStoreWithConfig(middleware.RateLimiterMemoryStoreConfig{Rate: signInRate, Burst: signInBurst})
	api := e.Group(base, identified(c.Catalog, sessions), bounded)
	api.GET(eventsPath, events(c.Catalog))
	RegisterHandlersWithOptions(api, NewStrictHandler(h, nil), RegisterHandlersOptions{
		OperationMiddlewares: map[string][]echo.MiddlewareFunc{"signIn": {throttled(limiter)}},
	})
	api.Any("/*", func(*echo.Context) error { return echo.ErrNotFound })
	look(e, c.Catalog)
	live(e, c.Catalog)
	paperwork(e, c.Catalog, identified(c.Catalog, sessions))
	e.GET("/*", console(c.Console))
	return http.NewCrossOriginProtection().Handler(sessions.LoadAndSave(e))
}

// Serve answers on a listener until ctx ends, then lets running requests finish.
func Serve(ctx context.Context, l net.Listener, h http.Handler, log *slog.Logger) error {
	stopping, stop := context.WithCancel(context.WithoutCancel(ctx))
	defer stop()
	s := &http.Server{
		BaseContext: func(net.Listener) context.Context {
			return context.WithValue(context.WithoutCancel(ctx), stoppingKey{}, stopping)
		},
		Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn),
	}
	failed := make(chan error, 1)
	go func() { failed <- s.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	log.Info("stopping; running requests may finish")
	stop()
	grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), gracePeriod)
	defer cancel()
	if err := s.Shutdown(grace); err != nil {
		return errors.Join(err, s.Close())
	}
	return nil
}

// secured sets the headers that keep a browser from doing more than the console needs.
func secured(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; "+
			"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		return next(c)
	}
}

// bounded limits the body of requests that are not uploads.
func bounded(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if kind, _, _ := mime.ParseMediaType(r.Header.Get(echo.HeaderContentType)); kind != echo.MIMEMultipartForm {
			r.Body = http.MaxBytesReader(c.Response(), r.Body, maxJSON)
		}
		return next(c)
	}
}
