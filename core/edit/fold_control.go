package edit

import (
	"maps"
	"reflect"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

func (f *folding) control(i int) error {
	now := f.work.Controls[i]
	origin, was, source, ok := changedCopy(f, now.ID, f.work.Control)
	if !ok {
		return nil
	}
	f.named(origin, was.Name, now.Name)
	if f.only {
		f.controlOfItsOwn(origin, now, was, source)
		return nil
	}
	if f.own[source.ID] {
		return nil
	}
	f.controlForAll(origin, now, was, source)
	f.own[source.ID] = true
	return nil
}

func (f *folding) controlBack(o repeat.Origin, c rig.Control) rig.Control {
	c.Position, c.Rotation, c.Outline = o.PlaceBack(c.Position), o.RotationBack(c.Rotation), o.Outline(c.Outline)
	c.Mirrored = c.Mirrored != o.Mirrors()
	c.Refer(func(r rig.Reference) string { return f.back(o, r.ID) })
	return c
}

// controlOfItsOwn keeps in a difference what an edit changed of a copy alone.
func (f *folding) controlOfItsOwn(o repeat.Origin, now rig.Control, was, source *rig.Control) {
	d := f.difference(o)
	if now.Label != was.Label {
		d.Label = &now.Label
	}
	if now.Position != was.Position {
		d.Offset = ref(o.PlaceBack(now.Position).Sub(source.Position))
	}
	if now.Rotation != was.Rotation {
		d.Turn = ref(rig.QuaternionOf(o.Rotation(source.Rotation).Quat().Conjugate().Mul(now.Rotation.Quat()).Normalize()))
	}
	if now.Space != was.Space {
		d.Space = &now.Space
	}
	if now.Order != was.Order {
		d.Order = now.Order
	}
	if now.Shape != was.Shape || !slices.Equal(now.Outline, was.Outline) {
		d.Shape, d.Outline = now.Shape, now.Outline
	}
	if now.Colour != was.Colour {
		d.Colour = &now.Colour
	}
	if !reflect.DeepEqual(now.Pivot, was.Pivot) {
		d.Pivot = ref(mgl64.Vec3{})
		if now.Pivot != nil {
			d.Pivot = now.Pivot
		}
	}
	if !reflect.DeepEqual(now.Start, was.Start) {
		d.Start = &rig.Placement{Rotation: rig.Quaternion{0, 0, 0, 1}}
		if now.Start != nil {
			d.Start = now.Start
		}
	}
	if !slices.Equal(now.Spaces, was.Spaces) {
		d.Spaces = append([]string{}, now.Spaces...)
	}
	for channel, state := range changedStates(now, *was) {
		d.Channels = maps.Clone(d.Channels)
		if d.Channels == nil {
			d.Channels = map[rig.Channel]rig.ChannelState{}
		}
		d.Channels[channel] = state
	}
	put, gone := changedDials(now.Dials, was.Dials)
	for _, dial := range put {
		d.Dials = repeat.PutDial(d.Dials, dial)
		d.Without = slices.DeleteFunc(slices.Clone(d.Without), func(name rig.Channel) bool { return name == dial.Name })
	}
	for _, name := range gone {
		d.Dials = withoutDial(d.Dials, name)
		d.Without = append(slices.Clone(d.Without), name)
	}
}

// controlForAll takes what an edit changed of a copy to its source, and so to all copies. What the copy had of its own in that, it gives up.
func (f *folding) controlForAll(o repeat.Origin, now rig.Control, was, source *rig.Control) {
	kept, back := f.difference(o), f.controlBack(o, now)
	if now.Label != was.Label {
		source.Label, kept.Label = back.Label, nil
	}
	if now.Position != was.Position {
		source.Position = back.Position
		if kept.Offset != nil {
			source.Position = source.Position.Sub(*kept.Offset)
		}
	}
	if now.Rotation != was.Rotation {
		q := now.Rotation.Quat()
		if kept.Turn != nil {
			q = q.Mul(kept.Turn.Quat().Conjugate())
		}
		source.Rotation = o.RotationBack(rig.QuaternionOf(q.Normalize()))
	}
	if now.Space != was.Space {
		source.Space, kept.Space = back.Space, nil
	}
	if now.Order != was.Order {
		source.Order, kept.Order = back.Order, ""
	}
	if now.Shape != was.Shape || !slices.Equal(now.Outline, was.Outline) {
		source.Shape, source.Outline, kept.Shape, kept.Outline = back.Shape, back.Outline, "", nil
	}
	if now.Colour != was.Colour {
		source.Colour, kept.Colour = back.Colour, nil
	}
	if !reflect.DeepEqual(now.Pivot, was.Pivot) {
		source.Pivot, kept.Pivot = back.Pivot, nil
	}
	if !reflect.DeepEqual(now.Start, was.Start) {
		source.Start, kept.Start = back.Start, nil
	}
	if !slices.Equal(now.Spaces, was.Spaces) {
		source.Spaces, kept.Spaces = back.Spaces, nil
	}
	source.Mirrored = source.Mirrored != (now.Mirrored != was.Mirrored)
	for channel, state := range changedStates(now, *was) {
		setState(source, channel, state)
		kept.Channels = maps.Clone(kept.Channels)
		delete(kept.Channels, channel)
	}
	put, gone := changedDials(now.Dials, was.Dials)
	for _, dial := range put {
		source.Dials, kept.Dials = repeat.PutDial(source.Dials, dial), withoutDial(kept.Dials, dial.Name)
	}
	for _, name := range gone {
		source.Dials, kept.Dials = withoutDial(source.Dials, name), withoutDial(kept.Dials, name)
	}
}

// changedStates is the states of the channels that differ.
func changedStates(now, was rig.Control) map[rig.Channel]rig.ChannelState {
	changed := map[rig.Channel]rig.ChannelState{}
	for _, channels := range []map[rig.Channel]rig.ChannelState{now.Channels, was.Channels} {
		for channel := range channels {
			if now.ChannelIndex(channel) >= 0 && !reflect.DeepEqual(now.Channels[channel], was.Channels[channel]) {
				changed[channel] = now.Channels[channel]
			}
		}
	}
	return changed
}

// setState sets the state of a channel; what is free is not written down.
func setState(control *rig.Control, channel rig.Channel, state rig.ChannelState) {
	control.Channels = maps.Clone(control.Channels)
	if control.Channels == nil {
		control.Channels = map[rig.Channel]rig.ChannelState{}
	}
	control.Channels[channel] = state
	if state == (rig.ChannelState{}) {
		delete(control.Channels, channel)
	}
	if len(control.Channels) == 0 {
		control.Channels = nil
	}
}

// changedDials lists the dials that are new or other than they were, and the names of those that are gone.
func changedDials(now, was []rig.Dial) (put []rig.Dial, gone []rig.Channel) {
	for _, dial := range now {
		if !slices.Contains(was, dial) {
			put = append(put, dial)
		}
	}
	for _, dial := range was {
		if !slices.ContainsFunc(now, func(d rig.Dial) bool { return d.Name == dial.Name }) {
			gone = append(gone, dial.Name)
		}
	}
	return put, gone
}

func withoutDial(dials []rig.Dial, name rig.Channel) []rig.Dial {
	return slices.DeleteFunc(slices.Clone(dials), func(d rig.Dial) bool { return d.Name == name })
}
