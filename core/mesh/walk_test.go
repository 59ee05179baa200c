package mesh_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
)

// rolled is a sheet of so many squares, rolled up to a part of a cylinder of the radius; flat at an infinite one.
func rolled(count int, radius float64) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range count + 1 {
		for k := range count + 1 {
			x, y := float64(i)/float64(count), float64(k)/float64(count)
			if math.IsInf(radius, 1) {
				m.Positions = append(m.Positions, float32(x), float32(y), 0)
			} else {
				m.Positions = append(m.Positions, float32(radius*math.Sin(x/radius)), float32(y), float32(radius*math.Cos(x/radius)))
			}
		}
	}
	at := func(i, k int) uint32 { return uint32(i*(count+1) + k) }
	for i := range count {
		for k := range count {
			m.Triangles = append(m.Triangles, at(i, k), at(i+1, k), at(i, k+1), at(i, k+1), at(i+1, k), at(i+1, k+1))
		}
	}
	m.ComputeNormals()
	return m
}

// TestWaysOverASurfaceAreThoseOfTheSheetThatItWas walks over sheets that are rolled up: ways stay as they were on the flat sheet.
func TestWaysOverASurfaceAreThoseOfTheSheetThatItWas(t *testing.T) {
	const count = 40
	for _, radius := range []float64{math.Inf(1), 0.6, 0.25} {
		walk := mesh.NewWalk(rolled(count, radius))
		rapid.Check(t, func(t *rapid.T) {
			i, k := rapid.IntRange(0, count-1).Draw(t, "i"), rapid.IntRange(0, count-1).Draw(t, "k")
			reach := rapid.Float64Range(0.05, 0.6).Draw(t, "reach")
			u := rapid.Float64Range(0, 1).Draw(t, "u")
			v := rapid.Float64Range(0, 1-u).Draw(t, "v")
			spot := mesh.Spot{Face: 2 * (i*count + k), Shares: [3]float64{1 - u - v, u, v}}
			x, y := (float64(i)+u)/count, (float64(k)+v)/count
			before, visited := 0.0, map[int]bool{}
			walk.Within(spot, reach, func(vertex int, way float64) {
				assert.GreaterOrEqual(t, way, before-1e-12, "the nearest comes first")
				before = way
				visited[vertex] = true
				want := math.Hypot(float64(vertex/(count+1))/count-x, float64(vertex%(count+1))/count-y)
				assert.InDelta(t, want, way, 0.05*want+0.02/count)
			})
			for vertex := range (count + 1) * (count + 1) {
				if want := math.Hypot(float64(vertex/(count+1))/count-x, float64(vertex%(count+1))/count-y); want < reach*0.9-0.02/count {
					assert.True(t, visited[vertex], "all within reach are visited")
				}
			}
		})
	}
}
