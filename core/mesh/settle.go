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

// Settle returns the place of the surface that is nearest to p, sought downhill from a vertex: from face to neighbouring face as long as one is nearer.
func (w *Walk) Settle(vertex int, p mgl64.Vec3) mgl64.Vec3 {
	return w.SettleOn(vertex, p, func(v int) mgl64.Vec3 { return w.place[v] })
}

// SettleOn is as Settle, with vertices where place says.
func (w *Walk) SettleOn(vertex int, p mgl64.Vec3, place func(vertex int) mgl64.Vec3) mgl64.Vec3 {
	best, nearest := place(vertex), math.Inf(1)
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
		around = nil
		for _, corner := range w.t.corners(next) {
			around = append(around, w.t.faces[corner]...)
		}
	}
	return best
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
