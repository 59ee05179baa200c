package evaluate

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// channelsOf returns the six channels of a control as they stand, its drivers' work included.
func (e *Evaluator) channelsOf(control int) (channels [rig.ChannelCount]float64) {
	copy(channels[:], e.Frame.Values[control*rig.ChannelCount:])
	return channels
}

// homeOf returns where a control's home stands in the present frame.
func (e *Evaluator) homeOf(control int) geometry.Transform {
	channels := e.channelsOf(control)
	return e.Frame.Controls[control].Then(e.Plan.Document.Controls[control].Offset(channels[:]).Inverse())
}

// Bring sets the channels of a control so that it stands at a place and orientation (in the frame that evaluation works in, at size 1),
// as far as its locks and limits let it, without evaluating anything but the control before. Its turns stay as near as may be to what they were, whole turns included.
func (e *Evaluator) Bring(control int, to geometry.Transform) error {
	e.reach(control)
	if !geometry.FiniteVector(to.Position) || !geometry.Finite(to.Rotation.W, to.Rotation.V[0], to.Rotation.V[1], to.Rotation.V[2]) {
		return fmt.Errorf("%s cannot be brought to a place that is not finite", e.Plan.Document.Controls[control].Name)
	}
	to = e.Frame.Carried[control].Inverse().Then(to)
	asked := e.Plan.Document.Controls[control].ChannelsFor(e.homeOf(control).Inverse().Then(to), e.channelsOf(control))
	if e.freeInWorld(control) {
		for k := range 3 {
			asked[k] *= e.Frame.Size
		}
	}
	for k, value := range asked {
		limit := float64(MaxMove)
		if k >= 3 {
			limit = mechanism.MostValue
		}
		e.ask(control*rig.ChannelCount+k, value, limit)
	}
	return nil
}

// ask has a value come to what is asked for: the input of one that is driven moves by as much as what comes of it is to move.
func (e *Evaluator) ask(slot int, value, limit float64) {
	if e.Plan.DrivenBy[slot] >= 0 {
		value = e.Frame.Inputs[slot] + value - e.Frame.Values[slot]
	}
	e.set(slot, math.Max(-limit, math.Min(limit, value)))
}

// reach brings a control up to date, and what it hangs on, and nothing else.
func (e *Evaluator) reach(control int) {
	e.remember()
	if e.reached == nil {
		e.reached = map[int][]bool{}
	}
	needed, known := e.reached[control]
	if !known {
		needed = make([]bool, len(e.Plan.Tasks))
		carried := mechanism.Resource{Kind: mechanism.Control, Index: control}
		for _, task := range e.Plan.Upstream(carried) {
			needed[task] = true
		}
		for i, task := range e.Plan.Tasks { // a gait carries the target of its limb along by what it does to the goal
			if slices.Contains(task.Carries, control) {
				for _, above := range e.Plan.Upstream(task.Writes...) {
					needed[above] = true
				}
				needed[i] = true
			}
		}
		e.reached[control] = needed
	}
	e.run(needed)
}

// Holding returns what the channels of a control say now, as a hand would hold it.
func (e *Evaluator) Holding(control int) []Held {
	held := make([]Held, rig.ChannelCount)
	for k := range held {
		slot := control*rig.ChannelCount + k
		held[k] = Held{slot, e.Frame.Inputs[slot]}
	}
	return held
}

// freeInWorld tells whether a control hangs on the world alone, and so moves in metres of the world whatever size everything has.
func (e *Evaluator) freeInWorld(control int) bool {
	c := e.Plan.Document.Controls[control]
	return c.Space == "" && len(c.Spaces) == 0 && c.Name != rig.GlobalName
}

// PullTo moves a control's channels so that it stands at a place in the world, as far as they let it. It keeps its turn. One that is held at a place on something else
// moves that, so that it comes as near as it can.
func (e *Evaluator) PullTo(control int, to mgl64.Vec3) error {
	e.reach(control)
	if puller, ok := e.Plan.Pullers[control]; ok && geometry.FiniteVector(to) {
		e.ask(puller.Slot, puller.Reach(e.Frame, e.Frame.Unscaled(to)), mechanism.MostValue)
		return nil
	}
	return e.Bring(control, geometry.Transform{Position: e.Frame.Unscaled(to), Rotation: e.Frame.Shown(control).Rotation})
}

// Keep makes a change to the channels and brings a control back to where it stood before it: a change of its space is not seen.
func (e *Evaluator) Keep(control int, change func() error) error {
	e.Evaluate()
	stood := e.ControlAt(control)
	if err := change(); err != nil {
		return err
	}
	e.Evaluate()
	stood.Position = e.Frame.Unscaled(stood.Position)
	if err := e.Bring(control, stood); err != nil {
		return err
	}
	e.Evaluate()
	return nil
}
