// Package aim turns joints towards targets: eyes with one bar for both, turrets, lamps.
package aim

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "aim"

// Kind is the aim.
type Kind struct{}

// What a joint aims, and how it turns.
const (
	ahead    = "what faces ahead"
	along    = "its main axis"
	allWays  = "all ways"
	aboutUp  = "about the upright axis"
	distance = "distance"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Aim", Stand: mechanism.OnJoints, Roles: []mechanism.Role{
			{Name: "eyes", Title: "What aims", Help: "The joints that turn to what they aim at.", Does: mechanism.Moves, Joints: true, Least: 1},
			mechanism.HandleRole("bar", "Bar", 0, 1),
			{Name: "targets", Title: "Targets", Does: mechanism.Answers, Controls: true, Made: true, As: "eyes"},
		}, Hosts: []string{},
		Sketch:  "M8 12a5 5 0 1 0 .1 0M14 16L44 10M40 6l8 3l-6 6M52 6a4 4 0 1 0 .1 0",
		Summary: "Each joint turns to a target of its own; a bar carries the targets of several. For eyes, turrets and lamps.",
		Options: parameter.Declared{
			{
				Key: "aims", Title: "Aims", Type: parameter.Choice, Choices: []string{ahead, along}, Default: parameter.OfChoice(ahead),
				Help: "Which side of a joint is turned to its target.",
			},
			{
				Key: distance, Title: "Target at", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0),
				Help: "How far away the targets stand at rest; 0 for a good half of the specimen's size.",
			},
		},
		Parameters: parameter.Declared{
			{
				Key: "cone", Title: "Within", Type: parameter.Number, Unit: "°", Min: 0, Max: 180, Default: parameter.OfNumber(180), Dial: true,
				Help: "How far from rest a joint turns at most.",
			},
			{
				Key: "turns", Title: "Turns", Type: parameter.Choice, Choices: []string{allWays, aboutUp}, Default: parameter.OfChoice(allWays),
				Help: "All ways: by the least turn, so that up stays up and never flips over. About the upright axis alone: as the base of a turret.",
			},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: single joints may be eyes; those of a chain are none.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	for _, id := range chosen {
		if j := d.Joint(id); j != nil && slices.Contains(chosen, j.Parent) {
			return 0.1
		}
	}
	return 0.4
}

// Build implements mechanism.Kind: a target for each joint, on a bar where there are several. They hang on the root, and can be switched to
// what the first joint hangs on.
func (Kind) Build(site *mechanism.Site) error {
	if len(site.Mechanism.Joints) == 0 {
		return errors.New("no joint is chosen; choose what is to aim")
	}
	d := site.Document
	root := site.Root()
	away := site.Options.Number(distance)
	if away == 0 {
		away = 0.6 * site.Size
	}
	places := make([]mgl64.Vec3, len(site.Mechanism.Joints))
	middle := mgl64.Vec3{}
	for i, id := range site.Mechanism.Joints {
		joint := d.Joint(id)
		way := geometry.Forward
		if site.Options.Choice("aims") == along {
			way = joint.Rotation.Quat().Rotate(geometry.MainAxis)
		}
		places[i] = joint.Position.Add(way.Mul(away))
		middle = middle.Add(places[i].Mul(1 / float64(len(places))))
	}
	reach := 0.02 * site.Size
	carrier := root
	home := func(place mgl64.Vec3) geometry.Transform {
		return geometry.Transform{Position: place, Rotation: mgl64.QuatIdent()}
	}
	handle := func(name string, at mgl64.Vec3, shape rig.Shape, reach float64) string {
		id := site.Handle(name, carrier, home(at), shape, mechanism.Outline(shape, reach))
		site.Mechanism.Controls = append(site.Mechanism.Controls, id)
		return id
	}
	top := ""
	if len(places) > 1 {
		widest := reach
		for _, place := range places {
			widest = math.Max(widest, place.Sub(middle).Len()+1.5*reach)
		}
		top = handle(site.Mechanism.Name+"_bar", middle, rig.Square, widest)
		carrier = top
	}
	for i, place := range places {
		id := handle(fmt.Sprintf("%s_%d", site.Mechanism.Name, i+1), place, rig.Cross, reach)
		if top == "" {
			top = id
		}
	}
	if parent := d.Joint(site.Mechanism.Joints[0]).Parent; parent != "" {
		control := d.Control(top)
		control.Spaces = []string{parent}
		control.Dials = []rig.Dial{{Name: rig.SpaceDial, Max: 1}}
	}
	return nil
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
	if first := len(controls) - len(joints); first == 0 || first == 1 {
		controls = controls[first:]
	} else {
		return fmt.Errorf("an aim has a target for each joint and perhaps a bar, not %d controls for %d joints; build it anew", len(controls), len(joints))
	}
	cone, reads := b.Number("cone")
	for i, joint := range joints {
		l := &look{joint: joint, target: controls[i], cone: cone, upright: b.Settings.Choice("turns") == aboutUp, rest: b.Rest(joint)}
		away := b.Document.Controls[controls[i]].Position.Sub(l.rest.Position)
		if away.Len() <= 1e-9*(away.Len()+l.rest.Position.Len()) {
			return fmt.Errorf("the target of %s stands on it; take it away from there", b.Document.Joints[joint].Name)
		}
		l.way = away.Normalize()
		carrier, rest, hung := b.CarrierOf(joint)
		l.carrier, l.hung, l.local, l.carrierRest = carrier, hung, rest.Inverse().Then(l.rest), rest.Rotation
		task := mechanism.Task{Run: l.run, Reads: append([]mechanism.Resource{{Kind: mechanism.Control, Index: l.target}}, reads...)}
		if hung {
			task.Reads = append(task.Reads, carrier)
		}
		task.Writes = []mechanism.Resource{{Kind: mechanism.Joint, Index: joint}}
		l.behind = b.Finding(fmt.Sprintf("The target of %s is straight behind it, and there is no shortest way to turn there; take it aside, or narrow the cone.", b.Document.Joints[joint].Name))
		task.Raises = []int{l.behind}
		b.Add(task)
	}
	return nil
}

