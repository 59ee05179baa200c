package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/motion"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// TestARangeOfMotionComesToEveryEnd plays the clip and looks that each limited channel comes to its ends, alone, and that nothing else moves.
func TestARangeOfMotionComesToEveryEnd(t *testing.T) {
	d := handles(t, "arm", "hand", "free")
	low, high := -0.5, 1.2
	states := map[rig.Channel]rig.ChannelState{rig.RotateX: {Min: &low, Max: &high}, rig.MoveY: {Max: &high}, rig.MoveZ: {Locked: true, Min: &low}}
	d.Controls[0].Channels = states
	d.Controls[1].Channels = map[rig.Channel]rig.ChannelState{rig.RotateZ: {Min: &low}}
	d = rigtest.Apply(t, d, &edit.AddRangeClip{})
	clip := d.Clips[0]
	require.Len(t, clip.Tracks, 3)
	assert.Equal(t, 24*4, clip.End)
	e := rigtest.Open(t, d)
	e.SetClip(motion.Prepare(clip))
	reached := map[string][2]float64{}
	for frame := range clip.End + 1 {
		e.SetFrame(float64(frame))
		e.Evaluate()
		moving := 0
		for i, control := range d.Controls {
			for _, channel := range rig.Channels {
				value := e.Frame.Channel(i, channel)
				name := control.Name + "." + string(channel)
				was := reached[name]
				reached[name] = [2]float64{min(was[0], value), max(was[1], value)}
				if value != 0 {
					moving++
				}
			}
		}
		require.LessOrEqual(t, moving, 1, "one after the other")
	}
	assert.Equal(t, [2]float64{-0.5, 1.2}, reached["arm.rotateX"])
	assert.Equal(t, [2]float64{0, 1.2}, reached["arm.moveY"])
	assert.Equal(t, [2]float64{-0.5, 0}, reached["hand.rotateZ"])
	assert.Equal(t, [2]float64{}, reached["arm.moveZ"])

	wider := -0.9
	d.Controls[1].Channels = map[rig.Channel]rig.ChannelState{rig.RotateZ: {Min: &wider}}
	again := rigtest.Apply(t, d, &edit.AddRangeClip{})
	require.Len(t, again.Clips, 1, "it is made anew in its place")
	assert.Equal(t, clip.ID, again.Clips[0].ID)
	assert.Equal(t, -0.9, again.Clips[0].Tracks[2].Keys[1].Value)

	plenty := rigtest.Apply(t, d, &edit.AddRangeClip{Controls: []string{d.Controls[2].ID}}) // which nothing limits
	tracks := plenty.ClipNamed("range_of_motion").Tracks
	require.Len(t, tracks, 3, "there are no joints to tell how far it moves")
	for _, track := range tracks {
		assert.Len(t, track.Keys, 5)
		assert.Equal(t, track.Keys[1].Value, -track.Keys[3].Value)
		assert.Negative(t, track.Keys[1].Value)
	}
	whole := d.Clone()
	whole.Controls[2].Name = rig.RootName
	rigtest.Refuse(t, whole, &edit.AddRangeClip{Controls: []string{d.Controls[2].ID}}, "move the whole")
	rigtest.Refuse(t, d, &edit.AddRangeClip{Controls: []string{"nobody"}}, "no control")
}
