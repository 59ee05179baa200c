package skin

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// nearness is how near the joints are to the places of a surface: the distance to the nearest, and the share of each that is about as near.
type nearness struct {
	distance []float64 // by place
	start    []int     // by place, into shares
	joints   []int
	shares   []float64
	lone     map[int]int // by vertex that belongs to no face: the nearest joint
	at       []int       // scratch of fill: by place, where its shares are gone on from
}

const (
	// evenly is the power of the distance with which a joint's share falls off beside the nearest: of one that is a tenth farther less than a third is left.
	evenly = 12
	// least is the smallest share that is reckoned with.
	leastShare = 1e-4
	// hidden is by how much farther a segment counts that lies straight outside of the surface, as seen from a vertex.
	hidden = 3
	// touching is how near to a segment a place may be, as a share of the surface's size.
	touching = 1e-4
)

func nearnessOf(surface *mesh.Mesh, l *mesh.Laplacian, segments []Segment, joints int) *nearness {
	n := &nearness{distance: make([]float64, l.Places), start: make([]int, 1, l.Places+1), lone: map[int]int{}, at: make([]int, l.Places)}
	least := leastDistance(surface)
	inward := inwardOf(surface, l)
	first := make([]int, l.Places)
	for vertex := len(l.PlaceOf) - 1; vertex >= 0; vertex-- {
		if place := l.PlaceOf[vertex]; place >= 0 {
			first[place] = vertex
		} else {
			n.lone[vertex] = nearestSegment(segments, surface.Vertex(vertex))
		}
	}
	away := make([]float64, joints) // by joint
	for place, vertex := range first {
		nearest := measure(away, segments, surface.Vertex(vertex), inward[place], least)
		n.distance[place] = nearest
		n.add(away, nearest)
	}
	return n
}

// leastDistance is how near to a joint a place may be.
func leastDistance(surface *mesh.Mesh) float64 {
	return math.Max(math.SmallestNonzeroFloat32, touching*surface.Bounds().Size())
}

// measure writes how far p is from each joint, infinite for one without segments, and returns the least.
func measure(away []float64, segments []Segment, p, inward mgl64.Vec3, least float64) (nearest float64) {
	nearest = math.Inf(1)
	for j := range away {
		away[j] = math.Inf(1)
	}
	for _, s := range segments {
		d := math.Max(least, s.distance(p, inward))
		away[s.Joint] = math.Min(away[s.Joint], d)
		nearest = math.Min(nearest, d)
	}
	return nearest
}

// add notes the shares of one place.
func (n *nearness) add(away []float64, nearest float64) {
	sum, from := 0.0, len(n.shares)
	for j, d := range away {
		if d > 3*nearest {
			continue
		}
		if share := math.Pow(nearest/d, evenly); share > leastShare {
			n.joints, n.shares = append(n.joints, j), append(n.shares, share-leastShare)
			sum += share - leastShare
		}
	}
	for k := from; k < len(n.shares); k++ {
		n.shares[k] /= sum
	}
	n.start = append(n.start, len(n.shares))
}

// used lists the joints that are near to anything.
func (n *nearness) used(joints int) (list []int) {
	near := make([]bool, joints)
	for _, j := range n.joints {
		near[j] = true
	}
	for _, j := range n.lone {
		near[j] = true
	}
	for j, is := range near {
		if is {
			list = append(list, j)
		}
	}
	return list
}

// fill lays the right sides of joints: how warm each makes each place. The joints of all calls rise.
func (n *nearness) fill(b []column, batch []int, warm []float64) {
	for place := range b {
		b[place] = column{}
		for k := n.start[place] + n.at[place]; k < n.start[place+1] && n.joints[k] <= batch[len(batch)-1]; k++ {
			for lane, joint := range batch {
				if joint == n.joints[k] {
					b[place][lane] = warm[place] * n.shares[k]
				}
			}
			n.at[place]++
		}
	}
}

// alone is the weight of a joint for a vertex that belongs to no face.
func (n *nearness) alone(vertex, joint int) float64 {
	if nearest, lone := n.lone[vertex]; lone && nearest == joint {
		return 1
	}
	return 0
}

// distance is how far p is from a segment, farther for one that lies outside of the surface there. inward is the direction into the surface, without length where there is
// no inside.
func (s Segment) distance(p, inward mgl64.Vec3) float64 {
	to := s.nearest(p).Sub(p)
	d := to.Len()
	if d == 0 {
		return 0
	}
	outside := -to.Dot(inward) / d
	return d * (1 + (hidden-1)*geometry.Smoothstep(outside))
}

// nearest is the place of a segment that is nearest to p.
func (s Segment) nearest(p mgl64.Vec3) mgl64.Vec3 {
	axis := s.To.Sub(s.From)
	if square := axis.Dot(axis); square > 0 {
		return s.From.Add(axis.Mul(math.Min(1, math.Max(0, p.Sub(s.From).Dot(axis)/square))))
	}
	return s.From
}

func nearestSegment(segments []Segment, p mgl64.Vec3) (joint int) {
	nearest := math.Inf(1)
	for _, s := range segments {
		if d := s.nearest(p).Sub(p).Len(); d < nearest {
			nearest, joint = d, s.Joint
		}
	}
	return joint
}

// inwardOf is, by place, the direction into the volume that the surface closes off; without length where it does not, or where its sides cannot be told.
func inwardOf(surface *mesh.Mesh, l *mesh.Laplacian) []mgl64.Vec3 {
	inward := make([]mgl64.Vec3, l.Places)
	if l.Odd > 0 {
		return inward
	}
	volume := 0.0
	for face := range surface.FaceCount() {
		a, b, c := surface.Corner(face)
		volume += a.Dot(b.Cross(c))
		normal := b.Sub(a).Cross(c.Sub(a))
		for k := range 3 {
			if place := l.PlaceOf[surface.Triangles[3*face+k]]; place >= 0 {
				inward[place] = inward[place].Sub(normal)
			}
		}
	}
	for i := range inward {
		inward[i] = geometry.Unit(inward[i], mgl64.Vec3{})
		if volume < 0 { // it is inside out
			inward[i] = inward[i].Mul(-1)
		}
	}
	return inward
}
