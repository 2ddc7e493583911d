// Package console holds the built pages of the console. Their sources are TypeScript and Vue, in src; the
// build puts the result into dist/site. Before the first build there is none.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var built embed.FS

// Site is the built site: index.html and what it needs.
func Site() fs.FS {
	site, err := fs.Sub(built, "dist/site")
	if err != nil {
		panic(err) // the path is well formed
	}
	return site
}
