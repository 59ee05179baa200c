package motion_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/motion"
	"myriapod/core/rig"
)

func jointTrack(property rig.JointProperty, keys ...rig.JointKey) motion.JointTrack {
	return motion.Prepare(rig.Clip{JointTracks: []rig.JointTrack{{Joint: "j", Property: property, Keys: keys}}}).Joints[0]
}

func TestJointsGoStraightFromKeyToKey(t *testing.T) {
	move := jointTrack(rig.JointMove, rig.JointKey{Frame: 2, Value: [4]float64{1, 2, 3}, Ease: rig.Linear}, rig.JointKey{Frame: 6, Value: [4]float64{3, 2, -1}, Ease: rig.Stepped}, rig.JointKey{Frame: 8})
	assert.Equal(t, [4]float64{1, 2, 3}, move.Value(-5), "before the first key it holds")
	assert.Equal(t, [4]float64{2, 2, 1}, move.Value(4))
	assert.Equal(t, [4]float64{3, 2, -1}, move.Value(7.9), "stepped")
	assert.Equal(t, [4]float64{}, move.Value(80))
}

// A turn goes evenly along the shorter arc, whichever sign its keys have.
func TestTurnsTakeTheShorterArc(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1, 1)
		axis := mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z") + 1.5}.Normalize()
		angle := rapid.Float64Range(-3, 3).Draw(t, "angle")
		end := mgl64.QuatRotate(angle, axis)
		if rapid.Bool().Draw(t, "sign") {
			end = end.Scale(-1)
		}
		turn := jointTrack(rig.JointTurn, rig.JointKey{Frame: 0, Value: rig.Quaternion{0, 0, 0, 1}, Ease: rig.Linear}, rig.JointKey{Frame: 10, Value: rig.QuaternionOf(end), Ease: rig.Linear})
		share := rapid.Float64Range(0, 1).Draw(t, "share")
		got := rig.Quaternion(turn.Value(10 * share)).Quat()
		want := mgl64.QuatRotate(angle*share, axis)
		assert.InDelta(t, 1, math.Abs(got.Dot(want)), 1e-9)
	})
}

func TestMorphsArePreparedLikeChannels(t *testing.T) {
	clip := motion.Prepare(rig.Clip{MorphTracks: []rig.MorphTrack{
		{Part: "p", Morph: "m", Keys: []rig.Key{{Frame: 0, Value: 0, Ease: rig.Linear}, {Frame: 4, Value: 1, Ease: rig.Linear}}}, {Part: "p", Morph: "empty"},
	}})
	assert.Len(t, clip.Morphs, 1, "a track without keys moves nothing")
	assert.InDelta(t, 0.25, clip.Morphs[0].Value(1), 1e-12)
}
