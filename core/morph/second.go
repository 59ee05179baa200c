package morph

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// enough is the share of the vertices that must be found again in a second model for it to count as another shape of the first.
const enough = 0.9

// FromSecond returns how far each vertex must go for a surface to look like a second model of it, and how many vertices were not found there, which go as those around them do. Models with the same
// faces are taken vertex by vertex. Others are walked over from the faces that stand in the same place in both, from neighbour to neighbour; what is parted at seams or numbered otherwise is no matter.
func FromSecond(surface, second *mesh.Mesh) (by []float32, missed int, err error) {
	if surface.VertexCount() == second.VertexCount() && slices.Equal(surface.Triangles, second.Triangles) {
		by = make([]float32, len(surface.Positions))
		for i := range by {
			by[i] = second.Positions[i] - surface.Positions[i]
		}
		return by, 0, nil
	}
	to, found := mesh.Counterparts(surface, second)
	if float64(found) < enough*float64(surface.VertexCount()) {
		return nil, 0, fmt.Errorf("of %d vertices only %d were found in the second model, which has %d; leave its faces as they are when you change its shape, and some of them where they are",
			surface.VertexCount(), found, second.VertexCount())
	}
	by = make([]float32, len(surface.Positions))
	for v, other := range to {
		if other >= 0 {
			for k := range 3 {
				by[3*v+k] = second.Positions[3*other+k] - surface.Positions[3*v+k]
			}
		}
	}
	fill(surface, by, to)
	return by, surface.VertexCount() - found, nil
}

// rounds is how often what was not found is evened out with what is around it.
const rounds = 50

// fill has what has no counterpart go as what is around it does.
func fill(surface *mesh.Mesh, by []float32, to []int) {
	w := mesh.NewWalk(surface)
	for range rounds {
		for v, other := range to {
			if other >= 0 {
				continue
			}
			sum, count := mgl64.Vec3{}, 0.0
			w.Neighbours(v, func(n int) {
				sum = sum.Add(vector(by, n))
				count++
			})
			for k := range 3 {
				if value := sum[k] / math.Max(1, count); geometry.Finite(value) {
					by[3*v+k] = float32(value)
				}
			}
		}
	}
}
