// Package bars moves flat linkages: bars that are pinned to each other in closed loops, of which one is driven and all others follow exactly.
package bars

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/linkage"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "linkage"

// Kind is the linkage. Bars are joints; where two of them are pinned is read off the rest pose: at a bar's own place it is pinned to what it hangs on, and wherever else an end of one lies on an end of another. Ends are
// the places of joints that hang on a bar.
type Kind struct{}

// Where the axis of the pins comes from, when it is built.
const (
	found    = "found from the pins"
	main     = "the driver's main axis"
	sideways = "the driver's X axis"
	forward  = "the driver's Z axis"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Linkage", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M8 20L16 6L44 4L52 20M6 20h4M50 20h4",
		Summary: "Bars that are pinned to each other in closed loops: one is turned, and all others follow exactly. For parallel arms, four-bars, scissors and walking beams.",
		Roles: []mechanism.Role{
			{Name: "driver", Title: "What drives", Help: "The bar that is turned. It hangs on what stands still.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "bars", Title: "What follows", Help: "The other bars. Each is pinned where it hangs, and wherever a joint that hangs on it lies on one of another bar. Where none is chosen, those are taken that are pinned to the driver and to each other.", Does: mechanism.Moves, Joints: true},
			{Name: "ram", Title: "Ram that drives it", Help: "The eyes of a ram: first that on what stands still, then that on the driver. The handle gets a dial of how much longer it is than at rest. None for no ram.", Does: mechanism.LooksAt, Joints: true, Most: 2},
			mechanism.HandleRole("handle", "Handle", 1, 1),
		},
		Options: parameter.Declared{{
			Key: "axis", Title: "Pins stand along", Type: parameter.Choice, Choices: []string{found, main, sideways, forward}, Default: parameter.OfChoice(found),
			Help: "The axis about which all bars turn. Found: at right angles to the plane that the pins lie in; bars that lie side by side need it said.",
		}},
		Parameters: parameter.Declared{mechanism.Influence()},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: a handle on the driver's pin.
func (Kind) Build(site *mechanism.Site) error {
	m := site.Mechanism
	d := site.Document
	driver := d.Joint(m.Joints[0])
	axis, err := planeOf(site)
	if err != nil {
		return err
	}
	if len(m.Joints) == 1 {
		m.Joints = append(m.Joints, propose(d, driver, axis)...)
	}
	if len(m.Joints) < 3 {
		return fmt.Errorf("%s is in no closed loop: lay a joint at the end of each bar where it is pinned to another, or choose the bars that follow", driver.Name)
	}
	made, err := assemble(d, m.Joints, axis)
	if err != nil {
		return err
	}
	home := geometry.Transform{Position: driver.Position, Rotation: geometry.FromAxes(axis, driver.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))}
	space := site.Root()
	if driver.Parent != "" {
		space = driver.Parent
	}
	id := site.Handle(m.Name+"_handle", space, home, rig.Hoop, mechanism.Outline(rig.Hoop, 0.06*site.Size))
	control := d.Control(id)
	control.Channels = map[rig.Channel]rig.ChannelState{}
	for _, channel := range rig.Channels {
		if channel != rig.RotateY {
			control.Channels[channel] = rig.ChannelState{Locked: true}
		}
	}
	m.Controls = []string{id}
	return addDial(site, made, control)
}

// planeOf is the axis of the pins that is asked for. Where no bars are chosen yet it is found from the driver and all that hangs where it does.
func planeOf(site *mechanism.Site) (mgl64.Vec3, error) {
	bars := site.Mechanism.Joints
	if len(bars) > 1 {
		return axisOf(site.Options.Choice("axis"), site.Document, bars)
	}
	driver := site.Document.Joint(bars[0])
	near := append([]string{driver.ID}, site.Document.ChildrenOf(driver.ID)...)
	if axis, err := axisOf(site.Options.Choice("axis"), site.Document, near); err == nil {
		return axis, nil
	}
	for _, other := range site.Document.ChildrenOf(driver.Parent) {
		if axis, err := axisOf(site.Options.Choice("axis"), site.Document, append(near, other)); err == nil && other != driver.ID {
			return axis, nil
		}
	}
	return axisOf(site.Options.Choice("axis"), site.Document, near)
}

// flat is how thin the triangle of pins may be that a plane is found from, as a share of the square of their size.
const flat = 1e-6

// axisOf is the axis of the pins.
func axisOf(asked string, d *rig.Document, bars []string) (mgl64.Vec3, error) {
	turn := d.Joint(bars[0]).Rotation.Quat()
	switch asked {
	case main:
		return turn.Rotate(geometry.MainAxis), nil
	case sideways:
		return turn.Rotate(mgl64.Vec3{1, 0, 0}), nil
	case forward:
		return turn.Rotate(mgl64.Vec3{0, 0, 1}), nil
	}
	places := []mgl64.Vec3{}
	for _, id := range bars {
		places = append(places, d.Joint(id).Position)
		for _, child := range d.ChildrenOf(id) {
			places = append(places, d.Joint(child).Position)
		}
	}
	var largest mgl64.Vec3
	size := 0.0
	for i, a := range places {
		for k, b := range places[:i] {
			size = math.Max(size, a.Sub(b).LenSqr())
			for _, c := range places[:k] {
				if n := b.Sub(a).Cross(c.Sub(a)); n.LenSqr() > largest.LenSqr()*(1+1e-9) {
					largest = n
				}
			}
		}
	}
	if !(largest.Len() > flat*size) {
		return mgl64.Vec3{}, errors.New("all pins lie in one line, and there is no telling about which axis the bars turn; say which")
	}
	axis := largest.Normalize()
	main := 0
	for k := range 3 {
		if math.Abs(axis[k]) > math.Abs(axis[main])*(1+1e-6) {
			main = k
		}
	}
	if axis[main] < 0 {
		axis = axis.Mul(-1)
	}
	return axis, nil
}

// together is how near to each other two ends lie that are pinned, as a share of the linkage's size.
const together = 1e-5

// assembly is a linkage as it is read off the rest pose: the plane's frame, whose main axis the pins stand along, and the plan.
type assembly struct {
	plane geometry.Transform
	plan  *linkage.Plan
}

// faultError is what is wrong with bars, by their names.
type faultError struct {
	*linkage.Fault
	bars []string // IDs
	text string
}

func (e *faultError) Error() string { return e.text }

// named tells what is wrong with a linkage by the names of its bars.
func named(d *rig.Document, bars []string, driver string, err error) error {
	var fault *linkage.Fault
	if !errors.As(err, &fault) {
		return err
	}
	e := &faultError{Fault: fault}
	names := []string{}
	for _, body := range fault.Bodies {
		e.bars, names = append(e.bars, bars[body-1]), append(names, d.NameOf(bars[body-1]))
	}
	who := strings.Join(names, " and ")
	switch {
	case errors.Is(fault, linkage.ErrLoose):
		e.text = fmt.Sprintf("%s is still loose while %s is held: put a joint at its end where it is pinned to another bar, drive it otherwise, or leave it out", who, driver)
	case errors.Is(fault, linkage.ErrStraight):
		e.text = fmt.Sprintf("%s stand dead straight at rest, and there is no telling which way they bend; bend them a little", who)
	default:
		e.text = fmt.Sprintf("%s has no length: two of its pins are in one place; take them apart", who)
	}
	return e
}

// flatten is where a place at rest lies in the plane: Z and X turn about Y as X and Y do about Z.
func (a *assembly) flatten(p mgl64.Vec3) mgl64.Vec2 {
	q := a.plane.Inverse().Apply(p)
	return mgl64.Vec2{q[2], q[0]}
}

// end is an end of a bar, or of the ground.
type end struct {
	at   mgl64.Vec2
	body int
}

// assemble reads a linkage off the rest pose. bars are joints; the first is the driver.
func assemble(d *rig.Document, bars []string, axis mgl64.Vec3) (*assembly, error) {
	driver := d.Joint(bars[0])
	a := &assembly{plane: geometry.Transform{Position: driver.Position, Rotation: geometry.FromAxes(axis, driver.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))}}
	flatten := a.flatten
	body := map[string]int{driver.Parent: linkage.Ground}
	for i, id := range bars {
		body[id] = i + 1
	}
	ends := []end{}
	for i, id := range bars {
		joint := d.Joint(id)
		on, hangs := body[joint.Parent]
		if !hangs {
			return nil, fmt.Errorf("%s hangs neither on a bar of the linkage nor on what %s hangs on, which stands still; hang it there, or choose what it hangs on as a bar", joint.Name, driver.Name)
		}
		ends = append(ends, end{flatten(joint.Position), i + 1}, end{flatten(joint.Position), on})
		for _, child := range d.ChildrenOf(id) {
			if !slices.Contains(bars, child) {
				ends = append(ends, end{flatten(d.Joint(child).Position), i + 1})
			}
		}
	}
	if driver.Parent != "" {
		for _, child := range d.ChildrenOf(driver.Parent) {
			if !slices.Contains(bars, child) {
				ends = append(ends, end{flatten(d.Joint(child).Position), linkage.Ground})
			}
		}
	}
	if body[driver.Parent] != linkage.Ground {
		return nil, fmt.Errorf("%s hangs on another bar; what drives hangs on what stands still", driver.Name)
	}
	l := linkage.Linkage{Bodies: len(bars) + 1, Driver: 1, Nodes: nodesOf(ends)}
	l.Pivot = slices.IndexFunc(l.Nodes, func(n linkage.Node) bool {
		return slices.Contains(n.Bodies, 1) && slices.Contains(n.Bodies, linkage.Ground)
	})
	var err error
	if a.plan, err = linkage.New(l); err != nil {
		return nil, named(d, bars, driver.Name, err)
	}
	return a, nil
}

