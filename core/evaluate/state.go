package evaluate

import (
	"fmt"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/plan"
)

// State is all that a frame hangs on: what hand and clip say, the time, and what steppers remember. Whatever evaluates the same plan can be brought back to
// it, and then gives the same frame to the bit.
type State struct {
	plan          *plan.Plan
	clip          *motion.Clip
	time          float64
	still, atHome bool
	inputs        []float64
	poses         []mechanism.Pose
	held          []Held
	memory        []float64
	hand          *handState // nil where none holds anything
}

// handState is where a hand's own time stands, and what it remembers of its last two steps.
type handState struct {
	time, made  float64
	before, now []float64
}

func (h *hand) snapshot() *handState {
	if h == nil {
		return nil
	}
	return &handState{h.time, h.made, slices.Clone(h.low), slices.Clone(h.past.Frame.Memory)}
}

func (s *handState) restore(e *Evaluator) *hand {
	if s == nil {
		return nil
	}
	h := &hand{steps: newSteps(e, e.clip), time: s.time, made: s.made}
	copy(h.low, s.before)
	copy(h.past.Frame.Memory, s.now)
	return h
}

// Snapshot returns the present state.
func (e *Evaluator) Snapshot() *State {
	e.remember()
	f := e.Frame
	return &State{
		plan: e.Plan, clip: e.clip, time: f.Time, still: f.Still, atHome: f.AtHome,
		inputs: slices.Clone(f.Inputs), poses: slices.Clone(f.Poses), held: slices.Clone(e.held), memory: slices.Clone(f.Memory), hand: e.hand.snapshot(),
	}
}

// Restore brings back a state. Only what differs is touched. A state of another plan, from before an edit say, is refused: its numbers would land on other
// things.
func (e *Evaluator) Restore(s *State) error {
	if s.plan != e.Plan {
		return fmt.Errorf("this state was taken of %s before or after an edit, and its numbers belong to other things now; take it anew", s.plan.Document.Name)
	}
	if e.clip != s.clip {
		e.SetClip(s.clip)
	}
	e.Hold(s.held)
	e.SetStill(s.still)
	e.SetAtHome(s.atHome)
	for slot, value := range s.inputs {
		e.set(slot, value)
	}
	for joint, pose := range s.poses {
		e.setPose(joint, pose)
	}
	e.setClock(s.time)
	copy(e.Frame.Memory, s.memory)
	e.forgot = false
	e.touchSteppers()
	e.hand = s.hand.restore(e)
	return nil
}
