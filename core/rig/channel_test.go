package rig_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"myriapod/core/rig"
)

func TestAChannelIsHeldWithinItsLimits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		low, high := -rapid.Float64Range(0, 10).Draw(t, "low"), rapid.Float64Range(0, 10).Draw(t, "high")
		value := rapid.Float64Range(-100, 100).Draw(t, "value")
		both := rig.ChannelState{Min: &low, Max: &high}
		held := both.Within(value, 0)
		assert.True(t, low <= held && held <= high)
		assert.Equal(t, held, both.Within(held, 0), "to hold twice is to hold once")
		if low <= value && value <= high {
			assert.Equal(t, value, held)
		}
		assert.GreaterOrEqual(t, rig.ChannelState{Min: &low}.Within(value, 0), low)
		assert.Equal(t, value, rig.ChannelState{Hidden: true}.Within(value, 0))
		assert.Zero(t, rig.ChannelState{Locked: true, Max: &high}.Within(value, 0))
	})
}

func TestLimitsThatCannotBeMetAreRefused(t *testing.T) {
	number := func(v float64) *float64 { return &v }
	for want, states := range map[string]map[rig.Channel]rig.ChannelState{
		"controls[0].channels.moveX: the lower limit 0 is above":  {rig.MoveX: {Min: number(0), Max: number(-1)}},
		"controls[0].channels.moveY: the rest value 0 lies outsi": {rig.MoveY: {Min: number(1)}},
		"controls[0].channels.rotateZ: the rest value 0 lies out": {rig.RotateZ: {Max: number(-1)}},
		"controls[0].channels.moveZ":                              {rig.MoveZ: {Max: number(math.Inf(1))}},
		`controls[0].channels: there is no channel "wag"`:         {"wag": {Locked: true}},
	} {
		d := whole()
		d.Controls[0].Channels = states
		assert.ErrorContains(t, d.Validate(), want)
	}
	d := whole()
	d.Controls[0].Channels = map[rig.Channel]rig.ChannelState{rig.MoveX: {Min: number(-1), Max: number(0)}}
	assert.NoError(t, d.Validate())
}
