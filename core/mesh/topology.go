package mesh

import (
	"cmp"
	"slices"
)

// Topology is how the faces of a mesh hang together. Vertices that stand in the same place count as one: importers part them where
// normals or texture coordinates break.
type Topology struct {
	mesh  *Mesh
	weld  []int32           // by vertex: the lowest vertex in the same place
	edges map[Edge][]int32  // faces at each edge
	faces map[int32][]int32 // faces at each welded vertex
	twins map[int32][]int32 // all vertices in the place of a welded one
}

// Edge is an edge between two welded vertices, the lower first.
type Edge [2]int32

func edge(a, b int32) Edge {
	if a > b {
		a, b = b, a
	}
	return Edge{a, b}
}

// NewTopology finds out how m hangs together.
func NewTopology(m *Mesh) *Topology {
	count := m.VertexCount()
	t := &Topology{
		mesh: m, weld: make([]int32, count), edges: make(map[Edge][]int32, 3*count), faces: make(map[int32][]int32, count), twins: map[int32][]int32{},
	}
	first := make(map[[3]float32]int32, count)
	for i := range count {
		place := [3]float32(m.Positions[3*i : 3*i+3])
		at, known := first[place]
		if !known {
			at = int32(i)
			first[place] = at
		}
		t.weld[i] = at
		t.twins[at] = append(t.twins[at], int32(i))
	}
	for face := range int32(m.FaceCount()) {
		corners := t.corners(face)
		for k := range 3 {
			t.edges[edge(corners[k], corners[(k+1)%3])] = append(t.edges[edge(corners[k], corners[(k+1)%3])], face)
			t.faces[corners[k]] = append(t.faces[corners[k]], face)
		}
	}
	return t
}

// FaceCount returns the number of triangles.
func (m *Mesh) FaceCount() int { return len(m.Triangles) / 3 }

func (t *Topology) corners(face int32) [3]int32 {
	c := t.mesh.Triangles[3*face : 3*face+3]
	return [3]int32{t.weld[c[0]], t.weld[c[1]], t.weld[c[2]]}
}

// unweld lists all vertices in the places of welded ones, rising.
func (t *Topology) unweld(welded map[int32]bool) []int {
	list := make([]int, 0, len(welded))
	for at := range welded {
		for _, twin := range t.twins[at] {
			list = append(list, int(twin))
		}
	}
	slices.Sort(list)
	return list
}

func (t *Topology) welded(vertices []int) map[int32]bool {
	set := make(map[int32]bool, len(vertices))
	for _, v := range vertices {
		set[t.weld[v]] = true
	}
	return set
}

// neighbours calls visit with every welded vertex that shares an edge with at.
func (t *Topology) neighbours(at int32, visit func(int32)) {
	for _, face := range t.faces[at] {
		for _, corner := range t.corners(face) {
			if corner != at {
				visit(corner)
			}
		}
	}
}

// GrowVertices adds the neighbours of vertices to them; ShrinkVertices takes away those with a neighbour that is not among them.
func (t *Topology) GrowVertices(vertices []int) []int {
	set := t.welded(vertices)
	grown := make(map[int32]bool, 2*len(set))
	for at := range set {
		grown[at] = true
		t.neighbours(at, func(other int32) { grown[other] = true })
	}
	return t.unweld(grown)
}

// ShrinkVertices takes away those vertices that have a neighbour which is not among them.
func (t *Topology) ShrinkVertices(vertices []int) []int {
	set := t.welded(vertices)
	shrunk := make(map[int32]bool, len(set))
	for at := range set {
		inner := true
		t.neighbours(at, func(other int32) { inner = inner && set[other] })
		if inner {
			shrunk[at] = true
		}
	}
	return t.unweld(shrunk)
}

// GrowFaces adds the faces that share a vertex with those given.
func (t *Topology) GrowFaces(faces []int) []int {
	return t.FacesAt(t.VerticesOf(faces))
}

// ShrinkFaces takes away the faces that share a vertex with one that is not among them.
func (t *Topology) ShrinkFaces(faces []int) []int {
	set := map[int32]bool{}
	for _, face := range faces {
		set[int32(face)] = true
	}
	inner := map[int32]bool{} // by corner: all faces there are among them
	shrunk := map[int32]bool{}
	for face := range set {
		among := true
		for _, corner := range t.corners(face) {
			if _, known := inner[corner]; !known {
				inner[corner] = !slices.ContainsFunc(t.faces[corner], func(other int32) bool { return !set[other] })
			}
			among = among && inner[corner]
		}
		if among {
			shrunk[face] = true
		}
	}
	return sorted(shrunk)
}

func sorted(set map[int32]bool) []int {
	list := make([]int, 0, len(set))
	for at := range set {
		list = append(list, int(at))
	}
	slices.Sort(list)
	return list
}

