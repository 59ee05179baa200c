package evaluate

import (
	"fmt"
	"math"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// DriverKind is what kind of thing moves a joint.
type DriverKind string

// What moves joints.
const (
	ByControl   DriverKind = "control"
	ByMechanism DriverKind = "mechanism"
	ByJoint     DriverKind = "joint" // the joint hangs on it
	ByTime      DriverKind = "time"  // what moves by itself, all together
)

// Driver is one of the things that a joint's place hangs on, with how far it moves the joint now: how far the joint would come, and
// turn, if the driver alone were at rest. A mechanism or a joint hands on what its own drivers do and has no share by itself.
type Driver struct {
	Kind  DriverKind `json:"kind"`
	ID    string     `json:"id"`    // empty for time
	Moves float64    `json:"moves"` // metres
	Turns float64    `json:"turns"` // radians, 0 to π
	Share float64    `json:"share"` // of a mechanism: how much of what it does counts, 0 to 1
}

// Trace lists what a joint's place hangs on, from the handles to the joint, in the order in which it is evaluated. Shares are measured by
// taking each driver to rest in turn; the frame is left as it was.
func (e *Evaluator) Trace(joint string) ([]Driver, error) {
	index, ok := e.Plan.JointIndex[joint]
	if !ok {
		return nil, fmt.Errorf("there is no joint %q to trace", joint)
	}
	e.Evaluate()
	now := e.JointAt(index)
	drivers := []Driver{}
	timed := false
	add := func(driver Driver) {
		if driver.Kind == "" || slices.ContainsFunc(drivers, func(d Driver) bool { return d.ID == driver.ID }) {
			return
		}
		if driver.Kind == ByControl {
			driver.Moves, driver.Turns = e.without(e.Plan.ControlIndex[driver.ID], index, now)
		}
		drivers = append(drivers, driver)
	}
	for _, task := range e.upstream(index) {
		t := e.Plan.Tasks[task]
		timed = timed || slices.Contains(t.Reads, mechanism.Resource{Kind: mechanism.Clock})
		for _, r := range t.Reads { // a control can drive by its dials alone
			if r.Kind == mechanism.ChannelsOf {
				add(Driver{Kind: ByControl, ID: e.Plan.Document.Controls[r.Index].ID})
			}
		}
		add(e.driverOf(t.Subject, joint))
	}
	if timed && !e.Frame.Still {
		e.SetStill(true)
		e.Evaluate()
		moves, turns := apart(now, e.JointAt(index))
		e.SetStill(false)
		e.Evaluate()
		drivers = append(drivers, Driver{Kind: ByTime, Moves: moves, Turns: turns})
	}
	return drivers, nil
}

// upstream lists the tasks that a joint's place hangs on, in order.
func (e *Evaluator) upstream(joint int) []int {
	needed := map[mechanism.Resource]bool{{Kind: mechanism.Joint, Index: joint}: true}
	var list []int
	for i := len(e.Plan.Tasks) - 1; i >= 0; i-- { // a task stands behind those it reads from
		task := e.Plan.Tasks[i]
		if !slices.ContainsFunc(task.Writes, func(r mechanism.Resource) bool { return needed[r] }) {
			continue
		}
		list = append(list, i)
		for _, r := range task.Reads {
			needed[r] = true
		}
	}
	slices.Reverse(list)
	return list
}

func (e *Evaluator) driverOf(subject, joint string) Driver {
	if _, ok := e.Plan.ControlIndex[subject]; ok {
		return Driver{Kind: ByControl, ID: subject}
	}
	if _, ok := e.Plan.JointIndex[subject]; ok && subject != joint {
		return Driver{Kind: ByJoint, ID: subject}
	}
	mechanisms := e.Plan.Document.Mechanisms
	if m := slices.IndexFunc(mechanisms, func(m rig.Mechanism) bool { return m.ID == subject }); m >= 0 {
		return Driver{Kind: ByMechanism, ID: subject, Share: e.shareOf(m)}
	}
	return Driver{}
}

// without measures how far a joint comes when a control returns to rest, and puts the control back.
func (e *Evaluator) without(control, joint int, now geometry.Transform) (moves, turns float64) {
	slots := e.slotsOf(control)
	held := make([]float64, len(slots))
	resting := true
	for k, slot := range slots {
		held[k] = e.Frame.Channels[slot]
		resting = resting && held[k] == e.rest[slot]
	}
	if resting {
		return 0, 0
	}
	for _, slot := range slots {
		e.setSlot(slot, e.rest[slot])
	}
	e.Evaluate()
	moves, turns = apart(now, e.JointAt(joint))
	for k, slot := range slots {
		e.setSlot(slot, held[k])
	}
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
