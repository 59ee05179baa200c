// Package splinechain is the spline chain: many joints that ride on a curve which few controls carry. It is exact at rest,
// keeps bone lengths or stretches with the curve, turns without flipping and keeps volume.
package splinechain

import (
	"fmt"
	"math"

	"myriapod/core/mechanism"
	"myriapod/core/mechanism/along"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "spline-chain"

// Kind is the spline chain.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Spline chain", Stand: mechanism.OnChain, Roles: along.Roles(), Hosts: []string{}, Arranges: true, Pins: true,
		Sketch:  "M3 18C14 2 24 2 32 12S50 22 57 6M3 15v6M20 3v6M40 14v6M57 3v6",
		Summary: "Many joints follow a curve that a few controls carry. For spines, tails, tentacles and hoses.",
		Options: along.Options(),
		Parameters: append(along.Parameters(), parameter.Declared{
			{
				Key: "twist", Title: "Twist", Type: parameter.Number, Unit: "°", Min: -3600, Max: 3600, Default: parameter.OfNumber(0), Dial: true,
				Help: "Turn added at the end of the chain, on top of what the end controls give.",
			},
			{
				Key: "twistProfile", Title: "Twist profile", Type: parameter.Profile, Min: -4, Max: 4,
				Default: parameter.OfProfile(parameter.Point{0, 0}, parameter.Point{1, 1}),
				Help:    "Which share of the twist each place along the chain takes; a straight rise is even.",
			},
		}...),
	}
}

// Suits implements mechanism.Suitor: many joints are what it is for.
func (Kind) Suits(_ *rig.Document, chosen []string) float64 { return along.Suits(chosen) }

// Build implements mechanism.Kind.
func (Kind) Build(site *mechanism.Site) error { return along.Build(site) }

// Arrange implements mechanism.Arranger.
func (Kind) Arrange(site *mechanism.Site, controls []string, places []float64) error {
	return along.Arrange(site, controls, places)
}

// Pin implements mechanism.Pinner.
func (Kind) Pin(last, pinned bool) parameter.Set { return along.Pin(last, pinned) }

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	return along.Prepare(b, func(c *along.Chain) (func() along.Turner, along.Reads) {
		twist, reads := b.Number("twist")
		t := &twister{chain: c, twist: twist, hand: b.Mechanism.Hand() * math.Pi / 180, profile: b.Settings.Curve("twistProfile"), shares: make([]float64, c.Joints())}
		for _, place := range c.Places {
			t.even = append(t.even, t.profile.At(place))
		}
		for _, control := range c.Controls {
			t.controls = append(t.controls, b.Document.Controls[control])
			reads = append(reads, mechanism.ChannelsOf(control)[3:]...) // its turns
		}
		t.opposed = b.Finding(fmt.Sprintf("The ends of %s are turned half round against each other; its twist may change side.", b.Mechanism.Name))
		return func() along.Turner { return &twisting{twister: t, turns: make([]float64, len(c.Controls))} }, along.Reads{Place: reads}
	})
}
