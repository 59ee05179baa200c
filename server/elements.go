package server

import (
	"net/http"
	"sync"

	"github.com/go-chi/chi/v5"
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
	"myriapod/core/pick"
	"myriapod/core/rig"
	"myriapod/server/wire"
	"myriapod/store"
)

// surfaces remembers surfaces that were read, with how they hang together once somebody asked. Surfaces never change under their hash.
type surfaces struct {
	mutex sync.Mutex
	known map[string]*known
}

type known struct {
	mesh     *mesh.Mesh
	once     sync.Once
	topology *mesh.Topology
}

// mostSurfaces is how many surfaces are remembered; beyond it all are forgotten and read anew.
const mostSurfaces = 512

func newSurfaces() *surfaces { return &surfaces{known: map[string]*known{}} }

func (s *surfaces) get(from *store.Store, hash string) (*known, error) {
	s.mutex.Lock()
	defer s.mutex.Unlock()
	if k, ok := s.known[hash]; ok {
		return k, nil
	}
	surface, err := from.Mesh(hash)
	if err != nil {
		return nil, err
	}
	if len(s.known) >= mostSurfaces {
		s.known = map[string]*known{}
	}
	k := &known{mesh: surface}
	s.known[hash] = k
	return k, nil
}

func (k *known) hang() *mesh.Topology {
	k.once.Do(func() { k.topology = mesh.NewTopology(k.mesh) })
	return k.topology
}

// elements acts on picked elements of a specimen's parts.
func (s *Server) elements(w http.ResponseWriter, r *http.Request) {
	var request wire.ElementsRequest
	if !readJSON(w, r, &request) {
		return
	}
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	var surfaces []pick.Surface
	for _, part := range state.Document.Parts {
		if _, asked := request.Elements.Of[part.ID]; part.Locked || part.Sight == rig.Hidden || !asked && request.Act != pick.Window {
			continue
		}
		k, err := s.surfaces.get(s.shelf.Store, part.Mesh)
		if err != nil {
			fail(w, err)
			return
		}
		surfaces = append(surfaces, pick.Surface{ID: part.ID, Name: part.Name, Mesh: k.mesh, Topology: k.hang()})
	}
	window := mesh.Window{
		Left: request.Window[0], Bottom: request.Window[1], Right: request.Window[2], Top: request.Window[3], Through: request.Through,
	}
	if len(request.View) == 16 {
		window.View = mgl64.Mat4(request.View)
	}
	picked, err := pick.Do(request.Act, request.Elements, surfaces, window)
	if err != nil {
		refused(w, err)
		return
	}
	answer(w, http.StatusOK, picked)
}
