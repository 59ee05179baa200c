package mesh

import (
	"cmp"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Sole returns the outline of surfaces as seen from above, of what lies within reach metres of a frame, in that frame: a closed convex line
// on the ground, height 0, set off by margin as a share of its width. It returns nil when fewer than three points lie there, or all in
// one line.
//
// Method: the monotone chain (Andrew 1979, Another efficient algorithm for convex hulls in two dimensions).
func Sole(surfaces []*Mesh, at geometry.Transform, reach, margin float64) []mgl64.Vec3 {
	var points []mgl64.Vec2
	for _, m := range surfaces {
		for i := range m.VertexCount() {
			if p := m.Vertex(i); p.Sub(at.Position).Len() <= reach {
				points = append(points, mgl64.Vec2{p[0], p[2]})
			}
		}
	}
	hull := convexHull(points)
	if len(hull) < 3 {
		return nil
	}
	middle := mgl64.Vec2{}
	for _, p := range hull {
		middle = middle.Add(p.Mul(1 / float64(len(hull))))
	}
	back := at.Inverse()
	outline := make([]mgl64.Vec3, len(hull))
	for i, p := range hull {
		p = middle.Add(p.Sub(middle).Mul(1 + margin))
		outline[i] = back.Apply(mgl64.Vec3{p[0], 0, p[1]})
	}
	return outline
}

func convexHull(points []mgl64.Vec2) []mgl64.Vec2 {
	slices.SortFunc(points, func(a, b mgl64.Vec2) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	half := func(from []mgl64.Vec2) []mgl64.Vec2 {
		var chain []mgl64.Vec2
		for _, p := range from {
			for len(chain) > 1 && turn(chain[len(chain)-2], chain[len(chain)-1], p) <= 0 {
				chain = chain[:len(chain)-1]
			}
			chain = append(chain, p)
		}
		return chain
	}
	lower := half(points)
	slices.Reverse(points)
	upper := half(points)
	if len(lower) < 2 {
		return lower
	}
	return append(lower[:len(lower)-1], upper[:len(upper)-1]...)
}

func turn(a, b, c mgl64.Vec2) float64 {
	return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0])
}
