// Package traces sends what requests, statements, files and jobs take to a collector, by the
// OpenTelemetry protocol (OTLP over HTTP). Nothing is traced unless Send was called.
package traces

import (
	"context"
	"fmt"
	"net/url"
	"time"

	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/codes"
	"go.opentelemetry.io/otel/exporters/otlp/otlptrace/otlptracehttp"
	"go.opentelemetry.io/otel/propagation"
	"go.opentelemetry.io/otel/sdk/resource"
	"go.opentelemetry.io/otel/sdk/trace"
	api "go.opentelemetry.io/otel/trace"
	"go.opentelemetry.io/otel/trace/noop"
)

// name is what the parts of a trace are said to be made by.
const name = "sparecrate"

// Names of attributes, of the semantic conventions of OpenTelemetry where these have one.
const (
	Method    = attribute.Key("http.request.method")
	Route     = attribute.Key("http.route")
	Status    = attribute.Key("http.response.status_code")
	Request   = attribute.Key("sparecrate.request")
	Statement = attribute.Key("db.query.text")
	Rows      = attribute.Key("db.response.returned_rows")
	Kind      = attribute.Key("sparecrate.job.kind")
	Outcome   = attribute.Key("sparecrate.outcome")
)

// Send has everything traced from now on, for the whole process, and sends it to a collector,
// like http://127.0.0.1:4318. end sends what is left. Of requests that come with a trace context
// (W3C Trace Context) the trace is that one.
func Send(ctx context.Context, to, version string) (end func(), err error) {
	u, err := url.Parse(to)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return nil, fmt.Errorf("the collector of traces is a URL like http://127.0.0.1:4318, not %q", to)
	}
	if u.Path == "" || u.Path == "/" {
		u.Path = "/v1/traces"
	}
	out, err := otlptracehttp.New(ctx, otlptracehttp.WithEndpointURL(u.String()))
	if err != nil {
		return nil, fmt.Errorf("send traces: %w", err)
	}
	p := trace.NewTracerProvider(trace.WithBatcher(out), trace.WithResource(resource.NewSchemaless(
		attribute.String("service.name", name), attribute.String("service.version", version))))
	otel.SetTracerProvider(p)
	otel.SetTextMapPropagator(propagation.TraceContext{})
	return func() {
		otel.SetTracerProvider(noop.NewTracerProvider())
		ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), lastPatience)
		defer cancel()
		_ = p.Shutdown(ending) // a collector that does not answer is no trouble of the service
	}, nil
}

// lastPatience is how long the last traces may take at the end.
const lastPatience = 3 * time.Second

// Begin begins a part of a trace.
func Begin(ctx context.Context, what string, options ...api.SpanStartOption) (context.Context, api.Span) {
	return otel.Tracer(name).Start(ctx, what, options...)
}

// End ends it, with the error that it ended with, if any.
func End(s api.Span, err error) {
	if err != nil {
		s.SetStatus(codes.Error, err.Error())
	}
	s.End()
}
