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
	Soft    *float64    `json:"soft,omitempty"` // how long before its limits the channel gives way; 0 for hard limits
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

func (change ChannelChange) verb() string {
	switch {
	case change.Locked != nil && *change.Locked:
		return "Lock"
	case change.Locked != nil:
		return "Unlock"
	case change.Hidden != nil && *change.Hidden:
		return "Hide"
	case change.Hidden != nil:
		return "Show"
	case change.FreeMin || change.FreeMax:
		return "Free"
	case change.Soft != nil && *change.Soft > 0:
		return "Soften the limits of"
	}
	return "Limit"
}

// Touches implements Edit.
func (e *ChangeChannels) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit. A channel whose keys would be silenced is not locked; keys beyond a new limit stay, and are told of.
func (e *ChangeChannels) Apply(c *Context, d *rig.Document) error {
	if len(e.Changes) == 0 {
		return errors.New("no channel is chosen; choose one or more")
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.Channels == nil {
			control.Channels = map[rig.Channel]rig.ChannelState{}
		}
		for _, change := range e.Changes {
			if err := change.apply(c, d, control); err != nil {
				return err
			}
		}
		if len(control.Channels) == 0 {
			control.Channels = nil
		}
		return nil
	})
}

func (change ChannelChange) apply(c *Context, d *rig.Document, control *rig.Control) error {
	if control.ChannelIndex(change.Channel) < 0 {
		return fmt.Errorf("there is no channel %q; %s has %v", change.Channel, control.Name, control.AllChannels())
	}
	was := control.Channels[change.Channel]
	now := change.of(was)
	switch clip := clipBeyond(d, control, change.Channel, now); {
	case clip == nil:
	case now.Locked && !was.Locked:
		return fmt.Errorf("%s of %s moves in the clip %s; delete its keys there, then lock it", change.Channel, control.Name, clip.Name)
	case !now.Locked:
		c.tell("Keys of %s of %s in %s lie beyond its limits; they stay, and are held there.", change.Channel, control.Name, clip.Name)
	}
	control.Channels[change.Channel] = now
	if now == (rig.ChannelState{}) { // what is free is not written down
		delete(control.Channels, change.Channel)
	}
	return nil
}

func (change ChannelChange) of(state rig.ChannelState) rig.ChannelState {
	if change.Locked != nil {
		state.Locked = *change.Locked
	}
	if change.Hidden != nil {
		state.Hidden = *change.Hidden
	}
	if change.Min != nil || change.FreeMin {
		state.Min = change.Min
	}
	if change.Max != nil || change.FreeMax {
		state.Max = change.Max
	}
	if change.Soft != nil {
		state.Soft = *change.Soft
	}
	return state
}

// clipBeyond returns a clip in which a channel has keys that its state does not let through; nil for none.
func clipBeyond(d *rig.Document, control *rig.Control, channel rig.Channel, state rig.ChannelState) *rig.Clip {
	rest := control.RestValue(channel)
	for i := range d.Clips {
		for _, track := range d.Clips[i].Tracks {
			beyond := slices.ContainsFunc(track.Keys, func(k rig.Key) bool { return state.Within(k.Value, rest) != k.Value })
			if beyond && track.Control == control.ID && track.Channel == channel {
				return &d.Clips[i]
			}
		}
	}
	return nil
}