// nodesOf pins ends to each other that lie in one place.
func nodesOf(ends []end) (nodes []linkage.Node) {
	size := 0.0
	for _, e := range ends {
		size = math.Max(size, e.at.Sub(ends[0].at).Len())
	}
	for _, e := range ends {
		at := slices.IndexFunc(nodes, func(n linkage.Node) bool { return n.At.Sub(e.at).Len() <= together*size })
		if at < 0 {
			at = len(nodes)
			nodes = append(nodes, linkage.Node{At: e.at})
		}
		if !slices.Contains(nodes[at].Bodies, e.body) {
			nodes[at].Bodies = append(nodes[at].Bodies, e.body)
		}
	}
	return slices.DeleteFunc(nodes, func(n linkage.Node) bool { return len(n.Bodies) < 2 })
}

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
	if len(controls) != 1 || len(joints) < 3 {
		return fmt.Errorf("a linkage has one handle and three bars or more, not %d and %d; build it anew", len(controls), len(joints))
	}
	control := b.Document.Controls[controls[0]]
	home := control.Home()
	made, err := assemble(b.Document, b.Mechanism.Joints, home.Rotation.Rotate(geometry.MainAxis))
	if err != nil {
		return err
	}
	x := &linked{assembly: made, joints: joints, handle: controls[0], home: home}
	x.state = mechanism.ScratchOf(b, made.plan.NewState)
	space, spaceRest, hung := b.Space(control.Space)
	x.space, x.spaceRest, x.hung = space, spaceRest, hung
	x.ground, x.groundRest, x.carried = b.CarrierOf(joints[0])
	task := mechanism.Task{Run: x.run, Reads: []mechanism.Resource{{Kind: mechanism.Control, Index: x.handle}}}
	if x.hung {
		task.Reads = append(task.Reads, x.space)
	}
	if x.carried && !slices.Contains(task.Reads, x.ground) {
		task.Reads = append(task.Reads, x.ground)
	}
	if slot, reads, ok := b.ChannelOf(x.handle, ExtensionDial); ok && len(b.Mechanism.Takes) > 0 {
		if x.ram, err = eyes(b.Document, b.Mechanism.Takes, made); err != nil {
			return err
		}
		x.ram.slot, x.driven = slot, true
		task.Reads = append(task.Reads, reads)
	}
	back := made.plane.Inverse()
	for _, joint := range joints {
		x.rest = append(x.rest, back.Then(b.Rest(joint)))
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	x.end = b.Finding(fmt.Sprintf("The bars of %s reach no farther; bring its handle back.", b.Mechanism.Name))
	task.Raises = []int{x.end}
	b.Add(task)
	return nil
}

