// Package console holds the built web console, to be served by the service.
// The folder dist is made by `make build`; without it the service says so.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var files embed.FS

// Files gives the console's files, index.html at their root.
func Files() fs.FS {
	dist, err := fs.Sub(files, "dist")
	if err != nil {
		panic(err) // the name is a valid path
	}
	return dist
}

// Built reports whether there is a console, rather than the folder it will be in.
func Built() bool {
	_, err := fs.Stat(Files(), "index.html")
	return err == nil
}
