package server

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"
)

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
