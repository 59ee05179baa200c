package motion_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/motion"
	"myriapod/core/rig"
)

func track(keys ...rig.Key) motion.Track {
	return motion.Prepare(rig.Clip{Tracks: []rig.Track{{Control: "c", Channel: rig.MoveX, Keys: keys}}}).Tracks[0]
}

func TestEachEaseDoesWhatItSays(t *testing.T) {
	linear := track(rig.Key{Frame: 0, Value: 0, Ease: rig.Linear}, rig.Key{Frame: 10, Value: 5, Ease: rig.Linear})
	assert.InDelta(t, 2.5, linear.Value(5), 1e-12)
	assert.Equal(t, 0.0, linear.Value(-3), "before the first key it holds")
	assert.Equal(t, 5.0, linear.Value(99), "after the last key it holds")
	stepped := track(rig.Key{Frame: 0, Value: 1, Ease: rig.Stepped}, rig.Key{Frame: 10, Value: 5, Ease: rig.Stepped})
	assert.Equal(t, 1.0, stepped.Value(9.99))
	assert.Equal(t, 5.0, stepped.Value(10))
	smooth := track(rig.Key{Frame: 0, Value: 0, Ease: rig.Smooth}, rig.Key{Frame: 10, Value: 1, Ease: rig.Smooth})
	assert.InDelta(t, 0.5, smooth.Value(5), 1e-12)
	assert.Less(t, smooth.Value(1), 0.05, "it starts gently")
}

func TestSmoothKeysMeetTheirValuesAndNeverOvershoot(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		keys := []rig.Key{}
		frame := 0.0
		for range rapid.IntRange(2, 8).Draw(t, "keys") {
			frame += rapid.Float64Range(0.5, 40).Draw(t, "gap")
			keys = append(keys, rig.Key{Frame: frame, Value: rapid.Float64Range(-9, 9).Draw(t, "value"), Ease: rig.Smooth})
		}
		smooth := track(keys...)
		for i, key := range keys[:len(keys)-1] {
			assert.InDelta(t, key.Value, smooth.Value(key.Frame), 1e-9)
			low, high := math.Min(key.Value, keys[i+1].Value), math.Max(key.Value, keys[i+1].Value)
			for k := range 21 {
				value := smooth.Value(key.Frame + (keys[i+1].Frame-key.Frame)*float64(k)/20)
				assert.True(t, value >= low-1e-9 && value <= high+1e-9, "%g leaves %g..%g", value, low, high)
			}
		}
	})
}

func TestSettingAndRemovingKeysLeavesTheOldList(t *testing.T) {
	keys := []rig.Key{{Frame: 0}, {Frame: 10, Value: 1}}
	set := motion.SetKey(keys, rig.Key{Frame: 5, Value: 9})
	assert.Equal(t, []float64{0, 5, 10}, []float64{set[0].Frame, set[1].Frame, set[2].Frame})
	assert.Len(t, motion.SetKey(set, rig.Key{Frame: 5.0001, Value: 2}), 3, "a key at the same frame is replaced")
	assert.Len(t, motion.RemoveKey(set, 5), 2)
	assert.Equal(t, []rig.Key{{Frame: 0}, {Frame: 10, Value: 1}}, keys)
}
