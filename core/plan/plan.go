// Package plan lowers a document to flat arrays and an ordered list of tasks: it resolves references, orders everything by what
// reads what, refuses cycles, and measures on the rest pose what must be kept.
package plan

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/formula"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Plan is a document ready for evaluation. It is only read once it is built: what changes lies in frames, so one plan serves many evaluators.
type Plan struct {
	Document     *rig.Document            // with the copies of its repeats
	Origins      map[string]repeat.Origin // of these copies, by ID
	Tasks        []mechanism.Task         // in the order they run
	Dependents   [][]int                  // by task: the later tasks that read what it writes
	Rewrites     [][]int                  // by task: the earlier tasks whose result it changes in place
	Clocked      []int                    // tasks that read the time
	Readers      [][]int                  // by slot: the tasks that read the value where nothing drives it
	DrivenBy     []int                    // by slot: the task that makes the value, or -1
	Steppers     []int                    // tasks with memory
	Ahead        bool                     // a gait looks where the body was and will be
	Ways         []int                    // controls whose way along the clip is measured
	Totals       []mechanism.Total        // what comes together by rates along the clip
	Resting      []float64                // by slot: the value at rest, drivers and measures included
	Lates        []mechanism.Echo         // values that steppers read a step late
	Posed        [][]int                  // by joint: the tasks that read how a clip moves it
	Layout       mechanism.Layout         // of the values
	Influences   []mechanism.Number       // by mechanism: how much of what it does counts
	Findings     []mechanism.Finding
	Ground       *mechanism.Ground        // what the specimen stands on; nil for nothing
	Standing     []mechanism.Standing     // what its body settles on
	Stops        []mechanism.Stop         // how far channels go, to be shown
	Rolls        []mechanism.Roll         // hubs whose way along the clip is worked out
	Holdings     []mechanism.Holding      // what is held along the clip
	Pullers      map[int]mechanism.Puller // by control: what is dragged by another number
	Curves       []*mechanism.Curve       // as each frame has them of its own
	CurveOwner   []string                 // by curve: the mechanism whose it is
	Instances    []mechanism.Instances    // parts drawn many times
	Stages       []mechanism.Stage        // what is done to surfaces
	JointIndex   map[string]int           // by ID
	ControlIndex map[string]int

	goals    int             // how many a frame has
	turnings int             // as many
	falls    int             // how many footfalls it has
	memory   int             // numbers that steppers remember
	values   map[int]*driven // by slot: those that drivers make
	prepared map[any]any     // what kinds made of what did not change since the plan before
	scratch  []func() any    // makes what tasks work in
}

// Build plans a document with the kinds given. Errors are in words for the rigger: an unknown kind, a parameter out of range,
// a joint that two mechanisms move, or a loop of things that wait for each other. What is measured on the body needs its surfaces; nil where none are at hand.
func Build(document *rig.Document, kinds mechanism.Registry, surfaces mechanism.Surfaces) (*Plan, error) {
	expansion, err := repeat.Expand(document)
	if err != nil {
		return nil, err
	}
	return BuildExpanded(expansion, kinds, surfaces, nil)
}

// BuildExpanded plans a document whose repeats are expanded already. What before, a plan of it before an edit, prepared of the same things is taken over; nil
// for nothing.
func BuildExpanded(expansion *repeat.Expansion, kinds mechanism.Registry, surfaces mechanism.Surfaces, before *Plan) (*Plan, error) {
	layout, err := mechanism.NewLayout(expansion.Document, kinds)
	if err != nil {
		return nil, err
	}
	if p, loop, err := build(expansion, kinds, surfaces, layout, nil, true, before); err == nil && loop == nil {
		return p, nil
	}
	var late []mechanism.Late
	for { // what is worked out together may wait for itself where each alone would not
		p, loop, err := build(expansion, kinds, surfaces, layout, late, false, before)
		if err != nil || loop == nil {
			return p, err
		}
		next, ok := loop.broken()
		if !ok {
			return nil, loop
		}
		late = append(late, next)
	}
}

