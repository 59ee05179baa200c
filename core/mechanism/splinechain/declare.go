// Package splinechain is the spline chain: many joints that ride on a curve which few controls carry. It is exact at rest,
// keeps bone lengths or stretches with the curve, turns without flipping and keeps volume.
package splinechain

import (
	"math"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// Name is the kind's name in documents.
const Name = "spline-chain"

// Kind is the spline chain.
type Kind struct{}

const (
	leastJoints   = 3
	leastControls = 3
	mostControls  = 64
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Spline chain", Stand: mechanism.OnChain, Least: leastJoints, Hosts: []string{},
		Summary: "Many joints follow a curve that a few controls carry. For spines, tails, tentacles and hoses.",
		Options: parameter.Declared{{
			Key: "controls", Title: "Controls", Type: parameter.Number, Min: leastControls, Max: mostControls, Whole: true,
			Default: parameter.OfNumber(5), Help: "How many handles carry the curve, spread evenly along the chain.",
		}},
		Parameters: parameter.Declared{
			{
				Key: "stretch", Title: "Stretch", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0),
				Help: "0 keeps every bone's length; 1 spreads the joints over the whole curve.",
			},
			{
				Key: "longest", Title: "Longest", Type: parameter.Number, Unit: "×", Min: 1, Max: 10, Default: parameter.OfNumber(2),
				Help: "No bone grows beyond this many times its rest length.",
			},
			{
				Key: "shortest", Title: "Shortest", Type: parameter.Number, Unit: "×", Min: 0.05, Max: 1, Default: parameter.OfNumber(0.5),
				Help: "No bone shrinks below this share of its rest length.",
			},
			{
				Key: "volume", Title: "Keep volume", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1),
				Help: "1 thins a lengthened bone and fattens a shortened one so that its volume stays; 0 leaves its girth.",
			},
			{
				Key: "volumeProfile", Title: "Volume profile", Type: parameter.Profile, Min: 0, Max: 4,
				Default: parameter.OfProfile(parameter.Point{0, 1}, parameter.Point{1, 1}),
				Help:    "How strongly volume is kept along the chain, from the first joint to the last.",
			},
			{
				Key: "form", Title: "Form", Type: parameter.Choice, Choices: []string{formScaled, formUnscaled}, Default: parameter.OfChoice(formScaled),
				Help: "Unscaled lengthens by moving joints only, for engines that ignore scale.",
			},
			{
				Key: "twist", Title: "Twist", Type: parameter.Number, Unit: "°", Min: -3600, Max: 3600, Default: parameter.OfNumber(0),
				Help: "Turn added at the end of the chain, on top of what the end controls give.",
			},
			{
				Key: "twistProfile", Title: "Twist profile", Type: parameter.Profile, Min: -4, Max: 4,
				Default: parameter.OfProfile(parameter.Point{0, 0}, parameter.Point{1, 1}),
				Help:    "Which share of the twist each place along the chain takes; a straight rise is even.",
			},
		},
	}
}

const (
	formScaled   = "scaled"
	formUnscaled = "unscaled"
)

type settings struct {
	stretch, longest, shortest, volume, twist float64
	scaled                                    bool
	volumeProfile, twistProfile               parameter.Curve
}

func read(s parameter.Set) settings {
	return settings{
		stretch: s.Number("stretch"), longest: s.Number("longest"), shortest: s.Number("shortest"),
		volume: s.Number("volume"), twist: s.Number("twist") * math.Pi / 180, scaled: s.Choice("form") == formScaled,
		volumeProfile: s.Curve("volumeProfile"), twistProfile: s.Curve("twistProfile"),
	}
}
