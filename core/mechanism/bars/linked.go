package bars

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/linkage"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	drivers, _, err := counted(b.Mechanism)
	if err != nil {
		return err
	}
	if len(controls) != len(drivers) || len(joints) < 3 {
		return fmt.Errorf("a linkage has a handle for each of what drives and three bars or more, not %d and %d; build it anew", len(controls), len(joints))
	}
	made, err := assemble(b.Document, b.Mechanism, b.Document.Controls[controls[0]].Home().Rotation.Rotate(geometry.MainAxis))
	if err != nil {
		return err
	}
	x := &linked{assembly: made, joints: joints, holdOn: -1}
	x.state = mechanism.ScratchOf(b, func() *moving { return &moving{State: made.plan.NewState(), drives: make([]float64, len(drivers))} })
	x.ground, x.groundRest, x.carried = b.CarrierOf(joints[0])
	task := mechanism.Task{Run: x.run}
	read := func(resources ...mechanism.Resource) {
		for _, r := range resources {
			if !slices.Contains(task.Reads, r) {
				task.Reads = append(task.Reads, r)
			}
		}
	}
	if x.carried {
		read(x.ground)
	}
	for k, control := range controls {
		h := x.handle(b, k, control)
		x.handles = append(x.handles, h)
		read(mechanism.Resource{Kind: mechanism.Control, Index: control})
		if h.hung {
			read(h.space)
		}
		task.Carries = append(task.Carries, control)
		for _, finding := range []int{h.low, h.high} {
			if finding >= 0 {
				task.Raises = append(task.Raises, finding)
			}
		}
	}
	for i := range x.rams {
		ram := &x.rams[i]
		if slot, reads, ok := b.ChannelOf(controls[ram.driver], ExtensionDial); ok {
			ram.slot = slot
			read(reads)
		} else {
			return fmt.Errorf("the handle %s has lost the dial of its ram; build the linkage anew", b.Document.Controls[controls[ram.driver]].Name)
		}
		if ram.outside {
			ram.joint, _ = b.Joint(ram.foot)
			read(mechanism.Resource{Kind: mechanism.Joint, Index: ram.joint})
		}
	}
	back := made.plane.Inverse()
	for _, joint := range joints {
		x.rest = append(x.rest, back.Then(b.Rest(joint)))
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	x.end = b.Finding(fmt.Sprintf("The bars of %s reach no farther; bring what drives it back.", b.Mechanism.Name))
	if task.Raises, x.graze = append(task.Raises, x.end), -1; len(drivers) > 1 {
		x.graze = b.Finding(fmt.Sprintf("Bars of %s come next to parting on the way to here; a little farther they stop before it, or pass it and jump. Lead its handles another way.", b.Mechanism.Name))
		task.Raises = append(task.Raises, x.graze)
	}
	x.layHold(b, controls[0])
	b.Add(task)
	return nil
}

// handle lays the handle of a driver, and what is told at the ends of its travel.
func (x *linked) handle(b *mechanism.Bench, k, control int) handleOf {
	c := b.Document.Controls[control]
	h := handleOf{control: control, home: c.Home(), low: -1, high: -1}
	h.space, h.spaceRest, h.hung = b.Space(c.Space)
	h.on = x.body[x.parent[x.drivers[k]]]
	low, high, endless := x.plan.HandleTravel(k)
	if endless {
		return h
	}
	b.Stop(mechanism.Stop{Control: c.ID, Channel: rig.RotateY, Low: low, High: high})
	for _, side := range []struct {
		high bool
		to   *int
	}{{false, &h.low}, {true, &h.high}} {
		var names []string
		for _, body := range x.plan.Stretched(k, side.high) {
			names = append(names, b.Document.NameOf(b.Mechanism.Joints[body-1]))
		}
		if len(names) > 0 {
			*side.to = b.Finding(fmt.Sprintf("%s reaches no farther: %s cannot go on; bring %s back.", b.Mechanism.Name, strings.Join(names, " and "), c.Name))
		}
	}
	return h
}

// linked is a linkage made ready.
type linked struct {
	*assembly
	joints     []int
	rest       []geometry.Transform // of the joints, in the plane's frame
	handles    []handleOf
	ground     mechanism.Resource // what the linkage hangs on
	groundRest geometry.Transform
	carried    bool
	end, graze int // findings; -1 for none
	state      mechanism.Scratch[moving]

	holdOn    int // the body on which the handle is held; -1 for none
	holdAt    mgl64.Vec2
	holdAside float64
}

