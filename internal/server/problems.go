package server

import (
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/catalog"
)

var statuses = map[catalog.Kind]int{
	catalog.Invalid: http.StatusUnprocessableEntity, catalog.Unauthenticated: http.StatusUnauthorized,
	catalog.Forbidden: http.StatusForbidden, catalog.Missing: http.StatusNotFound, catalog.Conflict: http.StatusConflict,
	catalog.Stale: http.StatusPreconditionFailed, catalog.TooLarge: http.StatusRequestEntityTooLarge,
}

// problems turns every error into a problem document (RFC 9457). What is not
// meant for people is logged and answered with the request's number.
func problems(log *slog.Logger) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		if r, unwrapped := echo.UnwrapResponse(c.Response()); unwrapped == nil && r.Committed {
			return
		}
		p := describe(err)
		if p.Status == http.StatusInternalServerError {
			id := c.Response().Header().Get(echo.HeaderXRequestID)
			log.Error("request failed", "request", id, "method", c.Request().Method, "path", c.Request().URL.Path, "error", err)
			p.Detail = "Something went wrong in the service; nothing was changed. The log has it under the request " + id + "."
		}
		p.Type, p.Title = "about:blank", http.StatusText(p.Status)
		c.Response().Header().Set(echo.HeaderContentType, "application/problem+json")
		c.Response().WriteHeader(p.Status)
		if err := json.NewEncoder(c.Response()).Encode(p); err != nil {
			log.Debug("the client went away", "error", err)
		}
	}
}

func describe(err error) api.Problem {
	var known *catalog.Error
	var coded echo.HTTPStatusCoder
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &known):
		p := api.Problem{Status: statuses[known.Kind], Code: known.Code, Detail: known.Message}
		if known.Field != "" {
			p.Field = &known.Field
		}
		return p
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
