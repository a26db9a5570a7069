// Package web holds the built front end, so that the application is one file.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Pages is the built front end; empty but for a mark where it was not built.
func Pages() fs.FS {
	pages, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return pages
}
