// Package evaluate runs a plan: channels and time in, joint and control transforms and deformed vertices out. After the
// first frame nothing is allocated, and a change runs only the tasks that depend on it.
package evaluate

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// Limits of channel values; they keep every result finite.
const (
	MaxMove   = 1e6 // metres
	MaxRotate = 1e4 // radians
	MaxMorph  = 100
)

// Evaluator evaluates one plan. It is not safe for concurrent use.
type Evaluator struct {
	Plan   *plan.Plan
	Frame  *mechanism.Frame
	dirty  []bool
	clip   *motion.Clip
	slots  []int              // by track of the clip: its channel's place in Frame.Channels
	owners []int              // by slot: the control whose channel it is
	states []rig.ChannelState // by slot: what the rigger decided about it
	rest   []float64          // by slot: its value at rest
	idle   idleness
	// By joint track and morph track of the clip: the joint, and the place in Frame.Morphs; -1 for none.
	joints, morphs []int
	poseRest       []float64 // Frame.Morphs at rest
}

// New returns an evaluator at rest; its first Evaluate runs everything.
func New(p *plan.Plan) *Evaluator {
	e := &Evaluator{Plan: p, Frame: p.NewFrame(), dirty: make([]bool, len(p.Tasks))}
	e.poseRest = append(e.poseRest, e.Frame.Morphs...)
	e.layOutChannels()
	e.idle = newIdleness(p)
	for i := range e.dirty {
		e.dirty[i] = true
	}
	return e
}

func (e *Evaluator) layOutChannels() {
	size := e.Plan.Layout.Size()
	e.owners, e.states, e.rest = make([]int, size), make([]rig.ChannelState, size), make([]float64, size)
	for i, control := range e.Plan.Document.Controls {
		for k, channel := range control.AllChannels() {
			slot := e.Plan.Layout.Slot(i, k)
			e.owners[slot], e.states[slot], e.rest[slot] = i, control.State(channel), control.RestValue(channel)
		}
	}
}

// Slot returns the place in Frame.Channels of a channel or dial of the control with the index given, or -1 when it has none of the name.
func (e *Evaluator) Slot(control int, channel rig.Channel) int {
	if k := e.Plan.Document.Controls[control].ChannelIndex(channel); k >= 0 {
		return e.Plan.Layout.Slot(control, k)
	}
	return -1
}

func (e *Evaluator) touch(task int) {
	if e.dirty[task] {
		return
	}
	e.dirty[task] = true
	for _, i := range e.Plan.Rewrites[task] {
		e.touch(i)
	}
	for _, i := range e.Plan.Dependents[task] {
		e.touch(i)
	}
}

// SetChannel sets one channel or dial of the control with the index given, in metres, radians or the dial's unit. A value that is not finite or beyond what can be
// evaluated is refused; within that, the limits and locks of the channel hold it.
func (e *Evaluator) SetChannel(control int, channel rig.Channel, value float64) error {
	slot := e.Slot(control, channel)
	if slot < 0 {
		return fmt.Errorf("%s has no channel %q; it has %v", e.Plan.Document.Controls[control].Name, channel, e.Plan.Document.Controls[control].AllChannels())
	}
	limit := MaxMove
	if channel.Turns() {
		limit = MaxRotate
	}
	if math.IsNaN(value) || math.Abs(value) > limit {
		return fmt.Errorf("%s.%s: %g is not within ±%g", e.Plan.Document.Controls[control].Name, channel, value, limit)
	}
	e.holdSlot(slot, value)
	return nil
}

// holdSlot sets a channel as far as its limits and locks let it.
func (e *Evaluator) holdSlot(slot int, value float64) {
	e.setSlot(slot, e.states[slot].Hold(value, e.rest[slot]))
}

func (e *Evaluator) setSlot(slot int, value float64) {
	if e.Frame.Channels[slot] == value {
		return
	}
	e.Frame.Channels[slot] = value
	for _, task := range e.Plan.Answering[e.owners[slot]] {
		e.touch(task)
	}
}

