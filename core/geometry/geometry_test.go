package geometry

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func vector(t *rapid.T, label string, reach float64) mgl64.Vec3 {
	number := rapid.Float64Range(-reach, reach)
	return mgl64.Vec3{number.Draw(t, label+"X"), number.Draw(t, label+"Y"), number.Draw(t, label+"Z")}
}

func TestOrderIsTheOrderOfApplication(t *testing.T) {
	angles := mgl64.Vec3{0.3, -1.1, 2.2}
	x := mgl64.QuatRotate(angles[0], mgl64.Vec3{1, 0, 0})
	y := mgl64.QuatRotate(angles[1], mgl64.Vec3{0, 1, 0})
	z := mgl64.QuatRotate(angles[2], mgl64.Vec3{0, 0, 1})
	assert.True(t, Order("XYZ").Rotation(angles).OrientationEqual(z.Mul(y).Mul(x)))
	assert.True(t, Order("YXZ").Rotation(angles).OrientationEqual(z.Mul(x).Mul(y)))
	assert.False(t, Order("XXZ").Valid())
}

func TestFromAxesAimsMainAndSecond(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		main := Unit(vector(t, "main", 1), Up)
		second := vector(t, "second", 1)
		q := FromAxes(main, second)
		assert.InDelta(t, 0, q.Rotate(MainAxis).Sub(main).Len(), 1e-9)
		assert.InDelta(t, 0, q.Rotate(SecondAxis).Dot(main), 1e-9)
		assert.InDelta(t, 1, q.Len(), 1e-9)
	})
}

func TestShortestTakesOneVectorToAnotherEvenWhenOpposed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		from := Unit(vector(t, "from", 1), Up)
		to := Unit(vector(t, "to", 1), from.Mul(-1))
		assert.InDelta(t, 0, Shortest(from, to, Across(Forward, from)).Rotate(from).Sub(to).Len(), 1e-6)
	})
	opposed := Shortest(Up, Up.Mul(-1), Forward)
	assert.InDelta(t, -1, opposed.Rotate(Up)[1], 1e-12)
}

func TestWrapStaysInTheHalfOpenCircle(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		angle := rapid.Float64Range(-50, 50).Draw(t, "angle")
		wrapped := Wrap(angle)
		assert.True(t, wrapped > -math.Pi && wrapped <= math.Pi)
		assert.InDelta(t, math.Cos(angle), math.Cos(wrapped), 1e-12)
		assert.InDelta(t, math.Sin(angle), math.Sin(wrapped), 1e-12)
	})
}

func TestDegenerateDirectionsHaveStatedAnswers(t *testing.T) {
	assert.Equal(t, Up, Unit(mgl64.Vec3{}, Up))
	assert.Equal(t, Up, Unit(mgl64.Vec3{math.NaN(), 0, 0}, Up))
	assert.InDelta(t, 0, Across(Up, Up).Dot(Up), 1e-12)
	assert.InDelta(t, 1, Across(mgl64.Vec3{}, Up).Len(), 1e-12)
}

func transform(t *rapid.T, label string) Transform {
	return Transform{Position: vector(t, label, 100), Rotation: Order("XYZ").Rotation(vector(t, label+" turned", 7))}
}

// Transforms are a group, and their matrices say the same.
func TestTransformsChainAndUndo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := transform(t, "a"), transform(t, "b")
		p := vector(t, "point", 100)
		assert.InDelta(t, 0, a.Then(b).Apply(p).Sub(a.Apply(b.Apply(p))).Len(), 1e-10)
		assert.InDelta(t, 0, a.Inverse().Apply(a.Apply(p)).Sub(p).Len(), 1e-11)
		assert.Equal(t, p, Identity().Apply(p))
		byMatrix := a.Then(b).Matrix(mgl64.Vec3{1, 1, 1}).Mul4x1(p.Vec4(1)).Vec3()
		assert.InDelta(t, 0, byMatrix.Sub(a.Apply(b.Apply(p))).Len(), 1e-10)
		scale := mgl64.Vec3{2, 0.5, 3}
		scaled := a.Matrix(scale).Mul4x1(p.Vec4(1)).Vec3()
		want := a.Apply(mgl64.Vec3{p[0] * scale[0], p[1] * scale[1], p[2] * scale[2]})
		assert.InDelta(t, 0, scaled.Sub(want).Len(), 1e-10, "the scale is in its own axes, and comes first")
	})
}

func TestSignedAnglesTurnTheOneOntoTheOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		axis := transform(t, "axis").Rotation.Rotate(mgl64.Vec3{0, 0, 1})
		from := Across(mgl64.Vec3{1, 0.2, 0.1}, axis)
		angle := rapid.Float64Range(-3.1, 3.1).Draw(t, "angle")
		to := mgl64.QuatRotate(angle, axis).Rotate(from)
		assert.InDelta(t, angle, SignedAngle(from, to, axis), 1e-9)
		assert.InDelta(t, -angle, SignedAngle(to, from, axis), 1e-9)
	})
}

func TestSmoothstepRisesWithLevelEnds(t *testing.T) {
	assert.Zero(t, Smoothstep(-3))
	assert.Equal(t, 0.5, Smoothstep(0.5))
	assert.Equal(t, 1.0, Smoothstep(7))
	last := 0.0
	for i := range 101 {
		now := Smoothstep(float64(i) / 100)
		assert.GreaterOrEqual(t, now, last)
		last = now
	}
	assert.Less(t, Smoothstep(1e-4), 1e-7, "level where it begins")
	assert.Greater(t, Smoothstep(1-1e-4), 1-1e-7, "and where it ends")
}

func TestWhatIsNotFiniteIsSeen(t *testing.T) {
	assert.True(t, Finite())
	assert.True(t, Finite(0, -1e300))
	assert.False(t, Finite(1, math.NaN()))
	assert.False(t, FiniteVector(mgl64.Vec3{0, math.Inf(-1), 0}))
}

func TestBesideGoesRoundAndLeavesAgreementAlone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		axis := Unit(vector(t, "axis", 1), Up)
		other := Across(vector(t, "other", 1), axis)
		before := Beside(other.Mul(-0.2), other, axis)
		for s := -0.2; s <= 0.2; s += 1e-3 {
			now := Beside(other.Mul(s), other, axis)
			assert.InDelta(t, 0, now.Dot(axis), 1e-12)
			assert.Less(t, before.Normalize().Sub(now.Normalize()).Len(), 0.3, "at %g it turns on evenly", s)
			if s > 0 {
				assert.InDelta(t, 1, now.Normalize().Dot(other), 1e-12, "what agrees stays")
			}
			before = now
		}
	})
}
