package edge

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/store"
)

// Elsewhere reads again, on another node of the database's cluster, where the node was lost
// while a request was answered. Requests that change something are not asked again: what they
// did may have been done.
func Elsewhere(s *store.Store) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			method := c.Request().Method
			for start := time.Now(); ; {
				err := next(c)
				if err == nil || method != http.MethodGet && method != http.MethodHead {
					return err
				}
				if r, unwrapped := echo.UnwrapResponse(c.Response()); unwrapped != nil || r.Committed || !s.ElsewhereAfter(c.Request().Context(), err, start) {
					return err
				}
			}
		}
	}
}
