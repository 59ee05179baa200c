// Package ram has the two halves of a piston or hydraulic ram aim at each other and slide into each other.
package ram

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "ram"

// Kind is the ram.
type Kind struct{}

const (
	shortest = "shortest"
	longest  = "longest"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Ram", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M6 12a3 3 0 1 0 .1 0M10 8h24v8h-24zM34 12h16M50 12a3 3 0 1 0 .1 0",
		Summary: "A barrel and a rod aim at each other and slide: pistons, hydraulic rams and shock absorbers. What they are fixed to moves them.",
		Roles: []mechanism.Role{
			{Name: "barrel", Title: "Barrel", Help: "The joint at the eye of the barrel.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "rod", Title: "Rod", Help: "The joint at the eye of the rod. Barrel and rod hang on different things.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{Key: shortest, Title: "Shortest", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How near the eyes come to each other before it is told; measured from the parts when it is built. 0 tells nothing."},
			{Key: longest, Title: "Longest", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How far the eyes go from each other before it is told; measured from the parts when it is built. 0 tells nothing."},
			mechanism.Influence(),
		},
	}
}

// overlap is how much of a rod stays in its barrel, as a share of the shorter of both.
const overlap = 0.05

// Build implements mechanism.Kind: nothing is added; how short and long it can be is measured from the parts.
func (Kind) Build(site *mechanism.Site) error {
	m := site.Mechanism
	if len(m.Joints) != 2 {
		return errors.New("a ram has a barrel and a rod; choose a joint for each")
	}
	barrel, rod := site.Document.Joint(m.Joints[0]), site.Document.Joint(m.Joints[1])
	if err := check(*barrel, *rod); err != nil {
		return err
	}
	site.Root()
	way := rod.Position.Sub(barrel.Position).Normalize()
	m.Parameters = m.Parameters.Clone()
	if site.Extent == nil || m.Parameters[shortest].Number > 0 || m.Parameters[longest].Number > 0 {
		return nil
	}
	_, front, ok := site.Extent(barrel.ID, barrel.Position, way)
	_, tail, also := site.Extent(rod.ID, rod.Position, way.Mul(-1))
	if ok && also && front > 0 && tail > 0 {
		rest := rod.Position.Sub(barrel.Position).Len()
		m.Parameters[shortest] = parameter.OfNumber(math.Min(rest, math.Max(front, tail)))
		m.Parameters[longest] = parameter.OfNumber(math.Max(rest, front+tail-overlap*math.Min(front, tail)))
	}
	return nil
}

// check tells of a ram that cannot be one.
func check(barrel, rod rig.Joint) error {
	if barrel.Parent == rod.Parent {
		return fmt.Errorf("%s and %s hang on the same, and the ram would never move; hang one of them on what it is to push", barrel.Name, rod.Name)
	}
	if barrel.Parent == rod.ID || rod.Parent == barrel.ID {
		return fmt.Errorf("%s and %s hang on each other; each hangs on what it is fixed to", barrel.Name, rod.Name)
	}
	if apart := rod.Position.Sub(barrel.Position).Len(); !(apart > 1e-9*(apart+barrel.Position.Len())) {
		return fmt.Errorf("%s and %s stand in one place, and there is no telling where they aim; take their eyes apart", barrel.Name, rod.Name)
	}
	return nil
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	if len(joints) != 2 {
		return fmt.Errorf("a ram has a barrel and a rod, not %d joints; build it anew", len(joints))
	}
	if err := check(b.Document.Joints[joints[0]], b.Document.Joints[joints[1]]); err != nil {
		return err
	}
	r := &ram{}
	task := mechanism.Task{Run: r.run}
	for i, joint := range joints {
		half := &r.halves[i]
		half.joint, half.rest = joint, b.Rest(joint)
		var reads []mechanism.Resource
		half.below, reads = b.Below(joint)
		task.Reads = append(task.Reads, reads...)
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	way := r.halves[1].rest.Position.Sub(r.halves[0].rest.Position).Normalize()
	for i, sign := range []float64{1, -1} {
		r.halves[i].way = r.halves[i].rest.Rotation.Conjugate().Rotate(way.Mul(sign))
	}
	var reads []mechanism.Resource
	r.influence, reads = b.InfluenceOf()
	task.Reads = append(task.Reads, reads...)
	r.shortest, reads = b.Number(shortest)
	task.Reads = append(task.Reads, reads...)
	r.longest, reads = b.Number(longest)
	task.Reads = append(task.Reads, reads...)
	name := b.Mechanism.Name
	r.short = b.Finding(name + " is pushed in farther than it can be; move what it is fixed to, or make its shortest less.")
	r.long = b.Finding(name + " is pulled out farther than it can be; move what it is fixed to, or make its longest more.")
	r.behind = b.Finding(name + " is turned half round from how it lies at rest, and there is no shortest way to turn there.")
	task.Raises = []int{r.short, r.long, r.behind}
	b.AddWhole(task)
	return nil
}

// ram is a ram made ready.
type ram struct {
	halves              [2]half
	influence           mechanism.Number
	shortest, longest   mechanism.Number
	short, long, behind int // findings
}

// half is the barrel, or the rod.
type half struct {
	joint int
	rest  geometry.Transform
	below mechanism.Below
	way   mgl64.Vec3 // to the other, as the joint has it at rest
}

func (r *ram) run(f *mechanism.Frame) {
	var at [2]geometry.Transform
	var girth [2]mgl64.Vec3
	for i := range r.halves {
		at[i], girth[i] = r.halves[i].below.In(f)
	}
	between := at[1].Position.Sub(at[0].Position)
	length, influence := between.Len(), r.influence.At(f)
	const beyond = 1e-9
	least, most := r.shortest.At(f), r.longest.At(f)
	f.Findings[r.short] = influence > 0 && least > 0 && length < least*(1-beyond)
	f.Findings[r.long] = influence > 0 && most > 0 && length > most*(1+beyond)
	f.Findings[r.behind] = false
	for i, sign := range []float64{1, -1} {
		half := &r.halves[i]
		was := at[i].Rotation.Rotate(half.way)
		to := geometry.Unit(between.Mul(sign), was)
		turn := geometry.Shortest(was, to, geometry.Across(geometry.Up, was))
		if 2*math.Atan2(turn.V.Len(), turn.W) > geometry.StraightBehind {
			f.Findings[r.behind] = influence > 0
		}
		if influence < 1 {
			turn = geometry.Slerp(mgl64.QuatIdent(), turn, influence)
		}
		at[i].Rotation = turn.Mul(at[i].Rotation).Normalize()
		f.Joints[half.joint], f.Scales[half.joint] = at[i], girth[i]
	}
}
