package edge

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
)

var statuses = map[app.Kind]int{
	app.Invalid: http.StatusUnprocessableEntity, app.Unauthenticated: http.StatusUnauthorized,
	app.Forbidden: http.StatusForbidden, app.Missing: http.StatusNotFound, app.Conflict: http.StatusConflict,
	app.Stale: http.StatusPreconditionFailed, app.TooLarge: http.StatusRequestEntityTooLarge,
	app.TooMany: http.StatusTooManyRequests, app.Unavailable: http.StatusServiceUnavailable,
}

// Problems turns every error into a problem document (RFC 9457). What is not
// meant for people is logged and answered with the request's number.
func Problems(log *slog.Logger) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		if r, unwrapped := echo.UnwrapResponse(c.Response()); unwrapped == nil && r.Committed {
			return
		}
		if interrupted(c, err) {
			log.Debug("the client went away", "method", c.Request().Method, "path", loggedPath(c), "error", err)
			c.Response().WriteHeader(statusGone)
			return
		}
		p := describe(err)
		var known *app.Error
		if errors.As(err, &known) && known.Wait > 0 {
			c.Response().Header().Set(echo.HeaderRetryAfter, strconv.Itoa(int(math.Ceil(known.Wait.Seconds()))))
		}
		if p.Status == http.StatusServiceUnavailable || p.Status == http.StatusInsufficientStorage {
			c.Response().Header().Set(echo.HeaderRetryAfter, RetryAfter)
			log.Warn("request failed", "request", c.Response().Header().Get(echo.HeaderXRequestID), "method", c.Request().Method, "path", loggedPath(c), "error", err)
		}
		if p.Status == http.StatusInternalServerError {
			id := c.Response().Header().Get(echo.HeaderXRequestID)
			log.Error("request failed", "request", id, "method", c.Request().Method, "path", loggedPath(c), "error", err)
			p.Detail = "Something went wrong in the service; nothing was changed. The log has it under the request " + id + "."
		}
		p.Type, p.Title = "about:blank", http.StatusText(p.Status)
		c.Response().Header().Del("ETag")
		c.Response().Header().Set(echo.HeaderContentType, "application/problem+json")
		c.Response().WriteHeader(p.Status)
		if err := json.NewEncoder(c.Response()).Encode(p); err != nil {
			log.Debug("the client went away", "error", err)
		}
	}
}

const (
	// RetryAfter is how long to wait before a request that met trouble is tried again, seconds.
	RetryAfter = "5"
	// statusGone is noted for requests whose client went away; nobody reads it.
	statusGone = 499
)

// interrupted reports whether a request failed because its client went away or
// stopped sending.
func interrupted(c *echo.Context, err error) bool {
	return c.Request().Context().Err() != nil && !store.IsUnavailable(err) || errors.Is(err, io.ErrUnexpectedEOF) && errors.Is(context.Cause(c.Request().Context()), context.Canceled)
}

func describe(err error) api.Problem {
	var known *app.Error
	var coded echo.HTTPStatusCoder
	var tooLarge *http.MaxBytesError
	var early *refused
	switch {
	case errors.As(err, &early):
		return api.Problem{Status: early.status, Code: early.code, Detail: early.message}
	case errors.Is(err, errTooSlow):
		return api.Problem{Status: http.StatusRequestTimeout, Code: "request-too-slow", Detail: "The request came too slowly and was given up. Try again over a faster connection."}
	case store.IsUnfit(err):
		return api.Problem{Status: http.StatusUnprocessableEntity, Code: "invalid-request", Detail: "A value is too long, out of range, or holds characters that cannot be stored. Shorten or correct it."}
	case errors.As(err, &known):
		p := api.Problem{Status: statuses[known.Kind], Code: known.Code, Detail: known.Message}
		if known.Field != "" {
			p.Field = &known.Field
		}
		return p
	case store.IsFull(err):
		return api.Problem{Status: http.StatusInsufficientStorage, Code: "storage-full", Detail: "The service's disk is full. Ask an administrator to make room, then try again."}
	case store.IsUnavailable(err), errors.Is(err, bucket.ErrUnavailable), errors.Is(err, context.DeadlineExceeded):
		return api.Problem{Status: http.StatusServiceUnavailable, Code: "unavailable", Detail: "The service's database or storage does not answer at the moment. Try again in some seconds; look first whether a change you were making was made."}
	case errors.As(err, &tooLarge):
		return api.Problem{Status: http.StatusRequestEntityTooLarge, Code: "request-too-large", Detail: "The request is larger than is taken here."}
	case errors.Is(err, http.ErrNotMultipart), errors.Is(err, http.ErrMissingBoundary):
		return api.Problem{Status: http.StatusUnsupportedMediaType, Code: "not-an-upload", Detail: "An upload is multipart/form-data with a part named file."}
	case errors.As(err, &coded) && coded.StatusCode() < http.StatusInternalServerError:
		detail := strings.TrimSuffix(err.Error(), ".") + "."
		var he *echo.HTTPError
		if errors.As(err, &he) && he.Message != "" {
			detail = strings.TrimSuffix(he.Message, ".") + "."
		}
		switch coded.StatusCode() {
		case http.StatusNotFound:
			detail = "There is nothing at this address."
		case http.StatusMethodNotAllowed:
			detail = "This address does not take that method."
		}
		code := strings.ReplaceAll(strings.ToLower(http.StatusText(coded.StatusCode())), " ", "-")
		return api.Problem{Status: coded.StatusCode(), Code: code, Detail: detail}
	}
	return api.Problem{Status: http.StatusInternalServerError, Code: "internal"}
}
