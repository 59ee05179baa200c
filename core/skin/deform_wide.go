//go:build goexperiment.simd && amd64

package skin

import "simd/archsimd"

// wide is a skinning matrix by column, each with a fourth number that is nothing: x axis and y axis, then z axis and translation, so that it is two registers of eight.
type wide [16]float32

// canWiden tells whether the processor has what deformWide is written for.
var canWiden = archsimd.X86.AVX2() && archsimd.X86.FMA()

// widen writes matrices by column.
func widen(to []wide, palette []Matrix) {
	for i := range palette {
		for row := range 3 {
			for column := range 4 {
				to[i][4*column+row] = palette[i][4*row+column]
			}
		}
	}
}

var turned = [8]uint32{1, 2, 0, 3, 5, 6, 4, 7} // y, z, x of both halves

// deformWide does what deformRange does with eight numbers at once: two fused multiply-adds for an influence, and both cross products of a normal together. It writes one number too many, which the
// next vertex writes anew; the last one is left to deformRange. The sums are in another order, so that the bits are those of one kind of processor.
func deformWide(s *Surface, palette []wide, from, to int) {
	weights, positions, normals, outPositions, outNormals := s.Weights, s.Positions, s.Normals, s.Out, s.OutNormals
	next := archsimd.LoadUint32x8(&turned)
	last := to - 1
	for vertex := from; vertex < last; vertex++ {
		joints := (*[Influences]uint16)(weights.Joints[Influences*vertex:])
		values := (*[Influences]float32)(weights.Values[Influences*vertex:])
		m := &palette[joints[0]]
		w := archsimd.BroadcastFloat32x8(values[0])
		xy := archsimd.LoadFloat32x8((*[8]float32)(m[:8])).Mul(w)
		zt := archsimd.LoadFloat32x8((*[8]float32)(m[8:])).Mul(w)
		for k := 1; k < Influences; k++ {
			if values[k] == 0 {
				break
			}
			m = &palette[joints[k]]
			w = archsimd.BroadcastFloat32x8(values[k])
			xy = archsimd.LoadFloat32x8((*[8]float32)(m[:8])).MulAdd(w, xy)
			zt = archsimd.LoadFloat32x8((*[8]float32)(m[8:])).MulAdd(w, zt)
		}
		p := (*[3]float32)(positions[3*vertex:])
		x, y, z := archsimd.BroadcastFloat32x4(p[0]), archsimd.BroadcastFloat32x4(p[1]), archsimd.BroadcastFloat32x4(p[2])
		a, b, c := xy.GetLo(), xy.GetHi(), zt.GetLo()
		place := a.MulAdd(x, b.MulAdd(y, c.MulAdd(z, zt.GetHi())))
		place.Store((*[4]float32)(outPositions[3*vertex:]))

		// The normal by the cofactor matrix: (b × c) x + (c × a) y + (a × b) z = (b x - a y) × c + (a z) × b.
		n := (*[3]float32)(normals[3*vertex:])
		x, y, z = archsimd.BroadcastFloat32x4(n[0]), archsimd.BroadcastFloat32x4(n[1]), archsimd.BroadcastFloat32x4(n[2])
		u := xy.SetLo(b.Mul(x).Sub(a.Mul(y))).SetHi(a.Mul(z))
		v := zt.SetHi(b)
		crossed := u.Mul(v.Permute(next)).Sub(u.Permute(next).Mul(v)).Permute(next)
		up := crossed.GetLo().Add(crossed.GetHi())
		square := up.Mul(up)
		square = square.AddPairs(square)
		length := square.AddPairs(square).Sqrt() // in all four
		if !(length.GetElem(0) > 1e-20) {        // pressed flat: there is no telling
			o := (*[3]float32)(outNormals[3*vertex:])
			o[0], o[1], o[2] = n[0], n[1], n[2]
			continue
		}
		up.Div(length).Store((*[4]float32)(outNormals[3*vertex:]))
	}
	archsimd.ClearAVXUpperBits()
	deformRange(s, max(from, last), to)
}
