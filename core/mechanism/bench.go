package mechanism

import (
	"fmt"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Bench is where kinds prepare their mechanisms: it knows the document by index and gathers tasks, curves and findings.
type Bench struct {
	Document  *rig.Document
	Mechanism rig.Mechanism // the one being prepared
	Settings  parameter.Set // its parameters, complete
	Surfaces  Surfaces      // nil where none are at hand

	Layout Layout // of the values
	Driven []bool // by slot: something drives it

	Tasks      []Task
	Curves     []*Curve
	Goals      int // how many
	Findings   []Finding
	Influences []Number             // by mechanism, those that are off as well
	Scratch    []func() any         // makes each frame's own
	Prepared   map[any]any          // see Prepared
	Ways       []int                // controls whose way along the clip is measured
	Totals     []Total              // what comes together by rates along the clip
	Remembered int                  // numbers that steppers keep
	Lates      []Echo               // values that are read a step late
	Instances  []Instances          // parts drawn many times
	Stages     []Stage              // what is done to surfaces
	Homes      map[int][]HomeWriter // by control: what takes its home elsewhere
	Carriers   map[int][]HomeWriter // by control: what takes it along with its own motion
	Holdings   []Holding            // what is held along the clip
	Turnings   int                  // how many
	Rolls      []Roll               // hubs whose way along the clip is worked out
	Stops      []Stop               // how far channels go, to be shown
	Pullers    []Puller             // controls that are dragged by another number
	Ground     *Ground              // what the specimen stands on; nil for nothing
	Footfalls  []Standing           // what a body settles on
	Counts     map[int]Counted      // by control: how much of its own motion counts, where that is not all of it

	joints, controls map[string]int
	hosted           map[string]int      // curve by mechanism
	goals            map[string]int      // goal by mechanism
	turnings         map[string]Turning  // by joint
	written          map[int]bool        // joints that some task moves
	keyed            map[int]bool        // joints that some clip has keys of
	roles            map[string][]string // of the present mechanism
	before           map[any]any         // what the plan before prepared
	late             map[Late]int        // where what is read late is remembered
	totals           map[string]int      // by what they are of, see Total
	influence        Number              // of the present mechanism
	influenceReads   []Resource
}

// NewBench returns an empty bench for a document that is laid out.
func NewBench(document *rig.Document, layout Layout) *Bench {
	b := &Bench{
		Document: document, Layout: layout, Driven: make([]bool, len(layout.Values)), Counts: map[int]Counted{}, Homes: map[int][]HomeWriter{}, Carriers: map[int][]HomeWriter{}, Prepared: map[any]any{},
		joints: map[string]int{}, controls: map[string]int{}, hosted: map[string]int{}, goals: map[string]int{}, written: map[int]bool{}, keyed: map[int]bool{},
	}
	for i, j := range document.Joints {
		b.joints[j.ID] = i
	}
	for i, c := range document.Controls {
		b.controls[c.ID] = i
	}
	for _, clip := range document.Clips {
		for _, track := range clip.JointTracks {
			if i, known := b.joints[track.Joint]; known {
				b.keyed[i] = true
			}
		}
	}
	return b
}

// Joint returns the index of a joint by ID.
func (b *Bench) Joint(id string) (int, bool) { i, ok := b.joints[id]; return i, ok }

// Control returns the index of a control by ID.
func (b *Bench) Control(id string) (int, bool) { i, ok := b.controls[id]; return i, ok }

// JointIndices returns the mechanism's joints as indices into the document.
func (b *Bench) JointIndices() ([]int, error) { return indices(b.Mechanism.Joints, b.joints, "joint") }

// ControlIndices returns the mechanism's controls as indices into the document.
func (b *Bench) ControlIndices() ([]int, error) {
	return indices(b.Mechanism.Controls, b.controls, "control")
}

func indices(ids []string, known map[string]int, what string) ([]int, error) {
	list := make([]int, len(ids))
	for i, id := range ids {
		index, ok := known[id]
		if !ok {
			return nil, fmt.Errorf("there is no %s %q", what, id)
		}
		list[i] = index
	}
	return list, nil
}

// Rest returns the rest transform of joint i.
func (b *Bench) Rest(i int) geometry.Transform { return b.Document.Joints[i].Rest() }

// Add lays a task on the bench, in the name of the present mechanism. One that places joints is mixed with what stands there below it,
// as its influence has it.
func (b *Bench) Add(task Task) {
	task.Subject = b.Mechanism.ID
	if joints := placed(task); len(joints) > 0 {
		if !b.influence.Constant(1) {
			task = b.mixed(task, joints)
		}
		for _, joint := range joints {
			b.written[joint] = true
		}
	}
	b.Tasks = append(b.Tasks, task)
}

// AddWhole lays a task on the bench whose kind sees to its influence by itself.
func (b *Bench) AddWhole(task Task) {
	influence := b.influence
	b.influence = Given(1)
	b.Add(task)
	b.influence = influence
}

// InfluenceOf returns the influence of the present mechanism, and what a task that sees to it by itself reads for it.
func (b *Bench) InfluenceOf() (Number, []Resource) { return b.influence, b.influenceReads }

// Offer puts up a curve as the present mechanism's own, for others to shape, and returns its index.
func (b *Bench) Offer(c *Curve) int {
	b.Curves = append(b.Curves, c)
	b.hosted[b.Mechanism.ID] = len(b.Curves) - 1
	return len(b.Curves) - 1
}

// CurveThrough returns the curve that carries a joint, or that a control carries, which a mechanism before the present one offers. ok is false where none does.
func (b *Bench) CurveThrough(thing string) (index int, ok bool) {
	for _, m := range b.Document.Mechanisms {
		if at, offers := b.hosted[m.ID]; offers && (slices.Contains(m.Joints, thing) || slices.Contains(m.Controls, thing)) {
			return at, true
		}
	}
	return 0, false
}

// HostCurve returns the curve that the present mechanism's host offers. ok is false when the host is off.
func (b *Bench) HostCurve() (index int, c *Curve, ok bool) {
	index, ok = b.hosted[b.Mechanism.Host]
	if !ok {
		return 0, nil, false
	}
	return index, b.Curves[index], true
}

// OfferGoal puts up a goal as the present mechanism's own, which goes along with a control and which others may shape, and returns its index.
func (b *Bench) OfferGoal(control int) int {
	goal := b.Goals
	b.Goals++
	b.goals[b.Mechanism.ID] = goal
	b.Tasks = append(b.Tasks, Task{
		Subject: b.Mechanism.ID, Run: func(f *Frame) { f.Goals[goal] = Goal{At: f.Controls[control]} },
		Reads: []Resource{{Kind: Control, Index: control}}, Writes: []Resource{{Kind: GoalOf, Index: goal}},
	})
	return goal
}

// GoalOf returns the goal that a mechanism offers. ok is false when it offers none, or is off.
func (b *Bench) GoalOf(mechanism string) (goal int, ok bool) {
	goal, ok = b.goals[mechanism]
	return goal, ok
}

// Finding declares something that evaluation may notice of the present mechanism, and returns its index in Frame.Findings. The task that may
// raise it names it among its Raises.
func (b *Bench) Finding(text string) int { return b.FindingOf(b.Mechanism.ID, text) }

// FindingOf is as Finding, of anything that has an ID.
func (b *Bench) FindingOf(subject, text string) int {
	b.Findings = append(b.Findings, Finding{Subject: subject, Text: text})
	return len(b.Findings) - 1
}
