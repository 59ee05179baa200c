package rig_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// anyControl is a control with any order, and perhaps with a pivot, a start and a mirror.
func anyControl(t *rapid.T) rig.Control {
	number := rapid.Float64Range(-2, 2)
	vector := func(name string) mgl64.Vec3 {
		return mgl64.Vec3{number.Draw(t, name), number.Draw(t, name), number.Draw(t, name)}
	}
	c := rig.Control{
		Name: "hand", Position: vector("place"), Rotation: rig.QuaternionOf(geometry.Order("XYZ").Rotation(vector("turn"))),
		Order: rapid.SampledFrom(geometry.Orders).Draw(t, "order"), Mirrored: rapid.Bool().Draw(t, "mirrored"),
	}
	if rapid.Bool().Draw(t, "pivoted") {
		pivot := vector("pivot")
		c.Pivot = &pivot
	}
	if rapid.Bool().Draw(t, "started") {
		c.Start = &rig.Placement{Position: vector("start"), Rotation: rig.QuaternionOf(geometry.Order("XYZ").Rotation(vector("started")))}
	}
	return c
}

func TestChannelsMakeTheOffsetThatTheyWereFoundFor(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := anyControl(t)
		var channels [rig.ChannelCount]float64
		for k := range channels {
			channels[k] = rapid.Float64Range(-9, 9).Draw(t, "channel")
		}
		offset := c.Offset(channels[:])
		found := c.ChannelsFor(offset, channels)
		for k := range channels {
			assert.InDelta(t, channels[k], found[k], 1e-6, "near what it was, %s comes out as it was", rig.Channels[k])
		}
		again := c.Offset(found[:])
		assert.InDelta(t, 0, again.Position.Sub(offset.Position).Len(), 1e-9)
		assert.InDelta(t, 1, math.Abs(again.Rotation.Dot(offset.Rotation)), 1e-12)
	})
}

func TestAPivotStaysWhereItIsWhenTheControlTurns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := anyControl(t)
		pivot := mgl64.Vec3{0.3, -0.7, 0.2}
		c.Pivot, c.Start = &pivot, nil
		at := pivot
		if c.Mirrored {
			at[0] = -at[0]
		}
		angle := rapid.Float64Range(-7, 7)
		offset := c.Offset([]float64{0, 0, 0, angle.Draw(t, "x"), angle.Draw(t, "y"), angle.Draw(t, "z")})
		assert.InDelta(t, 0, offset.Apply(at).Sub(at).Len(), 1e-9)
	})
}

// Within soft limits a channel rises all the way, ever slower, and never comes to the limit; halving a step halves the change.
func TestSoftLimitsGiveWay(t *testing.T) {
	least, most := -1.0, 2.0
	state := rig.ChannelState{Min: &least, Max: &most, Soft: 0.5}
	before := math.Inf(-1)
	for value := -20.0; value < 20; value += 0.01 {
		now := state.Soften(state.Within(value, 0))
		assert.GreaterOrEqual(t, now, before)
		assert.True(t, now > least && now < most, "%g becomes %g", value, now)
		if value > -0.5 && value < 1.5 {
			assert.InDelta(t, value, now, 1e-12, "away from the limits it does what it says")
		}
		before = now
	}
	assert.InDelta(t, state.Soften(1.5-1e-9), state.Soften(1.5+1e-9), 3e-9)
	held := state.Within(1000, 0)
	assert.Equal(t, held, state.Within(held, 0), "what is held is held again as it is")
	assert.Equal(t, 7.0, rig.ChannelState{}.Soften(7))
}

func TestDialsHaveTheirPlaceAndRest(t *testing.T) {
	c := rig.Control{Dials: []rig.Dial{{Name: "grip", Min: 0, Max: 10, Default: 4}, {Name: "rate", Min: -1, Max: 1}}}
	assert.Equal(t, rig.ChannelCount+1, c.ChannelIndex("rate"))
	assert.Equal(t, 4, c.ChannelIndex(rig.RotateY))
	assert.Equal(t, -1, c.ChannelIndex("nothing"))
	assert.Equal(t, 4.0, c.RestValue("grip"))
	assert.Zero(t, c.RestValue(rig.MoveX))
	assert.Equal(t, append(append([]rig.Channel{}, rig.Channels...), "grip", "rate"), c.AllChannels())
	assert.Equal(t, 10.0, c.Within("grip", 99), "a dial stays in its range")
	c.Channels = map[rig.Channel]rig.ChannelState{"grip": {Locked: true}}
	assert.Equal(t, 4.0, c.Within("grip", 99), "a locked dial stays at rest")
}

func TestWhatIsWrongWithAControlIsToldWithItsPlace(t *testing.T) {
	for want, spoil := range map[string]func(*rig.Control){
		`dials[0].name: there is a channel "moveX" already`:           func(c *rig.Control) { c.Dials = []rig.Dial{{Name: rig.MoveX, Max: 1}} },
		`dials[1].name: there is a channel "grip" already`:            func(c *rig.Control) { c.Dials = []rig.Dial{{Name: "grip", Max: 1}, {Name: "grip", Max: 1}} },
		"dials[0]: the lower end 1 is not below the upper end 0":      func(c *rig.Control) { c.Dials = []rig.Dial{{Name: "grip", Min: 1}} },
		"dials[0]: the default 3 lies outside its range, 0 to 1":      func(c *rig.Control) { c.Dials = []rig.Dial{{Name: "grip", Max: 1, Default: 3}} },
		`a control with 1 more spaces has a dial "space" from 0 to 1`: func(c *rig.Control) { c.Spaces = []string{""} },
		"colour": func(c *rig.Control) { c.Colour = "blue" },
		"shape":  func(c *rig.Control) { c.Shape = "teapot" },
		"pivot":  func(c *rig.Control) { c.Pivot = &mgl64.Vec3{math.NaN(), 0, 0} },
		"start":  func(c *rig.Control) { c.Start = &rig.Placement{} },
	} {
		d := rig.New("x")
		d.Controls = []rig.Control{{
			ID: "c1", Name: "hand", Rotation: rig.QuaternionOf(mgl64.QuatIdent()), Order: "XYZ", Shape: rig.Hoop, Outline: []mgl64.Vec3{{}},
		}}
		require.NoError(t, d.Validate())
		spoil(&d.Controls[0])
		assert.ErrorContains(t, d.Validate(), want)
	}
}
