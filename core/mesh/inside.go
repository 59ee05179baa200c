package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Contains tells whether p lies inside the closed surfaces of m: a ray from it crosses them an odd number of times. Of three
// rays askew to each other the majority decides, so that one that grazes an edge does no harm.
func (m *Mesh) Contains(p mgl64.Vec3) bool {
	box := m.Bounds()
	for k := range 3 {
		if p[k] < box.Min[k] || p[k] > box.Max[k] {
			return false
		}
	}
	votes := 0
	for _, direction := range []mgl64.Vec3{{0.937, 0.281, 0.207}, {-0.316, 0.894, 0.317}, {0.217, -0.348, 0.912}} {
		if len(m.Hits(Ray{Origin: p, Direction: direction.Normalize()}))%2 == 1 {
			votes++
		}
	}
	return votes >= 2
}

// Distance returns how far p is from the nearest vertex of m, in metres; infinite without vertices.
func (m *Mesh) Distance(p mgl64.Vec3) float64 {
	nearest := math.Inf(1)
	for i := range m.VertexCount() {
		nearest = math.Min(nearest, m.Vertex(i).Sub(p).Len())
	}
	return nearest
}
