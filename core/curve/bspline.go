// Package curve holds the clamped uniform B-splines that chains ride on: evaluation, exact refinement, arc length,
// rotation-minimising frames and fitting.
//
// Evaluation follows Piegl and Tiller, The NURBS Book (2nd ed. 1997), algorithms A2.2, A2.3 and A5.1.
package curve

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
)

// BSpline is a clamped uniform B-spline over u in [0, 1]. Points may be moved freely between calls; their number is fixed.
type BSpline struct {
	Points []mgl64.Vec3
	degree int
	knots  []float64
}

// MaxDegree is the degree of a spline of four points or more; fewer points lower it to their number less one.
const MaxDegree = 3

// New returns a spline over points, which it keeps and does not copy. It panics for fewer than two points.
func New(points []mgl64.Vec3) *BSpline {
	if len(points) < 2 {
		panic(fmt.Sprintf("curve: a spline needs two points or more, not %d", len(points)))
	}
	degree := min(MaxDegree, len(points)-1)
	return &BSpline{Points: points, degree: degree, knots: clampedKnots(len(points), degree)}
}

func clampedKnots(points, degree int) []float64 {
	spans := points - degree
	knots := make([]float64, points+degree+1)
	for i := range knots {
		knots[i] = float64(min(max(i-degree, 0), spans)) / float64(spans)
	}
	return knots
}

// Clone returns a spline of the same make with points of its own.
func (b *BSpline) Clone() *BSpline {
	return &BSpline{Points: slices.Clone(b.Points), degree: b.degree, knots: b.knots}
}

// Spans returns the number of polynomial pieces; piece i covers u in [i/Spans, (i+1)/Spans].
func (b *BSpline) Spans() int { return len(b.Points) - b.degree }

// Greville returns the parameter that point i has most to say about: the mean of the knots inside its support.
func (b *BSpline) Greville(i int) float64 {
	sum := 0.0
	for _, knot := range b.knots[i+1 : i+1+b.degree] {
		sum += knot
	}
	return sum / float64(b.degree)
}

// At returns the place and the first derivative at u, which is brought into [0, 1].
func (b *BSpline) At(u float64) (place, derivative mgl64.Vec3) {
	basis, slopes, first := b.basis(u)
	for i := range b.degree + 1 {
		p := b.Points[first+i]
		place = place.Add(p.Mul(basis[i]))
		derivative = derivative.Add(p.Mul(slopes[i]))
	}
	return place, derivative
}

// Basis returns the weights that the points first, first+1, ... have at u; they sum to one.
func (b *BSpline) Basis(u float64) (weights [MaxDegree + 1]float64, first int) {
	weights, _, first = b.basis(u)
	return weights, first
}

func (b *BSpline) basis(u float64) (basis, slopes [MaxDegree + 1]float64, first int) {
	u = min(1, max(0, u))
	spans := b.Spans()
	span := min(int(u*float64(spans)), spans-1) + b.degree
	var left, right [MaxDegree + 1]float64
	basis[0] = 1
	for j := 1; j <= b.degree; j++ {
		left[j] = u - b.knots[span+1-j]
		right[j] = b.knots[span+j] - u
		if j == b.degree {
			slopes = b.slopes(basis, span)
		}
		saved := 0.0
		for r := range j {
			share := basis[r] / (right[r+1] + left[j-r])
			basis[r] = saved + right[r+1]*share
			saved = left[j-r] * share
		}
		basis[j] = saved
	}
	return basis, slopes, span - b.degree
}

// slopes differentiates from the basis of one degree less (The NURBS Book, equation 2.7).
func (b *BSpline) slopes(lower [MaxDegree + 1]float64, span int) (slopes [MaxDegree + 1]float64) {
	p := b.degree
	for r := range p + 1 {
		if r > 0 {
			slopes[r] += float64(p) * lower[r-1] / (b.knots[span+r] - b.knots[span+r-p])
		}
		if r < p {
			slopes[r] -= float64(p) * lower[r] / (b.knots[span+r+1] - b.knots[span+r+1-p])
		}
	}
	return slopes
}