// Pieces lists the faces of each loose piece: faces that hang together over shared places. The piece of the lowest face comes first.
func (t *Topology) Pieces() [][]int {
	seen, passed := make([]bool, t.mesh.FaceCount()), make([]bool, len(t.weld))
	var pieces [][]int
	for start := range seen {
		if seen[start] {
			continue
		}
		seen[start] = true
		piece := []int{start}
		for i := 0; i < len(piece); i++ {
			for _, corner := range t.corners(int32(piece[i])) {
				if passed[corner] { // each place is gone through once, however many faces meet there
					continue
				}
				passed[corner] = true
				for _, other := range t.faces[corner] {
					if !seen[other] {
						seen[other] = true
						piece = append(piece, int(other))
					}
				}
			}
		}
		slices.Sort(piece)
		pieces = append(pieces, piece)
	}
	return pieces
}

// PieceOf returns the faces of the loose piece that a face is part of.
func (t *Topology) PieceOf(face int) []int {
	for _, piece := range t.Pieces() {
		if _, found := slices.BinarySearch(piece, face); found {
			return piece
		}
	}
	return nil
}

// VerticesOf lists the vertices of faces, rising.
func (t *Topology) VerticesOf(faces []int) []int {
	set := map[int32]bool{}
	for _, face := range faces {
		for _, corner := range t.corners(int32(face)) {
			set[corner] = true
		}
	}
	return t.unweld(set)
}

// FacesAt lists the faces that have one of the vertices, rising.
func (t *Topology) FacesAt(vertices []int) []int {
	set := map[int32]bool{}
	for at := range t.welded(vertices) {
		for _, face := range t.faces[at] {
			set[face] = true
		}
	}
	return sorted(set)
}

// EdgesAmong lists the edges whose both ends are among the vertices, as pairs one after the other, rising.
func (t *Topology) EdgesAmong(vertices []int) []int {
	set := t.welded(vertices)
	var edges []Edge
	for e := range t.edges {
		if set[e[0]] && set[e[1]] {
			edges = append(edges, e)
		}
	}
	slices.SortFunc(edges, func(a, b Edge) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	pairs := make([]int, 0, 2*len(edges))
	for _, e := range edges {
		pairs = append(pairs, int(e[0]), int(e[1]))
	}
	return pairs
}

// FacesAmong lists the faces whose three corners are among the vertices, rising.
func (m *Mesh) FacesAmong(vertices []int) []int {
	in := make([]bool, m.VertexCount())
	for _, v := range vertices {
		in[v] = true
	}
	var faces []int
	for face := range m.FaceCount() {
		c := m.Triangles[3*face : 3*face+3]
		if in[c[0]] && in[c[1]] && in[c[2]] {
			faces = append(faces, face)
		}
	}
	return faces
}

// Turned lists the faces that look the other way than their piece does: inward where the piece is closed, against most of it where it
// is open.
func (t *Topology) Turned() []int {
	var turned []int
	for _, piece := range t.Pieces() {
		against := t.against(piece)
		same, other := 0.0, 0.0 // volume of a closed piece as its first face has it, or areas of an open one
		closed := t.closed(piece)
		for _, face := range piece {
			a, b, c := t.mesh.Corner(face)
			measure := b.Sub(a).Cross(c.Sub(a)).Len()
			if closed {
				measure = a.Dot(b.Cross(c))
			}
			switch {
			case closed && against[face]:
				same -= measure
			case closed || !against[face]:
				same += measure
			default:
				other += measure
			}
		}
		outward := same > 0
		if !closed {
			outward = same >= other
		}
		for _, face := range piece {
			if against[face] == outward {
				turned = append(turned, face)
			}
		}
	}
	slices.Sort(turned)
	return turned
}

// against tells, for each face of a piece, whether it looks the other way than the piece's first face: two neighbours look the same way
// when they run along their shared edge in opposite directions.
func (t *Topology) against(piece []int) map[int]bool {
	against := map[int]bool{piece[0]: false}
	queue := []int{piece[0]}
	for len(queue) > 0 {
		face := queue[0]
		queue = queue[1:]
		corners := t.corners(int32(face))
		for k := range 3 {
			from, to := corners[k], corners[(k+1)%3]
			shared := t.edges[edge(from, to)]
			if len(shared) != 2 {
				continue
			}
			other := int(shared[0] + shared[1] - int32(face))
			if _, known := against[other]; known {
				continue
			}
			against[other] = against[face] != t.runs(other, from, to)
			queue = append(queue, other)
		}
	}
	return against
}

// runs tells whether a face's outline goes from one welded vertex to another.
func (t *Topology) runs(face int, from, to int32) bool {
	corners := t.corners(int32(face))
	for k := range 3 {
		if corners[k] == from && corners[(k+1)%3] == to {
			return true
		}
	}
	return false
}

func (t *Topology) closed(piece []int) bool {
	for _, face := range piece {
		corners := t.corners(int32(face))
		for k := range 3 {
			if len(t.edges[edge(corners[k], corners[(k+1)%3])]) != 2 {
				return false
			}
		}
	}
	return true
}
