// Package web holds the built front end, so that one binary has it all.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Page returns the built front end. It is empty when the program was built without it.
func Page() fs.FS {
	page, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return page
}
