package edge

import (
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"sparecrate/internal/store"
)

// statementsKey finds how many statements a request took so far.
const statementsKey = "statements"

// Metrics measure requests.
type Metrics struct {
	registry *prometheus.Registry
	seconds  *prometheus.HistogramVec
}

// NewMetrics returns metrics of the requests and of the process.
func NewMetrics() *Metrics {
	m := &Metrics{
		registry: prometheus.NewRegistry(),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "sparecrate_http_request_seconds", Help: "How long requests take.", Buckets: prometheus.ExponentialBuckets(0.001, 4, 8),
		}, []string{"method", "route", "status"}),
	}
	m.registry.MustRegister(m.seconds, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// Handler answers with them in the text format of Prometheus.
func (m *Metrics) Handler() http.Handler {
	return promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
}

// loggedPath is what a log may say of where a request went: outside the API paths
// hold the secrets of links, so there it is the route.
func loggedPath(c *echo.Context) string {
	if path := c.Request().URL.Path; strings.HasPrefix(path, Base+"/") {
		return path
	}
	return c.Path()
}

// Logged writes a line and a measure for every request but the health checks, and those
// for events, which stay open for as long as somebody looks.
func Logged(log *slog.Logger, m *Metrics) echo.MiddlewareFunc {
	return middleware.RequestLoggerWithConfig(middleware.RequestLoggerConfig{
		HandleError: true, LogLatency: true, LogMethod: true, LogRoutePath: true, LogStatus: true, LogRequestID: true,
		Skipper: func(c *echo.Context) bool { return c.Path() == Base+EventsPath },
		BeforeNextFunc: func(c *echo.Context) {
			ctx, statements := store.CountStatements(c.Request().Context())
			c.SetRequest(c.Request().WithContext(ctx))
			c.Set(statementsKey, statements)
		},
		LogValuesFunc: func(c *echo.Context, v middleware.RequestLoggerValues) error {
			m.seconds.WithLabelValues(v.Method, v.RoutePath, strconv.Itoa(v.Status)).Observe(v.Latency.Seconds())
			if v.RoutePath != "/healthz" && v.RoutePath != "/readyz" {
				statements, _ := echo.ContextGet[*atomic.Int64](c, statementsKey)
				log.Debug("request", "method", v.Method, "path", loggedPath(c), "status", v.Status, "took", v.Latency.Round(time.Microsecond), "statements", statements.Load(), "request", v.RequestID)
			}
			return nil
		},
	})
}
