package edit

import (
	"errors"
	"fmt"
	"math"

	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// AddRangeClip adds a clip that takes every limited channel of controls to its ends and back, one after the other, for the skin to be judged by. Where none is limited all are taken as far as is plenty, but for those that
// move the whole. One of the name that is there is made anew.
type AddRangeClip struct {
	Name     string   `json:"name,omitempty"`     // empty for range_of_motion
	Controls []string `json:"controls,omitempty"` // empty for all
}

// rangeBeat is how many frames a channel takes to one of its ends and back, halved; mostRange is how long the clip may be.
const (
	rangeBeat = 12
	mostRange = 20_000
	// plentyTurn and plentyMove are how far channels go, each way, where none is limited: radians, and a share of the skeleton's size.
	plentyTurn = math.Pi / 4
	plentyMove = 0.125
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
	frame, err := e.sweeps(d, ids, &clip, limitsOf)
	if err != nil {
		return err
	}
	plenty := len(clip.Tracks) == 0
	if plenty {
		if frame, err = e.sweeps(d, ids, &clip, plentyFor(d)); err != nil {
			return err
		}
	}
	switch {
	case len(clip.Tracks) == 0:
		return errors.New("no channel of these controls can go anywhere: they are locked, or move the whole; unlock some, or choose others")
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
	if plenty {
		c.tell("No channel is limited: %s turns each by 45° and moves it by an eighth of the skeleton's size, each way, in %d frames.", clip.Name, clip.End)
		return nil
	}
	c.tell("%s takes what is limited to its ends, one after the other, in %d frames: %d in all.", clip.Name, clip.End, len(clip.Tracks))
	return nil
}

// ends tells how far a channel of a control goes each way; nil where it does not.
type ends func(control rig.Control, channel rig.Channel) (least, most *float64)

func limitsOf(control rig.Control, channel rig.Channel) (least, most *float64) {
	state := control.State(channel)
	if state.Locked {
		return nil, nil
	}
	return state.Min, state.Max
}

// plentyFor returns ends that are plenty for a document.
func plentyFor(d *rig.Document) ends {
	box := mesh.EmptyBounds()
	for _, j := range d.Joints {
		box.Add(j.Position)
	}
	turn, move := plentyTurn, plentyMove*box.Size()
	return func(control rig.Control, channel rig.Channel) (least, most *float64) {
		if control.State(channel).Locked || control.Name == rig.RootName || control.Name == rig.GlobalName {
			return nil, nil
		}
		by := move
		if channel.Turns() {
			by = turn
		}
		back := -by
		return &back, &by
	}
}

// sweeps keys the channels of controls to their ends and back, and returns the frame at which the last has come back.
func (e *AddRangeClip) sweeps(d *rig.Document, ids []string, clip *rig.Clip, of ends) (frame float64, err error) {
	for _, id := range ids {
		control := d.Control(id)
		if control == nil {
			return 0, missing("control", id)
		}
		for _, channel := range rig.Channels {
			least, most := of(*control, channel)
			frame = sweep(clip, *control, channel, least, most, frame)
		}
	}
	return frame, nil
}

// sweep keys a channel to each of its ends and back, from a frame on, and returns the frame at which it has come back.
func sweep(clip *rig.Clip, control rig.Control, channel rig.Channel, least, most *float64, frame float64) float64 {
	keys := []rig.Key{}
	key := func(value float64) { keys = motion.SetKey(keys, rig.Key{Frame: frame, Value: value, Ease: rig.Smooth}) }
	key(0)
	for _, end := range []*float64{least, most} {
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
