package skin

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// Prune drops what is less than so much, but the strongest of each vertex, and has the rest sum to one again. It returns how many weights were dropped.
func (w *Weights) Prune(least float64) (dropped int) {
	for vertex := range w.VertexCount() {
		at := Influences * vertex
		joints, values := []int{}, []float64{}
		lost := 0
		for k := at; k < at+Influences; k++ {
			switch value := float64(w.Values[k]); {
			case value == 0:
			case value < least && k > at: // the strongest comes first
				lost++
			default:
				joints, values = append(joints, int(w.Joints[k])), append(values, value)
			}
		}
		if lost > 0 {
			w.Set(vertex, joints, values)
			dropped += lost
		}
	}
	return dropped
}

// Mirror gives the vertices on one side of the middle, x = 0, what their mirror images have on the other, joint for joint as image tells: left for true takes from the left, +X. What stands in the
// middle, within a share of the surface's size, is made alike on both sides. It returns how many vertices were given other weights, and how far the farthest found its image from
// where that would be, in metres.
func (w *Weights) Mirror(surface *mesh.Mesh, left bool, image func(joint int) int) (changed int, farthest float64) {
	places := mesh.NewPlaces(surface)
	middle := touching * surface.Bounds().Size()
	before := &Weights{append([]uint16(nil), w.Joints...), append([]float32(nil), w.Values...)}
	for vertex := range surface.VertexCount() {
		p := surface.Vertex(vertex)
		if left == (p[0] > middle) && math.Abs(p[0]) > middle {
			continue
		}
		other, _ := places.Nearest(mgl64.Vec3{-p[0], p[1], p[2]})
		sums := map[int]float64{}
		add := func(from int, share float64, joint func(int) int) {
			for k := Influences * from; k < Influences*(from+1); k++ {
				sums[joint(int(before.Joints[k]))] += share * float64(before.Values[k])
			}
		}
		if math.Abs(p[0]) <= middle {
			add(vertex, 0.5, func(j int) int { return j })
			add(other, 0.5, image)
		} else {
			add(other, 1, image)
			q := surface.Vertex(other)
			farthest = math.Max(farthest, q.Sub(mgl64.Vec3{-p[0], p[1], p[2]}).Len())
		}
		one := NewWeights(1)
		one.setTop(0, sums)
		if !alike(one, w, vertex) {
			changed++
			copy(w.Joints[Influences*vertex:], one.Joints)
			copy(w.Values[Influences*vertex:], one.Values)
		}
	}
	return changed, farthest
}

// alike tells whether the one vertex of a table has what a vertex of another has, but for rounding.
func alike(one, w *Weights, vertex int) bool {
	for _, joint := range append(append([]uint16{}, one.Joints...), w.Joints[Influences*vertex:Influences*(vertex+1)]...) {
		if math.Abs(one.Of(0, int(joint))-w.Of(vertex, int(joint))) > 1e-6 {
			return false
		}
	}
	return true
}

// sortedJoints goes through joints in rising order.
func sortedJoints(sums map[int]float64) func(func(int) bool) {
	most := 0
	for joint := range sums {
		most = max(most, joint)
	}
	return func(yield func(int) bool) {
		for joint := 0; joint <= most; joint++ {
			if _, there := sums[joint]; there && !yield(joint) {
				return
			}
		}
	}
}
