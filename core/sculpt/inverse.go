package sculpt

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/geometry"
)

const (
	// flat is the least singular value, beside the size of the specimen, under which what moves a vertex counts as pressing it flat.
	flat = 0.1
	// tries bounds the steps of Newton's method. Joints and morph targets take one; what works after the skin takes a few.
	tries = 8
	// near is how near to where they are wanted vertices must come, as a share of the part's size: what single precision can tell.
	near = 2e-6
)

// reach moves shaped vertices so that they are seen where the hand wants them: from where they stand now by so much.
//
// Method: Newton's, for all at once; a step goes through the inverse of the slopes, damped where their least singular value is small (Maciejewski and Klein 1988, Numerical filtering for the operation of
// robotic manipulators through kinematically singular configurations).
func (s *Sculptor) reach(vertices []int, by []mgl64.Vec3, now []float32) {
	size := s.part.Rest.Bounds().Size() * s.e.Frame.Size
	inverses := make([]mgl64.Mat3, len(vertices))
	for i, v := range vertices {
		inverses[i] = inverse(s.slope(v), flat*s.e.Frame.Size)
	}
	best, nearest := s.shaped, math.Inf(1)
	current := append([]float32{}, s.shaped...)
	seen := now
	short := make([]float64, len(vertices))
	for try := range tries {
		far := 0.0
		for i, v := range vertices {
			short[i] = vector(now, v).Add(by[i]).Sub(vector(seen, v)).Len()
			far = math.Max(far, short[i])
		}
		if far < nearest {
			best, nearest = append([]float32{}, current...), far
			s.note(vertices, short, near*size)
		} else if try > 1 {
			break // it comes no nearer
		}
		if far <= near*size {
			break
		}
		for i, v := range vertices {
			off := vector(now, v).Add(by[i]).Sub(vector(seen, v))
			if to := vector(current, v).Add(inverses[i].Mul3x1(off)); geometry.FiniteVector(to) {
				put(current, v, to)
			}
		}
		s.shaped = current
		seen = append([]float32{}, s.seen()...)
	}
	s.shaped = best
}

// note keeps how far vertices fall short of where the hand wants them, if it is more than single precision can tell.
func (s *Sculptor) note(vertices []int, short []float64, least float64) {
	for i, v := range vertices {
		if delete(s.short, v); short[i] > least {
			s.short[v] = short[i]
		}
	}
}

// slope is how a vertex goes where it is seen, by column, with where it stands in its shape.
func (s *Sculptor) slope(vertex int) (m mgl64.Mat3) {
	for axis := range 3 {
		for k := range 3 {
			m[3*axis+k] = float64(s.slopes[axis][3*vertex+k])
		}
	}
	return m
}

// inverse is that of a matrix, damped along the directions that it presses to less than so much.
func inverse(m mgl64.Mat3, least float64) (out mgl64.Mat3) {
	var svd mat.SVD
	if !svd.Factorize(mat.NewDense(3, 3, []float64{m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]}), mat.SVDFull) {
		return out
	}
	var u, v mat.Dense
	svd.UTo(&u)
	svd.VTo(&v)
	values := svd.Values(nil)
	for k, value := range values {
		share := 1 / value
		if value < least { // value / (value² + damping²), with the damping that falls to nothing at the least: damping² = least² - value²
			share = value / (least * least)
		}
		for row := range 3 {
			for column := range 3 {
				out[3*column+row] += v.At(row, k) * share * u.At(column, k)
			}
		}
	}
	return out
}