// Zero sets every channel to its rest value.
func (e *Evaluator) Zero() {
	for slot := range e.Frame.Channels {
		e.setSlot(slot, e.rest[slot])
	}
	for joint := range e.Plan.Posed {
		if len(e.Plan.Posed[joint]) > 0 {
			e.setPose(joint, mechanism.AtRest())
		}
	}
	copy(e.Frame.Morphs, e.poseRest)
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

// SetMorph mixes in so much of a morph target.
func (e *Evaluator) SetMorph(part, morph string, value float64) error {
	p := e.Plan.Document.Part(part)
	if p == nil || p.Morph(morph) < 0 {
		return fmt.Errorf("there is no morph target %q here", morph)
	}
	if math.IsNaN(value) || math.Abs(value) > MaxMorph {
		return fmt.Errorf("%s.%s: %g is not within ±%g", p.Name, morph, value, float64(MaxMorph))
	}
	e.Frame.Morphs[e.Plan.MorphSlots[part]+p.Morph(morph)] = value
	return nil
}

// SetStill stills or frees all motion that time drives.
func (e *Evaluator) SetStill(still bool) {
	if e.Frame.Still != still {
		e.Frame.Still = still
		e.touchClocked()
	}
}

// SetAtHome has every control stand at its home wherever it starts, for the rest pose, or frees them again.
func (e *Evaluator) SetAtHome(home bool) {
	if e.Frame.AtHome == home {
		return
	}
	e.Frame.AtHome = home
	for _, tasks := range e.Plan.Answering {
		for _, task := range tasks {
			e.touch(task)
		}
	}
}

func (e *Evaluator) touchClocked() {
	for _, task := range e.Plan.Clocked {
		e.touch(task)
	}
}

// SetClip has the clip drive its channels from now on; nil for none. Tracks of controls that are not there are passed over.
func (e *Evaluator) SetClip(clip *motion.Clip) {
	e.clip, e.slots, e.joints, e.morphs = clip, nil, nil, nil
	e.Frame.Journey = e.journey(clip)
	e.touchClocked()
	if clip == nil {
		return
	}
	for _, track := range clip.Joints {
		joint, ok := e.Plan.JointIndex[track.Joint]
		if !ok {
			joint = -1
		}
		e.joints = append(e.joints, joint)
	}
	for _, track := range clip.Morphs {
		slot := -1
		if part := e.Plan.Document.Part(track.Part); part != nil && part.Morph(track.Morph) >= 0 {
			slot = e.Plan.MorphSlots[track.Part] + part.Morph(track.Morph)
		}
		e.morphs = append(e.morphs, slot)
	}
	for _, track := range clip.Tracks {
		slot := -1
		if control, ok := e.Plan.ControlIndex[track.Control]; ok {
			slot = e.Slot(control, track.Channel)
		}
		e.slots = append(e.slots, slot)
	}
}

// SetTime moves to a time in seconds: the clip's channels take their values there, and what the clock drives runs again. A time
// that is not finite counts as 0.
func (e *Evaluator) SetTime(seconds float64) {
	if !geometry.Finite(seconds) || math.Abs(seconds) > 1e7 {
		seconds = 0
	}
	if e.clip != nil {
		frame := seconds * e.Plan.Document.FPS
		for i := range e.clip.Tracks {
			if e.slots[i] >= 0 {
				e.holdSlot(e.slots[i], e.clip.Tracks[i].Value(frame))
			}
		}
		e.setPoses(frame)
	}
	if e.Frame.Time != seconds {
		e.Frame.Time = seconds
		e.touchClocked()
	}
}

// setPoses brings joints and morph targets to where the clip has them at a frame.
func (e *Evaluator) setPoses(frame float64) {
	for i := range e.clip.Joints {
		joint := e.joints[i]
		if joint < 0 {
			continue
		}
		pose := e.Frame.Poses[joint]
		value := e.clip.Joints[i].Value(frame)
		switch e.clip.Joints[i].Property {
		case rig.JointMove:
			pose.Offset.Position = mgl64.Vec3{value[0], value[1], value[2]}
		case rig.JointTurn:
			pose.Offset.Rotation = rig.Quaternion(value).Quat()
		case rig.JointGirth:
			pose.Girth = mgl64.Vec3{value[0], value[1], value[2]}
		}
		e.setPose(joint, pose)
	}
	for i := range e.clip.Morphs {
		if e.morphs[i] >= 0 {
			e.Frame.Morphs[e.morphs[i]] = math.Max(-MaxMorph, math.Min(MaxMorph, e.clip.Morphs[i].Value(frame)))
		}
	}
}

// SetFrame moves to a frame of the document's rate.
func (e *Evaluator) SetFrame(frame float64) { e.SetTime(frame / e.Plan.Document.FPS) }

// Evaluate brings the frame up to date.
func (e *Evaluator) Evaluate() {
	for i, dirty := range e.dirty {
		if dirty {
			for _, finding := range e.Plan.Tasks[i].Raises {
				e.Frame.Findings[finding] = false
			}
			e.Plan.Tasks[i].Run(e.Frame)
			e.dirty[i] = false
		}
	}
}

// JointMatrix returns the world matrix of a joint, own scale and the size of everything included.
func (e *Evaluator) JointMatrix(joint int) mgl64.Mat4 {
	f := e.Frame
	return e.JointAt(joint).Matrix(f.Scales[joint].Mul(f.Size))
}

// JointAt returns where a joint stands in the world, the size of everything reckoned with.
func (e *Evaluator) JointAt(joint int) geometry.Transform {
	at := e.Frame.Joints[joint]
	return geometry.Transform{Position: e.Frame.Scaled(at.Position), Rotation: at.Rotation}
}

// ControlAt returns where a control stands in the world, the size of everything reckoned with.
func (e *Evaluator) ControlAt(control int) geometry.Transform {
	at := e.Frame.Shown(control)
	return geometry.Transform{Position: e.Frame.Scaled(at.Position), Rotation: at.Rotation}
}

// Findings lists what the present frame raises.
func (e *Evaluator) Findings() []mechanism.Finding {
	found := []mechanism.Finding{}
	for i, raised := range e.Frame.Findings {
		if raised {
			found = append(found, e.Plan.Findings[i])
		}
	}
	return found
}
