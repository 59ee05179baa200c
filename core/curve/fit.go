package curve

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"
)

// Weight of the places between the given ones when a curve is fitted: enough to make few places determine many points,
// too little to flatten the curve where the given places do.
const betweenWeight = 0.03

// Fit returns the spline of count points that passes through the first and last of places and comes nearest to the others,
// by linear least squares over chord-length parameters. The line between neighbouring places pulls weakly as well, so
// that the answer is unique for any number of places from two upwards. It returns an error when count is under two, when
// there are fewer than two places, or when all places are one.
func Fit(places []mgl64.Vec3, count int) (*BSpline, error) {
	if len(places) < 2 || count < 2 {
		return nil, fmt.Errorf("a curve needs two places and two points or more, not %d and %d", len(places), count)
	}
	samples := sampleChords(places, count)
	if samples == nil {
		return nil, fmt.Errorf("a curve needs places apart from each other; all %d are in one spot", len(places))
	}
	fitted := New(make([]mgl64.Vec3, count))
	fitted.Points[0], fitted.Points[count-1] = places[0], places[len(places)-1]
	if count == 2 {
		return fitted, nil
	}
	return fitted, fitted.solveInner(samples)
}

type sample struct {
	u, weight float64
	place     mgl64.Vec3
}

// sampleChords gives each place its chord-length parameter and puts some weak samples on each chord.
func sampleChords(places []mgl64.Vec3, count int) []sample {
	total := 0.0
	for i := 1; i < len(places); i++ {
		total += places[i].Sub(places[i-1]).Len()
	}
	if !(total > 0) || math.IsInf(total, 1) {
		return nil
	}
	between := 4*count/len(places) + 1
	samples := []sample{}
	run := 0.0
	for i := 1; i < len(places); i++ {
		chord := places[i].Sub(places[i-1])
		length := chord.Len()
		for k := 1; k <= between; k++ {
			share := float64(k) / float64(between+1)
			samples = append(samples, sample{(run + share*length) / total, betweenWeight, places[i-1].Add(chord.Mul(share))})
		}
		run += length
		samples = append(samples, sample{run / total, 1, places[i]})
	}
	return samples
}

func (b *BSpline) solveInner(samples []sample) error {
	inner := len(b.Points) - 2
	left := mat.NewDense(len(samples), inner, nil)
	right := mat.NewDense(len(samples), 3, nil)
	for row, s := range samples {
		basis, first := b.Basis(s.u)
		rest := s.place
		for k := range b.degree + 1 {
			switch i := first + k; i {
			case 0, len(b.Points) - 1:
				rest = rest.Sub(b.Points[i].Mul(basis[k]))
			default:
				left.Set(row, i-1, s.weight*basis[k])
			}
		}
		right.SetRow(row, []float64{s.weight * rest[0], s.weight * rest[1], s.weight * rest[2]})
	}
	var solution mat.Dense
	if err := solution.Solve(left, right); err != nil {
		return fmt.Errorf("the curve's points could not be solved for: %w", err)
	}
	for i := range inner {
		b.Points[i+1] = mgl64.Vec3{solution.At(i, 0), solution.At(i, 1), solution.At(i, 2)}
	}
	return nil
}
