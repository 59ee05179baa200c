package edit

import (
	"errors"
	"fmt"
	"maps"
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
	whose := fmt.Sprintf("%d controls", len(e.Controls))
	if len(e.Controls) == 1 {
		whose = d.NameOf(e.Controls[0])
	}
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
	if len(e.Controls) == 0 || len(e.Changes) == 0 {
		return errors.New("no channel is chosen; choose the controls and their channels")
	}
	for _, id := range e.Controls {
		control := d.Control(id)
		if control == nil {
			return missing("control", id)
		}
		states := control.Channels
		if states == nil {
			states = map[rig.Channel]rig.ChannelState{}
		}
		for _, change := range e.Changes {
			if change.Channel.Index() < 0 {
				return fmt.Errorf("there is no channel %q; a control has %v", change.Channel, rig.Channels)
			}
			was := states[change.Channel]
			now := change.of(was)
			if clip := clipMoving(d, id, change.Channel); now.Locked && !was.Locked && clip != nil {
				return fmt.Errorf("%s of %s moves in the clip %s; delete its keys there, then lock it", change.Channel, control.Name, clip.Name)
			}
			states[change.Channel] = now
		}
		maps.DeleteFunc(states, func(_ rig.Channel, s rig.ChannelState) bool { return s == rig.ChannelState{} })
		if len(states) == 0 {
			states = nil
		}
		control.Channels = states
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
