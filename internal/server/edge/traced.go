package edge

import (
	"net/http"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/propagation"
	"go.opentelemetry.io/otel/trace"

	"sparecrate/internal/traces"
)

// spanKey is where a request's part of its trace is kept.
const spanKey = "span"

// traced begins the trace of a request, or its part of the trace that it came with.
func traced(c *echo.Context) {
	r := c.Request()
	ctx := otel.GetTextMapPropagator().Extract(r.Context(), propagation.HeaderCarrier(r.Header))
	ctx, span := traces.Begin(ctx, r.Method, trace.WithSpanKind(trace.SpanKindServer))
	c.SetRequest(r.WithContext(ctx))
	c.Set(spanKey, span)
}

// endTrace ends it. Where it went is said by the route: paths may hold the secrets of links.
func endTrace(c *echo.Context, v middleware.RequestLoggerValues) {
	span, err := echo.ContextGet[trace.Span](c, spanKey)
	if err != nil {
		return
	}
	span.SetName(v.Method + " " + v.RoutePath)
	span.SetAttributes(traces.Method.String(v.Method), traces.Route.String(v.RoutePath), traces.Status.Int(v.Status), traces.Request.String(v.RequestID))
	var failed error
	if v.Status >= http.StatusInternalServerError {
		failed = v.Error
	}
	traces.End(span, failed)
}
