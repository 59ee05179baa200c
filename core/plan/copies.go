package plan

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/repeat"
)

// addCopies has the parts that repeats carry drawn at the copies of the joints that they are fixed to.
func addCopies(bench *mechanism.Bench, expansion *repeat.Expansion) error {
	for _, copied := range expansion.Copies() {
		bench.Mechanism.ID = copied.Taken[0].Repeat
		set, err := bench.DrawInstances(copied.Part, len(copied.At))
		if err != nil {
			return err
		}
		scale := mgl64.Vec3{1, 1, 1}
		if copied.Mirror {
			scale[0] = -1
		}
		task := mechanism.Task{Subject: copied.Taken[0].Repeat, Writes: []mechanism.Resource{{Kind: mechanism.InstancesOf, Index: set}}}
		joints, back := make([]int, len(copied.At)), make([]geometry.Transform, len(copied.At))
		for k, id := range copied.At {
			joints[k], _ = bench.Joint(id)
			base, _ := bench.Joint(copied.Taken[k].Base)
			back[k] = restOfCopy(bench.Rest(base), copied.Taken[k]).Inverse().Then(copied.Taken[k].Motion)
			task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.Joint, Index: joints[k]})
		}
		task.Run = func(f *mechanism.Frame) {
			for k, joint := range joints {
				f.Instances[set][k] = mechanism.Instance{Place: f.Joints[joint].Then(back[k]), Scale: scale}
			}
		}
		bench.Tasks = append(bench.Tasks, task)
	}
	return nil
}

// restOfCopy is where a copy of a joint stands at rest that keeps nothing of its own: as its repeats carry it. A mirror image of axes is no rotation: the main and the second axis are
// mirrored, and the third follows from them.
func restOfCopy(rest geometry.Transform, c repeat.Carried) geometry.Transform {
	if !c.Mirrored {
		return c.Motion.Then(rest)
	}
	across := func(v mgl64.Vec3) mgl64.Vec3 { return c.Motion.Rotation.Rotate(mgl64.Vec3{-v[0], v[1], v[2]}) }
	return geometry.Transform{
		Position: c.Motion.Apply(mgl64.Vec3{-rest.Position[0], rest.Position[1], rest.Position[2]}),
		Rotation: geometry.FromAxes(across(rest.Rotation.Rotate(geometry.MainAxis)), across(rest.Rotation.Rotate(geometry.SecondAxis))),
	}
}
