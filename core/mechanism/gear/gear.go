// Package gear turns a joint with another that it meshes with, or that a belt or a shaft joins it to: by their teeth, or by their radii.
package gear

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/axle"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "gear"

// Kind is the gear.
type Kind struct{}

// How a gear is joined to what turns it.
const (
	meshes = "teeth that mesh"
	within = "teeth, one within the other"
	belt   = "a belt or a chain"
	shaft  = "a shaft"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Gear", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M20 12m-8 0a8 8 0 1 0 16 0a8 8 0 1 0 -16 0M38 12m-5 0a5 5 0 1 0 10 0a5 5 0 1 0 -10 0M28 12h4",
		Summary: "Turns with what it meshes with, or what a belt, a chain or a shaft joins it to, by their teeth or their radii. Gears turn gears.",
		Roles: []mechanism.Role{
			{Name: "gear", Title: "Gear", Help: "The joint that is turned.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "by", Title: "What turns it", Help: "A joint that a hinge, a wheel or another gear turns.", Does: mechanism.LooksAt, Joints: true, Least: 1, Most: 1},
			mechanism.HandleRole("handle", "Handle", 1, 1),
		},
		Options: parameter.Declared{axle.Option("Axis", "What the gear turns about. Found: the middle of the part's round rim, or of its hole; where there is none, the joint's main axis.")},
		Parameters: parameter.Declared{
			{Key: "joined", Title: "Joined by", Type: parameter.Choice, Choices: []string{meshes, within, belt, shaft}, Default: parameter.OfChoice(meshes), Help: "Teeth that mesh turn it the other way; one within the other, a belt and a shaft the same way. A shaft turns it as far."},
			{Key: "teeth", Title: "Teeth", Type: parameter.Number, Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How many teeth it has, or how large it is in any measure; measured as its radius where it is built without."},
			{Key: "others", Title: "Teeth of the other", Type: parameter.Number, Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How many teeth what turns it has, in the same measure."},
			{Key: "share", Title: "Hands on", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true, Help: "How much of its turning a belt hands on: below 1 it slips."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: a handle on the axis, by which it is turned besides.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	joint, by := d.Joint(m.Joints[0]), d.Joint(m.Takes[0])
	if joint.ID == by.ID || joint.Parent == by.ID {
		return fmt.Errorf("%s goes with %s as it is; hang it on what carries both", joint.Name, by.Name)
	}
	origin, way := axisOf(site, *joint)
	m.Parameters = m.Parameters.Clone()
	if m.Parameters["teeth"].Number == 0 && m.Parameters["others"].Number == 0 {
		if err := measure(site, *joint, *by, origin, way); err != nil {
			return err
		}
	}
	reach := 0.06 * site.Size
	home := geometry.Transform{Position: origin, Rotation: geometry.FromAxes(way, geometry.Across(geometry.Forward, way))}
	id := site.Handle(m.Name+"_handle", site.Space(), home, rig.Hoop, mechanism.Outline(rig.Hoop, reach))
	control := d.Control(id)
	control.Channels = map[rig.Channel]rig.ChannelState{}
	for _, channel := range rig.Channels {
		if channel != rig.RotateY {
			control.Channels[channel] = rig.ChannelState{Locked: true}
		}
	}
	m.Controls = []string{id}
	return nil
}

// axisOf is what a gear turns about: the joint's main axis where nothing is found.
func axisOf(site *mechanism.Site, joint rig.Joint) (origin, way mgl64.Vec3) {
	if origin, way, ok := axle.Of(site, joint); ok {
		return origin, way
	}
	return joint.Position, joint.Rotation.Quat().Rotate(geometry.MainAxis)
}

// apart is how far from each other the rims of gears that mesh may lie, as a share of their radii.
const apart = 0.15

// measure takes the radii of both for their teeth, and tells where they do not meet.
func measure(site *mechanism.Site, joint, by rig.Joint, origin, way mgl64.Vec3) error {
	m := site.Mechanism
	if m.Parameters["joined"].Choice == shaft || site.Extent == nil {
		return nil
	}
	own, ok := radiusOf(site, joint.ID, origin, way)
	other, also := radiusOf(site, by.ID, by.Position, way)
	if !ok || !also {
		return fmt.Errorf("%s and %s have no parts whose radii could be measured; give the teeth of both", joint.Name, by.Name)
	}
	between := origin.Sub(by.Position)
	between = between.Sub(way.Mul(between.Dot(way)))
	meet := own + other
	if m.Parameters["joined"].Choice == within {
		meet = math.Abs(own - other)
	}
	if joined := m.Parameters["joined"].Choice; joined != belt && math.Abs(between.Len()-meet) > apart*(own+other) {
		return fmt.Errorf("%s and %s do not meet: their axes lie %.3g m apart, and their radii come to %.3g m; move one of them, join them by a belt, or give the teeth of both", joint.Name, by.Name, between.Len(), meet)
	}
	m.Parameters["teeth"], m.Parameters["others"] = parameter.OfNumber(own), parameter.OfNumber(other)
	return nil
}

// radiusOf is the mean reach of a joint's parts from an axis.
func radiusOf(site *mechanism.Site, joint string, origin, way mgl64.Vec3) (radius float64, ok bool) {
	least, most, ok := axle.Reach(site, joint, origin, way)
	return (least + most) / 2, ok
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
	if len(joints) != 1 || len(controls) != 1 || len(b.Mechanism.Takes) != 1 {
		return errors.New("a gear is one joint with one handle that something turns; build it anew")
	}
	by, ok := b.TurningOf(b.Mechanism.Takes[0])
	if !ok {
		return fmt.Errorf("%s turns nothing by itself: have a hinge, a wheel or a gear turn it, which is built before this one", b.Document.NameOf(b.Mechanism.Takes[0]))
	}
	control := b.Document.Controls[controls[0]]
	axis := control.Home().Rotation.Rotate(geometry.MainAxis)
	g := &gear{joint: joints[0], handle: controls[0], home: control.Home(), by: by.Index}
	if g.ratio, err = ratioOf(b.Settings, axis.Dot(by.Axis)); err != nil {
		return err
	}
	back := b.Rest(g.joint).Inverse()
	g.origin, g.axis = back.Apply(control.Position), back.Rotation.Rotate(axis)
	g.lay(b, axis)
	return nil
}

// ratioOf is how far the gear turns for a turn of what turns it, each about its own axis.
func ratioOf(settings parameter.Set, alike float64) (float64, error) {
	way := math.Copysign(1, alike)
	teeth, others := settings.Number("teeth"), settings.Number("others")
	if settings.Choice("joined") == shaft {
		return way, nil
	}
	if !(teeth > 0 && others > 0) {
		return 0, errors.New("it has no teeth, or what turns it has none; give how many both have, or join them by a shaft")
	}
	if settings.Choice("joined") == meshes {
		way = -way
	}
	return way * others / teeth, nil
}

// lay lays the task.
func (g *gear) lay(b *mechanism.Bench, axis mgl64.Vec3) {
	control := b.Document.Controls[g.handle]
	g.turns = b.OfferTurning(b.Mechanism.Joints[0], mechanism.Turning{Origin: control.Position, Axis: axis})
	below, reads := b.Below(g.joint)
	g.below = below
	g.space, g.spaceRest, g.hung = b.Space(control.Space)
	if g.hung {
		reads = append(reads, g.space)
	}
	share, dials := b.Number("share")
	influence, counts := b.InfluenceOf()
	g.share, g.influence = share, influence
	reads = append(append(append(reads, dials...), counts...), mechanism.Resource{Kind: mechanism.Control, Index: g.handle}, mechanism.Resource{Kind: mechanism.TurningOf, Index: g.by})
	b.AddWhole(mechanism.Task{Run: g.run, Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: g.joint}, {Kind: mechanism.TurningOf, Index: g.turns}}})
}

// gear is a gear made ready.
type gear struct {
	joint, handle    int
	by, turns        int // places among what turns
	ratio            float64
	home             geometry.Transform
	origin, axis     mgl64.Vec3 // in the joint's frame
	below            mechanism.Below
	space            mechanism.Resource
	spaceRest        geometry.Transform
	hung             bool
	share, influence mechanism.Number
}

// run turns the gear as far as what turns it has turned, by their ratio, and as its handle is turned besides.
func (g *gear) run(f *mechanism.Frame) {
	moved := geometry.Identity()
	if g.hung {
		moved = f.At(g.space).Then(g.spaceRest.Inverse())
	}
	besides := moved.Inverse().Then(f.Controls[g.handle]).Turned - g.home.Turned
	angle := g.influence.At(f) * (g.ratio*g.share.At(f)*f.Turnings[g.by] + besides)
	f.Turnings[g.turns] = angle
	at, girth := g.below.In(f)
	turn := mgl64.QuatRotate(math.Remainder(angle, 2*math.Pi), g.axis)
	at = at.Then(geometry.Transform{Position: g.origin.Sub(turn.Rotate(g.origin)), Rotation: turn})
	at.Rotation = at.Rotation.Normalize()
	f.Joints[g.joint], f.Scales[g.joint] = at, girth
}
