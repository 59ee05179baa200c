// Package rack slides a joint along a line by what another turns: a rack by its pinion, a hook by its winch, a carriage by its screw.
package rack

import (
	"errors"
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/axle"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "rack"

// Kind is the rack.
type Kind struct{}

// The ways that a rack can go.
const (
	upright  = "upright"
	ahead    = "ahead"
	sideways = "to the left"
	main     = "the joint's main axis"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Rack", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M4 18h52M8 18v-3M16 18v-3M24 18v-3M32 18v-3M40 18v-3M48 18v-3M30 8m-7 0a7 7 0 1 0 14 0a7 7 0 1 0 -14 0",
		Summary: "Slides along a line by what a wheel, a drum or a gear turns: racks, winches, carriages on a screw.",
		Roles: []mechanism.Role{
			{Name: "rack", Title: "What slides", Help: "The joint that slides.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "by", Title: "What turns", Help: "A joint that a hinge, a wheel, a track or a gear turns.", Does: mechanism.LooksAt, Joints: true, Least: 1, Most: 1},
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{Key: "along", Title: "Slides", Type: parameter.Choice, Choices: []string{main, upright, ahead, sideways}, Default: parameter.OfChoice(main), Help: "Which way it slides where that turns about its axis, as it stands at rest. It goes along with what it hangs on."},
			{Key: "radius", Title: "Radius", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(0), Help: "How far from the axis it is taken along, so that it slides by that for each radian; below 0 the other way. Measured on the part of what turns when it is built."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: it needs no controls; how far it is taken along is measured.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	joint, by := d.Joint(m.Joints[0]), d.Joint(m.Takes[0])
	if joint.ID == by.ID || joint.Parent == by.ID {
		return fmt.Errorf("%s goes with %s as it is; hang it on what carries both", joint.Name, by.Name)
	}
	site.Root()
	m.Parameters = m.Parameters.Clone()
	if m.Parameters["radius"].Number != 0 || site.Extent == nil {
		return nil
	}
	origin, way, ok := site.Axis(by.ID)
	if !ok {
		return fmt.Errorf("nothing round is found at %s that could be measured; give the radius", by.Name)
	}
	radius, err := axle.Radius(site, *by, origin, way)
	if err != nil {
		return err
	}
	m.Parameters["radius"] = parameter.OfNumber(radius)
	return nil
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	if len(joints) != 1 || len(b.Mechanism.Takes) != 1 {
		return errors.New("a rack is one joint that something turns along; build it anew")
	}
	by, ok := b.TurningOf(b.Mechanism.Takes[0])
	if !ok {
		return fmt.Errorf("%s turns nothing by itself: have a hinge, a wheel, a track or a gear turn it, which is built before this one", b.Document.NameOf(b.Mechanism.Takes[0]))
	}
	radius := b.Settings.Number("radius")
	if radius == 0 {
		return errors.New("its radius is nothing; give it one")
	}
	rest := b.Rest(joints[0])
	way := map[string]mgl64.Vec3{main: rest.Rotation.Rotate(geometry.MainAxis), upright: geometry.Up, ahead: geometry.Forward, sideways: {1, 0, 0}}[b.Settings.Choice("along")]
	own := rest.Rotation.Conjugate().Rotate(way)
	below, reads := b.Below(joints[0])
	influence, counts := b.InfluenceOf()
	b.AddWhole(mechanism.Task{
		Reads: append(append(reads, counts...), mechanism.Resource{Kind: mechanism.TurningOf, Index: by.Index}), Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: joints[0]}},
		Run: func(f *mechanism.Frame) {
			at, girth := below.In(f)
			at.Position = at.Position.Add(at.Rotation.Rotate(own.Mul(influence.At(f) * radius * f.Turnings[by.Index])))
			f.Joints[joints[0]], f.Scales[joints[0]] = at, girth
		},
	})
	return nil
}
