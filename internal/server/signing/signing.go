// Package signing answers the steps of a sign-on by an OpenID Connect provider: people are
// sent there, come back, sign out again, and the provider tells when they have signed out of
// it.
package signing

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"sparecrate/internal/app"
	"sparecrate/internal/audit"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/signon"
)

// mostLogoutToken bounds what the provider sends, bytes.
const mostLogoutToken = 64 << 10

// onTheWay is how long somebody may be away at the sign-on provider.
const onTheWay = 10 * time.Minute

// What is kept of somebody who is away at the provider, and of one whom it let in.
const (
	wayState    = "state"
	wayNonce    = "nonce"
	wayVerifier = "verifier"
	wayProblem  = "problem"
)

// Routes answers the steps of a sign-on by a provider. The cookie of a session is not sent
// when another site leads here (SameSite=Strict), so what the provider's answer is held
// against is kept under a cookie of its own, for some minutes.
func Routes(e *echo.Echo, c *rooms.Rooms, s *signon.Service, sessions, away *scs.SessionManager, log *slog.Logger) {
	within := echo.WrapMiddleware(away.LoadAndSave)
	record := func(ctx *echo.Context, entry audit.Entry) error {
		entry.Address, entry.Request = ctx.RealIP(), ctx.Response().Header().Get(echo.HeaderXRequestID)
		return c.Audit.Add(ctx.Request().Context(), entry)
	}
	e.GET("/oidc/start", func(ctx *echo.Context) error {
		r := ctx.Request().Context()
		if err := c.Auth.MayTryFrom(r, ctx.RealIP()); err != nil {
			return err
		}
		where, kept, err := s.Start(r)
		if err != nil {
			return comeBack(ctx, away, err, log)
		}
		away.Put(r, wayState, kept.State)
		away.Put(r, wayNonce, kept.Nonce)
		away.Put(r, wayVerifier, kept.Verifier)
		return ctx.Redirect(http.StatusSeeOther, where)
	}, within)
	e.GET(signon.Callback, func(ctx *echo.Context) error {
		r := ctx.Request().Context()
		kept := signon.Ceremony{State: away.PopString(r, wayState), Nonce: away.PopString(r, wayNonce), Verifier: away.PopString(r, wayVerifier)}
		p, proof, err := s.Finish(r, kept, ctx.QueryParams())
		entry := audit.Entry{Action: "signed in", Subject: "by sign-on", Outcome: "done", Person: p, Via: "new session"}
		if err != nil {
			var told *app.Error
			entry.Outcome, entry.Via = "failed", ""
			if errors.As(err, &told) {
				entry.Outcome = told.Code
			}
			return errors.Join(record(ctx, entry), comeBack(ctx, away, err, log))
		}
		if err := record(ctx, entry); err != nil {
			return comeBack(ctx, away, errors.Join(app.Problem(app.Unavailable, "not-recorded", "This sign-in could not be recorded in the audit log, so it does not count. Try again in a while."), err), log)
		}
		if err := sessions.RenewToken(r); err != nil {
			return err
		}
		edge.Begin(edge.WithRequest(ctx), sessions, p)
		edge.BySignOn(r, sessions, proof.Token, proof.Session)
		return ctx.Redirect(http.StatusSeeOther, "/")
	}, within)
	// The provider's own call, from its server: it proves itself by the token's signature.
	e.POST("/oidc/ended", func(ctx *echo.Context) error {
		ctx.Response().Header().Set("Cache-Control", "no-store")
		r := ctx.Request().Context()
		if s.Offered() == "" {
			return echo.ErrNotFound
		}
		ctx.Request().Body = http.MaxBytesReader(ctx.Response(), ctx.Request().Body, mostLogoutToken)
		p, n, err := s.Ended(r, ctx.FormValue("logout_token"))
		entry := audit.Entry{Action: "ended sessions", Subject: "by sign-on", Outcome: "done", Person: p, Detail: strconv.FormatInt(n, 10) + " sessions", Via: "provider"}
		var told *app.Error
		if errors.As(err, &told) {
			// Anybody can send something here: few of those are written down.
			if many := c.Auth.MayTryFrom(r, ctx.RealIP()); many != nil {
				return many
			}
			entry.Outcome, entry.Detail = told.Code, ""
		}
		if bad := record(ctx, entry); bad != nil {
			return bad
		}
		if told != nil && told.Kind == app.Invalid { // as section 2.8 of the standard wants it
			return ctx.JSON(http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": told.Message})
		}
		if err != nil {
			return err
		}
		return ctx.NoContent(http.StatusOK)
	})
	e.GET("/oidc/out", func(ctx *echo.Context) error {
		r := ctx.Request().Context()
		token, by := edge.SignedOn(r, sessions)
		if err := sessions.Destroy(r); err != nil {
			return err
		}
		where := "/"
		if by {
			if out := s.Out(r, token); out != "" {
				where = out
			}
		}
		return ctx.Redirect(http.StatusSeeOther, where)
	})
}

// NewAway returns what is kept of those who are away at the provider.
func NewAway(sessions *scs.SessionManager) *scs.SessionManager {
	away := scs.New()
	away.Store, away.Lifetime, away.HashTokenInStore = sessions.Store, onTheWay, true
	away.Cookie = sessions.Cookie
	away.Cookie.Name += "_away"
	away.Cookie.SameSite = http.SameSiteLaxMode
	return away
}

// comeBack leads to the page for signing in, which says what went wrong.
func comeBack(ctx *echo.Context, away *scs.SessionManager, err error, log *slog.Logger) error {
	said := "Something went wrong with the sign-on. Start again."
	var told *app.Error
	if errors.As(err, &told) {
		said = told.Message
	} else {
		log.Error("sign-on failed", "error", err)
	}
	away.Put(ctx.Request().Context(), wayProblem, said)
	return ctx.Redirect(http.StatusSeeOther, "/")
}

type awayKey struct{}

// WithAway lets a call see what is kept of who was away.
func WithAway(away *scs.SessionManager) echo.MiddlewareFunc {
	load := echo.WrapMiddleware(away.LoadAndSave)
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		inner := load(func(e *echo.Context) error {
			r := e.Request()
			e.SetRequest(r.WithContext(context.WithValue(r.Context(), awayKey{}, away)))
			return next(e)
		})
		return func(e *echo.Context) error {
			if e.Request().URL.Path != edge.Base+"/session/ways" {
				return next(e)
			}
			return inner(e)
		}
	}
}

// Problem returns what went wrong for somebody who has just come back, once; empty for nothing.
func Problem(ctx context.Context) string {
	away, is := ctx.Value(awayKey{}).(*scs.SessionManager)
	if !is {
		return ""
	}
	return away.PopString(ctx, wayProblem)
}
