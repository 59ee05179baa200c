package plan

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// addHierarchy adds a task for every control, and for every joint that no mechanism moves: it goes along with its parent, or
// with the root control when it has none.
func addHierarchy(bench *mechanism.Bench) error {
	moved := map[int]string{}
	for _, task := range bench.Tasks {
		for _, resource := range task.Writes {
			if resource.Kind != mechanism.Joint {
				continue
			}
			if other, ok := moved[resource.Index]; ok && other != task.Subject {
				return fmt.Errorf("%s is moved by %s and by %s; take it out of one of them",
					bench.Document.Joints[resource.Index].Name, bench.Document.NameOf(other), bench.Document.NameOf(task.Subject))
			}
			moved[resource.Index] = task.Subject
		}
	}
	posed := map[string]bool{}
	for _, clip := range bench.Document.Clips {
		for _, track := range clip.JointTracks {
			posed[track.Joint] = true
		}
	}
	for i, control := range bench.Document.Controls {
		bench.Tasks = append(bench.Tasks, controlTask(bench, i, control))
	}
	for i, joint := range bench.Document.Joints {
		if _, ok := moved[i]; !ok {
			bench.Tasks = append(bench.Tasks, followTask(bench, i, joint, posed[joint.ID]))
		}
	}
	return nil
}

// carrierOf returns the resource that a thing hangs on, and where it was at rest. ok is false for the world.
func carrierOf(bench *mechanism.Bench, id string) (mechanism.Resource, geometry.Transform, bool) {
	if i, ok := bench.Control(id); ok {
		return mechanism.Resource{Kind: mechanism.Control, Index: i}, bench.Document.Controls[i].Home(), true
	}
	if i, ok := bench.Joint(id); ok {
		return mechanism.Resource{Kind: mechanism.Joint, Index: i}, bench.Rest(i), true
	}
	return mechanism.Resource{}, geometry.Identity(), false
}

func where(f *mechanism.Frame, r mechanism.Resource) geometry.Transform {
	if r.Kind == mechanism.Control {
		return f.Controls[r.Index]
	}
	return f.Joints[r.Index]
}

func controlTask(bench *mechanism.Bench, i int, control rig.Control) mechanism.Task {
	carrier, rest, hung := carrierOf(bench, control.Space)
	local := rest.Inverse().Then(control.Home())
	task := mechanism.Task{
		Subject: control.ID,
		Reads:   []mechanism.Resource{{Kind: mechanism.ChannelsOf, Index: i}},
		Writes:  []mechanism.Resource{{Kind: mechanism.Control, Index: i}},
		Run: func(f *mechanism.Frame) {
			home := local
			if hung {
				home = where(f, carrier).Then(local)
			}
			f.Controls[i] = home.Then(control.Offset(f.Channels[i*rig.ChannelCount : (i+1)*rig.ChannelCount]))
		},
	}
	if hung {
		task.Reads = append(task.Reads, carrier)
	}
	return task
}

func followTask(bench *mechanism.Bench, i int, joint rig.Joint, posed bool) mechanism.Task {
	carrierID := joint.Parent
	if carrierID == "" {
		if root := bench.Document.ControlNamed(mechanism.RootName); root != nil {
			carrierID = root.ID
		}
	}
	carrier, rest, hung := carrierOf(bench, carrierID)
	local := rest.Inverse().Then(joint.Rest())
	task := mechanism.Task{
		Subject: joint.ID,
		Writes:  []mechanism.Resource{{Kind: mechanism.Joint, Index: i}},
		Run: func(f *mechanism.Frame) {
			f.Scales[i] = mgl64.Vec3{1, 1, 1}
			if hung {
				f.Joints[i] = where(f, carrier).Then(local)
			} else {
				f.Joints[i] = local
			}
			if posed {
				f.Joints[i], f.Scales[i] = f.Joints[i].Then(f.Poses[i].Offset), f.Poses[i].Girth
			}
		},
	}
	if posed {
		task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.PoseOf, Index: i})
	}
	if hung {
		task.Reads = append(task.Reads, carrier)
	}
	return task
}
