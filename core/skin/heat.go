package skin

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// Segment is a stretch that a joint moves the skin around: from the joint to one that hangs on it, or onward from the last of a chain.
type Segment struct {
	Joint    int // index into the binding's list
	From, To mgl64.Vec3
}

// BindHeat returns weights by the balance of heat over the surface: every joint's segments are warm below the skin near them, and the heat spreads over the surface until it is even.
// Loose pieces of the surface are bound each by itself. progress is told the share done, and may stop the work by returning false.
//
// Method: Baran, Popović 2007, Automatic Rigging and Animation of 3D Characters: (-Δ + H) w = H p, on the Laplacian of mesh.NewLaplacian. H is one over the square of the
// distance to the nearest segment. Where the paper has p jump from one joint to the next, it goes over evenly here by how near their segments are (see nearness), so that
// weights hang on the shape and not on its triangles; and what hides a segment from a vertex is a distance that grows, not a cut.
func BindHeat(surface *mesh.Mesh, segments []Segment, joints int, progress func(float64) bool) (*Weights, error) {
	if len(segments) == 0 {
		return nil, errors.New("there are no joints to bind to; choose at least one")
	}
	w, _, err := bindHeat(surface, segments, joints, progress)
	return w, err
}

func bindHeat(surface *mesh.Mesh, segments []Segment, joints int, progress func(float64) bool) (*Weights, []string, error) {
	l := mesh.NewLaplacian(surface)
	if l.Places > mostPlaces {
		w, told, err := bindByDistance(Distance, surface, segments, joints, progress)
		return w, append(told, fmt.Sprintf("its %d vertices are more than the %d that heat can be worked out for, and it was bound by distance", l.Places, mostPlaces)), err
	}
	near := nearnessOf(surface, l, segments, joints)
	ground, warm := make([]float64, l.Places), make([]float64, l.Places)
	for i := range l.Places {
		ground[i] = l.Area[i] / (near.distance[i] * near.distance[i])
		warm[i] = ground[i]
	}
	s := newSystem(l, ground)
	b, w := make([]column, l.Places), make([]column, l.Places)
	top := newTop(surface.VertexCount())
	used := near.used(joints)
	for from := 0; from < len(used); from += lanes {
		if !progress(float64(from) / float64(len(used))) {
			return nil, nil, ErrStopped
		}
		batch := used[from:min(from+lanes, len(used))]
		near.fill(b, batch, warm)
		s.solve(b, w)
		for vertex, place := range l.PlaceOf {
			for k, joint := range batch {
				value := near.alone(vertex, joint)
				if place >= 0 {
					value = w[place][k]
				}
				top.offer(vertex, joint, value)
			}
		}
	}
	return top.weights(), oddities(l, len(near.lone)), nil
}

// mostPlaces bounds how many places heat is worked out for: the factor takes some kilobytes for each.
const mostPlaces = 300_000

// oddities tells in words what a surface had that no plain surface has.
func oddities(l *mesh.Laplacian, lone int) (told []string) {
	if l.Odd > 0 {
		told = append(told, fmt.Sprintf("%d %s not between two faces; heat was led round them, and what is inside could not be told", l.Odd, plural(l.Odd, "edge is", "edges are")))
	}
	if l.Flat > 0 {
		told = append(told, fmt.Sprintf("%d %s no area, and %s eased", l.Flat, plural(l.Flat, "face has", "faces have"), plural(l.Flat, "was", "were")))
	}
	if lone > 0 {
		told = append(told, fmt.Sprintf("%d %s to no face and %s with the nearest joint", lone, plural(lone, "vertex belongs", "vertices belong"), plural(lone, "goes", "go")))
	}
	return told
}

// top keeps the greatest values of each vertex: those that count, and the next, which is cut off.
type top struct {
	joints []int
	values []float64
}

const kept = Influences + 1

func newTop(vertices int) *top {
	return &top{make([]int, kept*vertices), make([]float64, kept*vertices)}
}

// offer takes a value in among the greatest; of equal ones the joint that comes first stays.
func (t *top) offer(vertex, joint int, value float64) {
	at := kept * vertex
	k := kept
	for k > 0 && value > t.values[at+k-1] {
		k--
	}
	if k == kept || !(value > 0) {
		return
	}
	copy(t.values[at+k+1:at+kept], t.values[at+k:at+kept-1])
	copy(t.joints[at+k+1:at+kept], t.joints[at+k:at+kept-1])
	t.values[at+k], t.joints[at+k] = value, joint
}

// weights are the values less the first that is cut off, so that nothing steps where one comes in and another goes out, scaled to sum to one.
func (t *top) weights() *Weights {
	w := NewWeights(len(t.values) / kept)
	values := make([]float64, Influences)
	for vertex := range w.VertexCount() {
		at := kept * vertex
		for k := range Influences {
			values[k] = math.Max(0, t.values[at+k]-t.values[at+Influences])
		}
		if values[0] == 0 { // five alike
			copy(values, t.values[at:at+Influences])
		}
		w.Set(vertex, t.joints[at:at+Influences], values)
	}
	return w
}
