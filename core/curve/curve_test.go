package curve

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/integrate/quad"
	"pgregory.net/rapid"

	"myriapod/core/geometry"
)

func randomSpline(t *rapid.T) *BSpline {
	number := rapid.Float64Range(-5, 5)
	points := make([]mgl64.Vec3, rapid.IntRange(2, 12).Draw(t, "points"))
	for i := range points {
		points[i] = mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
	}
	return New(points)
}

func TestDerivativeMatchesDifferences(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		u := rapid.Float64Range(0.01, 0.99).Draw(t, "u")
		const h = 1e-6
		before, _ := b.At(u - h)
		after, _ := b.At(u + h)
		_, derivative := b.At(u)
		assert.InDelta(t, 0, derivative.Sub(after.Sub(before).Mul(1/(2*h))).Len(), 1e-3)
	})
}

func TestEndsAreInterpolated(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		first, _ := b.At(0)
		last, _ := b.At(1)
		assert.Equal(t, b.Points[0], first)
		assert.Equal(t, b.Points[len(b.Points)-1], last)
	})
}

func TestRefinementRunsAlongTheSameCurve(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		_, fine := b.Refine(rapid.IntRange(1, 9).Draw(t, "parts"))
		for i := range 41 {
			u := float64(i) / 40
			want, wantSlope := b.At(u)
			got, gotSlope := fine.At(u)
			assert.InDelta(t, 0, want.Sub(got).Len(), 1e-12)
			assert.InDelta(t, 0, wantSlope.Sub(gotSlope).Len(), 1e-9)
		}
	})
}

func TestArcLengthAgainstFineQuadrature(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		r := NewRuler(b)
		r.Measure(geometry.Up, geometry.Forward, geometry.Up)
		want := 0.0
		pieces := 2000 * b.Spans()
		for i := range pieces {
			want += quad.Fixed(func(u float64) float64 { _, d := b.At(u); return d.Len() },
				float64(i)/float64(pieces), float64(i+1)/float64(pieces), 6, nil, 0)
		}
		assert.InDelta(t, want, r.Total(), 1e-6*want+1e-12)
		u := rapid.Float64Range(0, 1).Draw(t, "u")
		assert.InDelta(t, r.ArcAt(u), r.ArcAt(r.Locate(r.ArcAt(u))), 1e-9*r.Total()+1e-12)
	})
}

func TestFramesStayUnitAndSquareAndDoNotTurnOnAPlaneCurve(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		for i := range b.Points {
			b.Points[i][2] = 0
		}
		r := NewRuler(b)
		r.Measure(geometry.Up, geometry.Forward, geometry.Up)
		for i := range 33 {
			_, f := r.FrameAt(float64(i) / 32)
			assert.InDelta(t, 1, f.Tangent.Len(), 1e-9)
			assert.InDelta(t, 0, f.Tangent.Dot(f.Normal), 1e-9)
			assert.InDelta(t, 1, f.Normal[2], 1e-6, "a frame across a plane curve must stay across it")
		}
	})
}

// A rotation-minimising frame along a helix turns back by the torsion, which is known in closed form.
func TestFramesTurnByTheTorsionOfAHelix(t *testing.T) {
	const turns, radius, rise = 2.0, 1.0, 0.5
	places := make([]mgl64.Vec3, 400)
	for i := range places {
		a := turns * 2 * math.Pi * float64(i) / float64(len(places)-1)
		places[i] = mgl64.Vec3{radius * math.Cos(a), rise * a, radius * math.Sin(a)}
	}
	b, err := Fit(places, 120)
	require.NoError(t, err)
	r := NewRuler(b)
	inward := func(u float64) mgl64.Vec3 { // principal normal: towards the axis
		p, _ := b.At(u)
		return mgl64.Vec3{-p[0], 0, -p[2]}
	}
	_, d := b.At(0)
	r.Measure(geometry.Up, geometry.Across(inward(0), d.Normalize()), geometry.Up)
	_, end := r.End()
	principal := geometry.Across(inward(1), end.Tangent)
	speed := math.Hypot(radius, rise)
	torsion := turns * 2 * math.Pi * rise / speed
	turned := geometry.SignedAngle(end.Normal, principal, end.Tangent)
	miss := math.Min(math.Abs(geometry.Wrap(turned-torsion)), math.Abs(geometry.Wrap(turned+torsion)))
	assert.InDelta(t, 0, miss, 2e-3)
}

func TestFitKeepsEndsAndRecoversASpline(t *testing.T) {
	b := New([]mgl64.Vec3{{0, 0, 0}, {0, 0.2, 1}, {0, -0.2, 2}, {0, 0, 3}})
	places := make([]mgl64.Vec3, 30)
	for i := range places {
		places[i], _ = b.At(float64(i) / 29)
	}
	fitted, err := Fit(places, 5)
	require.NoError(t, err)
	assert.Equal(t, places[0], fitted.Points[0])
	assert.Equal(t, places[29], fitted.Points[4])
	for i, p := range places {
		got, _ := fitted.At(float64(i) / 29)
		assert.InDelta(t, 0, got.Sub(p).Len(), 0.05)
	}
}

func TestFitOfFewPlacesAndItsRefusals(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		places := randomSpline(t).Points
		count := rapid.IntRange(2, 14).Draw(t, "count")
		fitted, err := Fit(places, count)
		if err != nil {
			return
		}
		for _, p := range fitted.Points {
			assert.True(t, geometry.FiniteVector(p))
		}
	})
	_, err := Fit([]mgl64.Vec3{{1, 1, 1}, {1, 1, 1}}, 4)
	require.ErrorContains(t, err, "one spot")
	_, err = Fit([]mgl64.Vec3{{1, 1, 1}}, 4)
	require.ErrorContains(t, err, "two places")
}

// Frames go on evenly from one side of every node of the ruler's table to the other: a rounding before it, a rounding behind it, and on it.
func TestFramesMeetAtTheNodes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := randomSpline(t)
		size, away := math.Pow(10, rapid.Float64Range(-3, 3).Draw(t, "size")), rapid.Float64Range(0, 1000).Draw(t, "away")
		for i := range b.Points {
			b.Points[i] = b.Points[i].Mul(size).Add(mgl64.Vec3{away * math.Min(1, size), 0, 0})
		}
		r := NewRuler(b)
		r.Measure(geometry.Up, geometry.Forward, geometry.Up)
		for i := 1; i < len(r.nodes)-1; i++ {
			n := r.nodes[i]
			if math.Min(r.nodes[i-1].speed, math.Min(n.speed, r.nodes[i+1].speed)) < 0.02*r.total {
				continue // near a cusp it turns fast
			}
			for _, step := range []float64{1e-16, 3e-16, 1e-14, 1e-12, 1e-9} {
				_, before := r.FrameAt(n.u - step)
				_, behind := r.FrameAt(n.u + step)
				require.Less(t, before.Normal.Sub(n.frame.Normal).Len(), 1e-5, "%g before node %d", step, i)
				require.Less(t, behind.Normal.Sub(n.frame.Normal).Len(), 1e-5, "%g behind node %d", step, i)
			}
		}
	})
}
