package mesh

import (
	"container/heap"
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Walk measures ways over a surface.
type Walk struct {
	t       *Topology
	place   []mgl64.Vec3 // by vertex
	away    []float64    // by welded vertex; infinite between two walks
	done    []bool
	onFaces *Places // vertices that belong to faces; found when they are first asked for
}

// NewWalk readies a surface to be walked over. It serves one walk at a time.
func NewWalk(m *Mesh) *Walk {
	w := &Walk{t: NewTopology(m), place: make([]mgl64.Vec3, m.VertexCount()), away: make([]float64, m.VertexCount()), done: make([]bool, m.VertexCount())}
	for i := range w.place {
		w.place[i], w.away[i] = m.Vertex(i), math.Inf(1)
	}
	return w
}

// Spot is a place on a surface: in a face, by how much of each corner it is, which sum to one.
type Spot struct {
	Face   int        `json:"face"`
	Shares [3]float64 `json:"shares"`
}

// Place returns where a spot is.
func (w *Walk) Place(s Spot) mgl64.Vec3 {
	c := w.t.mesh.Triangles[3*s.Face : 3*s.Face+3]
	return w.place[c[0]].Mul(s.Shares[0]).Add(w.place[c[1]].Mul(s.Shares[1])).Add(w.place[c[2]].Mul(s.Shares[2]))
}

// Neighbours visits the vertices that an edge joins to a vertex.
func (w *Walk) Neighbours(vertex int, visit func(vertex int)) {
	w.t.neighbours(w.t.weld[vertex], func(other int32) { visit(int(other)) })
}

// Within visits the vertices that lie within a way of a spot over the surface, the nearest first, and tells how far each is. Vertices in one place come after each other.
//
// Method: fast marching on triangles (Kimmel, Sethian 1998, Computing geodesic paths on manifolds): from two corners of a face the way to the third is that from
// where both say it began, laid flat, and along an edge where that would leave the face.
func (w *Walk) Within(from Spot, reach float64, visit func(vertex int, way float64)) {
	begin := w.Place(from)
	w.march(reach, visit, func(offer func(int32, float64)) {
		for _, corner := range w.t.corners(int32(from.Face)) { // hard by, where the way bends little, it is taken for straight
			for _, face := range w.t.faces[corner] {
				for _, near := range w.t.corners(face) {
					offer(near, w.place[near].Sub(begin).Len())
				}
			}
		}
	})
}

// Around visits the vertices that lie within a straight distance of a spot, in no order, and tells how far each is.
func (w *Walk) Around(from Spot, reach float64, visit func(vertex int, way float64)) {
	begin := w.Place(from)
	for vertex, place := range w.place {
		if way := place.Sub(begin).Len(); way <= reach {
			visit(vertex, way)
		}
	}
}

// WithinOf is as Within, from the nearest of several vertices.
func (w *Walk) WithinOf(vertices []int, reach float64, visit func(vertex int, way float64)) {
	w.march(reach, visit, func(offer func(int32, float64)) {
		for _, vertex := range vertices {
			offer(w.t.weld[vertex], 0)
		}
	})
}

// march spreads over the surface from where begin offers to.
func (w *Walk) march(reach float64, visit func(vertex int, way float64), begin func(offer func(int32, float64))) {
	queue := &waiting{}
	var touched []int32
	offer := func(at int32, way float64) {
		if way <= reach && way < w.away[at] {
			if math.IsInf(w.away[at], 1) {
				touched = append(touched, at)
			}
			w.away[at] = way
			heap.Push(queue, step{at, way})
		}
	}
	begin(offer)
	for queue.Len() > 0 {
		next := heap.Pop(queue).(step)
		if w.done[next.at] {
			continue
		}
		w.done[next.at] = true
		for _, vertex := range w.t.twins[next.at] {
			visit(int(vertex), next.way)
		}
		for _, face := range w.t.faces[next.at] {
			w.cross(face, offer)
		}
	}
	for _, at := range touched {
		w.away[at], w.done[at] = math.Inf(1), false
	}
}

// cross offers ways to the corners of a face that are not reached for good yet.
func (w *Walk) cross(face int32, offer func(int32, float64)) {
	corners := w.t.corners(face)
	for k, c := range corners {
		if w.done[c] {
			continue
		}
		a, b := corners[(k+1)%3], corners[(k+2)%3]
		for _, from := range [2]int32{a, b} {
			if w.done[from] {
				offer(c, w.away[from]+w.place[from].Sub(w.place[c]).Len())
			}
		}
		if w.done[a] && w.done[b] {
			if way, ok := across(w.place[a], w.place[b], w.place[c], w.away[a], w.away[b]); ok {
				offer(c, way)
			}
		}
	}
}

// rounding is the share of an edge's square that two ways along it may miss by rounding.
const rounding = 1e-9

// across is the way to c from where the ways to a and b began, all laid flat. ok is false where the straight line does not go between a and b.
func across(a, b, c mgl64.Vec3, wayA, wayB float64) (way float64, ok bool) {
	edge := b.Sub(a)
	base := edge.Len()
	if !(base > 0) {
		return 0, false
	}
	along := (wayA*wayA - wayB*wayB + base*base) / (2 * base)
	square := wayA*wayA - along*along
	if square < -rounding*base*base {
		return 0, false
	}
	x := c.Sub(a).Dot(edge) / base
	y := math.Sqrt(math.Max(0, c.Sub(a).Dot(c.Sub(a))-x*x))
	began := math.Sqrt(math.Max(0, square)) // below the edge
	if y+began == 0 {
		return 0, false
	}
	crossing := along + (x-along)*began/(y+began)
	if crossing < 0 || crossing > base {
		return 0, false
	}
	return math.Max(math.Hypot(x-along, y+began), math.Max(wayA, wayB)), true // c is reached behind both
}

// step is a vertex that a walk may come to next.
type step struct {
	at  int32
	way float64
}

type waiting []step

func (q waiting) Len() int { return len(q) }
func (q waiting) Less(i, j int) bool {
	return q[i].way < q[j].way || q[i].way == q[j].way && q[i].at < q[j].at
}
func (q waiting) Swap(i, j int) { q[i], q[j] = q[j], q[i] }
func (q *waiting) Push(x any)   { *q = append(*q, x.(step)) }
func (q *waiting) Pop() any {
	old := *q
	last := old[len(old)-1]
	*q = old[:len(old)-1]
	return last
}
