package mesh

import (
	"github.com/go-gl/mathgl/mgl64"
)

// CentreOf returns the mean of vertices, each place once. ok is false without any.
func (t *Topology) CentreOf(vertices []int) (centre mgl64.Vec3, ok bool) {
	set := t.welded(vertices)
	for _, at := range sorted(set) { // in an order that is always the same
		centre = centre.Add(t.mesh.Vertex(at))
	}
	if len(set) == 0 {
		return centre, false
	}
	return centre.Mul(1 / float64(len(set))), true
}

// RingCentre returns the middle of a closed line of vertices: that of the area it spans, seen along its mean normal; the middle of its
// length where it spans none.
func (m *Mesh) RingCentre(ring []int) mgl64.Vec3 {
	points := make([]mgl64.Vec3, len(ring))
	for i, v := range ring {
		points[i] = m.Vertex(v)
	}
	return polygonCentre(points)
}

// polygonCentre is the area's middle of a closed outline, by triangles from its first mean.
func polygonCentre(points []mgl64.Vec3) mgl64.Vec3 {
	var mean, normal mgl64.Vec3
	for _, p := range points {
		mean = mean.Add(p.Mul(1 / float64(len(points))))
	}
	for i, p := range points {
		normal = normal.Add(p.Sub(mean).Cross(points[(i+1)%len(points)].Sub(mean)))
	}
	total := normal.Len()
	if !(total > 0) {
		return mean
	}
	normal = normal.Mul(1 / total)
	var weighted mgl64.Vec3
	area := 0.0
	for i, p := range points {
		next := points[(i+1)%len(points)]
		share := p.Sub(mean).Cross(next.Sub(mean)).Dot(normal)
		weighted = weighted.Add(p.Sub(mean).Add(next.Sub(mean)).Mul(share / 3))
		area += share
	}
	if !(area > 1e-12*total) {
		return mean
	}
	return mean.Add(weighted.Mul(1 / area))
}

// Centre returns the middle of the volume that m encloses, or the mean of its surface where it encloses none.
func (m *Mesh) Centre() mgl64.Vec3 {
	var base, weighted, surface mgl64.Vec3
	if m.VertexCount() > 0 {
		base = m.Vertex(0)
	}
	volume, area, extent := 0.0, 0.0, 0.0
	for face := range m.FaceCount() {
		a, b, c := m.Corner(face)
		a, b, c = a.Sub(base), b.Sub(base), c.Sub(base)
		v := a.Dot(b.Cross(c)) / 6
		volume += v
		weighted = weighted.Add(a.Add(b).Add(c).Mul(v / 4))
		s := b.Sub(a).Cross(c.Sub(a)).Len() / 2
		area += s
		surface = surface.Add(a.Add(b).Add(c).Mul(s / 3))
		extent += s * a.Add(b).Add(c).Len()
	}
	if volume > 1e-9*extent && volume > 0 {
		return base.Add(weighted.Mul(1 / volume))
	}
	if area > 0 {
		return base.Add(surface.Mul(1 / area))
	}
	return base
}
