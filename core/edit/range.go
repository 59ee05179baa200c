package edit

import (
	"errors"
	"fmt"

	"myriapod/core/motion"
	"myriapod/core/rig"
)

// AddRangeClip adds a clip that takes every limited channel of controls to its ends and back, one after the other, for the skin to be judged by. One of the name that is there is made anew.
type AddRangeClip struct {
	Name     string   `json:"name,omitempty"`     // empty for range_of_motion
	Controls []string `json:"controls,omitempty"` // empty for all
}

// rangeBeat is how many frames a channel takes to one of its ends and back, halved; mostRange is how long the clip may be.
const (
	rangeBeat = 12
	mostRange = 20_000
)

// Title implements Edit.
func (e *AddRangeClip) Title(*rig.Document) string { return "Add a clip of the range of motion" }

// Touches implements Edit.
func (e *AddRangeClip) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *AddRangeClip) Apply(c *Context, d *rig.Document) error {
	name := e.Name
	if name == "" {
		name = "range_of_motion"
	}
	clip := rig.Clip{Name: name, Tracks: []rig.Track{}}
	ids := e.Controls
	if len(ids) == 0 {
		for _, control := range d.Controls {
			ids = append(ids, control.ID)
		}
	}
	frame := 0.0
	for _, id := range ids {
		control := d.Control(id)
		if control == nil {
			return missing("control", id)
		}
		for _, channel := range rig.Channels {
			frame = sweep(&clip, *control, channel, frame)
		}
	}
	switch {
	case len(clip.Tracks) == 0:
		return errors.New("no channel of these controls has limits to go to; bring one to its end and press Limit here, or type limits on its card")
	case frame > mostRange:
		return fmt.Errorf("the clip would have %g frames, and %d is the most; choose fewer controls", frame, mostRange)
	}
	clip.End = int(frame)
	if there := d.ClipNamed(name); there != nil {
		clip.ID = there.ID
		*there = clip
	} else {
		clip.ID, clip.Name = d.TakeID("k"), rig.UniqueName(name, d.HasName)
		d.Clips = append(d.Clips, clip)
	}
	c.tell("%s takes what is limited to its ends, one after the other, in %d frames: %d in all.", clip.Name, clip.End, len(clip.Tracks))
	return nil
}

// sweep keys a channel to each of its ends and back, from a frame on, and returns the frame at which it has come back.
func sweep(clip *rig.Clip, control rig.Control, channel rig.Channel, frame float64) float64 {
	state := control.State(channel)
	if state.Locked || state.Min == nil && state.Max == nil {
		return frame
	}
	keys := []rig.Key{}
	key := func(value float64) { keys = motion.SetKey(keys, rig.Key{Frame: frame, Value: value, Ease: rig.Smooth}) }
	key(0)
	for _, end := range []*float64{state.Min, state.Max} {
		if end == nil || *end == 0 {
			continue
		}
		frame += rangeBeat
		key(*end)
		frame += rangeBeat
		key(0)
	}
	if len(keys) > 1 {
		clip.Tracks = append(clip.Tracks, rig.Track{Control: control.ID, Channel: channel, Keys: keys})
	}
	return frame
}
