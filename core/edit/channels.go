package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/rig"
)

// ChannelChange changes what may be done with one channel. What is left out stays.
type ChannelChange struct {
	Channel rig.Channel `json:"channel"`
	Locked  *bool       `json:"locked,omitempty"`
	Hidden  *bool       `json:"hidden,omitempty"`
	Min     *float64    `json:"min,omitempty"` // metres or radians
	Max     *float64    `json:"max,omitempty"`
	FreeMin bool        `json:"freeMin,omitempty"` // takes the lower limit away
	FreeMax bool        `json:"freeMax,omitempty"`
}

// ChangeChannels locks, hides and limits channels, of each of the controls alike.
type ChangeChannels struct {
	Controls []string        `json:"controls"`
	Changes  []ChannelChange `json:"changes"`
}

// Title implements Edit.
func (e *ChangeChannels) Title(d *rig.Document) string {
	whose := controlsNamed(d, e.Controls)
	if len(e.Changes) != 1 {
		return fmt.Sprintf("Change %d channels of %s", len(e.Changes), whose)
	}
	return fmt.Sprintf("%s %s of %s", e.Changes[0].verb(), e.Changes[0].Channel, whose)
}

func (c ChannelChange) verb() string {
	switch {
	case c.Locked != nil && *c.Locked:
		return "Lock"
	case c.Locked != nil:
		return "Unlock"
	case c.Hidden != nil && *c.Hidden:
		return "Hide"
	case c.Hidden != nil:
		return "Show"
	case c.FreeMin || c.FreeMax:
		return "Free"
	}
	return "Limit"
}

// Touches implements Edit.
func (e *ChangeChannels) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit. A channel whose keys would be silenced is not locked.
func (e *ChangeChannels) Apply(_ *Context, d *rig.Document) error {
	if len(e.Changes) == 0 {
		return errors.New("no channel is chosen; choose one or more")
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.Channels == nil {
			control.Channels = map[rig.Channel]rig.ChannelState{}
		}
		for _, change := range e.Changes {
			if err := change.apply(d, control); err != nil {
				return err
			}
		}
		if len(control.Channels) == 0 {
			control.Channels = nil
		}
		return nil
	})
}

func (c ChannelChange) apply(d *rig.Document, control *rig.Control) error {
	if c.Channel.Index() < 0 {
		return fmt.Errorf("there is no channel %q; a control has %v", c.Channel, rig.Channels)
	}
	was := control.State(c.Channel)
	now := c.of(was)
	if clip := clipMoving(d, control.ID, c.Channel); now.Locked && !was.Locked && clip != nil {
		return fmt.Errorf("%s of %s moves in the clip %s; delete its keys there, then lock it", c.Channel, control.Name, clip.Name)
	}
	control.Channels[c.Channel] = now
	if now == (rig.ChannelState{}) { // what is free is not written down
		delete(control.Channels, c.Channel)
	}
	return nil
}

func (c ChannelChange) of(state rig.ChannelState) rig.ChannelState {
	if c.Locked != nil {
		state.Locked = *c.Locked
	}
	if c.Hidden != nil {
		state.Hidden = *c.Hidden
	}
	if c.Min != nil || c.FreeMin {
		state.Min = c.Min
	}
	if c.Max != nil || c.FreeMax {
		state.Max = c.Max
	}
	return state
}

// clipMoving returns a clip in which a channel has keys other than at rest; nil for none.
func clipMoving(d *rig.Document, control string, channel rig.Channel) *rig.Clip {
	for i := range d.Clips {
		for _, track := range d.Clips[i].Tracks {
			moves := slices.ContainsFunc(track.Keys, func(k rig.Key) bool { return k.Value != 0 })
			if moves && track.Control == control && track.Channel == channel {
				return &d.Clips[i]
			}
		}
	}
	return nil
}
