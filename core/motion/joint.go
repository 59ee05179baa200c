package motion

import (
	"sort"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// JointTrack is the prepared keys of one property of a joint.
type JointTrack struct {
	Joint    string
	Property rig.JointProperty
	keys     []rig.JointKey
}

// Frames lists the frames of the track's keys.
func (t *JointTrack) Frames() []float64 {
	frames := make([]float64, len(t.keys))
	for i, key := range t.keys {
		frames[i] = key.Frame
	}
	return frames
}

// Value returns the property at a frame: straight from key to key, a turn along the shorter arc; before the first and after the last
// it holds.
func (t *JointTrack) Value(frame float64) [4]float64 {
	next := sort.Search(len(t.keys), func(i int) bool { return t.keys[i].Frame > frame })
	if next == 0 {
		return t.keys[0].Value
	}
	a := t.keys[next-1]
	if next == len(t.keys) || a.Ease == rig.Stepped {
		return a.Value
	}
	b := t.keys[next]
	share := (frame - a.Frame) / (b.Frame - a.Frame)
	if t.Property != rig.JointTurn {
		for k := range a.Value {
			a.Value[k] += share * (b.Value[k] - a.Value[k])
		}
		return a.Value
	}
	from, to := rig.Quaternion(a.Value).Quat(), rig.Quaternion(b.Value).Quat()
	if from.Dot(to) < 0 {
		to = to.Scale(-1)
	}
	return rig.QuaternionOf(mgl64.QuatSlerp(from, to, share))
}
