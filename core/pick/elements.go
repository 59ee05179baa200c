package pick

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// Kind is what kind of elements are picked.
type Kind string

// The kinds of elements.
const (
	Vertices Kind = "vertices"
	Edges    Kind = "edges" // pairs of vertices, one after the other
	Faces    Kind = "faces"
)

// Elements are picked elements of parts, by part ID.
type Elements struct {
	Kind Kind             `json:"kind"`
	Of   map[string][]int `json:"of"`
}

// Act is what is done with picked elements.
type Act string

// The acts.
const (
	Grow   Act = "grow"   // add the neighbours
	Shrink Act = "shrink" // take the outermost away
	Piece  Act = "piece"  // the loose pieces that they are part of
	Ring   Act = "ring"   // the ring of edges that the picked edge is part of
	Window Act = "window" // what lies in a rectangle on the picture
	Turned Act = "turned" // faces that look the other way than their piece does
	Whole  Act = "whole"  // all of the parts
)

// Picked is what came of an act: the elements, their middle, and for a ring whether it closes.
type Picked struct {
	Elements Elements    `json:"elements"`
	Count    int         `json:"count"`
	Centre   *mgl64.Vec3 `json:"centre,omitempty"`
	Closed   bool        `json:"closed,omitempty"`
}

// Surface is a part that can be picked from.
type Surface struct {
	ID       string
	Name     string
	Mesh     *mesh.Mesh
	Topology *mesh.Topology
}

// ErrNoRing tells that no ring of edges goes through what is picked.
var ErrNoRing = errors.New("no ring goes through this edge; pick one that runs around the body, where the surface is made of quadrangles")

// Do acts on picked elements. surfaces are the parts that can be picked from; w is the rectangle for Window.
func Do(act Act, e Elements, surfaces []Surface, w mesh.Window) (Picked, error) {
	if e.Kind != Vertices && e.Kind != Edges && e.Kind != Faces {
		return Picked{}, fmt.Errorf("elements are vertices, edges or faces, not %q", e.Kind)
	}
	if err := check(e, surfaces); err != nil {
		return Picked{}, err
	}
	p := Picked{Elements: Elements{Kind: e.Kind, Of: map[string][]int{}}}
	var err error
	switch act {
	case Window:
		window(&p, surfaces, w)
	case Ring:
		err = ring(&p, e, surfaces)
	case Grow, Shrink, Piece, Turned, Whole, "":
		for _, s := range surfaces {
			if list, picked := e.Of[s.ID]; picked {
				p.Elements.Of[s.ID] = each(act, e.Kind, list, s)
			}
		}
	default:
		err = fmt.Errorf("there is no act %q", act)
	}
	if err != nil {
		return Picked{}, err
	}
	p.finish(surfaces)
	return p, nil
}

func check(e Elements, surfaces []Surface) error {
	for id, list := range e.Of {
		at := slices.IndexFunc(surfaces, func(s Surface) bool { return s.ID == id })
		if at < 0 {
			return fmt.Errorf("there is no part %q to pick from here; it may be hidden or not pickable", id)
		}
		limit := surfaces[at].Mesh.VertexCount()
		if e.Kind == Faces {
			limit = surfaces[at].Mesh.FaceCount()
		}
		for _, element := range list {
			if element < 0 || element >= limit {
				return fmt.Errorf("%s has no element %d of %d", surfaces[at].Name, element, limit)
			}
		}
		if e.Kind == Edges && len(list)%2 != 0 {
			return errors.New("edges are pairs of vertices")
		}
	}
	return nil
}

func each(act Act, kind Kind, list []int, s Surface) []int {
	t := s.Topology
	switch act {
	case Turned:
		return as(kind, t, t.Turned())
	case Whole:
		return as(kind, t, s.Mesh.Others(nil))
	case Piece:
		return as(kind, t, pieces(t, kind, list))
	}
	switch kind {
	case Faces:
		return faces(act, t, list)
	case Edges: // as their vertices, and back
		return t.EdgesAmong(vertices(act, t, list))
	}
	return vertices(act, t, list)
}

func faces(act Act, t *mesh.Topology, list []int) []int {
	switch act {
	case Grow:
		return t.GrowFaces(list)
	case Shrink:
		return t.ShrinkFaces(list)
	}
	return list
}

func vertices(act Act, t *mesh.Topology, list []int) []int {
	switch act {
	case Grow:
		return t.GrowVertices(list)
	case Shrink:
		return t.ShrinkVertices(list)
	}
	return list
}

// pieces lists the faces of the loose pieces that elements are part of.
func pieces(t *mesh.Topology, kind Kind, list []int) []int {
	if kind != Faces {
		list = t.FacesAt(list)
	}
	var all []int
	for _, piece := range t.Pieces() {
		if slices.ContainsFunc(list, func(face int) bool { _, in := slices.BinarySearch(piece, face); return in }) {
			all = append(all, piece...)
		}
	}
	slices.Sort(all)
	return all
}

// as gives faces as elements of a kind.
func as(kind Kind, t *mesh.Topology, faces []int) []int {
	switch kind {
	case Vertices:
		return t.VerticesOf(faces)
	case Edges:
		return t.EdgesAmong(t.VerticesOf(faces))
	}
	if faces == nil {
		return []int{}
	}
	return faces
}

func window(p *Picked, surfaces []Surface, w mesh.Window) {
	meshes := make([]*mesh.Mesh, len(surfaces))
	for i, s := range surfaces {
		meshes[i] = s.Mesh
	}
	for i, list := range mesh.Inside(w, meshes) {
		s := surfaces[i]
		switch p.Elements.Kind {
		case Faces:
			list = s.Mesh.FacesAmong(list)
		case Edges:
			list = s.Topology.EdgesAmong(list)
		}
		if len(list) > 0 {
			p.Elements.Of[s.ID] = list
		}
	}
}

func ring(p *Picked, e Elements, surfaces []Surface) error {
	for _, s := range surfaces {
		list := e.Of[s.ID]
		if len(list) < 2 {
			continue
		}
		around, closed, ok := s.Topology.Ring(list[0], list[1])
		if !ok {
			return ErrNoRing
		}
		pairs := []int{}
		for i := range around {
			if next := i + 1; next < len(around) || closed {
				pairs = append(pairs, around[i], around[next%len(around)])
			}
		}
		p.Elements = Elements{Kind: Edges, Of: map[string][]int{s.ID: pairs}}
		p.Closed = closed
		if closed {
			centre := s.Mesh.RingCentre(around)
			p.Centre = &centre
		}
		return nil
	}
	return errors.New("no edge is picked; pick one edge of the ring")
}

// finish counts the elements and finds their middle, unless an act knows it better.
func (p *Picked) finish(surfaces []Surface) {
	var sum mgl64.Vec3
	parts := 0.0
	for _, s := range surfaces {
		list := p.Elements.Of[s.ID]
		if len(list) == 0 {
			continue
		}
		p.Count += len(list)
		if p.Elements.Kind == Faces {
			list = s.Topology.VerticesOf(list)
		}
		if centre, ok := s.Topology.CentreOf(list); ok {
			sum = sum.Add(centre.Mul(float64(len(list))))
			parts += float64(len(list))
		}
	}
	if p.Elements.Kind == Edges {
		p.Count /= 2
	}
	if p.Centre == nil && parts > 0 {
		centre := sum.Mul(1 / parts)
		p.Centre = &centre
	}
}
