package server

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"myriapod/core/mechanism"
	"myriapod/core/plan"
	"myriapod/server/wire"
)

// stops answers with how far channels of handles go.
func (s *Server) stops(w http.ResponseWriter, r *http.Request) {
	planned, err := s.planOf(r)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, append([]mechanism.Stop{}, planned.Stops...))
}

// planOf is the plan of the specimen that a request names.
func (s *Server) planOf(r *http.Request) (*plan.Plan, error) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		return nil, err
	}
	return s.shelf.Plan(state)
}

// ground answers with what is seen of the ground, as the global control has it at rest.
func (s *Server) ground(w http.ResponseWriter, r *http.Request) {
	planned, err := s.planOf(r)
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
