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

func TestInverseUndoesAMotion(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		motion := Transform{Position: vector(t, "position", 100), Rotation: Order("XYZ").Rotation(vector(t, "angles", 7))}
		point := vector(t, "point", 100)
		assert.InDelta(t, 0, motion.Inverse().Apply(motion.Apply(point)).Sub(point).Len(), 1e-11)
	})
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
