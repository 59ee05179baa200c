package server

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"myriapod/core/edit"
	"myriapod/core/rig"
	"myriapod/core/skin"
	"myriapod/server/wire"
	"myriapod/shelf"
)

// boundPart finds the part of a request, its binding and the weights.
func (s *Server) boundPart(r *http.Request) (d *rig.Document, binding *rig.Binding, w *skin.Weights, err error) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		return nil, nil, nil, err
	}
	d = state.Document
	if binding = d.BindingOf(chi.URLParam(r, "part")); binding == nil {
		return nil, nil, nil, refusal(errors.New("the part is not bound to anything; bind it first"))
	}
	w, err = s.shelf.Store.Weights(binding.Weights, len(binding.Joints))
	return d, binding, w, err
}

func refusal(reason error) error { return &shelf.Refusal{Title: "Look at weights", Reason: reason} }

// oddWeights tells where the weights of a part are odd.
func (s *Server) oddWeights(w http.ResponseWriter, r *http.Request) {
	d, binding, weights, err := s.boundPart(r)
	if err != nil {
		fail(w, err)
		return
	}
	most, err := strconv.Atoi(r.URL.Query().Get("most"))
	if err != nil {
		most = skin.Influences
	}
	surface, err := s.surfaces.get(s.shelf.Store, d.Part(binding.Part).Mesh)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, weights.Odd(surface.mesh, most))
}

// mostRows is how many vertices a table of numbers shows.
const mostRows = 200

// weightsOf answers with the weights of picked vertices.
func (s *Server) weightsOf(w http.ResponseWriter, r *http.Request) {
	var request wire.WeightsRequest
	if !readJSON(w, r, &request) {
		return
	}
	_, binding, weights, err := s.boundPart(r)
	if err != nil {
		fail(w, err)
		return
	}
	rows := []wire.Weighed{}
	for _, v := range request.Vertices[:min(mostRows, len(request.Vertices))] {
		if v < 0 || v >= weights.VertexCount() {
			fail(w, refusal(fmt.Errorf("there is no vertex %d; the part has %d", v, weights.VertexCount())))
			return
		}
		row := wire.Weighed{Part: binding.Part, Vertex: v, Joints: []string{}, Values: []float32{}}
		for k := skin.Influences * v; k < skin.Influences*(v+1); k++ {
			if weights.Values[k] > 0 {
				row.Joints, row.Values = append(row.Joints, binding.Joints[weights.Joints[k]]), append(row.Values, weights.Values[k])
			}
		}
		rows = append(rows, row)
	}
	answer(w, http.StatusOK, rows)
}

// weightsTable serves the weights of a part as CSV.
func (s *Server) weightsTable(w http.ResponseWriter, r *http.Request) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	part := chi.URLParam(r, "part")
	var out bytes.Buffer
	if err := edit.WeightsTable(&edit.Context{Kinds: s.kinds, Surfaces: s.shelf.Store}, state.Document, part, &out); err != nil {
		fail(w, refusal(err))
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", state.Document.NameOf(part)+"_weights.csv"))
	_, _ = w.Write(out.Bytes()) // a reader that is gone needs no answer
}
