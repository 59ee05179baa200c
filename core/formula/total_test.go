package formula_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/formula"
)

// TestATotalIsTheIntegralInClosedForm takes rates together whose integrals are known.
func TestATotalIsTheIntegralInClosedForm(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		from := rapid.Float64Range(-5, 5).Draw(t, "from")
		to := from + rapid.Float64Range(0.01, 40).Draw(t, "span")
		corner := from + (to-from)*rapid.Float64Range(0.1, 0.9).Draw(t, "corner")
		quick := rapid.Float64Range(0.1, 30).Draw(t, "quick")
		for name, c := range map[string]struct{ rate, whole func(float64) float64 }{
			"swing":  {func(s float64) float64 { return math.Cos(quick * s) }, func(s float64) float64 { return math.Sin(quick*s) / quick }},
			"corner": {func(s float64) float64 { return math.Abs(s - corner) }, func(s float64) float64 { return (s - corner) * math.Abs(s-corner) / 2 }},
			"bell":   {func(s float64) float64 { return 1 / (1 + s*s) }, math.Atan},
			"still":  {func(float64) float64 { return 0 }, func(float64) float64 { return 0 }},
		} {
			total := formula.NewTotal([]float64{from, to}, from, c.rate)
			for range 5 {
				at := rapid.Float64Range(from, to).Draw(t, "at")
				assert.InDelta(t, c.whole(at)-c.whole(from), total.At(at), 1e-9*math.Max(1, (to-from)*(to-from)), "%s at %g of %g to %g", name, at, from, to)
			}
		}
	})
}

func TestATotalOfNothingFiniteIsFinite(t *testing.T) {
	for _, rate := range []func(float64) float64{
		func(float64) float64 { return math.NaN() }, func(s float64) float64 { return 1 / (s - 1) }, func(s float64) float64 { return math.Sqrt(s - 1) },
		func(s float64) float64 { return 1e300 * math.Sin(1e9*s) },
	} {
		total := formula.NewTotal([]float64{0, 1, 1, 2}, 1, rate)
		for _, at := range []float64{-1e6, 0, 0.5, 1, 2, 1e6} {
			assert.False(t, math.IsNaN(total.At(at)) || math.IsInf(total.At(at), 0))
		}
	}
	assert.InDelta(t, 3, formula.NewTotal([]float64{2, 2}, 2, func(float64) float64 { return 1 }).At(5), 1e-12, "a clip of one frame")
}