// build plans a document in which some values are read a step late, and, with together, those that are driven alike are made in one go. A loop that is left comes back by itself.
func build(expansion *repeat.Expansion, kinds mechanism.Registry, surfaces mechanism.Surfaces, layout mechanism.Layout, late []mechanism.Late, together bool, before *Plan) (*Plan, *loop, error) {
	document := expansion.Document
	bench := mechanism.NewBench(document, layout)
	bench.Surfaces = surfaces
	if before != nil {
		bench.TakeOver(before.prepared)
	}
	for _, l := range late {
		bench.ReadLate(l)
	}
	order, stacks, err := markDriven(bench)
	if err != nil {
		return nil, nil, err
	}
	of := map[int]string{}
	if together {
		if of, err = crowds(order, stacks, kinds); err != nil {
			return nil, nil, err
		}
	}
	owners, err := lay(bench, kinds)
	if err != nil {
		return nil, nil, err
	}
	values, err := addDrivers(bench, order, stacks, of, kinds)
	if err != nil {
		return nil, nil, err
	}
	if err := addHierarchy(bench); err != nil {
		return nil, nil, err
	}
	if err := addCopies(bench, expansion); err != nil {
		return nil, nil, err
	}
	ordered, loop := sorted(bench, bench.Tasks)
	if loop != nil {
		return nil, loop, nil
	}
	p := &Plan{
		Document: document, Origins: expansion.Origins, Tasks: ordered, Findings: bench.Findings, Curves: bench.Curves, CurveOwner: owners,
		JointIndex: make(map[string]int, len(document.Joints)), ControlIndex: make(map[string]int, len(document.Controls)),
		Layout: bench.Layout, Influences: bench.Influences, Lates: bench.Lates, Ways: bench.Ways, Totals: bench.Totals, Instances: bench.Instances, Ground: bench.Ground, Standing: bench.Footfalls, Stops: bench.Stops, Rolls: bench.Rolls, Holdings: bench.Holdings, Pullers: map[int]mechanism.Puller{}, Stages: bench.Stages, goals: bench.Goals, turnings: bench.Turnings, falls: len(bench.Footfalls), memory: bench.Remembered, scratch: bench.Scratch, prepared: bench.Prepared, values: values,
	}
	for _, puller := range bench.Pullers {
		p.Pullers[puller.Control] = puller
	}
	p.link()
	if err := p.checkAhead(); err != nil {
		return nil, nil, err
	}
	for _, curve := range p.Curves {
		curve.Settle()
	}
	p.calibrate()
	return p, nil, nil
}

// lay has all mechanisms, and what measures them, lay their tasks on the bench. It returns whose each curve is.
func lay(bench *mechanism.Bench, kinds mechanism.Registry) (owners []string, err error) {
	for _, m := range bench.Document.Mechanisms {
		before := len(bench.Curves)
		if err := prepare(bench, m, kinds); err != nil {
			return nil, fmt.Errorf("%s: %w", m.Name, err)
		}
		for range len(bench.Curves) - before {
			owners = append(owners, m.ID)
		}
	}
	return owners, addMeasures(bench, kinds)
}

func prepare(bench *mechanism.Bench, m rig.Mechanism, kinds mechanism.Registry) error {
	kind, declaration, err := kinds.Find(m.Kind)
	if err != nil {
		return err
	}
	if err := declaration.Parameters.Check(m.Parameters); err != nil {
		return err
	}
	roles, err := declaration.RolesOf(m)
	if err != nil {
		return err
	}
	if bench.Begin(m, declaration.Parameters, roles); !m.On {
		return nil
	}
	return kind.Prepare(bench)
}

