package rig

import (
	"fmt"
	"math"
)

// ChannelState is what the rigger decided about one channel of a control: whether it may be touched, is shown, and how far it goes.
// The zero value is free.
type ChannelState struct {
	Hidden bool     `json:"hidden,omitempty"` // not among what animators see
	Locked bool     `json:"locked,omitempty"` // stays at rest
	Min    *float64 `json:"min,omitempty"`    // metres or radians, 0 or below
	Max    *float64 `json:"max,omitempty"`    // metres or radians, 0 or above
}

// Hold brings a value within the channel's limits. A locked channel stays at 0. To hold twice is to hold once, so what is read from a
// held channel can be set again.
func (s ChannelState) Hold(value float64) float64 {
	if s.Locked {
		return 0
	}
	if s.Min != nil {
		value = math.Max(value, *s.Min)
	}
	if s.Max != nil {
		value = math.Min(value, *s.Max)
	}
	return value
}

// State returns what the rigger decided about a channel.
func (c Control) State(channel Channel) ChannelState { return c.Channels[channel] }

func (c Control) checkChannels(place string) error {
	for _, channel := range Channels { // in order, so that of several errors it is always the same one
		state := c.Channels[channel]
		at := fmt.Sprintf("%s.channels.%s", place, channel)
		for _, limit := range []*float64{state.Min, state.Max} {
			if limit == nil {
				continue
			}
			if err := checkPlace(at, *limit); err != nil {
				return err
			}
		}
		if state.Min != nil && state.Max != nil && *state.Min > *state.Max {
			return fmt.Errorf("%s: the lower limit %g is above the upper limit %g; change one of them", at, *state.Min, *state.Max)
		}
		if state.Min != nil && *state.Min > 0 || state.Max != nil && *state.Max < 0 {
			return fmt.Errorf("%s: the rest value 0 lies outside the limits; a lower limit is 0 or below, an upper one 0 or above", at)
		}
	}
	for channel := range c.Channels {
		if channel.Index() < 0 {
			return fmt.Errorf("%s.channels: there is no channel %q; a control has %v", place, channel, Channels)
		}
	}
	return nil
}
