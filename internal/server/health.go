package server

import (
	"context"
	"log/slog"
	"net/http"
	"sync/atomic"

	"github.com/labstack/echo/v5"
	"golang.org/x/sync/singleflight"

	"sparecrate/internal/server/edge"
)

// readiness looks whether the service is ready, once at a time: those who ask meanwhile
// get the same answer, so that they do not weigh on it.
type readiness struct {
	look func(context.Context) error
	log  *slog.Logger
	one  singleflight.Group
	bad  atomic.Bool // the last answer, so that a change is logged once
}

func (r *readiness) now(ctx context.Context) error {
	_, err, _ := r.one.Do("", func() (any, error) {
		// Not the caller's context: one that goes away must not make the service unready.
		err := r.look(context.WithoutCancel(ctx))
		if was := r.bad.Swap(err != nil); err != nil && !was {
			r.log.Error("not ready", "error", err)
		} else if err == nil && was {
			r.log.Info("ready again")
		}
		return nil, err
	})
	return err
}

// readyz answers whether requests can be served, and which part is in trouble.
func readyz(r *readiness) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if err := r.now(c.Request().Context()); err != nil {
			c.Response().Header().Set(echo.HeaderRetryAfter, edge.RetryAfter)
			return c.String(http.StatusServiceUnavailable, err.Error()+"\n")
		}
		return c.String(http.StatusOK, "ready\n")
	}
}
