package mesh

import "math"

// Strike returns the spot at which a ray meets a surface first. ok is false when it meets nothing.
func (m *Mesh) Strike(ray Ray) (spot Spot, ok bool) {
	nearest := math.Inf(1)
	for face := range m.FaceCount() {
		a, b, c := m.Corner(face)
		hit, met := crossTriangle(ray, a, b, c)
		if !met || hit.Distance >= nearest {
			continue
		}
		nearest = hit.Distance
		spot, ok = Spot{face, sharesOf(ray.Origin.Add(ray.Direction.Mul(hit.Distance)), a, b, c)}, true
	}
	return spot, ok
}

// Check tells whether a spot lies on a surface of so many faces.
func (s Spot) Check(faces int) bool {
	sum := 0.0
	for _, share := range s.Shares {
		if !(share >= -1e-6 && share <= 1+1e-6) {
			return false
		}
		sum += share
	}
	return s.Face >= 0 && s.Face < faces && math.Abs(sum-1) < 1e-6
}

// Image returns the spot nearest to the mirror image of another across the middle of the body, x = 0, by the middles of faces. ok is false where there is none
// within a way of that image.
func (w *Walk) Image(s Spot, within float64) (image Spot, ok bool) {
	place := w.Place(s)
	place[0] = -place[0]
	nearest := within
	for face := range w.t.mesh.FaceCount() {
		a, b, c := w.t.mesh.Corner(face)
		if d := a.Add(b).Add(c).Mul(1.0 / 3).Sub(place).Len(); d < nearest {
			third := 1.0 / 3
			nearest, image, ok = d, Spot{face, [3]float64{third, third, third}}, true
		}
	}
	return image, ok
}
