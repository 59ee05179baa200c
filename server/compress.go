package server

import (
	"net"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"
)

// compressed compresses answers, but for those to this very machine, where it would only take time.
func compressed(next http.Handler) http.Handler {
	over := middleware.Compress(1, "application/json", "text/html", "text/css", "application/javascript", "application/octet-stream")(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host, _, _ := net.SplitHostPort(r.RemoteAddr)
		if address := net.ParseIP(host); address != nil && address.IsLoopback() {
			next.ServeHTTP(w, r)
			return
		}
		over.ServeHTTP(w, r)
	})
}
