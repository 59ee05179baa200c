package server

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"myriapod/core/mechanism"
	"myriapod/server/wire"
)

// ground answers with what is seen of the ground, as the global control has it at rest.
func (s *Server) ground(w http.ResponseWriter, r *http.Request) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	planned, err := s.shelf.Plan(state)
	if err != nil {
		fail(w, err)
		return
	}
	seen := wire.Ground{Positions: []float32{}, Triangles: []uint32{}}
	if surface := planned.GroundSurface(func(g *mechanism.Ground) bool { return g.Drawn }); surface != nil {
		seen = wire.Ground{Positions: surface.Positions, Triangles: surface.Triangles}
	}
	answer(w, http.StatusOK, seen)
}
