package mesh

import (
	"cmp"
	"math"
	"slices"
)

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
