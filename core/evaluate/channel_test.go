package evaluate_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/motion"
	"myriapod/core/rig"
)

// Hands, keys and both at once stay within the limits, and what is within them is passed on to the bit.
func TestChannelsStayWithinTheirLimits(t *testing.T) {
	d := creature(t)
	control := d.Controls[2]
	low, high := -0.25, 0.5
	d.Controls[2].Channels = map[rig.Channel]rig.ChannelState{rig.MoveX: {Min: &low, Max: &high}, rig.MoveY: {Locked: true}}
	d.Clips = append(d.Clips, rig.Clip{ID: "k9", Name: "sway", End: 10, Tracks: []rig.Track{
		{Control: control.ID, Channel: rig.MoveX, Keys: []rig.Key{{Frame: 0, Value: -2, Ease: rig.Linear}, {Frame: 10, Value: 2, Ease: rig.Linear}}},
	}})
	e := open(t, d)
	slot := e.Plan.ControlIndex[control.ID] * rig.ChannelCount
	for value, want := range map[float64]float64{-9: low, -0.1: -0.1, 0.3: 0.3, 9: high} {
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[control.ID], rig.MoveX, value))
		assert.Equal(t, want, e.Frame.Values[slot])
	}
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[control.ID], rig.MoveY, 3))
	assert.Zero(t, e.Frame.Values[slot+1], "a locked channel stays at rest")
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[control.ID], rig.MoveZ, 3))
	assert.Equal(t, 3.0, e.Frame.Values[slot+2], "its neighbour is free")
	assert.Error(t, e.SetChannel(e.Plan.ControlIndex[control.ID], rig.MoveX, math.NaN()))
	e.SetClip(motion.Prepare(d.Clips[0]))
	for frame, want := range map[float64]float64{0: low, 5: 0, 6: 0.4, 10: high} {
		e.SetFrame(frame)
		assert.InDelta(t, want, e.Frame.Values[slot], 1e-12)
	}
}
