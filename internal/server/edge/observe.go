package edge

import (
	"context"
	"errors"
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

	"sparecrate/internal/bucket"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
)

// statementsKey finds how many statements a request took so far.
const statementsKey = "statements"

// Metrics measure requests, jobs, files, connections and what is remembered.
type Metrics struct {
	registry   *prometheus.Registry
	seconds    *prometheus.HistogramVec
	jobs       *prometheus.HistogramVec
	files      *prometheus.CounterVec
	remembered *prometheus.CounterVec
}

// NewMetrics returns metrics of the requests and of the process.
func NewMetrics() *Metrics {
	m := &Metrics{
		registry: prometheus.NewRegistry(),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "sparecrate_http_request_seconds", Help: "How long requests take.", Buckets: prometheus.ExponentialBuckets(0.001, 4, 8),
		}, []string{"method", "route", "status"}),
		jobs: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "sparecrate_job_seconds", Help: "How long jobs take, by how they end.", Buckets: prometheus.ExponentialBuckets(0.01, 4, 9),
		}, []string{"kind", "outcome"}),
		files: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "sparecrate_bucket_operations_total", Help: "What was done to files in the bucket, by how it ended.",
		}, []string{"operation", "result"}),
		remembered: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "sparecrate_remembered_answers_total", Help: "Answers that can be remembered, by whether they were.",
		}, []string{"result"}),
	}
	m.registry.MustRegister(m.seconds, m.jobs, m.files, m.remembered, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// Watch measures the jobs and files of rooms, and the connections to their records.
func (m *Metrics) Watch(r *rooms.Rooms, s *store.Store) {
	r.Observe(func(kind string, took time.Duration, outcome string) {
		m.jobs.WithLabelValues(kind, outcome).Observe(took.Seconds())
	}, func(operation string, err error) {
		m.files.WithLabelValues(operation, resultOf(err)).Inc()
	})
	if pool, err := s.Pool(); err == nil {
		m.registry.MustRegister(collectors.NewDBStatsCollector(pool, "records"))
	}
	m.registry.MustRegister(&backlog{
		rooms:  r,
		jobs:   prometheus.NewDesc("sparecrate_jobs", "Jobs that wait, and that were given up.", []string{"state"}, nil),
		oldest: prometheus.NewDesc("sparecrate_jobs_oldest_seconds", "For how long the first of the jobs that wait has been due.", nil, nil),
		backup: prometheus.NewDesc("sparecrate_last_backup_timestamp_seconds", "When the last backup with everything in it was made; missing where none was.", nil, nil),
	})
}

// resultOf is how something done to a file ended.
func resultOf(err error) string {
	switch {
	case err == nil:
		return "good"
	case errors.Is(err, bucket.ErrMissing):
		return "missing"
	case errors.Is(err, bucket.ErrDamaged):
		return "damaged"
	case errors.Is(err, bucket.ErrUnavailable):
		return "unavailable"
	}
	return "error"
}

// backlog asks for the jobs that are left to do when somebody reads the metrics.
type backlog struct {
	rooms                *rooms.Rooms
	jobs, oldest, backup *prometheus.Desc
}

// Describe says what there is.
func (b *backlog) Describe(to chan<- *prometheus.Desc) { to <- b.jobs; to <- b.oldest; to <- b.backup }

// Collect asks the records; while these do not answer, the numbers are missing.
func (b *backlog) Collect(to chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	left, err := b.rooms.Backlog(ctx)
	if err != nil {
		return
	}
	to <- prometheus.MustNewConstMetric(b.jobs, prometheus.GaugeValue, float64(left.Waiting), "waiting")
	to <- prometheus.MustNewConstMetric(b.jobs, prometheus.GaugeValue, float64(left.Failed), "failed")
	age := 0.0
	if left.Oldest != nil {
		age = max(0, time.Since(*left.Oldest).Seconds())
	}
	to <- prometheus.MustNewConstMetric(b.oldest, prometheus.GaugeValue, age)
	if last, err := b.rooms.Backups.Last(ctx); err == nil && last != nil {
		to <- prometheus.MustNewConstMetric(b.backup, prometheus.GaugeValue, float64(last.MadeAt.UnixMilli())/1000)
	}
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
			traced(c)
		},
		LogValuesFunc: func(c *echo.Context, v middleware.RequestLoggerValues) error {
			endTrace(c, v)
			m.seconds.WithLabelValues(v.Method, v.RoutePath, strconv.Itoa(v.Status)).Observe(v.Latency.Seconds())
			if v.RoutePath != "/healthz" && v.RoutePath != "/readyz" {
				statements, _ := echo.ContextGet[*atomic.Int64](c, statementsKey)
				log.Debug("request", "method", v.Method, "path", loggedPath(c), "status", v.Status, "took", v.Latency.Round(time.Microsecond), "statements", statements.Load(), "request", v.RequestID)
			}
			return nil
		},
	})
}
