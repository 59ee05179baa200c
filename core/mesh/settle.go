package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Twins visits the vertices that stand in the place of one, itself among them.
func (w *Walk) Twins(vertex int, visit func(vertex int)) {
	for _, twin := range w.t.twins[w.t.weld[vertex]] {
		visit(int(twin))
	}
}

// Upright is the normal of the surface at a vertex, of all faces around its place weighted by their angles there, with vertices where place says. Without area it is nothing.
func (w *Walk) Upright(vertex int, place func(vertex int) mgl64.Vec3) (sum mgl64.Vec3) {
	at := w.t.weld[vertex]
	for _, face := range w.t.faces[at] {
		corners := w.t.corners(face)
		for k, corner := range corners {
			if corner != at {
				continue
			}
			p, q, r := place(int(at)), place(int(corners[(k+1)%3])), place(int(corners[(k+2)%3]))
			sum = sum.Add(geometry.Unit(q.Sub(p).Cross(r.Sub(p)), mgl64.Vec3{}).Mul(cornerAngle(p, q, r)))
		}
	}
	return geometry.Unit(sum, mgl64.Vec3{})
}

// mostSteps bounds how many faces a place is followed over.
const mostSteps = 10_000

// SettleOn returns the place of the surface that is nearest to p, sought downhill from a vertex, with vertices where place says. A vertex without faces is its own place.
func (w *Walk) SettleOn(vertex int, p mgl64.Vec3, place func(vertex int) mgl64.Vec3) mgl64.Vec3 {
	at, _ := w.downhill(vertex, p, place)
	return at
}

// NearestOn returns the spot of the surface that is nearest to p, sought downhill from the nearest vertex that belongs to a face. ok is false where there are no faces.
func (w *Walk) NearestOn(p mgl64.Vec3) (spot Spot, ok bool) {
	if w.onFaces == nil {
		w.onFaces = newPlaces(w.place, func(v int) bool { return len(w.t.faces[w.t.weld[v]]) > 0 })
	}
	vertex, _ := w.onFaces.Nearest(p)
	if vertex < 0 {
		return spot, false
	}
	at, face := w.downhill(vertex, p, func(v int) mgl64.Vec3 { return w.place[v] })
	c := w.t.corners(face)
	return Spot{int(face), sharesOf(at, w.place[c[0]], w.place[c[1]], w.place[c[2]])}, true
}

// downhill goes from the faces at a vertex to neighbouring ones as long as one is nearer to p, and returns the nearest place and its face; -1 for none.
func (w *Walk) downhill(vertex int, p mgl64.Vec3, place func(vertex int) mgl64.Vec3) (best mgl64.Vec3, on int32) {
	best, on = place(vertex), -1
	nearest := math.Inf(1)
	around := w.t.faces[w.t.weld[vertex]]
	for range mostSteps {
		next := int32(-1)
		for _, face := range around {
			c := w.t.corners(face)
			at := nearestOf(p, place(int(c[0])), place(int(c[1])), place(int(c[2])))
			if d := at.Sub(p).LenSqr(); d < nearest {
				best, nearest, next = at, d, face
			}
		}
		if next < 0 {
			break
		}
		on, around = next, nil
		for _, corner := range w.t.corners(next) {
			around = append(around, w.t.faces[corner]...)
		}
	}
	return best, on
}

// nearestOf is the place of a triangle that is nearest to p (Ericson 2005, Real-Time Collision Detection, 5.1.5).
func nearestOf(p, a, b, c mgl64.Vec3) mgl64.Vec3 {
	ab, ac, ap := b.Sub(a), c.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return a
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return b
	}
	if vc := d1*d4 - d3*d2; vc <= 0 && d1 >= 0 && d3 <= 0 {
		return a.Add(ab.Mul(d1 / (d1 - d3)))
	}
	cp := p.Sub(c)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return c
	}
	if vb := d5*d2 - d1*d6; vb <= 0 && d2 >= 0 && d6 <= 0 {
		return a.Add(ac.Mul(d2 / (d2 - d6)))
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		return b.Add(c.Sub(b).Mul((d4 - d3) / ((d4 - d3) + (d5 - d6))))
	}
	vb, vc := d5*d2-d1*d6, d1*d4-d3*d2
	share := 1 / (va + vb + vc)
	if !geometry.Finite(share) {
		return a
	}
	return a.Add(ab.Mul(vb * share)).Add(ac.Mul(vc * share))
}

// NearestOnStretch is the place of the stretch from a to b that is nearest to p.
func NearestOnStretch(p, a, b mgl64.Vec3) mgl64.Vec3 {
	along := b.Sub(a)
	share := p.Sub(a).Dot(along) / along.LenSqr()
	if !(share > 0) {
		return a
	}
	return a.Add(along.Mul(math.Min(1, share)))
}

// sharesOf is by how much of each corner a place of a triangle is.
func sharesOf(p, a, b, c mgl64.Vec3) [3]float64 {
	whole := b.Sub(a).Cross(c.Sub(a))
	square := whole.LenSqr()
	if !(square > 0) {
		return [3]float64{1, 0, 0}
	}
	u := b.Sub(p).Cross(c.Sub(p)).Dot(whole) / square
	v := c.Sub(p).Cross(a.Sub(p)).Dot(whole) / square
	return [3]float64{u, v, 1 - u - v}
}
