package driver_test

import (
	"math"
	"math/big"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/parameter"
)

var ways = []string{driver.Hold, driver.Straight, driver.Repeat, driver.Climb, driver.Mirror}

// drawAnswer draws points, and a curve through them.
func drawAnswer(t *rapid.T) ([]parameter.Point, parameter.Set, *driver.Answer) {
	xs := rapid.SliceOfNDistinct(rapid.Float64Range(-100, 100), 1, 12, rapid.ID[float64]).Draw(t, "places")
	sort.Float64s(xs)
	points := []parameter.Point{}
	for i, x := range xs {
		if i == 0 || x-points[len(points)-1][0] > 1e-3 {
			points = append(points, parameter.Point{x, rapid.Float64Range(-50, 50).Draw(t, "answer")})
		}
	}
	set := driver.Response{}.Declare().Parameters.Complete(parameter.Set{
		driver.Points: parameter.OfProfile(points...), driver.Join: parameter.OfChoice(rapid.SampledFrom([]string{driver.Smooth, driver.Straight, driver.Stepped}).Draw(t, "join")),
		driver.Before: parameter.OfChoice(rapid.SampledFrom(ways).Draw(t, "before")), driver.After: parameter.OfChoice(rapid.SampledFrom(ways).Draw(t, "after")),
	})
	require.NoError(t, driver.Response{}.Declare().Parameters.Check(set))
	return points, set, driver.NewAnswer(set)
}

// TestAResponseGoesThroughItsPoints is exact at points, never goes over them, and goes on evenly where it is not stepped.
func TestAResponseGoesThroughItsPoints(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		points, set, answer := drawAnswer(t)
		for i, p := range points {
			require.Equal(t, p[1], answer.At(p[0]))
			if i == 0 {
				continue
			}
			before := points[i-1]
			low, high := min(before[1], p[1]), max(before[1], p[1])
			for share := 0.0; share <= 1; share += 0.125 {
				x := min(p[0], before[0]+share*(p[0]-before[0]))
				y := answer.At(x)
				require.True(t, y >= low-1e-9 && y <= high+1e-9, "%g answers %g, outside of %g to %g", x, y, low, high)
				if set.Choice(driver.Join) == driver.Straight {
					require.InDelta(t, before[1]+share*(p[1]-before[1]), y, 1e-9)
				}
			}
		}
		if set.Choice(driver.Join) == driver.Stepped {
			return
		}
		for _, end := range []struct {
			point parameter.Point
			way   float64
			how   string
		}{{points[0], -1, set.Choice(driver.Before)}, {points[len(points)-1], 1, set.Choice(driver.After)}} {
			if end.how != driver.Repeat {
				require.InDelta(t, end.point[1], answer.At(end.point[0]+1e-9*end.way), 1e-3, "no jump at its ends, which go on by %s", end.how)
			}
		}
	})
}

// TestAResponseClimbsExactly turns a wheel by two points for 10,000 turns, against sums without rounding.
func TestAResponseClimbsExactly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x0, period := rapid.Float64Range(-5, 5).Draw(t, "from"), rapid.Float64Range(0.5, 3).Draw(t, "period")
		answer := driver.NewAnswer(driver.Response{}.Declare().Parameters.Complete(parameter.Set{
			driver.Points: parameter.OfProfile(parameter.Point{x0, 0}, parameter.Point{x0 + period, 360}),
			driver.Before: parameter.OfChoice(driver.Climb), driver.After: parameter.OfChoice(driver.Climb),
		}))
		x := rapid.Float64Range(-1e4, 1e4).Draw(t, "turns")*period + x0
		exact := new(big.Float).SetPrec(200).Sub(big.NewFloat(x), big.NewFloat(x0))
		exact.Mul(exact, big.NewFloat(360)).Quo(exact, new(big.Float).SetPrec(200).Sub(big.NewFloat(x0+period), big.NewFloat(x0)))
		want, _ := exact.Float64()
		require.InDelta(t, want, answer.At(x), 1e-9*math.Max(360, math.Abs(want)))
	})
}

func TestAResponseRepeatsAndMirrors(t *testing.T) {
	curve := parameter.OfProfile(parameter.Point{1, 0}, parameter.Point{2, 4}, parameter.Point{3, 1})
	of := func(how string) *driver.Answer {
		return driver.NewAnswer(driver.Response{}.Declare().Parameters.Complete(parameter.Set{
			driver.Points: curve, driver.Join: parameter.OfChoice(driver.Straight), driver.Before: parameter.OfChoice(how), driver.After: parameter.OfChoice(how),
		}))
	}
	for how, want := range map[string][]float64{ // at -0.5, 0.5, 3.5, 4.5
		driver.Hold: {0, 0, 1, 1}, driver.Straight: {-6, -2, -0.5, -3.5}, driver.Repeat: {2, 2.5, 2, 2.5}, driver.Climb: {1, 1.5, 3, 3.5}, driver.Mirror: {2.5, 2, 2.5, 2},
	} {
		for i, x := range []float64{-0.5, 0.5, 3.5, 4.5} {
			assert.InDelta(t, want[i], of(how).At(x), 1e-12, "%s at %g", how, x)
		}
	}
	for want, points := range map[string][]parameter.Point{
		"no two stand at one place": {{1, 2}, {1, 3}}, "1 to 200 points, not 0": {}, "numbers lie within": {{math.Inf(1), 0}},
	} {
		err := driver.Response{}.Declare().Parameters.Check(parameter.Set{driver.Points: parameter.OfProfile(points...)})
		assert.ErrorContains(t, err, want)
	}
}
