package geometry

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestAnglesUndoRotationAndKeepWholeTurns(t *testing.T) {
	angle := rapid.OneOf(rapid.Float64Range(-9, 9), rapid.SampledFrom([]float64{0, math.Pi / 2, -math.Pi / 2, math.Pi, -math.Pi}))
	rapid.Check(t, func(t *rapid.T) {
		order := rapid.SampledFrom(Orders).Draw(t, "order")
		angles := mgl64.Vec3{angle.Draw(t, "x"), angle.Draw(t, "y"), angle.Draw(t, "z")}
		q := order.Rotation(angles)
		again := order.Angles(q, angles)
		assert.InDelta(t, 1, math.Abs(order.Rotation(again).Dot(q)), 1e-12)
		middle := angles[order[1]-'X']
		if math.Abs(math.Cos(middle)) > 1e-3 {
			assert.InDelta(t, 0, again.Sub(angles).Len(), 1e-6, "the angles themselves, with their whole turns")
		}
		assert.InDelta(t, 1, math.Abs(order.Rotation(order.Angles(q, mgl64.Vec3{})).Dot(q)), 1e-12, "whatever they shall be near to")
	})
}
