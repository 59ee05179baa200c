// Package kindtest holds kinds that only tests build: they use what no kind that ships uses yet. A new kind can begin as a copy of one.
package kindtest

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
)

// Kinds returns all kinds that ship, and those of this package.
func Kinds() mechanism.Registry {
	all := kinds.All()
	return mechanism.NewRegistry(append([]mechanism.Kind{Carousel{}, Bulge{}}, all.Kinds...), all.Drivers, all.Measures)
}

// Carousel draws a part many times on a circle about a joint. It has two roles and no controls.
type Carousel struct{}

// Declare implements mechanism.Kind.
func (Carousel) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: "carousel", Title: "Carousel", Summary: "A part, many times on a circle.", Stand: mechanism.OnPicks, Hosts: []string{}, Options: parameter.Declared{},
		Roles: []mechanism.Role{
			{Name: "hub", Title: "Hub", Help: "The joint that it goes round.", Does: mechanism.LooksAt, Joints: true, Least: 1, Most: 1},
			{Name: "horse", Title: "Horse", Help: "The part that is drawn.", Does: mechanism.DrawsFrom, Parts: true, Least: 1, Most: 1},
		},
		Parameters: parameter.Declared{
			{Key: "count", Title: "Count", Type: parameter.Number, Whole: true, Min: 1, Max: 1e9, Default: parameter.OfNumber(20), Help: "How many there are."},
			{Key: "radius", Title: "Radius", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(1), Help: "How far from the hub."},
			{Key: "turns", Title: "Turns", Type: parameter.Number, Min: -1e6, Max: 1e6, Default: parameter.OfNumber(0), Dial: true, Help: "How far it has gone round."},
			mechanism.Influence(),
		},
	}
}

// Build implements mechanism.Kind: there is nothing to build.
func (Carousel) Build(*mechanism.Site) error { return nil }

// Prepare implements mechanism.Kind.
func (Carousel) Prepare(b *mechanism.Bench) error {
	hub, count := b.Role("hub")[0], int(b.Settings.Number("count"))
	set, err := b.DrawInstances(b.Mechanism.Parts[0], count)
	if err != nil {
		return err
	}
	turns, reads := b.Number("turns")
	rest, radius := b.RestOf(hub), b.Settings.Number("radius")
	b.Add(mechanism.Task{
		Reads: append(reads, hub), Writes: []mechanism.Resource{{Kind: mechanism.InstancesOf, Index: set}},
		Run: func(f *mechanism.Frame) {
			carried := f.At(hub).Then(rest.Inverse())
			for k := range f.Instances[set] {
				turn := mgl64.QuatRotate(2*math.Pi*(turns.At(f)+float64(k)/float64(count)), geometry.Up)
				out := turn.Rotate(mgl64.Vec3{radius, 0, 0})
				about := geometry.Transform{Position: rest.Position.Sub(turn.Rotate(rest.Position)).Add(out), Rotation: turn}
				f.Instances[set][k].Place = carried.Then(about)
			}
		},
	})
	return nil
}
