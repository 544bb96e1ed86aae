package server

import (
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"sparecrate/internal/store"
)

type metrics struct {
	registry *prometheus.Registry
	seconds  *prometheus.HistogramVec
}

func newMetrics() *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "sparecrate_http_request_seconds", Help: "How long requests take.", Buckets: prometheus.ExponentialBuckets(0.001, 4, 8),
		}, []string{"method", "route", "status"}),
	}
	m.registry.MustRegister(m.seconds, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

func (m *metrics) handler() http.Handler {
	return promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
}

// loggedPath is what a log may say of where a request went: outside the API paths
// hold the secrets of links, so there it is the route.
func loggedPath(c *echo.Context) string {
	if path := c.Request().URL.Path; strings.HasPrefix(path, base+"/") {
		return path
	}
	return c.Path()
}

// logged writes a line and a measure for every request but the health checks.
func logged(log *slog.Logger, m *metrics) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			start := time.Now()
			ctx, statements := store.CountStatements(c.Request().Context())
			c.SetRequest(c.Request().WithContext(ctx))
			if err := next(c); err != nil {
				c.Echo().HTTPErrorHandler(c, err)
			}
			status := http.StatusOK
			if r, err := echo.UnwrapResponse(c.Response()); err == nil {
				status = r.Status
			}
			took := time.Since(start)
			if c.Path() == base+eventsPath {
				return nil // open for as long as somebody looks
			}
			m.seconds.WithLabelValues(c.Request().Method, c.Path(), strconv.Itoa(status)).Observe(took.Seconds())
			if c.Path() != "/healthz" && c.Path() != "/readyz" {
				log.Debug("request", "method", c.Request().Method, "path", loggedPath(c), "status", status, "took", took.Round(time.Microsecond), "statements", statements.Load(),
					"request", c.Response().Header().Get(echo.HeaderXRequestID))
			}
			return nil
		}
	}
}
