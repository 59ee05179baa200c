// Package track lays a belt of links round wheels: the tracks of a crawler, bucket chains and conveyors. The links go by how far the track travels, and every wheel turns with them.
package track

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/belt"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/axle"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "track"

// Kind is the track.
type Kind struct{}

// How slack hangs.
const (
	above = "above, as a track's"
	round = "all round, as a chain's"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	number := func(key, title, unit string, most float64, help string) parameter.Declaration {
		return parameter.Declaration{Key: key, Title: title, Type: parameter.Number, Unit: unit, Min: 0, Max: most, Default: parameter.OfNumber(0), Help: help}
	}
	return mechanism.Declaration{
		Kind: Name, Title: "Track", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M14 6h32a8 8 0 0 1 0 14h-32a8 8 0 0 1 0 -14M14 13m-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0M46 13m-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0",
		Summary: "Links laid round wheels, pin to pin, driven by the way over the ground or by a dial; every wheel turns with them. Tracks, bucket chains, conveyor belts.",
		Roles: []mechanism.Role{
			{Name: wheels, Title: "Wheels", Help: "The joints at the hubs of the wheels that the track goes round, in any order: sprocket, idler, road wheels, return rollers.", Does: mechanism.Moves, Joints: true, Least: 2, Most: mostWheels},
			{Name: outside, Title: "Press from outside", Help: "The joints of wheels that press on the track from outside.", Does: mechanism.Moves, Joints: true, Most: mostWheels},
			{Name: "link", Title: "Link", Help: "The part that is one link; without one the wheels turn, and nothing is drawn. It lies on the track where it is drawn, or anywhere, flat, as on the lower run.", Does: mechanism.DrawsFrom, Parts: true, Most: 1},
			mechanism.HandleRole("handle", "Handle", 1, 1),
		},
		Options: parameter.Declared{axle.Option("Axles", "What the wheels turn about. Found: the middle of the first one's round rim; where there is none, across the body.")},
		Parameters: parameter.Declared{
			number("radius", "Radius where none is measured", "m", 1e5, "The radius of wheels that no part goes with, when it is built; 0 for measured ones."),
			number("pitch", "Pitch", "m", 1e5, "How far it is from pin to pin of a link; measured on it when it is built, or a third of the smallest radius where there is none."),
			{Key: "links", Title: "Links", Type: parameter.Number, Whole: true, Min: 0, Max: belt.MostLinks, Default: parameter.OfNumber(0), Help: "How many links there are; built, as many as fit. 0 for as many as fit wherever its wheels are set."},
			number("rim", "Pins off the rims", "m", 1e5, "How far the pins lie off the rims of the wheels; measured on the link when it is built."),
			number("sole", "Sole off the rims", "m", 1e5, "How far the links' outer side lies off the rims of the wheels, by which the track stands on the ground; measured when it is built."),
			number("travel", "Suspension", "m", 1e5, "How far road wheels go up and down to follow the ground. 0 for none."),
			{Key: "hangs", Title: "Slack hangs", Type: parameter.Choice, Choices: []string{above, round}, Default: parameter.OfChoice(above), Help: "Whether slack hangs between the upper wheels alone, or below as well, where nothing carries it."},
			{Key: "follows", Title: "Goes with the ground", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true, Help: "How much its way over the ground drives it: 1 for a vehicle that goes, 0 for a belt that its dial drives."},
			{Key: "way", Title: "Driven besides", Type: parameter.Number, Unit: "m", Min: -1e6, Max: 1e6, Default: parameter.OfNumber(0), Dial: true, Help: "How many metres it is driven beside that: where it skids, or stands on blocks."},
			mechanism.Influence(),
		},
	}
}

// The roles of wheels, and how many there may be in each.
const (
	wheels     = "wheels"
	outside    = "outside"
	mostWheels = 64
)

// Suits implements mechanism.Suitor: several joints that nothing hangs on are wheels often enough.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	if len(chosen) < 2 {
		return 0.05
	}
	parent := ""
	for i, id := range chosen {
		joint := d.Joint(id)
		if joint == nil || len(d.ChildrenOf(id)) > 0 || i > 0 && joint.Parent != parent {
			return 0.05
		}
		parent = joint.Parent
	}
	return 0.5
}

// Build implements mechanism.Kind: a handle at the first wheel, by which the track is driven, and all lengths as they are measured.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	if len(m.Joints) < 2 {
		return errors.New("a track goes round two wheels or more; choose another")
	}
	first := d.Joint(m.Joints[0])
	_, way, ok := axle.Of(site, *first)
	if !ok {
		way = mgl64.Vec3{1, 0, 0}
	}
	way = axle.ToTheLeft(way)
	m.Parameters = m.Parameters.Clone()
	m.Sizes = nil
	for _, id := range m.Joints {
		joint := d.Joint(id)
		radius, err := axle.Radius(site, *joint, joint.Position, way)
		if given := m.Parameters["radius"].Number; err != nil && given > 0 {
			radius, err = given, nil
		}
		if err != nil {
			return err
		}
		m.Sizes = append(m.Sizes, radius)
	}
	if site.Extent == nil { // it is only tried whether it can stand here
		m.Parameters["pitch"] = parameter.OfNumber(0.03 * site.Size)
	} else if err := measure(site, way); err != nil {
		return err
	}
	home := geometry.Transform{Position: first.Position, Rotation: geometry.FromAxes(way, geometry.Across(geometry.Forward, way))}
	id := site.Handle(m.Name+"_handle", site.Space(), home, rig.Hoop, mechanism.Outline(rig.Hoop, 1.3*m.Sizes[0]))
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