// linked is a linkage made ready.
type linked struct {
	*assembly
	joints        []int
	rest          []geometry.Transform // of the joints, in the plane's frame
	handle        int
	home          geometry.Transform
	space, ground mechanism.Resource // what the handle, and what the linkage hangs on
	spaceRest     geometry.Transform
	groundRest    geometry.Transform
	hung, carried bool
	end           int // finding
	ram           extension
	driven        bool // by a ram as well
	state         mechanism.Scratch[linkage.State]
}

// run turns the driver as the handle is turned, as far as the bars reach, and places all bars.
func (x *linked) run(f *mechanism.Frame) {
	moved := geometry.Identity()
	if x.hung {
		moved = f.At(x.space).Then(x.spaceRest.Inverse())
	}
	turned := moved.Inverse().Then(f.Controls[x.handle]).Turned - x.home.Turned
	pushed, short := 0.0, false
	if x.driven {
		pushed, short = x.ram.turn(f.Values[x.ram.slot])
	}
	drive, held := x.plan.Eased(turned)
	if x.driven { // a length is what it says, up to the end
		least, most, endless := x.plan.Travel()
		drive += pushed
		if !endless {
			held = held || drive < least || drive > most
			drive = math.Max(least, math.Min(most, drive))
		}
	}
	f.Findings[x.end] = held || short
	s := x.state.In(f)
	x.plan.Solve(s, drive)
	plane := x.plane
	if x.carried {
		plane = f.At(x.ground).Then(x.groundRest.Inverse()).Then(plane)
	}
	for i, joint := range x.joints {
		pose := s.Poses[i+1]
		half := math.Atan2(pose.Sine, pose.Cosine) / 2
		sine, cosine := math.Sincos(half)
		motion := geometry.Transform{Position: mgl64.Vec3{pose.Move[1], 0, pose.Move[0]}, Rotation: mgl64.Quat{W: cosine, V: mgl64.Vec3{0, sine, 0}}}
		at := plane.Then(motion).Then(x.rest[i])
		at.Rotation = at.Rotation.Normalize()
		f.Joints[joint], f.Scales[joint] = at, mgl64.Vec3{1, 1, 1}
	}
}
