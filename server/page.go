package server

import (
	"io/fs"
	"net/http"
	"path"
	"strings"
)

// servePage serves the built front end; an address that is no file is one of the page's own and gets the page.
func (s *Server) servePage(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
	if name == "" {
		name = "index.html"
	}
	if info, err := fs.Stat(s.page, name); err != nil || info.IsDir() {
		name = "index.html"
	}
	if _, err := fs.Stat(s.page, name); err != nil {
		http.Error(w, "The page is not built into this program. Run: make build", http.StatusNotFound)
		return
	}
	if strings.HasPrefix(name, "assets/") { // their names change with their content
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		w.Header().Set("Cache-Control", "no-cache")
	}
	http.ServeFileFS(w, r, s.page, name)
}
