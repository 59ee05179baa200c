// Package axle is what kinds share that turn something round: what it turns about, and how far its rim lies from that, measured on its parts.
package axle

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Where an axle comes from, when something is built.
const (
	Found    = "found on the part"
	main     = "the joint's main axis"
	sideways = "the joint's X axis"
	forward  = "the joint's Z axis"
	Across   = "across the body"
)

// Option declares what is asked when it is built; help says what is taken where nothing is found.
func Option(title, help string) parameter.Declaration {
	return parameter.Declaration{Key: "axis", Title: title, Type: parameter.Choice, Choices: []string{Found, main, sideways, forward, Across}, Default: parameter.OfChoice(Found), Help: help}
}

// Of returns what a joint turns about: a place on the axle, and its direction. ok is false where it is to be found on the part and is not. While it is only tried whether something can be built, no
// part is looked at: one that goes with the joint is trusted to be round.
func Of(site *mechanism.Site, joint rig.Joint) (origin, way mgl64.Vec3, ok bool) {
	turn := joint.Rotation.Quat()
	switch site.Options.Choice("axis") {
	case Found:
		if site.Axis == nil {
			goes := func(b rig.Binding) bool { return slices.Contains(b.Joints, joint.ID) }
			return joint.Position, mgl64.Vec3{1, 0, 0}, slices.ContainsFunc(site.Document.Bindings, goes)
		}
		return site.Axis(joint.ID)
	case main:
		return joint.Position, turn.Rotate(geometry.MainAxis), true
	case sideways:
		return joint.Position, turn.Rotate(mgl64.Vec3{1, 0, 0}), true
	case forward:
		return joint.Position, turn.Rotate(mgl64.Vec3{0, 0, 1}), true
	}
	return joint.Position, mgl64.Vec3{1, 0, 0}, true
}

// ToTheLeft turns an axle to the left where it can, so that turning about it rolls ahead.
func ToTheLeft(way mgl64.Vec3) mgl64.Vec3 {
	if way[0] < 0 {
		return way.Mul(-1)
	}
	return way
}

// Ahead is the level way that a wheel goes whose axle points so: forwards, as it turns about that.
func Ahead(way mgl64.Vec3) mgl64.Vec3 { return geometry.Unit(way.Cross(geometry.Up), geometry.Forward) }

// looks is in how many directions a radius is measured.
const looks = 12

// Reach measures how far the parts that go with a joint reach from an axle all round: the least and the most. ok is false where no part does.
func Reach(site *mechanism.Site, joint string, origin, way mgl64.Vec3) (least, most float64, ok bool) {
	first := geometry.Across(geometry.Up, way)
	least = math.Inf(1)
	for k := range looks {
		_, reach, there := site.Extent(joint, origin, mgl64.QuatRotate(2*math.Pi*float64(k)/looks, way).Rotate(first))
		if !there || !(reach > 0) {
			return 0, 0, false
		}
		least, most = math.Min(least, reach), math.Max(most, reach)
	}
	return least, most, true
}

// round is how much a radius may differ from one side to the other, as a share of it.
const round = 0.1

// Radius is how far the rim of a joint's parts lies from an axle; an error where no part goes with it, or it is not round about that.
func Radius(site *mechanism.Site, joint rig.Joint, origin, way mgl64.Vec3) (float64, error) {
	if site.Extent == nil { // it is only tried whether it can stand here
		return 0.1 * site.Size, nil
	}
	least, most, ok := Reach(site, joint.ID, origin, way)
	if !ok {
		return 0, fmt.Errorf("no part goes with %s whose radius could be measured; bind the wheel to it, or give its radius", joint.Name)
	}
	if least < (1-round)*most {
		return 0, fmt.Errorf("what goes with %s is not round about its axle: it reaches from %.3g to %.3g m; say what its axle is, or give its radius", joint.Name, least, most)
	}
	return (least + most) / 2, nil
}