// measure measures the link, and looks whether the track fits round its wheels.
func measure(site *mechanism.Site, way mgl64.Vec3) error {
	m, d := site.Mechanism, site.Document
	if err := measureLink(site, way); err != nil {
		return err
	}
	p, err := planeOf(d, m, way)
	if err != nil {
		return err
	}
	if err := p.fit(m); err != nil {
		return err
	}
	laid := belt.NewLaid(p.belt, len(p.wheels))
	laid.Lay(p.belt, p.wheels, 0) // its slack may lie on rollers that it does not touch when it is taut
	for i, missed := range laid.Path.Missed {
		if missed {
			site.Say("The track does not touch %s: it lies within. Move it, leave it out, or have it press from outside.", d.NameOf(m.Joints[p.order[i]]))
		}
	}
	m.Parameters["links"] = parameter.OfNumber(float64(p.belt.Links))
	site.Say("%d links of %.3g m.", p.belt.Links, p.belt.Pitch)
	return nil
}

// plane is the plane of a track at rest: its wheels by their places in it, in the order in which the track comes to them.
type plane struct {
	frame  geometry.Transform // along X ahead, along Y upwards; its Z is the axle turned round
	wheels []belt.Wheel       // in order
	order  []int              // by place in that order: which joint
	belt   belt.Belt
	path   *belt.Path // without slack
}

// frameOf is the frame of a plane across an axle.
func frameOf(at, way mgl64.Vec3) geometry.Transform {
	ahead := axle.Ahead(way)
	return geometry.Transform{Position: at, Rotation: geometry.FromAxes(ahead.Cross(way), way.Mul(-1))}
}

// flat is a place in the plane.
func flat(p mgl64.Vec3) mgl64.Vec2 { return mgl64.Vec2{p[0], p[1]} }

// planeOf lays out the plane of a track as its mechanism has it.
func planeOf(d *rig.Document, m *rig.Mechanism, way mgl64.Vec3) (*plane, error) {
	p := &plane{frame: frameOf(d.Joint(m.Joints[0]).Position, way)}
	if len(m.Sizes) != len(m.Joints) {
		return nil, fmt.Errorf("%s knows the radii of %d of its %d wheels; build it anew", m.Name, len(m.Sizes), len(m.Joints))
	}
	back, rim := p.frame.Inverse(), m.Parameters["rim"].Number
	list := make([]belt.Wheel, len(m.Joints))
	pressing := outsiders(m)
	for i, id := range m.Joints {
		list[i] = belt.Wheel{At: flat(back.Apply(d.Joint(id).Position)), Radius: m.Sizes[i] + rim, Outside: i >= len(m.Joints)-pressing}
		if !(list[i].Radius > 0) {
			return nil, fmt.Errorf("%s has no radius; bind its wheel to it, and build the track anew", d.NameOf(id))
		}
	}
	p.order = belt.Order(list)
	for _, at := range p.order {
		p.wheels = append(p.wheels, list[at])
	}
	p.path = belt.NewPath(len(p.wheels))
	p.belt = belt.Belt{Pitch: m.Parameters["pitch"].Number, Hang: belt.Hang{Down: mgl64.Vec2{0, -1}, All: m.Parameters["hangs"].Choice == round}, Along: mgl64.Vec2{1, 0}}
	low, high := math.Inf(1), math.Inf(-1)
	for _, w := range list {
		low, high = math.Min(low, w.At[0]), math.Max(high, w.At[0])
	}
	p.belt.At = (low + high) / 2
	return p, nil
}

// outsiders is how many of a track's wheels, the last, press from outside.
func outsiders(m *rig.Mechanism) int {
	if count, ok := m.Counts[outside]; ok {
		return min(count, len(m.Joints))
	}
	return max(0, len(m.Joints)-mostWheels)
}

// fit takes as many links as the mechanism says, or as fit.
func (p *plane) fit(m *rig.Mechanism) error {
	if !(p.belt.Pitch > 0) {
		return fmt.Errorf("the links of %s have no length; give its pitch", m.Name)
	}
	fitting, err := belt.Fit(p.belt, p.wheels)
	if err != nil {
		return err
	}
	p.path.Lead(p.wheels, p.belt.Hang, 0)
	if p.belt.Links = int(m.Parameters["links"].Number); p.belt.Links == 0 {
		p.belt.Links = fitting
	}
	if p.belt.Links < fitting*3/4 || p.belt.Links > fitting*3/2 {
		return fmt.Errorf("%d links do not fit round these wheels: %d do; give about so many, or 0 for as many as fit", p.belt.Links, fitting)
	}
	return nil
}

// roads lists the places, in the order, of wheels that roll on the lower run.
func (p *plane) roads() (list []int) {
	lowest := math.Inf(1)
	for _, w := range p.wheels {
		if !w.Outside {
			lowest = math.Min(lowest, w.At[1]-w.Radius)
		}
	}
	seen := []int{}
	for i, w := range p.wheels {
		if !w.Outside && w.At[1]-w.Radius-lowest < near*w.Radius && !slices.Contains(seen, p.order[i]) {
			list, seen = append(list, i), append(seen, p.order[i])
		}
	}
	return list
}

// near is how much higher than the lowest a wheel's rim may reach for it to be a road wheel, as a share of its radius.
const near = 0.2