// look is one joint that aims.
type look struct {
	joint, target int
	rest, local   geometry.Transform
	carrier       mechanism.Resource
	hung, upright bool
	carrierRest   mgl64.Quat
	way           mgl64.Vec3 // from the joint to its target at rest
	cone          mechanism.Number
	behind        int // finding
}

// run turns the joint by the least turn, or about the upright axis that the body carries, towards its target, as far as the cone lets it.
func (l *look) run(f *mechanism.Frame) {
	at, carried := l.rest, mgl64.QuatIdent()
	if l.hung {
		on := f.At(l.carrier)
		at, carried = on.Then(l.local), on.Rotation.Mul(l.carrierRest.Conjugate())
	}
	was := carried.Rotate(l.way)
	up := carried.Rotate(geometry.Up)
	to := geometry.Unit(f.Controls[l.target].Position.Sub(at.Position), was)
	axis, angle := up, 0.0
	if l.upright {
		angle = about(up, was, to)
	} else {
		turn := geometry.Shortest(was, to, geometry.Across(up, was))
		angle = 2 * math.Atan2(turn.V.Len(), turn.W)
		axis = geometry.Unit(turn.V, geometry.Across(up, was))
	}
	most := l.cone.At(f) * math.Pi / 180
	held := within(math.Abs(angle), most)
	// About the upright axis half a turn is the same to either side; a cone that leaves no room to ease back in is passed at once.
	f.Findings[l.behind] = math.Abs(angle) > geometry.StraightBehind && (most > geometry.StraightBehind && most < math.Pi || most == math.Pi && !l.upright)
	at.Rotation = mgl64.QuatRotate(math.Copysign(held, angle), axis).Mul(at.Rotation).Normalize()
	f.Joints[l.joint], f.Scales[l.joint] = at, mgl64.Vec3{1, 1, 1}
}

// within is how far a joint turns to a target that lies at an angle, 0 to π: all the way up to most, where it stays while the target goes on, and
// back again as that comes to be behind it: it looks ahead when the target is straight behind, where that may go over to the other side.
func within(angle, most float64) float64 {
	if angle <= most {
		return angle
	}
	back := math.Max(most, turnsBack)
	return most * (1 - geometry.Smoothstep((angle-back)/(math.Pi-back)))
}

// turnsBack is the angle, in radians, from which a target counts as getting behind.
const turnsBack = 0.75 * math.Pi

// about is the angle about a unit axis from one unit vector to another, both seen along it.
func about(axis, from, to mgl64.Vec3) float64 {
	level := func(v mgl64.Vec3) mgl64.Vec3 { return v.Sub(axis.Mul(v.Dot(axis))) }
	a, b := level(from), level(to)
	size := a.Len()
	if size <= 1e-9 {
		return 0 // it looks along the axis, about which there is nothing to turn to
	}
	a = a.Mul(1 / size)
	b = geometry.Beside(b, a, axis)
	return geometry.SignedAngle(a, geometry.Unit(b, a), axis)
}
