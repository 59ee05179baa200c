package evaluate

import (
	"fmt"
	"math"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// MoverKind is what kind of thing moves a joint.
type MoverKind string

// What moves joints.
const (
	ByControl   MoverKind = "control"
	ByMechanism MoverKind = "mechanism"
	ByJoint     MoverKind = "joint" // the joint hangs on it
	ByTime      MoverKind = "time"  // what moves by itself, all together
)

// Mover is one of the things that a joint's place hangs on, with how far it moves the joint now: how far the joint would come, and
// turn, if it alone were at rest. A mechanism or a joint hands on what its own movers do and has no share by itself.
type Mover struct {
	Kind  MoverKind `json:"kind"`
	ID    string    `json:"id"`    // empty for time
	Moves float64   `json:"moves"` // metres
	Turns float64   `json:"turns"` // radians, 0 to π
	Share float64   `json:"share"` // of a mechanism: how much of what it does counts, 0 to 1
}

// Trace lists what a joint's place hangs on, from the handles to the joint, in the order in which it is evaluated. Shares are measured by
// taking each mover to rest in turn; the frame is left as it was.
func (e *Evaluator) Trace(joint string) ([]Mover, error) {
	index, ok := e.Plan.JointIndex[joint]
	if !ok {
		return nil, fmt.Errorf("there is no joint %q to trace", joint)
	}
	e.Evaluate()
	now := e.JointAt(index)
	movers := []Mover{}
	timed := false
	add := func(mover Mover) {
		if mover.Kind == "" || slices.ContainsFunc(movers, func(m Mover) bool { return m.ID == mover.ID }) {
			return
		}
		if mover.Kind == ByControl {
			mover.Moves, mover.Turns = e.without(e.Plan.ControlIndex[mover.ID], index, now)
		}
		movers = append(movers, mover)
	}
	for _, task := range e.Plan.Upstream(mechanism.Resource{Kind: mechanism.Joint, Index: index}) {
		t := e.Plan.Tasks[task]
		timed = timed || slices.Contains(t.Reads, mechanism.Resource{Kind: mechanism.Clock})
		for _, r := range t.Reads { // a control can drive by its dials alone
			if r.Kind == mechanism.ValueOf {
				if of := e.Plan.Layout.Values[r.Index].Address.Of; e.Plan.Document.Control(of) != nil {
					add(Mover{Kind: ByControl, ID: of})
				}
			}
		}
		add(e.moverOf(t.Subject, joint))
	}
	if timed && !e.Frame.Still {
		e.SetStill(true)
		e.Evaluate()
		moves, turns := apart(now, e.JointAt(index))
		e.SetStill(false)
		e.Evaluate()
		movers = append(movers, Mover{Kind: ByTime, Moves: moves, Turns: turns})
	}
	return movers, nil
}

func (e *Evaluator) moverOf(subject, joint string) Mover {
	if _, ok := e.Plan.ControlIndex[subject]; ok {
		return Mover{Kind: ByControl, ID: subject}
	}
	if _, ok := e.Plan.JointIndex[subject]; ok && subject != joint {
		return Mover{Kind: ByJoint, ID: subject}
	}
	mechanisms := e.Plan.Document.Mechanisms
	if m := slices.IndexFunc(mechanisms, func(m rig.Mechanism) bool { return m.ID == subject }); m >= 0 {
		return Mover{Kind: ByMechanism, ID: subject, Share: e.shareOf(m)}
	}
	return Mover{}
}

// without measures how far a joint comes when a control returns to rest, and puts the control back.
func (e *Evaluator) without(control, joint int, now geometry.Transform) (moves, turns float64) {
	slots := e.slotsOf(control)
	if !slices.ContainsFunc(slots, func(slot int) bool { return e.Frame.Inputs[slot] != e.rest[slot] }) {
		return 0, 0
	}
	was := e.Snapshot()
	for _, slot := range slots {
		e.set(slot, e.rest[slot])
	}
	e.Evaluate()
	moves, turns = apart(now, e.JointAt(joint))
	_ = e.Restore(was) // of this plan
	e.Evaluate()
	return moves, turns
}

// slotsOf lists the places of a control's channels and dials.
func (e *Evaluator) slotsOf(control int) []int {
	slots := make([]int, rig.ChannelCount+len(e.Plan.Document.Controls[control].Dials))
	for k := range slots {
		slots[k] = e.Plan.Layout.Slot(control, k)
	}
	return slots
}

// apart returns how far two transforms are from each other, in metres and radians.
func apart(a, b geometry.Transform) (moves, turns float64) {
	q := a.Rotation.Conjugate().Mul(b.Rotation)
	return b.Position.Sub(a.Position).Len(), 2 * math.Atan2(q.V.Len(), math.Abs(q.W))
}