// NewFrame returns a frame laid out for the plan, at rest.
func (p *Plan) NewFrame() *mechanism.Frame {
	f := &mechanism.Frame{
		Size:      1,
		Inputs:    p.Layout.Resting(),
		Values:    p.Layout.Resting(),
		Instances: make([][]mechanism.Instance, len(p.Instances)),
		Ways:      make([]*mechanism.Way, len(p.Ways)),
		Totals:    make([]*formula.Total, len(p.Totals)),
		Rolls:     make([]*mechanism.Rolled, len(p.Rolls)),
		Held:      make([][]mechanism.Held, len(p.Holdings)),
		Memory:    make([]float64, p.memory),
		Controls:  make([]geometry.Transform, len(p.Document.Controls)),
		Carried:   make([]geometry.Transform, len(p.Document.Controls)),
		Joints:    make([]geometry.Transform, len(p.Document.Joints)),
		Scales:    make([]mgl64.Vec3, len(p.Document.Joints)),
		Curves:    make([]*mechanism.Curve, len(p.Curves)),
		Goals:     make([]mechanism.Goal, p.goals),
		Turnings:  make([]float64, p.turnings),
		Footfalls: make([]mechanism.Footfall, p.falls),
		Findings:  make([]bool, len(p.Findings)),
		Amounts:   make([]float64, len(p.Findings)),
		Poses:     make([]mechanism.Pose, len(p.Document.Joints)),
	}
	f.Allocate(p.scratch)
	for set, instances := range p.Instances {
		for range instances.Count {
			f.Instances[set] = append(f.Instances[set], mechanism.Undrawn())
		}
	}
	for i := range f.Curves {
		f.Curves[i] = p.Curves[i].Fresh()
	}
	for i := range f.Poses {
		f.Poses[i] = mechanism.AtRest()
	}
	for i, control := range p.Document.Controls {
		f.Controls[i], f.Carried[i] = control.Home(), geometry.Identity()
	}
	for i, joint := range p.Document.Joints {
		f.Joints[i], f.Scales[i] = joint.Rest(), mgl64.Vec3{1, 1, 1}
	}
	return f
}

// Replaced tells whether a part is drawn by instances that stand in its place.
func (p *Plan) Replaced(part string) bool {
	return slices.ContainsFunc(p.Instances, func(i mechanism.Instances) bool { return i.Instead && i.Part == part })
}

func (p *Plan) calibrate() {
	frame := p.NewFrame()
	frame.Still, frame.AtHome = true, true
	for _, task := range p.Tasks {
		if task.Calibrate != nil {
			task.Calibrate(frame)
		} else {
			task.Run(frame)
		}
	}
	p.Resting = frame.Values
}

// link finds, for every task, who must run again after it.
func (p *Plan) link() {
	for i, joint := range p.Document.Joints {
		p.JointIndex[joint.ID] = i
	}
	for i, control := range p.Document.Controls {
		p.ControlIndex[control.ID] = i
	}
	p.Dependents = make([][]int, len(p.Tasks))
	p.Rewrites = make([][]int, len(p.Tasks))
	p.Readers = make([][]int, len(p.Layout.Values))
	p.DrivenBy = make([]int, len(p.Layout.Values))
	for slot := range p.DrivenBy {
		p.DrivenBy[slot] = -1
	}
	p.Posed = make([][]int, len(p.Document.Joints))
	writers := map[mechanism.Resource][]int{}
	for i, task := range p.Tasks {
		for _, resource := range task.Reads {
			switch resource.Kind {
			case mechanism.Ahead:
				p.Ahead = p.Ahead || resource.Index == 0
			case mechanism.TotalOf, mechanism.RollOf, mechanism.HeldBy: // they change with the clip alone
			case mechanism.Clock:
				p.Clocked = append(p.Clocked, i)
			case mechanism.PoseOf:
				p.Posed[resource.Index] = append(p.Posed[resource.Index], i)
			default:
				if resource.Kind == mechanism.ValueOf {
					p.Readers[resource.Index] = append(p.Readers[resource.Index], i)
				}
				for _, writer := range writers[resource] {
					p.Dependents[writer] = append(p.Dependents[writer], i)
				}
			}
		}
		if task.Steps {
			p.Steppers = append(p.Steppers, i)
		}
		for _, resource := range task.Writes {
			if resource.Kind == mechanism.ValueOf {
				p.DrivenBy[resource.Index] = i
			}
			p.Rewrites[i] = append(p.Rewrites[i], writers[resource]...)
			writers[resource] = append(writers[resource], i)
		}
	}
}
