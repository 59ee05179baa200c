// Package plan lowers a document to flat arrays and an ordered list of tasks: it resolves references, orders everything by what
// reads what, refuses cycles, and measures on the rest pose what must be kept.
package plan

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

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
	Answering    [][]int                  // by control: the tasks that read its channels
	Posed        [][]int                  // by joint: the tasks that read how a clip moves it
	MorphSlots   map[string]int           // by part: where its morph targets begin in Frame.Morphs
	Layout       mechanism.Layout         // of the channels
	Influences   []mechanism.Driven       // by mechanism: how much of what it does counts
	Findings     []mechanism.Finding
	Curves       []*mechanism.Curve // as each frame has them of its own
	CurveOwner   []string           // by curve: the mechanism whose it is
	JointIndex   map[string]int     // by ID
	ControlIndex map[string]int

	goals   int          // how many a frame has
	scratch []func() any // makes what tasks work in
}

// Build plans a document with the kinds given. Errors are in words for the rigger: an unknown kind, a parameter out of range,
// a joint that two mechanisms move, or a loop of things that wait for each other.
func Build(document *rig.Document, kinds mechanism.Registry) (*Plan, error) {
	expansion, err := repeat.Expand(document)
	if err != nil {
		return nil, err
	}
	return BuildExpanded(expansion, kinds)
}

// BuildExpanded plans a document whose repeats are expanded already.
func BuildExpanded(expansion *repeat.Expansion, kinds mechanism.Registry) (*Plan, error) {
	document := expansion.Document
	bench := mechanism.NewBench(document)
	owners := make([]string, 0)
	for _, m := range document.Mechanisms {
		before := len(bench.Curves)
		if err := prepare(bench, m, kinds); err != nil {
			return nil, fmt.Errorf("%s: %w", m.Name, err)
		}
		for range len(bench.Curves) - before {
			owners = append(owners, m.ID)
		}
	}
	if err := addHierarchy(bench); err != nil {
		return nil, err
	}
	ordered, err := order(document, bench.Tasks)
	if err != nil {
		return nil, err
	}
	p := &Plan{
		Document: document, Origins: expansion.Origins, Tasks: ordered, Findings: bench.Findings, Curves: bench.Curves, CurveOwner: owners,
		JointIndex: make(map[string]int, len(document.Joints)), ControlIndex: make(map[string]int, len(document.Controls)),
		Layout: bench.Layout, Influences: bench.Influences, goals: bench.Goals, scratch: bench.Scratch,
	}
	p.link()
	for _, curve := range p.Curves {
		curve.Settle()
	}
	p.calibrate()
	return p, nil
}

func prepare(bench *mechanism.Bench, m rig.Mechanism, kinds mechanism.Registry) error {
	kind, err := kinds.Find(m.Kind)
	if err != nil {
		return err
	}
	declaration := kind.Declare()
	if err := declaration.Parameters.Check(m.Parameters); err != nil {
		return err
	}
	if err := bench.Begin(m, declaration.Parameters); err != nil || !m.On {
		return err
	}
	return kind.Prepare(bench)
}

// NewFrame returns a frame laid out for the plan, at rest.
func (p *Plan) NewFrame() *mechanism.Frame {
	f := &mechanism.Frame{
		Size:     1,
		Channels: make([]float64, p.Layout.Size()),
		Controls: make([]geometry.Transform, len(p.Document.Controls)),
		Carried:  make([]geometry.Transform, len(p.Document.Controls)),
		Joints:   make([]geometry.Transform, len(p.Document.Joints)),
		Scales:   make([]mgl64.Vec3, len(p.Document.Joints)),
		Curves:   make([]*mechanism.Curve, len(p.Curves)),
		Goals:    make([]mechanism.Goal, p.goals),
		Findings: make([]bool, len(p.Findings)),
		Poses:    make([]mechanism.Pose, len(p.Document.Joints)),
	}
	f.Allocate(p.scratch)
	for i := range f.Curves {
		f.Curves[i] = p.Curves[i].Fresh()
	}
	for i := range f.Poses {
		f.Poses[i] = mechanism.AtRest()
	}
	for _, part := range p.Document.Parts {
		for _, morph := range part.Morphs {
			f.Morphs = append(f.Morphs, morph.Value)
		}
	}
	for i, control := range p.Document.Controls {
		f.Controls[i], f.Carried[i] = control.Home(), geometry.Identity()
		for k, dial := range control.Dials {
			f.Channels[p.Layout.Slot(i, rig.ChannelCount+k)] = dial.Default
		}
	}
	for i, joint := range p.Document.Joints {
		f.Joints[i], f.Scales[i] = joint.Rest(), mgl64.Vec3{1, 1, 1}
	}
	return f
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
	p.Answering = make([][]int, len(p.Document.Controls))
	p.Posed = make([][]int, len(p.Document.Joints))
	p.MorphSlots = map[string]int{}
	slots := 0
	for _, part := range p.Document.Parts {
		p.MorphSlots[part.ID] = slots
		slots += len(part.Morphs)
	}
	writers := map[mechanism.Resource][]int{}
	for i, task := range p.Tasks {
		for _, resource := range task.Reads {
			switch resource.Kind {
			case mechanism.Clock:
				p.Clocked = append(p.Clocked, i)
			case mechanism.PoseOf:
				p.Posed[resource.Index] = append(p.Posed[resource.Index], i)
			case mechanism.ChannelsOf:
				p.Answering[resource.Index] = append(p.Answering[resource.Index], i)
			default:
				for _, writer := range writers[resource] {
					p.Dependents[writer] = append(p.Dependents[writer], i)
				}
			}
		}
		for _, resource := range task.Writes {
			p.Rewrites[i] = append(p.Rewrites[i], writers[resource]...)
			writers[resource] = append(writers[resource], i)
		}
	}
}
