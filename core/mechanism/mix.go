package mechanism

import (
	"cmp"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// mix lays a task that places joints over what stands there below it: what earlier mechanisms made of the joints, or how they would
// go along with their parents. Rotations mix along the shorter arc. Places follow from them: each joint lies in the frame of its
// parent where the two lie mixed, so that bones keep the length that both give them.
//
// Method: spherical interpolation (Shoemake 1985, Animating Rotation with Quaternion Curves).
type mix struct {
	influence Number
	run       func(*Frame)
	joints    []int
	bases     []base
	below     Scratch[[]stance] // by joint
	opposed   int               // finding
}

// base tells how a joint stands below a mechanism. Parent is its parent's place in the mix, or -1; one that nothing moves goes along
// with that or with a carrier.
type base struct {
	parent int
	moved  bool
	hangs  Hanging
}

type stance struct {
	place geometry.Transform
	girth mgl64.Vec3
}

// placed lists the joints that a task places.
func placed(task Task) []int {
	var joints []int
	for _, resource := range task.Writes {
		if resource.Kind == Joint {
			joints = append(joints, resource.Index)
		}
	}
	return joints
}

func (b *Bench) mixed(task Task, joints []int) Task {
	slices.SortStableFunc(joints, func(x, y int) int { return cmp.Compare(b.depth(x), b.depth(y)) }) // parents before what hangs on them
	m := &mix{influence: b.influence, run: task.Run, joints: joints, bases: make([]base, len(joints))}
	m.below = ScratchOf(b, func() *[]stance { stances := make([]stance, len(joints)); return &stances })
	task.Reads = append(slices.Clone(task.Reads), b.influenceReads...)
	for i, joint := range joints {
		parent := b.Document.Joints[joint].Parent
		m.bases[i] = base{parent: slices.Index(joints[:i], b.indexOf(parent)), moved: b.written[joint]}
		at := &m.bases[i]
		own := Resource{Kind: Joint, Index: joint}
		if at.moved && !slices.Contains(task.Reads, own) {
			task.Reads = append(task.Reads, own)
		}
		if at.moved {
			continue
		}
		var reads []Resource
		at.hangs, reads = b.HangingOf(joint)
		for _, r := range reads {
			if (at.parent < 0 || r.Kind == PoseOf) && !slices.Contains(task.Reads, r) {
				task.Reads = append(task.Reads, r)
			}
		}
	}
	m.opposed = b.Finding(fmt.Sprintf("What %s makes of a joint stands half a turn from what lies below it; between them it may change the way it turns.", b.Mechanism.Name))
	task.Raises = append(slices.Clone(task.Raises), m.opposed)
	if task.Calibrate == nil {
		task.Calibrate = task.Run
	}
	task.Run = m.mix
	return task
}

// depth is on how many joints a joint hangs, one on the other.
func (b *Bench) depth(joint int) (depth int) {
	for at := joint; depth <= len(b.Document.Joints); depth++ {
		if at = b.indexOf(b.Document.Joints[at].Parent); at < 0 {
			break
		}
	}
	return depth
}

func (b *Bench) indexOf(joint string) int {
	if i, ok := b.joints[joint]; ok {
		return i
	}
	return -1
}

func (m *mix) mix(f *Frame) {
	share := m.influence.At(f)
	below := *m.below.In(f)
	if share < 1 {
		for i := range m.joints {
			below[i] = m.stand(f, below, i)
		}
	}
	if share > 0 {
		m.run(f)
	}
	if share <= 0 {
		for i, joint := range m.joints {
			f.Joints[joint], f.Scales[joint] = below[i].place, below[i].girth
		}
	} else if share < 1 {
		m.blend(f, below, share)
	}
}

// stand returns how a joint stands below, those before it being there.
func (m *mix) stand(f *Frame, below []stance, i int) (s stance) {
	b := &m.bases[i]
	switch {
	case b.moved:
		return stance{f.Joints[m.joints[i]], f.Scales[m.joints[i]]}
	case b.parent >= 0:
		s.place, s.girth = b.hangs.On(f, below[b.parent].place)
	default:
		s.place, s.girth = b.hangs.In(f)
	}
	return s
}

// blend mixes from the last joint to the first, for each needs its parent as the mechanism has it, and then places them from the first.
func (m *mix) blend(f *Frame, stances []stance, share float64) {
	for i := len(m.joints) - 1; i >= 0; i-- {
		joint, below := m.joints[i], &stances[i]
		above := f.Joints[joint]
		low, high := below.place.Position, above.Position
		if p := m.bases[i].parent; p >= 0 {
			low = stances[p].place.Inverse().Apply(low)
			high = f.Joints[m.joints[p]].Inverse().Apply(high)
		}
		f.Scales[joint] = mixed(below.girth, f.Scales[joint], share)
		if geometry.Opposed(below.place.Rotation, above.Rotation) {
			f.Findings[m.opposed] = true
		}
		f.Joints[joint] = geometry.Mix(below.place, above, share)
		f.Joints[joint].Position = mixed(low, high, share)
	}
	for i, joint := range m.joints {
		if p := m.bases[i].parent; p >= 0 {
			f.Joints[joint].Position = f.Joints[m.joints[p]].Apply(f.Joints[joint].Position)
		}
	}
}

func mixed(a, b mgl64.Vec3, share float64) mgl64.Vec3 { return a.Mul(1 - share).Add(b.Mul(share)) }

// CarrierOf returns what a joint goes along with when no mechanism moves it, and where that was at rest: its parent, or the root control
// for a joint without one. ok is false when that is the world.
func (b *Bench) CarrierOf(joint int) (carrier Resource, rest geometry.Transform, ok bool) {
	on := b.Document.Joints[joint].Parent
	if on == "" {
		if root := b.Document.ControlNamed(RootName); root != nil {
			on = root.ID
		}
	}
	return b.Space(on)
}

// Space returns the control or joint that a thing hangs on, and where it was at rest. ok is false for the world.
func (b *Bench) Space(id string) (carrier Resource, rest geometry.Transform, ok bool) {
	if i, found := b.controls[id]; found {
		return Resource{Kind: Control, Index: i}, b.Document.Controls[i].Home(), true
	}
	if i, found := b.joints[id]; found {
		return Resource{Kind: Joint, Index: i}, b.Rest(i), true
	}
	return Resource{}, geometry.Identity(), false
}

// At returns where a control or joint stands.
func (f *Frame) At(r Resource) geometry.Transform {
	if r.Kind == Control {
		return f.Controls[r.Index]
	}
	return f.Joints[r.Index]
}
