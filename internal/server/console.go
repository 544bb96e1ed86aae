package server

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// compressed sends the console's text smaller. Answers of the API are left alone: they hold what
// people type beside secrets, and their size would tell of both.
var compressed = middleware.GzipWithConfig(middleware.GzipConfig{
	MinLength: 1000,
	Skipper: func(c *echo.Context) bool {
		switch path.Ext(c.Request().URL.Path) {
		case ".js", ".css", ".svg", "":
			return c.Request().Header.Get("Range") != ""
		}
		return true
	},
})

// console serves the built console. Addresses that are pages of the console's
// own get its index; files with a hash in their name are kept by browsers for good.
func console(files fs.FS) echo.HandlerFunc {
	serve := http.FileServerFS(files)
	return func(c *echo.Context) error {
		name := strings.TrimPrefix(path.Clean(c.Request().URL.Path), "/")
		info, err := fs.Stat(files, name)
		if err == nil && !info.IsDir() {
			if strings.HasPrefix(name, "assets/") {
				c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			serve.ServeHTTP(c.Response(), c.Request())
			return nil
		}
		if path.Ext(name) != "" {
			return echo.ErrNotFound
		}
		index, err := fs.ReadFile(files, "index.html")
		if err != nil {
			return c.String(http.StatusNotFound, "The console is not part of this binary; build it with `make build`.\n")
		}
		c.Response().Header().Set("Cache-Control", "no-cache")
		return c.HTMLBlob(http.StatusOK, index)
	}
}
