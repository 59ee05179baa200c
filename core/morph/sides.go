package morph

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Mirrored returns a shape with left and right exchanged: each vertex goes as its mirror image goes. images is from mesh.Walk.Images.
func Mirrored(w *mesh.Walk, by []float32, images []mesh.Spot) []float32 {
	out := make([]float32, len(by))
	for v, spot := range images {
		if spot.Face < 0 {
			continue
		}
		sum := mgl64.Vec3{}
		for k, corner := range w.Corners(spot) {
			sum = sum.Add(vector(by, corner).Mul(spot.Shares[k]))
		}
		out[3*v], out[3*v+1], out[3*v+2] = float32(-sum[0]), float32(sum[1]), float32(sum[2])
	}
	return out
}

// BothSides has what a hand did to a grip done to the mirror images of what it holds as well. Where both fall on one vertex it goes by both, each by its share.
func BothSides(w *mesh.Walk, g Grip, by []mgl64.Vec3, images []mesh.Spot) (Grip, []mgl64.Vec3) {
	at := map[int]int{}
	for i, vertex := range g.Vertices {
		at[vertex] = i
	}
	whole := Grip{}
	var moves []mgl64.Vec3
	for vertex, spot := range images {
		sum, weight, most := mgl64.Vec3{}, 0.0, 0.0
		if i, held := at[vertex]; held {
			sum, weight, most = by[i].Mul(g.Shares[i]), g.Shares[i], g.Shares[i]
		}
		image, share := mgl64.Vec3{}, 0.0
		for k, corner := range cornersOf(w, spot) {
			if i, held := at[corner]; held {
				image, share = image.Add(by[i].Mul(spot.Shares[k])), share+g.Shares[i]*spot.Shares[k]
			}
		}
		sum = sum.Add(mgl64.Vec3{-image[0], image[1], image[2]}.Mul(share))
		if weight += share; weight > 0 {
			whole.Vertices, whole.Shares = append(whole.Vertices, vertex), append(whole.Shares, math.Max(most, share))
			moves = append(moves, sum.Mul(1/weight))
		}
	}
	return whole, moves
}

// cornersOf lists what a spot lies between; nothing for one that is nowhere.
func cornersOf(w *mesh.Walk, s mesh.Spot) []int {
	if s.Face < 0 {
		return nil
	}
	c := w.Corners(s)
	return c[:]
}

// Sides splits a shape: what of it is on the left, +X, and on the right, which hand over to each other within so much to each side of the middle, in metres. Together they are the whole.
func Sides(surface *mesh.Mesh, by []float32, blend float64) (left, right []float32) {
	left, right = make([]float32, len(by)), make([]float32, len(by))
	for v := range surface.VertexCount() {
		x := surface.Vertex(v)[0]
		share := float32(0.5)
		switch {
		case blend > 0:
			share = float32(geometry.Smoothstep(0.5 + 0.5*x/blend))
		case x > 0:
			share = 1
		case x < 0:
			share = 0
		}
		for k := 3 * v; k < 3*v+3; k++ {
			left[k] = share * by[k]
			right[k] = by[k] - left[k]
		}
	}
	return left, right
}
