package mesh

import (
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Ray is a half line; Direction is a unit vector.
type Ray struct{ Origin, Direction mgl64.Vec3 }

// Hit is where a ray meets a surface: its Distance along the ray, and whether it Enters the body there.
type Hit struct {
	Distance float64
	Enters   bool
}

// Hits returns every crossing of the ray with m, nearest first. A crossing on an edge shared by two triangles counts once
// or twice; readers take pairs of entry and exit and are not misled by it.
//
// Method: Möller and Trumbore 1997, Fast, minimum storage ray/triangle intersection.
func (m *Mesh) Hits(ray Ray) []Hit {
	var hits []Hit
	for i := range len(m.Triangles) / 3 {
		a, b, c := m.Corner(i)
		if hit, ok := crossTriangle(ray, a, b, c); ok {
			hits = append(hits, hit)
		}
	}
	slices.SortFunc(hits, func(x, y Hit) int {
		switch {
		case x.Distance < y.Distance:
			return -1
		case x.Distance > y.Distance:
			return 1
		}
		return 0
	})
	return hits
}

func crossTriangle(ray Ray, a, b, c mgl64.Vec3) (Hit, bool) {
	ab, ac := b.Sub(a), c.Sub(a)
	p := ray.Direction.Cross(ac)
	determinant := ab.Dot(p)
	if math.Abs(determinant) < 1e-18 {
		return Hit{}, false
	}
	from := ray.Origin.Sub(a)
	u := from.Dot(p) / determinant
	if u < 0 || u > 1 {
		return Hit{}, false
	}
	q := from.Cross(ab)
	v := ray.Direction.Dot(q) / determinant
	if v < 0 || u+v > 1 {
		return Hit{}, false
	}
	distance := ac.Dot(q) / determinant
	return Hit{Distance: distance, Enters: determinant > 0}, distance > 0
}

// VolumeCentre returns the middle of the first solid that the ray runs through in any of the meshes: half way between
// where it first enters and where it next leaves the same mesh. ok is false when the ray meets nothing. An open surface
// that is entered and never left gives the entry point itself.
func VolumeCentre(ray Ray, meshes []*Mesh) (centre mgl64.Vec3, ok bool) {
	ray.Direction = geometry.Unit(ray.Direction, geometry.Forward)
	nearest := math.Inf(1)
	for _, m := range meshes {
		in, out, hit := firstSolid(m.Hits(ray))
		if hit && in < nearest {
			nearest = in
			centre, ok = ray.Origin.Add(ray.Direction.Mul((in+out)/2)), true
		}
	}
	return centre, ok
}

// firstSolid returns the distances of the first entry and of the exit that closes it, counting nested entries.
func firstSolid(hits []Hit) (in, out float64, ok bool) {
	depth := 0
	for _, hit := range hits {
		switch {
		case hit.Enters && depth == 0 && !ok:
			in, out, ok = hit.Distance, hit.Distance, true
			depth = 1
		case hit.Enters && hit.Distance > in:
			depth++
		case !hit.Enters && ok:
			depth--
			if depth == 0 {
				return in, hit.Distance, true
			}
		}
	}
	if !ok && len(hits) > 0 { // seen only from inside or with faces turned: the surface itself
		return hits[0].Distance, hits[0].Distance, true
	}
	return in, out, ok
}
