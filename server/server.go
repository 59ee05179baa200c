// Package server carries the application over HTTP: a JSON interface for specimens and edits, the live channel of the stage, and the
// page itself. It holds no rule of the job.
package server

import (
	"context"
	"io/fs"
	"net/http"
	"sync"

	"github.com/go-chi/chi/v5"

	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/textsize"
	"myriapod/server/wire"
	"myriapod/shelf"
	"myriapod/store"
)

// Limits of requests, in bytes.
const (
	maxUpload = wire.MaxUpload
	maxEdit   = 16 << 20
	maxAsk    = 1 << 20
)

// mostText is what the JSON of a request may hold.
var mostText = textsize.Limit{Objects: 200_000, Entries: 2_000_000}

// Server is the application's server.
type Server struct {
	shelf    *shelf.Shelf
	kinds    mechanism.Registry
	hub      *hub
	exports  *exports
	surfaces *surfaces
	page     fs.FS
	hosts    []string
	ending   chan struct{}  // closed when the server ends
	running  sync.WaitGroup // work that goes on without its request
	uploads  *uploads
	key      string // what lets a browser in; empty for everybody
}

// New returns a server over a store. page holds the built front end; hosts are the names under which it may be called besides
// those of loopback.
func New(s *store.Store, page fs.FS, hosts ...string) *Server {
	return NewWith(kinds.All(), s, page, hosts...)
}

// NewWith is as New, with other kinds than those that ship.
func NewWith(all mechanism.Registry, s *store.Store, page fs.FS, hosts ...string) *Server {
	server := &Server{kinds: all, hub: newHub(), exports: newExports(), uploads: newUploads(), surfaces: newSurfaces(), page: page, hosts: hosts, ending: make(chan struct{})}
	server.shelf = shelf.New(s, server.kinds, server.hub.changed)
	return server
}

// Close ends the live channels; pages wait for the server to come back. It must be called at most once.
func (s *Server) Close() { close(s.ending) }

// Finish waits for work that goes on without its request, and stops it when ctx ends. It tells how many pieces of work it cut.
func (s *Server) Finish(ctx context.Context) (cut int) {
	done := make(chan struct{})
	go func() { s.running.Wait(); close(done) }()
	select {
	case <-done:
		return 0
	case <-ctx.Done():
	}
	cut = s.exports.stopAll()
	<-done
	return cut
}

// Shelf returns the shelf the server works on.
func (s *Server) Shelf() *shelf.Shelf { return s.shelf }

// Handler returns the routes.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(s.guard, recoverer, compressed)
	r.Route("/api", func(r chi.Router) {
		r.Get("/kinds", s.listKinds)
		r.Get("/specimens", s.listSpecimens)
		r.Post("/specimens", s.createSpecimen)
		r.Post("/imports", s.importSpecimen)
		r.Route("/specimens/{id}", func(r chi.Router) {
			r.Get("/", s.getSpecimen)
			r.Delete("/", s.deleteSpecimen)
			r.Post("/restore", s.restoreSpecimen)
			r.Post("/duplicate", s.duplicateSpecimen)
			r.Post("/edits", s.editSpecimen)
			r.Post("/undo", s.undo)
			r.Post("/redo", s.redo)
			r.Post("/goto", s.goTo)
			r.Post("/foresee", s.foresee)
			r.Post("/course", s.course)
			r.Post("/offers", s.offers)
			r.Post("/elements", s.elements)
			r.Post("/imports", s.importInto)
			r.Get("/history", s.history)
			r.Get("/blobs/{hash}", s.blob)
			r.Get("/picture.png", s.picture)
			r.Get("/rig.json", s.rigFile)
			r.Get("/ground", s.ground)
			r.Get("/stops", s.stops)
			r.Get("/parts/{part}/odd", s.oddWeights)
			r.Get("/parts/{part}/weights.csv", s.weightsTable)
			r.Post("/parts/{part}/weights", s.weightsOf)
			r.Get("/live", s.live)
			r.Post("/exports", s.startExport)
		})
		r.Route("/exports/{job}", func(r chi.Router) {
			r.Get("/", s.getExport)
			r.Delete("/", s.stopExport)
			r.Get("/file", s.exportFile)
		})
		r.NotFound(func(w http.ResponseWriter, _ *http.Request) { notFound(w, "there is nothing at this address") })
	})
	r.Get("/*", s.servePage)
	return r
}
