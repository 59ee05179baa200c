package edit_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

// Where a control stands above rest becomes the upper end, below it the lower one; what stands at rest or is locked stays free.
func TestLimitsAreSetWhereItStands(t *testing.T) {
	d := worm(t)
	id := d.Controls[2].ID
	yes := true
	d = apply(t, d, &edit.ChangeChannels{Controls: []string{id}, Changes: []edit.ChannelChange{{Channel: rig.MoveZ, Locked: &yes}}})
	d = apply(t, d, &edit.LimitHere{Controls: []string{id}, Values: map[rig.Channel]float64{rig.MoveX: 0.5, rig.RotateY: -1, rig.MoveY: 1e-9, rig.MoveZ: 3}})
	state := d.Control(id).Channels
	assert.Equal(t, 0.5, *state[rig.MoveX].Max)
	assert.Nil(t, state[rig.MoveX].Min)
	assert.Equal(t, -1.0, *state[rig.RotateY].Min)
	assert.NotContains(t, state, rig.MoveY)
	assert.Nil(t, state[rig.MoveZ].Max)
	refuse(t, d, &edit.LimitHere{Controls: []string{id}, Values: map[rig.Channel]float64{rig.MoveY: 0}}, "it stands at rest")

	small := d.Clone() // what is slight goes by the size of all
	for i := range small.Joints {
		small.Joints[i].Position = small.Joints[i].Position.Mul(1e-6)
	}
	for i := range small.Controls {
		small.Controls[i].Position, small.Controls[i].Channels = small.Controls[i].Position.Mul(1e-6), nil
	}
	small = apply(t, small, &edit.LimitHere{Controls: []string{id}, Values: map[rig.Channel]float64{rig.MoveX: 5e-7, rig.MoveY: 1e-15}})
	assert.Equal(t, 5e-7, *small.Control(id).Channels[rig.MoveX].Max)
	assert.NotContains(t, small.Control(id).Channels, rig.MoveY)
}

// A pose is keyed by all channels that are not locked.
func TestAPoseIsKeyedWhole(t *testing.T) {
	d := worm(t)
	control := d.Controls[2]
	yes := true
	d = apply(t, d, &edit.ChangeChannels{Controls: []string{control.ID}, Changes: []edit.ChannelChange{{Channel: rig.MoveZ, Locked: &yes}}})
	before := len(d.Clips[0].Tracks)
	d = apply(t, d, &edit.KeyPose{Clip: d.Clips[0].ID, Frame: 7, Ease: rig.Smooth, Poses: []edit.PoseOf{{Control: control.ID, Values: map[rig.Channel]float64{rig.MoveX: 1, rig.MoveZ: 4, rig.RotateX: 0}}}})
	keyed := map[rig.Channel]float64{}
	for _, track := range d.Clips[0].Tracks[before:] {
		require.Equal(t, control.ID, track.Control)
		keyed[track.Channel] = track.Keys[0].Value
	}
	assert.Equal(t, map[rig.Channel]float64{rig.MoveX: 1, rig.RotateX: 0}, keyed)
	refuse(t, d, &edit.KeyPose{Clip: d.Clips[0].ID, Poses: []edit.PoseOf{{Control: "gone"}}}, `no control "gone"`)
}

// A series stands at all joints whose names fit, but for what is repeated and what that hangs on.
func TestASeriesStandsAtJointsByName(t *testing.T) {
	d := chain(t, 5)
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.5, 1, 0}, {0.6, 0.5, 0}}, Pattern: "leg_#", Parent: d.Joints[1].ID})
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Series, Sources: []string{d.Joints[5].ID}, Like: "SPINE_*"})
	assert.Equal(t, []string{d.Joints[0].ID, d.Joints[2].ID, d.Joints[3].ID, d.Joints[4].ID}, d.Repeats[0].Stations)
	refuse(t, chain(t, 3), &edit.AddRepeat{Rule: rig.Series, Sources: []string{chain(t, 3).Joints[1].ID}, Like: "wing?"}, `no other joint is called "wing?"`)
}
