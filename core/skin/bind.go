package skin

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// Method is a way of working weights out.
type Method string

// The ways of working weights out.
const (
	Heat     Method = "heat"     // by the balance of heat over the surface, see BindHeat
	Distance Method = "distance" // by the distance to the joints through the volume
	Nearest  Method = "nearest"  // every vertex to the nearest joint alone
)

// Bound is what came of binding one surface: its weights, and in words what had to be seen to.
type Bound struct {
	Weights *Weights
	Told    []string
}

// BindAll binds surfaces to joints by a method. Loose pieces without joints of their own that sit on a larger one (eyes, buttons, suckers) go along with the place that they sit on, each
// as a whole. progress is told the share done, and may stop the work by returning false.
func BindAll(method Method, surfaces []*mesh.Mesh, segments []Segment, joints int, progress func(float64) bool) ([]Bound, error) {
	if len(segments) == 0 {
		return nil, errors.New("there are no joints to bind to; choose at least one")
	}
	list := make([]Bound, len(surfaces))
	pieces := piecesOf(surfaces, segments)
	for i, surface := range surfaces {
		weights, told, err := bindOne(method, surface, segments, joints, func(share float64) bool { return progress((float64(i) + share) / float64(len(surfaces))) })
		if err != nil {
			return nil, err
		}
		list[i] = Bound{weights, told}
	}
	riding := make([]int, len(surfaces))
	for _, k := range bySize(pieces) { // what others sit on may sit on something itself
		if p := &pieces[k]; p.on >= 0 {
			p.ride(&pieces[p.on], surfaces, list)
			riding[p.surface]++
		}
	}
	for i, n := range riding {
		if n > 0 {
			list[i].Told = append(list[i].Told, fmt.Sprintf("%d loose %s along with the surface below", n, plural(n, "piece goes", "pieces go")))
		}
	}
	return list, nil
}

func plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

func bindOne(method Method, surface *mesh.Mesh, segments []Segment, joints int, progress func(float64) bool) (*Weights, []string, error) {
	switch method {
	case Heat:
		return bindHeat(surface, segments, joints, progress)
	case Distance, Nearest:
		return bindByDistance(method, surface, segments, joints, progress)
	}
	return nil, nil, fmt.Errorf("there is no way of binding called %q", method)
}

// falling is the power of the distance with which a joint's share falls off in binding by distance.
const falling = 4

// bindByDistance binds vertices by how far they are from each joint, one that lies outside of the surface there counting as farther.
func bindByDistance(method Method, surface *mesh.Mesh, segments []Segment, joints int, progress func(float64) bool) (*Weights, []string, error) {
	l := mesh.NewLaplacian(surface)
	inward := inwardOf(surface, l)
	t, away := newTop(surface.VertexCount()), make([]float64, joints)
	least := leastDistance(surface)
	for vertex, place := range l.PlaceOf {
		if vertex%512 == 0 && !progress(float64(vertex)/float64(surface.VertexCount())) {
			return nil, nil, ErrStopped
		}
		in := mgl64.Vec3{}
		if place >= 0 {
			in = inward[place]
		}
		nearest := measure(away, segments, surface.Vertex(vertex), in, least)
		for joint, d := range away {
			switch {
			case method == Distance:
				t.offer(vertex, joint, math.Pow(nearest/d, falling))
			case d == nearest:
				t.offer(vertex, joint, 1)
			}
		}
		if method == Nearest { // of several as near the first alone
			for k := 1; k < kept; k++ {
				t.values[kept*vertex+k] = 0
			}
		}
	}
	return t.weights(), nil, nil
}

// piece is a loose piece of a surface, and the piece that it sits on, -1 where it stands by itself.
type piece struct {
	surface  int
	vertices []int
	box      mesh.Bounds
	centre   mgl64.Vec3
	on       int
}

const (
	// muchLarger is how many times as large a piece is that others sit on.
	muchLarger = 3
	// sitting is how far a piece may be from what it sits on, in shares of its own size.
	sitting = 0.5
	// mostPieces bounds the pieces that are tried against each other.
	mostPieces = 1000
)

// piecesOf finds the loose pieces of all surfaces, and which sit on which.
func piecesOf(surfaces []*mesh.Mesh, segments []Segment) (pieces []piece) {
	for i, surface := range surfaces {
		t := mesh.NewTopology(surface)
		for _, faces := range t.Pieces() {
			p := piece{surface: i, vertices: t.VerticesOf(faces), box: mesh.EmptyBounds(), on: -1}
			for _, v := range p.vertices {
				p.box.Add(surface.Vertex(v))
			}
			p.centre = p.box.Min.Add(p.box.Max).Mul(0.5)
			pieces = append(pieces, p)
		}
	}
	if len(pieces) > mostPieces {
		return pieces
	}
	for i := range pieces {
		p := &pieces[i]
		if slices.ContainsFunc(segments, func(s Segment) bool { return within(p.box, s.From) || within(p.box, s.To) }) {
			continue
		}
		nearest := sitting * p.box.Size()
		for k := range pieces {
			q := &pieces[k]
			if q.box.Size() < muchLarger*p.box.Size() || k == i {
				continue
			}
			if _, d := p.contact(q, surfaces); d < nearest {
				nearest, p.on = d, k
			}
		}
	}
	return pieces
}

// bySize lists pieces by their size, the largest first.
func bySize(pieces []piece) []int {
	order := make([]int, len(pieces))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(pieces[b].box.Size(), pieces[a].box.Size()) })
	return order
}

func within(b mesh.Bounds, p mgl64.Vec3) bool {
	for axis := range 3 {
		if p[axis] < b.Min[axis] || p[axis] > b.Max[axis] {
			return false
		}
	}
	return true
}

// contact is the vertex of a larger piece that is nearest to the smaller one's middle, and how far that is from the smaller one's vertices.
func (p *piece) contact(on *piece, surfaces []*mesh.Mesh) (vertex int, away float64) {
	large := surfaces[on.surface]
	nearest := math.Inf(1)
	for _, v := range on.vertices {
		if d := large.Vertex(v).Sub(p.centre).Len(); d < nearest {
			nearest, vertex = d, v
		}
	}
	away = math.Inf(1)
	for _, v := range p.vertices {
		away = math.Min(away, surfaces[p.surface].Vertex(v).Sub(large.Vertex(vertex)).Len())
	}
	return vertex, away
}

// ride has all of a piece go as the place does that it sits on: as the mean of what stands there within its own size.
func (p *piece) ride(on *piece, surfaces []*mesh.Mesh, list []Bound) {
	large, from := surfaces[on.surface], list[on.surface].Weights
	vertex, _ := p.contact(on, surfaces)
	near := []int{vertex}
	reach := large.Vertex(vertex).Sub(p.centre).Len() + p.box.Size()/4
	for _, v := range on.vertices {
		if large.Vertex(v).Sub(p.centre).Len() < reach {
			near = append(near, v)
		}
	}
	sums := map[int]float64{}
	for _, v := range near {
		for k := range Influences {
			sums[int(from.Joints[Influences*v+k])] += float64(from.Values[Influences*v+k])
		}
	}
	joints := make([]int, 0, len(sums))
	for joint := range sums {
		joints = append(joints, joint)
	}
	slices.Sort(joints)
	t := newTop(1)
	for _, joint := range joints {
		t.offer(0, joint, sums[joint])
	}
	one, whole := t.weights(), list[p.surface].Weights
	for _, v := range p.vertices {
		copy(whole.Joints[Influences*v:], one.Joints)
		copy(whole.Values[Influences*v:], one.Values)
	}
}
