package rig

import (
	"fmt"
	"math"
)

// Channel names one number of a control.
type Channel string

// The channels of every control: moves in metres, rotations in radians. A dial is a channel under its own name.
const (
	MoveX   Channel = "moveX"
	MoveY   Channel = "moveY"
	MoveZ   Channel = "moveZ"
	RotateX Channel = "rotateX"
	RotateY Channel = "rotateY"
	RotateZ Channel = "rotateZ"
)

// Channels lists the channels of every control in the order that evaluation lays them out.
var Channels = []Channel{MoveX, MoveY, MoveZ, RotateX, RotateY, RotateZ}

// ChannelCount is the number of channels of every control.
const ChannelCount = 6

// Index returns the channel's place in Channels, or -1 for a dial.
func (c Channel) Index() int {
	for i, known := range Channels {
		if c == known {
			return i
		}
	}
	return -1
}

// Turns tells whether the channel is an angle.
func (c Channel) Turns() bool { return c.Index() >= 3 }

// ChannelState is what the rigger decided about one channel of a control: whether it may be touched, is shown, and how far it goes.
// The zero value is free.
type ChannelState struct {
	Hidden bool     `json:"hidden,omitempty"` // not among what animators see
	Locked bool     `json:"locked,omitempty"` // stays at rest
	Min    *float64 `json:"min,omitempty"`    // metres or radians, 0 or below
	Max    *float64 `json:"max,omitempty"`    // metres or radians, 0 or above
	// Soft is how long before its limits the channel begins to give way, metres or radians; 0 for hard limits.
	Soft float64 `json:"soft,omitempty"`
}

// softReach is how far beyond a soft limit, in lengths of its give, a channel's value may go: what it does there is within 1 % of the
// give from the limit.
const softReach = 4

// Within brings a value to where it may go: within hard limits, and not far beyond soft ones. A locked channel stays at rest. To do so
// twice is to do so once, so what is read from a channel can be set again.
func (s ChannelState) Within(value, rest float64) float64 {
	if s.Locked {
		return rest
	}
	if s.Min != nil {
		value = math.Max(value, *s.Min-softReach*s.Soft)
	}
	if s.Max != nil {
		value = math.Min(value, *s.Max+softReach*s.Soft)
	}
	return value
}

// Soften is what a held value does: within soft limits it eases towards them and never reaches them; without such it does what it says.
// It is smooth, and rises wherever the value does.
func (s ChannelState) Soften(value float64) float64 {
	if s.Soft == 0 {
		return value
	}
	if s.Max != nil {
		if give := math.Min(s.Soft, *s.Max); value > *s.Max-give {
			return *s.Max - ease(give, value-(*s.Max-give))
		}
	}
	if s.Min != nil {
		if give := math.Min(s.Soft, -*s.Min); value < *s.Min+give {
			return *s.Min + ease(give, *s.Min+give-value)
		}
	}
	return value
}

// ease is what is left of the give when a value has gone beyond its beginning.
func ease(give, beyond float64) float64 {
	if give <= 0 {
		return 0
	}
	return give * math.Exp(-beyond/give)
}

func (c Control) checkChannels(place string) error {
	for _, channel := range c.AllChannels() { // in order, so that of several errors it is always the same one
		state := c.Channels[channel]
		at := fmt.Sprintf("%s.channels.%s", place, channel)
		for _, limit := range []*float64{state.Min, state.Max, &state.Soft} {
			if limit == nil {
				continue
			}
			if err := checkPlace(at, *limit); err != nil {
				return err
			}
		}
		if channel.Index() < 0 && (state.Min != nil || state.Max != nil || state.Soft != 0) {
			return fmt.Errorf("%s: the range of a dial stands with the dial; change it there", at)
		}
		if state.Min != nil && state.Max != nil && *state.Min > *state.Max {
			return fmt.Errorf("%s: the lower limit %g is above the upper limit %g; change one of them", at, *state.Min, *state.Max)
		}
		if state.Min != nil && *state.Min > 0 || state.Max != nil && *state.Max < 0 {
			return fmt.Errorf("%s: the rest value 0 lies outside the limits; a lower limit is 0 or below, an upper one 0 or above", at)
		}
		if state.Soft < 0 {
			return fmt.Errorf("%s: the give of soft limits is 0 or more, not %g", at, state.Soft)
		}
	}
	for channel := range c.Channels {
		if c.ChannelIndex(channel) < 0 {
			return fmt.Errorf("%s.channels: there is no channel %q; a control has %v", place, channel, c.AllChannels())
		}
	}
	return nil
}
