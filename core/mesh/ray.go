package mesh

import (
	"cmp"
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
	slices.SortFunc(hits, func(x, y Hit) int { return cmp.Compare(x.Distance, y.Distance) })
	return hits
}

func crossTriangle(ray Ray, a, b, c mgl64.Vec3) (Hit, bool) {
	ab, ac := b.Sub(a), c.Sub(a)
	p := ray.Direction.Cross(ac)
	determinant := ab.Dot(p)
	if !(math.Abs(determinant) > 1e-14*ab.Len()*ac.Len()) {
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

// VolumeCentre returns the middle of the volume under a ray: of the solids that it runs through, those that touch the first
// one are taken together, and the middle of the thickest of them wins, so that a fin on a body or a strap around it does
// not draw the centre away. ok is false when the ray meets nothing.
func VolumeCentre(ray Ray, meshes []*Mesh) (centre mgl64.Vec3, ok bool) {
	ray.Direction = geometry.Unit(ray.Direction, geometry.Forward)
	var solids []solid
	for _, m := range meshes {
		solids = append(solids, solidsAlong(m.Hits(ray))...)
	}
	if len(solids) == 0 {
		return centre, false
	}
	slices.SortFunc(solids, func(a, b solid) int { return cmp.Compare(a.in, b.in) })
	thickest, end := solids[0], solids[0].out
	for _, s := range solids[1:] {
		if s.in > end {
			break
		}
		end = math.Max(end, s.out)
		if s.out-s.in > thickest.out-thickest.in {
			thickest = s
		}
	}
	return ray.Origin.Add(ray.Direction.Mul((thickest.in + thickest.out) / 2)), true
}

// solid is where a ray is inside one body: from in to out, in distances along it.
type solid struct{ in, out float64 }

// solidsAlong pairs entries with the exits that close them; entries within a solid are part of it. A surface that is entered and
// never left, or seen from inside only, is a solid without thickness.
func solidsAlong(hits []Hit) []solid {
	var solids []solid
	depth := 0
	for _, hit := range hits {
		switch {
		case hit.Enters && depth == 0:
			solids = append(solids, solid{hit.Distance, hit.Distance})
			depth = 1
		case hit.Enters:
			depth++
		case depth > 0:
			depth--
			solids[len(solids)-1].out = hit.Distance
		}
	}
	if len(solids) == 0 && len(hits) > 0 {
		solids = append(solids, solid{hits[0].Distance, hits[0].Distance})
	}
	return solids
}
