package evaluate

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Held is what a hand says of a value.
type Held struct {
	Slot  int
	Value float64
}

// Slot returns the place among the values of a channel or dial of the control with the index given, or -1 when it has none of the name.
func (e *Evaluator) Slot(control int, channel rig.Channel) int {
	if k := e.Plan.Document.Controls[control].ChannelIndex(channel); k >= 0 {
		return e.Plan.Layout.Slot(control, k)
	}
	return -1
}

// find returns the slot of an address, or -1.
func (e *Evaluator) find(a rig.Address) int {
	if slot, ok := e.Plan.Layout.Find(a); ok {
		return slot
	}
	return -1
}

// Check tells what is wrong with a number that a hand says of a value: it is not finite, or beyond what can be evaluated.
func (e *Evaluator) Check(slot int, value float64) error {
	v := &e.Plan.Layout.Values[slot]
	limit := float64(MaxMove)
	if v.Turns {
		limit = mechanism.MostValue
	}
	if math.IsNaN(value) || math.Abs(value) > limit {
		return fmt.Errorf("%s: %g is not within ±%g", e.Plan.Document.NameOfValue(v.Address), value, limit)
	}
	return nil
}

// SetChannel sets one channel or dial of the control with the index given, in metres, radians or the dial's unit. A value that is not finite or beyond what can be
// evaluated is refused; within that, the limits and locks of the channel hold it.
func (e *Evaluator) SetChannel(control int, channel rig.Channel, value float64) error {
	slot := e.Slot(control, channel)
	if slot < 0 {
		return fmt.Errorf("%s has no channel %q; it has %v", e.Plan.Document.Controls[control].Name, channel, e.Plan.Document.Controls[control].AllChannels())
	}
	return e.Set(slot, value)
}

// Set sets the input of a value.
func (e *Evaluator) Set(slot int, value float64) error {
	if err := e.Check(slot, value); err != nil {
		return err
	}
	e.set(slot, value)
	return nil
}

// set sets the input of a value. Where nothing drives it, that is the value, as far as its limits and locks let it.
func (e *Evaluator) set(slot int, value float64) {
	if task := e.Plan.DrivenBy[slot]; task >= 0 {
		if e.Frame.Inputs[slot] != value {
			e.Frame.Inputs[slot] = value
			e.forgot = e.forgot || e.clip == nil
			e.touch(task)
		}
		return
	}
	value = e.Plan.Layout.Values[slot].State.Within(value, e.rest[slot])
	if e.Frame.Values[slot] != value {
		e.Frame.Inputs[slot], e.Frame.Values[slot] = value, value
		e.forgot = e.forgot || e.clip == nil
		e.touchReaders(slot)
	}
}

// touchReaders has run again who reads a value.
func (e *Evaluator) touchReaders(slot int) {
	if task := e.Plan.DrivenBy[slot]; task >= 0 {
		e.touch(task)
	}
	for _, task := range e.Plan.Readers[slot] {
		e.touch(task)
	}
}

// SetMorph mixes in so much of a morph target.
func (e *Evaluator) SetMorph(part, morph string, value float64) error {
	p := e.Plan.Document.Part(part)
	if p == nil || p.Morph(morph) < 0 {
		return fmt.Errorf("there is no morph target %q here", morph)
	}
	if math.IsNaN(value) || math.Abs(value) > MaxMorph {
		return fmt.Errorf("%s.%s: %g is not within ±%g", p.Name, morph, value, float64(MaxMorph))
	}
	return e.Set(e.Plan.Layout.MorphsOf(*p)+p.Morph(morph), value)
}

// Zero sets every input to rest.
func (e *Evaluator) Zero() {
	for slot := range e.rest {
		e.set(slot, e.rest[slot])
	}
	for joint := range e.Plan.Posed {
		if len(e.Plan.Posed[joint]) > 0 {
			e.setPose(joint, mechanism.AtRest())
		}
	}
}

func (e *Evaluator) setPose(joint int, pose mechanism.Pose) {
	if e.Frame.Poses[joint] == pose {
		return
	}
	e.Frame.Poses[joint] = pose
	for _, task := range e.Plan.Posed[joint] {
		e.touch(task)
	}
}

// PoseAt moves to a time, and to what hands hold over what the clip says there; all else is at rest. Only what differs from the present frame
// is touched. What hands hold must have been checked.
func (e *Evaluator) PoseAt(seconds float64, held []Held) {
	seconds = sensible(seconds)
	copy(e.wanted, e.rest)
	for joint := range e.poses {
		e.poses[joint] = mechanism.AtRest()
	}
	if e.clip != nil {
		e.readClip(seconds, func(slot int, value float64) { e.wanted[slot] = value }, func(joint int, pose mechanism.Pose) { e.poses[joint] = pose }, e.poses)
	}
	for _, h := range held {
		e.wanted[h.Slot] = h.Value
	}
	for slot, value := range e.wanted {
		e.set(slot, value)
	}
	for joint, pose := range e.poses {
		e.setPose(joint, pose)
	}
	e.setClock(seconds)
}

// readClip hands over what the clip says at a time: of values, and of joints, which have the poses given before.
func (e *Evaluator) readClip(seconds float64, set func(int, float64), setPose func(int, mechanism.Pose), poses []mechanism.Pose) {
	frame := seconds * e.Plan.Document.FPS
	for i := range e.clip.Tracks {
		if e.slots[i] >= 0 {
			set(e.slots[i], e.clip.Tracks[i].Value(frame))
		}
	}
	for i := range e.clip.Joints {
		joint := e.joints[i]
		if joint < 0 {
			continue
		}
		pose := poses[joint]
		value := e.clip.Joints[i].Value(frame)
		switch e.clip.Joints[i].Property {
		case rig.JointMove:
			pose.Offset.Position = mgl64.Vec3{value[0], value[1], value[2]}
		case rig.JointTurn:
			pose.Offset.Rotation = rig.Quaternion(value).Quat()
		case rig.JointGirth:
			pose.Girth = mgl64.Vec3{value[0], value[1], value[2]}
		}
		setPose(joint, pose)
	}
	for i := range e.clip.Morphs {
		if e.morphs[i] >= 0 {
			set(e.morphs[i], e.clip.Morphs[i].Value(frame))
		}
	}
}