// moving is a linkage as it stands in a frame.
type moving struct {
	*linkage.State
	drives []float64
}

// planeIn is where the plane is in a frame.
func (x *linked) planeIn(f *mechanism.Frame) geometry.Transform {
	if x.carried {
		return f.At(x.ground).Then(x.groundRest.Inverse()).Then(x.plane)
	}
	return x.plane
}

// run turns the drivers as their handles are turned, and rams long, as far as the bars reach, and places all bars.
func (x *linked) run(f *mechanism.Frame) {
	s, plane := x.state.In(f), x.planeIn(f)
	held := false
	for k := range x.handles {
		h := &x.handles[k]
		turned := x.turned(f, h)
		drive, past := x.plan.Eased(k, turned)
		s.drives[k] = drive
		x.tell(f, h, past, turned > 0)
		held = held || past && h.low < 0 && h.high < 0
	}
	for i := range x.rams {
		held = x.push(f, &x.rams[i], s, plane) || held
	}
	came := x.plan.Bring(s.State, s.drives...)
	f.Findings[x.end] = (came.Held || held) && !x.told(f)
	if x.graze >= 0 {
		f.Findings[x.graze] = came.Grazes
	}
	for i, joint := range x.joints {
		at := plane.Then(motionOf(s.Poses[i+1])).Then(x.rest[i])
		at.Rotation = at.Rotation.Normalize()
		f.Joints[joint], f.Scales[joint] = at, mgl64.Vec3{1, 1, 1}
	}
	x.carry(f, s, plane)
}

// turned is how far a handle is turned against what it hangs on.
func (x *linked) turned(f *mechanism.Frame, h *handleOf) float64 {
	moved := geometry.Identity()
	if h.hung {
		moved = f.At(h.space).Then(h.spaceRest.Inverse())
	}
	return moved.Inverse().Then(f.Controls[h.control]).Turned - h.home.Turned
}

func (x *linked) tell(f *mechanism.Frame, h *handleOf, past, high bool) {
	if h.low >= 0 {
		f.Findings[h.low] = past && !high
	}
	if h.high >= 0 {
		f.Findings[h.high] = past && high
	}
}

// told tells whether some handle says already that it is past an end.
func (x *linked) told(f *mechanism.Frame) bool {
	for _, h := range x.handles {
		if h.low >= 0 && f.Findings[h.low] || h.high >= 0 && f.Findings[h.high] {
			return true
		}
	}
	return false
}

// push has a ram turn its driver, on top of its handle. A length is what it says, up to the end of the travel.
func (x *linked) push(f *mechanism.Frame, ram *extension, s *moving, plane geometry.Transform) (held bool) {
	longer := f.Values[ram.slot]
	if ram.outside {
		s.drives[ram.driver], held = ram.follow(plane.Inverse().Apply(f.Joints[ram.joint].Position), longer)
		return held
	}
	pushed, short := ram.turn(longer)
	s.drives[ram.driver] += pushed
	return short
}

// motionOf is how a body has gone from rest, in the plane's frame.
func motionOf(pose linkage.Pose) geometry.Transform {
	sine, cosine := math.Sincos(math.Atan2(pose.Sine, pose.Cosine) / 2)
	return geometry.Transform{Position: mgl64.Vec3{pose.Move[1], 0, pose.Move[0]}, Rotation: mgl64.Quat{W: cosine, V: mgl64.Vec3{0, sine, 0}}}
}

// carry takes handles along with the bars that they are on.
func (x *linked) carry(f *mechanism.Frame, s *moving, plane geometry.Transform) {
	back := plane.Inverse()
	for k := range x.handles {
		h := &x.handles[k]
		switch {
		case k == 0 && x.holdOn >= 0:
			at := plane.Then(motionOf(s.Poses[x.holdOn])).Then(x.plane.Inverse()).Then(h.home)
			f.Carried[h.control] = at.Then(f.Controls[h.control].Inverse())
		case h.on == linkage.Ground:
			f.Carried[h.control] = geometry.Identity()
		default:
			f.Carried[h.control] = plane.Then(motionOf(s.Poses[h.on])).Then(back)
		}
		f.Carried[h.control].Rotation = f.Carried[h.control].Rotation.Normalize()
	}
}
