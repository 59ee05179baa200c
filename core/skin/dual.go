package skin

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Motion is how a joint has gone from its rest: how it stretches what is around it there, and then where it takes that.
type Motion struct {
	Stretch mgl64.Mat3 // about Centre
	Centre  mgl64.Vec3
	Plain   bool // it stretches nothing
	real    mgl64.Quat
	dual    mgl64.Quat
	packed  [8]float32 // both again, w, x, y, z
}

// Set writes a motion that takes what is around the joint to a place, after it is stretched along the joint's own axes.
func (m *Motion) Set(now, rest geometry.Transform, girth mgl64.Vec3) {
	whole := now.Then(rest.Inverse())
	m.real = whole.Rotation
	t := mgl64.Quat{V: whole.Position}
	m.dual = t.Mul(m.real).Scale(0.5)
	for k, q := range [2]mgl64.Quat{m.real, m.dual} {
		m.packed[4*k], m.packed[4*k+1], m.packed[4*k+2], m.packed[4*k+3] = float32(q.W), float32(q.V[0]), float32(q.V[1]), float32(q.V[2])
	}
	m.Plain = girth == mgl64.Vec3{1, 1, 1}
	if !m.Plain {
		turn := rest.Rotation.Mat4().Mat3()
		m.Stretch, m.Centre = turn.Mul3(mgl64.Diag3(girth)).Mul3(turn.Transpose()), rest.Position
	}
}

// DeformDual moves positions by dual quaternions, so that what is twisted keeps its girth, and mixes so much of that, 0 to 1 and by the shares of the surface, into what stands in the surface's out lists. Own scale is applied
// before, blended as matrices, and all is scaled by size about a place at last. Where motions cancel there is no rotation to be told, and what stands there stays.
//
// Method: Kavan, Collins, Žára, O'Sullivan 2008, Geometric Skinning with Approximate Dual Quaternion Blending.
func DeformDual(motions []Motion, s *Surface, mix, size float64, about mgl64.Vec3) {
	w := s.Weights
	for vertex := range w.VertexCount() {
		share := mix
		if s.Dual != nil {
			if share *= float64(s.Dual[vertex]); share == 0 {
				continue
			}
		}
		if share == 1 && size == 1 && swift(motions, s, vertex) {
			continue
		}
		slow(motions, s, vertex, share, size, about)
	}
}

// swift moves a vertex that no own scale stretches, in single precision, number by number so that the sums stay in registers. It tells whether it could.
func swift(motions []Motion, s *Surface, vertex int) bool {
	joints := (*[Influences]uint16)(s.Weights.Joints[Influences*vertex:])
	values := (*[Influences]float32)(s.Weights.Values[Influences*vertex:])
	m := &motions[joints[0]]
	if !m.Plain {
		return false
	}
	lead, weight := &m.packed, values[0]
	rw, rx, ry, rz := weight*lead[0], weight*lead[1], weight*lead[2], weight*lead[3]
	dw, dx, dy, dz := weight*lead[4], weight*lead[5], weight*lead[6], weight*lead[7]
	for k := 1; k < Influences; k++ {
		if weight = values[k]; weight == 0 {
			break
		}
		if m = &motions[joints[k]]; !m.Plain {
			return false
		}
		q := &m.packed
		if q[0]*lead[0]+q[1]*lead[1]+q[2]*lead[2]+q[3]*lead[3] < 0 {
			weight = -weight
		}
		rw, rx, ry, rz = rw+weight*q[0], rx+weight*q[1], ry+weight*q[2], rz+weight*q[3]
		dw, dx, dy, dz = dw+weight*q[4], dx+weight*q[5], dy+weight*q[6], dz+weight*q[7]
	}
	square := rw*rw + rx*rx + ry*ry + rz*rz
	if !(square > 1e-6) {
		return false
	}
	share := 1 / float32(math.Sqrt(float64(square)))
	rw, rx, ry, rz, dw, dx, dy, dz = rw*share, rx*share, ry*share, rz*share, dw*share, dx*share, dy*share, dz*share
	p, o := (*[3]float32)(s.Positions[3*vertex:]), (*[3]float32)(s.Out[3*vertex:])
	x, y, z := p[0], p[1], p[2]
	cx, cy, cz := ry*z-rz*y+rw*x, rz*x-rx*z+rw*y, rx*y-ry*x+rw*z
	tx, ty, tz := rw*dx-dw*rx+ry*dz-rz*dy, rw*dy-dw*ry+rz*dx-rx*dz, rw*dz-dw*rz+rx*dy-ry*dx
	o[0], o[1], o[2] = x+2*(ry*cz-rz*cy+tx), y+2*(rz*cx-rx*cz+ty), z+2*(rx*cy-ry*cx+tz)
	n, u := (*[3]float32)(s.Normals[3*vertex:]), (*[3]float32)(s.OutNormals[3*vertex:])
	x, y, z = n[0], n[1], n[2]
	cx, cy, cz = ry*z-rz*y+rw*x, rz*x-rx*z+rw*y, rx*y-ry*x+rw*z
	u[0], u[1], u[2] = x+2*(ry*cz-rz*cy), y+2*(rz*cx-rx*cz), z+2*(rx*cy-ry*cx)
	return true
}

// slow moves any vertex, in double precision.
func slow(motions []Motion, s *Surface, vertex int, mix, size float64, about mgl64.Vec3) {
	w, at := s.Weights, Influences*vertex
	lead := motions[w.Joints[at]].real
	var real, dual mgl64.Quat
	p, n := vectorAt(s.Positions, vertex), vectorAt(s.Normals, vertex)
	stretched, slopes, plain := mgl64.Vec3{}, mgl64.Mat3{}, true
	for k := at; k < at+Influences; k++ {
		weight := float64(w.Values[k])
		if weight == 0 {
			continue
		}
		m := &motions[w.Joints[k]]
		signed := weight
		if m.real.Dot(lead) < 0 { // the same turn, told the other way round
			signed = -weight
		}
		real, dual = real.Add(m.real.Scale(signed)), dual.Add(m.dual.Scale(signed))
		if m.Plain {
			stretched, slopes = stretched.Add(p.Mul(weight)), slopes.Add(mgl64.Ident3().Mul(weight))
			continue
		}
		plain = false
		stretched = stretched.Add(m.Centre.Add(m.Stretch.Mul3x1(p.Sub(m.Centre))).Mul(weight))
		slopes = slopes.Add(m.Stretch.Mul(weight))
	}
	length := real.Len()
	if !(length > 1e-6) {
		return
	}
	if plain {
		stretched = p
	} else {
		n = geometry.Unit(geometry.Cofactor(slopes).Mul3x1(n), n)
	}
	real, dual = real.Scale(1/length), dual.Scale(1/length)
	shift := dual.Mul(real.Conjugate()).V.Mul(2)
	to := about.Add(real.Rotate(stretched).Add(shift).Sub(about).Mul(size))
	mixInto(s.Out, vertex, to, mix)
	mixInto(s.OutNormals, vertex, real.Rotate(n), mix)
	if mix < 1 {
		mixInto(s.OutNormals, vertex, geometry.Unit(vectorAt(s.OutNormals, vertex), n), 1)
	}
}

func vectorAt(list []float32, vertex int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*vertex]), float64(list[3*vertex+1]), float64(list[3*vertex+2])}
}

func mixInto(list []float32, vertex int, v mgl64.Vec3, mix float64) {
	for k := range 3 {
		was := float64(list[3*vertex+k])
		if value := was + mix*(v[k]-was); !math.IsNaN(value) {
			list[3*vertex+k] = float32(value)
		}
	}
}
