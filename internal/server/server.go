// Package server answers HTTP: the API of the contract (api/openapi.yaml) over
// the catalog, the console's files, and health and metrics. It holds no rules:
// a handler reads a request, asks the catalog, and writes what it says.
package server

import (
	"context"
	"crypto/tls"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/server/signing"
	"sparecrate/internal/server/streams"
	"sparecrate/internal/signon"
	"sparecrate/internal/store"
)

// Config is what a server needs.
type Config struct {
	Catalog *rooms.Rooms
	Store   *store.Store // for sessions
	Console fs.FS        // the built console; index.html at its root
	Log     *slog.Logger
	Secure  bool // cookies only over HTTPS
	// Proxies are the networks of proxies in front of the service, whose word on where a
	// request comes from is believed (X-Forwarded-For). Without any the connection counts.
	Proxies []netip.Prefix
	SignOn  signon.Config // the provider that people sign on by
	Address string        // that people reach the service at
}

// gracePeriod is how long requests may go on after the service was told to stop.
const gracePeriod = 4 * time.Second

// secure are the headers that keep a browser from doing more than the console needs.
var secure = middleware.SecureConfig{
	ContentTypeNosniff: "nosniff", XFrameOptions: "DENY", ReferrerPolicy: "same-origin",
	ContentSecurityPolicy: "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; " +
		"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
}

// unkept keeps answers out of all caches but those of handlers that say otherwise: what is
// private is not on the disk of a machine that others use (RFC 9111, section 5.2.2.5).
func unkept(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		c.Response().Header().Set(echo.HeaderCacheControl, "no-store")
		return next(c)
	}
}

// isolated has browsers keep the service apart from other sites and from what a machine has;
// with https they come by HTTPS only from then on (RFC 6797). What other sites may load says
// so itself.
func isolated(https bool) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			h := c.Response().Header()
			h.Set("Cross-Origin-Opener-Policy", "same-origin")
			h.Set("Cross-Origin-Resource-Policy", "same-origin")
			h.Set("Permissions-Policy", "accelerometer=(), camera=(), display-capture=(), geolocation=(), gyroscope=(), magnetometer=(), microphone=(), midi=(), payment=(), usb=()")
			if https {
				h.Set(echo.HeaderStrictTransportSecurity, "max-age=31536000; includeSubDomains")
			}
			return next(c)
		}
	}
}

// Handler returns everything the service answers.
func Handler(c Config) http.Handler {
	e := echo.New()
	e.Logger = c.Log
	m := edge.NewMetrics()
	m.Watch(c.Catalog, c.Store)
	sessions := edge.NewSessions(c.Store, c.Secure)
	away := signing.NewAway(sessions)
	h := &handlers{rooms: c.Catalog, sessions: sessions, signon: signon.New(c.SignOn, c.Store, c.Catalog.Auth, c.Address)}

	e.IPExtractor = addressOf(c.Proxies)
	e.HTTPErrorHandler = edge.Problems(c.Log)
	e.Use(middleware.RequestID(), edge.Logged(c.Log, m), edge.Elsewhere(c.Store), middleware.Recover(), middleware.SecureWithConfig(secure), isolated(c.Secure))
	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") })
	e.GET("/readyz", readyz(&readiness{look: c.Catalog.Ready, log: c.Log}))
	e.GET("/metrics", echo.WrapHandler(m.Handler()), edge.Identified(c.Catalog, sessions), edge.Settled(c.Catalog))

	k := edge.OpenContract()
	api := e.Group(edge.Base, signing.WithAway(away), unkept, edge.Bounded(k, edge.UploadLimits(c.Catalog.Limits())), edge.Identified(c.Catalog, sessions), k.Audited(c.Catalog, sessions, c.Log), k.Permitted(c.Catalog), k.Within(c.Catalog), edge.Redacted, k.Checked, k.Etagged, edge.NewMemory(c.Catalog, m).Remembered(k))
	api.GET(edge.EventsPath, streams.Events(c.Catalog, c.Log))
	RegisterHandlers(api, NewStrictHandler(h, nil))
	api.Any("/*", func(*echo.Context) error { return echo.ErrNotFound })
	look(e, c.Catalog)
	live(e, c.Catalog)
	signing.Routes(e, c.Catalog, h.signon, sessions, away, c.Log)
	documents(e, c.Catalog, edge.Identified(c.Catalog, sessions))
	printedInspection(e, c.Catalog, edge.Identified(c.Catalog, sessions))
	proofPages(e, c.Catalog, edge.Identified(c.Catalog, sessions))
	e.GET("/*", console(c.Console), compressed)
	return http.NewCrossOriginProtection().Handler(sessions.LoadAndSave(e))
}

// addressOf returns how the network address of a request is found.
func addressOf(proxies []netip.Prefix) echo.IPExtractor {
	if len(proxies) == 0 {
		return echo.ExtractIPDirect()
	}
	trust := []echo.TrustOption{echo.TrustLoopback(false), echo.TrustLinkLocal(false), echo.TrustPrivateNet(false)}
	for _, p := range proxies {
		trust = append(trust, echo.TrustIPRange(&net.IPNet{IP: p.Addr().AsSlice(), Mask: net.CIDRMask(p.Bits(), p.Addr().BitLen())}))
	}
	return echo.ExtractIPFromXFFHeader(trust...)
}

// Serve answers on a listener until ctx ends, then lets running requests finish; by HTTPS
// where it is said how connections are encrypted.
func Serve(ctx context.Context, l net.Listener, h http.Handler, encrypted *tls.Config, log *slog.Logger) error {
	stopping, stop := context.WithCancel(context.WithoutCancel(ctx))
	defer stop()
	s := &http.Server{
		BaseContext: func(net.Listener) context.Context {
			return streams.WithStop(context.WithoutCancel(ctx), stopping)
		},
		Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn),
	}
	failed := make(chan error, 1)
	go func() {
		if encrypted == nil {
			failed <- s.Serve(l)
			return
		}
		s.TLSConfig = encrypted
		failed <- s.ServeTLS(l, "", "")
	}()
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
		// What is still going on is cut off: an upload leaves nothing, a download is
		// seen to be too short, and jobs go on after the next start.
		log.Warn("requests that go on after the stop are cut off")
		return s.Close()
	}
	return nil
}
