package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Circle is a round rim of a surface: of a hole, a bolt, a shaft or a wheel. Axis is a unit vector.
type Circle struct {
	Middle, Axis mgl64.Vec3
	Radius       float64
}

// Stretch is a straight run of sharp edges.
type Stretch struct{ From, To mgl64.Vec3 }

const (
	// faces that meet at more make an edge sharp: first those of a cylinder of eight sides do not, then bevels do
	sharp   = 50 * math.Pi / 180
	sharper = 25 * math.Pi / 180
	round   = 0.03 // how far places of a rim may lie off their circle, as a share of its radius
	// leastRim is how many places a rim has at least
	leastRim = 6
	bending  = 0.02 // radians between edges, at less of which they run on straight
)

// Outlines finds the round rims and straight runs along the borders of a surface and its edges at which faces meet at an angle or more.
func (m *Mesh) Outlines(angle float64) (circles []Circle, stretches []Stretch) {
	t := NewTopology(m)
	next := t.sharpEdges(angle)
	seen := map[Edge]bool{}
	for at := range int32(m.VertexCount()) { // in order, so that the outcome is always the same
		for _, to := range next[at] {
			if seen[edge(at, to)] {
				continue
			}
			if rim, closed := t.trail(next, at, to, seen); closed {
				if circle, ok := m.circle(rim); ok {
					circles = append(circles, circle)
					continue
				}
				stretches = append(stretches, m.runs(append(rim, rim[0]))...)
			} else {
				stretches = append(stretches, m.runs(rim)...)
			}
		}
	}
	return circles, stretches
}

// sharpEdges lists, for each welded vertex, those that a sharp edge joins it to.
func (t *Topology) sharpEdges(least float64) map[int32][]int32 {
	next := map[int32][]int32{}
	for face := range int32(t.mesh.FaceCount()) {
		corners := t.corners(face)
		for k := range 3 {
			e := edge(corners[k], corners[(k+1)%3])
			faces := t.edges[e]
			if e[0] == e[1] || len(faces) == 0 || faces[0] != face || len(faces) == 2 && t.angle(faces[0], faces[1]) < least {
				continue
			}
			next[e[0]], next[e[1]] = append(next[e[0]], e[1]), append(next[e[1]], e[0])
		}
	}
	return next
}

// angle is that between two faces' normals.
func (t *Topology) angle(a, b int32) float64 {
	normal := func(face int32) mgl64.Vec3 {
		p, q, r := t.mesh.Corner(int(face))
		return geometry.Unit(q.Sub(p).Cross(r.Sub(p)), mgl64.Vec3{})
	}
	u, v := normal(a), normal(b)
	return math.Atan2(u.Cross(v).Len(), u.Dot(v))
}

// trail goes along sharp edges as long as they do not branch. closed tells whether they come back to where they began.
func (t *Topology) trail(next map[int32][]int32, at, to int32, seen map[Edge]bool) (run []int32, closed bool) {
	run = []int32{at, to}
	seen[edge(at, to)] = true
	before, now := at, to
	for len(next[now]) == 2 {
		on := next[now][0]
		if on == before {
			on = next[now][1]
		}
		if on == at && len(next[at]) == 2 {
			seen[edge(now, on)] = true
			return run, true
		}
		if seen[edge(now, on)] {
			break
		}
		seen[edge(now, on)] = true
		run = append(run, on)
		before, now = now, on
	}
	return run, false
}

// circle is the one that a closed rim lies on; ok is false where it is not round.
func (m *Mesh) circle(rim []int32) (c Circle, ok bool) {
	if len(rim) < leastRim {
		return c, false
	}
	for _, v := range rim {
		c.Middle = c.Middle.Add(m.Vertex(int(v)).Mul(1 / float64(len(rim))))
	}
	normal := mgl64.Vec3{}
	for i, v := range rim {
		p, q := m.Vertex(int(v)).Sub(c.Middle), m.Vertex(int(rim[(i+1)%len(rim)])).Sub(c.Middle)
		normal = normal.Add(p.Cross(q))
		c.Radius += p.Len() / float64(len(rim))
	}
	c.Axis = geometry.Unit(normal, mgl64.Vec3{})
	if !(c.Radius > 0) || c.Axis.Len() == 0 {
		return c, false
	}
	for _, v := range rim {
		p := m.Vertex(int(v)).Sub(c.Middle)
		if math.Abs(p.Len()-c.Radius) > round*c.Radius || math.Abs(p.Dot(c.Axis)) > round*c.Radius {
			return c, false
		}
	}
	return c, true
}

// runs cuts a line of edges where it bends.
func (m *Mesh) runs(line []int32) (list []Stretch) {
	from := 0
	for i := 1; i < len(line); i++ {
		if i+1 < len(line) {
			a, b, c := m.Vertex(int(line[i-1])), m.Vertex(int(line[i])), m.Vertex(int(line[i+1]))
			u, v := b.Sub(a), c.Sub(b)
			if math.Atan2(u.Cross(v).Len(), u.Dot(v)) < bending {
				continue
			}
		}
		list = append(list, Stretch{m.Vertex(int(line[from])), m.Vertex(int(line[i]))})
		from = i
	}
	return list
}

// beside is how far from a stretch a place may be, as a share of the surfaces' size, to count as on it.
const beside = 0.05

// AxisNear returns the axis that parts turn about at a place: that of the round rim whose axis passes nearest, within its radius, or else the longest straight edge beside it. ok is false
// where there is neither.
func AxisNear(p mgl64.Vec3, surfaces []*Mesh) (origin, way mgl64.Vec3, ok bool) {
	nearest, longest, size := math.Inf(1), 0.0, 0.0
	for _, m := range surfaces {
		size = math.Max(size, m.Bounds().Size())
	}
	var edgeFrom, edgeWay mgl64.Vec3
	for _, m := range surfaces {
		circles, stretches := m.Outlines(sharp)
		more, others := m.Outlines(sharper)
		circles, stretches = append(circles, more...), append(stretches, others...)
		for _, c := range circles {
			off := p.Sub(c.Middle)
			aside := off.Sub(c.Axis.Mul(off.Dot(c.Axis)))
			if aside.Len() <= c.Radius && off.Len() < nearest {
				nearest, origin, way, ok = off.Len(), p.Sub(aside), c.Axis, true
			}
		}
		for _, s := range stretches {
			length := s.To.Sub(s.From).Len()
			if at := NearestOnStretch(p, s.From, s.To); length > longest && at.Sub(p).Len() < beside*size {
				longest, edgeFrom, edgeWay = length, at, s.To.Sub(s.From).Mul(1/length)
			}
		}
	}
	if ok {
		return origin, steady(way), true
	}
	return edgeFrom, steady(edgeWay), longest > 0
}

// steady has an axis point to the side on which its largest part is positive, so that it does not hang on how the model was made.
func steady(way mgl64.Vec3) mgl64.Vec3 {
	largest := 0
	for k := range 3 {
		if math.Abs(way[k]) > math.Abs(way[largest])*(1+1e-6) {
			largest = k
		}
	}
	if way[largest] < 0 {
		return way.Mul(-1)
	}
	return way
}

// Extent returns from where to where surfaces reach along a line, from a place on it in a direction; ok is false where there are no vertices.
func Extent(surfaces []*Mesh, origin, way mgl64.Vec3) (least, most float64, ok bool) {
	least, most = math.Inf(1), math.Inf(-1)
	for _, m := range surfaces {
		for i := range m.VertexCount() {
			along := m.Vertex(i).Sub(origin).Dot(way)
			least, most = math.Min(least, along), math.Max(most, along)
		}
	}
	return least, most, least <= most
}
