package mesh

import (
	"cmp"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
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
	grown := map[int32]bool{}
	for _, face := range faces {
		for _, corner := range t.corners(int32(face)) {
			for _, other := range t.faces[corner] {
				grown[other] = true
			}
		}
	}
	return sorted(grown)
}

// ShrinkFaces takes away the faces that share a vertex with one that is not among them.
func (t *Topology) ShrinkFaces(faces []int) []int {
	set := map[int32]bool{}
	for _, face := range faces {
		set[int32(face)] = true
	}
	shrunk := map[int32]bool{}
	for face := range set {
		inner := true
		for _, corner := range t.corners(face) {
			for _, other := range t.faces[corner] {
				inner = inner && set[other]
			}
		}
		if inner {
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
	seen := make([]bool, t.mesh.FaceCount())
	var pieces [][]int
	for start := range seen {
		if seen[start] {
			continue
		}
		seen[start] = true
		piece := []int{start}
		for i := 0; i < len(piece); i++ {
			for _, corner := range t.corners(int32(piece[i])) {
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

// Subset returns the faces given as a mesh of their own, and which vertex of m each of its vertices was.
func (m *Mesh) Subset(faces []int) (part *Mesh, from []int) {
	part = &Mesh{}
	at := map[uint32]uint32{}
	for _, face := range faces {
		for _, index := range m.Triangles[3*face : 3*face+3] {
			now, known := at[index]
			if !known {
				now = uint32(len(from))
				at[index] = now
				from = append(from, int(index))
				part.Positions = append(part.Positions, m.Positions[3*index:3*index+3]...)
				part.Normals = append(part.Normals, m.Normals[3*index:3*index+3]...)
				if len(m.TexCoords) > 0 {
					part.TexCoords = append(part.TexCoords, m.TexCoords[2*index:2*index+2]...)
				}
			}
			part.Triangles = append(part.Triangles, now)
		}
	}
	return part, from
}

// Others lists the faces that are not among those given.
func (m *Mesh) Others(faces []int) []int {
	chosen := make([]bool, m.FaceCount())
	for _, face := range faces {
		chosen[face] = true
	}
	var others []int
	for face, is := range chosen {
		if !is {
			others = append(others, face)
		}
	}
	return others
}

// Join returns all meshes as one. Texture coordinates are kept where all have them.
func Join(meshes []*Mesh) *Mesh {
	whole := &Mesh{}
	coords := !slices.ContainsFunc(meshes, func(m *Mesh) bool { return len(m.TexCoords) == 0 })
	for _, m := range meshes {
		base := uint32(whole.VertexCount())
		whole.Positions = append(whole.Positions, m.Positions...)
		whole.Normals = append(whole.Normals, m.Normals...)
		if coords {
			whole.TexCoords = append(whole.TexCoords, m.TexCoords...)
		}
		for _, index := range m.Triangles {
			whole.Triangles = append(whole.Triangles, base+index)
		}
	}
	return whole
}

// Flip returns m with the faces given turned round. Where all faces of a vertex turn its normal turns, else normals are computed anew.
func (m *Mesh) Flip(faces []int) *Mesh {
	flipped := &Mesh{Positions: m.Positions, TexCoords: m.TexCoords, Triangles: slices.Clone(m.Triangles), Normals: slices.Clone(m.Normals)}
	for _, face := range faces {
		flipped.Triangles[3*face+1], flipped.Triangles[3*face+2] = flipped.Triangles[3*face+2], flipped.Triangles[3*face+1]
	}
	if len(faces) == m.FaceCount() {
		for i := range flipped.Normals {
			flipped.Normals[i] = -flipped.Normals[i]
		}
		return flipped
	}
	flipped.ComputeNormals()
	return flipped
}

// Ring returns the vertices of the ring that an edge is part of, in order: from vertex to vertex straight on across meshes of
// quadrangles, halved or not. closed tells whether it comes back to where it began; ok is false where no such line goes
// through the edge.
func (t *Topology) Ring(a, b int) (ring []int, closed, ok bool) {
	q := t.quads()
	start := edge(t.weld[a], t.weld[b])
	if _, known := q.quadsAt[start]; !known {
		return nil, false, false
	}
	line := []int32{start[0], start[1]}
	line, closed = q.follow(line)
	if !closed {
		slices.Reverse(line)
		line, closed = q.follow(line)
	}
	ring = make([]int, len(line))
	for i, at := range line {
		ring[i] = int(at)
	}
	return ring, closed, true
}

// quadrangles is a mesh with its triangles joined to quadrangles where they pair well.
type quadrangles struct {
	quadsAt map[Edge][]int    // quadrangles and single triangles at each edge that is not a diagonal
	edgesAt map[int32][]int32 // the other ends of such edges at a vertex
}

// follow goes on straight from the end of a line until it closes or ends at a vertex where no way is straight.
func (q *quadrangles) follow(line []int32) ([]int32, bool) {
	for len(line) <= len(q.quadsAt) {
		before, at := line[len(line)-2], line[len(line)-1]
		next, ok := q.straight(before, at)
		if !ok {
			return line, false
		}
		if next == line[0] {
			return line, true
		}
		line = append(line, next)
	}
	return line, false
}

// straight is the edge at a vertex of four that shares no quadrangle with the edge one comes by.
func (q *quadrangles) straight(before, at int32) (int32, bool) {
	ends := q.edgesAt[at]
	if len(ends) != 4 {
		return 0, false
	}
	here := q.quadsAt[edge(before, at)]
	for _, end := range ends {
		there := q.quadsAt[edge(at, end)]
		if end != before && !slices.ContainsFunc(there, func(i int) bool { return slices.Contains(here, i) }) {
			return end, true
		}
	}
	return 0, false
}

// quads pairs triangles to quadrangles, the best pairs first: how nearly right the angles of the pair are, and how flat it is.
func (t *Topology) quads() *quadrangles {
	type pair struct {
		edge  Edge
		score float64
	}
	var pairs []pair
	for e, faces := range t.edges {
		if len(faces) == 2 {
			pairs = append(pairs, pair{e, t.squareness(e, faces[0], faces[1])})
		}
	}
	slices.SortFunc(pairs, func(a, b pair) int {
		return cmp.Or(cmp.Compare(b.score, a.score), cmp.Compare(a.edge[0], b.edge[0]), cmp.Compare(a.edge[1], b.edge[1]))
	})
	quad := make([]int, t.mesh.FaceCount())
	for i := range quad {
		quad[i] = i
	}
	paired := make([]bool, len(quad))
	diagonal := map[Edge]bool{}
	for _, p := range pairs {
		faces := t.edges[p.edge]
		if p.score <= 0 || paired[faces[0]] || paired[faces[1]] {
			continue
		}
		paired[faces[0]], paired[faces[1]] = true, true
		quad[faces[1]] = quad[faces[0]]
		diagonal[p.edge] = true
	}
	q := &quadrangles{quadsAt: map[Edge][]int{}, edgesAt: map[int32][]int32{}}
	for e, faces := range t.edges {
		if diagonal[e] {
			continue
		}
		for _, face := range faces {
			q.quadsAt[e] = append(q.quadsAt[e], quad[face])
		}
		q.edgesAt[e[0]] = append(q.edgesAt[e[0]], e[1])
		q.edgesAt[e[1]] = append(q.edgesAt[e[1]], e[0])
	}
	return q
}

// squareness of the quadrangle of two faces at an edge: 1 for a flat rectangle, 0 or less where an angle is nearly straight.
func (t *Topology) squareness(e Edge, first, second int32) float64 {
	opposite := func(face int32) int32 {
		for _, corner := range t.corners(face) {
			if corner != e[0] && corner != e[1] {
				return corner
			}
		}
		return e[0]
	}
	around := [4]int32{e[0], opposite(first), e[1], opposite(second)}
	worst := 0.0
	for k := range 4 {
		at, u, v := t.mesh.Vertex(int(around[k])), t.mesh.Vertex(int(around[(k+3)%4])), t.mesh.Vertex(int(around[(k+1)%4]))
		worst = math.Max(worst, math.Abs(cornerAngle(at, u, v)-math.Pi/2))
	}
	return 1 - worst/(0.47*math.Pi)
}

// Moved returns m with every vertex and normal moved.
func (m *Mesh) Moved(place, normal func(mgl64.Vec3) mgl64.Vec3) *Mesh {
	moved := &Mesh{TexCoords: m.TexCoords, Triangles: m.Triangles, Positions: make([]float32, len(m.Positions)), Normals: make([]float32, len(m.Normals))}
	each := func(from, to []float32, change func(mgl64.Vec3) mgl64.Vec3) {
		for i := 0; i+2 < len(from); i += 3 {
			v := change(mgl64.Vec3{float64(from[i]), float64(from[i+1]), float64(from[i+2])})
			to[i], to[i+1], to[i+2] = float32(v[0]), float32(v[1]), float32(v[2])
		}
	}
	each(m.Positions, moved.Positions, place)
	each(m.Normals, moved.Normals, normal)
	return moved
}
