package server

import (
	"context"
	"net/http"
	"net/url"
	"path"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
)

// live serves the stylesheets and fonts of live stylesheets to pages of other sites.
func live(e *echo.Echo, c *rooms.Rooms) {
	e.GET("/live/:secret/*", func(ctx *echo.Context) error {
		name, err := url.PathUnescape(ctx.Param("*"))
		if err != nil {
			return echo.ErrNotFound
		}
		data, err := c.Live.Read(ctx.Request().Context(), ctx.RealIP(), ctx.Param("secret"), name)
		if err != nil {
			return err
		}
		h := ctx.Response().Header()
		h.Set("Access-Control-Allow-Origin", "*")
		h.Set("Cross-Origin-Resource-Policy", "cross-origin")
		kind := map[string]string{".css": "text/css; charset=utf-8", ".woff2": "font/woff2", ".woff": "font/woff"}[path.Ext(name)]
		if path.Ext(name) == ".css" {
			h.Set("Cache-Control", "no-cache") // each reading is a page view, and asks for the verdict again
		} else {
			h.Set("Cache-Control", "private, max-age=600")
		}
		return ctx.Blob(http.StatusOK, kind, data)
	}, unlisted)
}

func (h *handlers) ListLiveStylesheets(ctx context.Context, r ListLiveStylesheetsRequestObject) (ListLiveStylesheetsResponseObject, error) {
	found, err := h.rooms.Live.List(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListLiveStylesheets200JSONResponse(*found), nil
}

func (h *handlers) AddLiveStylesheet(ctx context.Context, r AddLiveStylesheetRequestObject) (AddLiveStylesheetResponseObject, error) {
	l, err := h.rooms.Live.Add(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return AddLiveStylesheet201JSONResponse(*l), nil
}

func (h *handlers) RevokeLiveStylesheet(ctx context.Context, r RevokeLiveStylesheetRequestObject) (RevokeLiveStylesheetResponseObject, error) {
	return RevokeLiveStylesheet204Response{}, h.rooms.Live.Revoke(ctx, edge.Who(ctx), r.Id, r.SheetId)
}
