// Package wheel rolls a wheel with its hub over the ground: by the way that the clip takes the hub, forwards and backwards, and under a hand from there on.
package wheel

import (
	"errors"
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/axle"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/hub"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "wheel"

// Kind is the wheel.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Wheel", Stand: mechanism.OnJoints, Hosts: []string{}, Each: true,
		Sketch:  "M30 12m-9 0a9 9 0 1 0 18 0a9 9 0 1 0 -18 0M30 12l0-9M30 12l8 4M30 12l-8 4M6 22h48",
		Summary: "Rolls with its hub over the ground: forwards and backwards, steered, on slopes and over steps. Its hub can ride up and down on a suspension.",
		Roles: []mechanism.Role{
			{Name: "wheel", Title: "Wheel", Help: "The joint at the hub, which the wheel goes with. It hangs on what carries it, or on what steers it.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			mechanism.HandleRole("handle", "Handle", 1, 1),
		},
		Options: parameter.Declared{axle.Option("Axle", "What the wheel turns about. Found: the middle of the part's round rim.")},
		Parameters: parameter.Declared{
			{Key: "radius", Title: "Radius", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How far its rim lies from the axle; measured on the part when it is built."},
			{Key: "travel", Title: "Suspension", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How far the hub goes up and down to follow the ground. 0 for none: then it goes as what carries it."},
			{Key: "slips", Title: "Turns besides", Type: parameter.Number, Unit: "°", Min: -36_000, Max: 36_000, Default: parameter.OfNumber(0), Dial: true, Help: "How far it is turned beside what it rolls: where it spins, or stands while it is pulled."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.06 }

// Build implements mechanism.Kind: a handle on the axle, by which it is turned besides, and the radius as it is measured.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	joint := d.Joint(m.Joints[0])
	origin, way, ok := axle.Of(site, *joint)
	if site.Axis == nil && m.Parameters["radius"].Number > 0 {
		ok = true // it is only tried, and its radius is known
	}
	way = axle.ToTheLeft(way)
	if !ok {
		return fmt.Errorf("nothing round is found at %s: bind the wheel to it, or say what its axle is", joint.Name)
	}
	m.Parameters = m.Parameters.Clone()
	if m.Parameters["radius"].Number == 0 {
		radius, err := axle.Radius(site, *joint, origin, way)
		if err != nil {
			return err
		}
		m.Parameters["radius"] = parameter.OfNumber(radius)
	}
	home := geometry.Transform{Position: origin, Rotation: geometry.FromAxes(way, geometry.Across(geometry.Forward, way))}
	id := site.Handle(m.Name+"_handle", site.Space(), home, rig.Hoop, mechanism.Outline(rig.Hoop, 1.15*m.Parameters["radius"].Number))
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
	if len(joints) != 1 || len(controls) != 1 {
		return fmt.Errorf("a wheel is one joint with one handle, not %d and %d; build it anew", len(joints), len(controls))
	}
	w := &wheel{joint: joints[0], handle: controls[0], travel: b.Settings.Number("travel")}
	radius := b.Settings.Number("radius")
	if !(radius > 0) {
		return errors.New("its radius is nothing; give it one")
	}
	rest, home := b.Rest(w.joint), b.Document.Controls[w.handle].Home()
	back := rest.Inverse()
	w.home, w.origin, w.axle = home, back.Apply(home.Position), back.Rotation.Rotate(home.Rotation.Rotate(geometry.MainAxis))
	if w.hub, err = hub.New(b, radius, home.Position, axle.Ahead(home.Rotation.Rotate(geometry.MainAxis))); err != nil {
		return err
	}
	w.lay(b)
	return nil
}

// lay lays the tasks: what a body settles on, and the wheel itself.
func (w *wheel) lay(b *mechanism.Bench) {
	control := b.Document.Controls[w.handle]
	below, reads := b.Below(w.joint)
	w.below = below
	carried, more := ground.Carried(b)
	w.carried = carried
	reads = append(reads, more...)
	w.roll = b.Roll(mechanism.Roll{Reads: append([]mechanism.Resource{}, reads...), Hub: w.over})
	w.hub.Settles(b)
	space, spaceRest, hung := b.Space(control.Space)
	w.space, w.spaceRest, w.hung = space, spaceRest, hung
	reads = append(reads, mechanism.Resource{Kind: mechanism.Control, Index: w.handle}, mechanism.Resource{Kind: mechanism.Clock}, mechanism.Resource{Kind: mechanism.RollOf, Index: w.roll})
	if hung {
		reads = append(reads, space)
	}
	slips, dials := b.Number("slips")
	influence, counts := b.InfluenceOf()
	w.slips, w.influence = slips, influence
	reads = append(append(reads, dials...), counts...)
	w.turns = b.OfferTurning(b.Mechanism.Joints[0], mechanism.Turning{Origin: w.hub.Rest, Axis: w.home.Rotation.Rotate(geometry.MainAxis), Radius: w.hub.Radius})
	w.end = b.Finding(fmt.Sprintf("The hub of %s is at the end of its suspension, and the wheel leaves the ground or goes into it; give it more travel, or settle the body.", b.Mechanism.Name))
	w.slides = b.Finding(fmt.Sprintf("%s slips sideways by {} m a second: the clip takes it across the way that it rolls; steer it, or key the body along that.", b.Mechanism.Name))
	w.lies = b.Finding(fmt.Sprintf("%s lies on its side and rolls nowhere; bring its axle level.", b.Mechanism.Name))
	b.AddWhole(mechanism.Task{Run: w.run, Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: w.joint}, {Kind: mechanism.TurningOf, Index: w.turns}}, Raises: []int{w.end, w.lies, w.slides}})
}

// wheel is a wheel made ready.
type wheel struct {
	joint, handle     int
	hub               *hub.Hub
	travel            float64
	home              geometry.Transform
	origin, axle      mgl64.Vec3 // of the axle, in the joint's frame
	below             mechanism.Below
	carried           func(*mechanism.Frame) geometry.Transform
	space             mechanism.Resource
	spaceRest         geometry.Transform
	hung              bool
	slips, influence  mechanism.Number
	roll              int
	turns             int // its place among what turns
	end, lies, slides int // findings
}
