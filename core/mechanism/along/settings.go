// Package along holds what all chains share whose joints ride along a curve that controls carry: fitting and carrying the curve, placing
// the joints on it exactly as they were at rest, keeping or stretching bone lengths, and keeping volume. How the joints turn about the
// curve is for each kind of chain to say.
package along

import (
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

const (
	formScaled   = "scaled"
	formUnscaled = "unscaled"
	endFree      = "where its bones reach"
	endPinned    = "at the last control"
)

// Roles declares the roles of every chain along a curve.
func Roles() []mechanism.Role {
	return []mechanism.Role{
		mechanism.ChainRole(LeastJoints, "The joints that ride on the curve, from the first to the last; the two ends are enough."),
		mechanism.HandleRole("handles", "Handles", LeastControls, 0),
	}
}

// Parameters declares what every chain along a curve takes.
func Parameters() parameter.Declared {
	return parameter.Declared{
		{
			Key: "stretch", Title: "Stretch", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0), Dial: true,
			Help: "0 keeps every bone's length; 1 spreads the joints over the whole curve.",
		},
		{
			Key: "longest", Title: "Longest", Type: parameter.Number, Unit: "×", Min: 1, Max: 10, Default: parameter.OfNumber(2), Dial: true,
			Help: "No bone grows beyond this many times its rest length.",
		},
		{
			Key: "shortest", Title: "Shortest", Type: parameter.Number, Unit: "×", Min: 0.05, Max: 1, Default: parameter.OfNumber(0.5), Dial: true,
			Help: "No bone shrinks below this share of its rest length.",
		},
		{
			Key: "end", Title: "Last joint", Type: parameter.Choice, Choices: []string{endFree, endPinned}, Default: parameter.OfChoice(endFree),
			Help: "At the last control: the bones stretch as far as it takes, whatever the limits say, so that what is pinned there never parts.",
		},
		{
			Key: "volume", Title: "Keep volume", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true,
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
			Key: "reachFirst", Title: "First end holds its direction", Type: parameter.Number, Unit: "×", Min: 0, Max: 4, Default: parameter.OfNumber(1), Dial: true,
			Help: "How far along the curve the first control holds its direction, against what fits at rest.",
		},
		{
			Key: "reachLast", Title: "Last end holds its direction", Type: parameter.Number, Unit: "×", Min: 0, Max: 4, Default: parameter.OfNumber(1), Dial: true,
			Help: "How far along the curve the last control holds its direction, against what fits at rest.",
		},
		mechanism.Influence(),
	}
}

type settings struct {
	stretch, longest, shortest, volume mechanism.Number
	scaled, pinned                     bool
	volumeProfile                      parameter.Curve
}

// read reads the settings of the bench's mechanism, and what tasks that carry the curve and that place the joints read for them.
func read(b *mechanism.Bench) (s settings, reaches [2]mechanism.Number, reads Reads) {
	number := func(key string) mechanism.Number {
		value, more := b.Number(key)
		reads.Place = append(reads.Place, more...)
		return value
	}
	for i, key := range []string{"reachFirst", "reachLast"} {
		value, more := b.Number(key)
		reaches[i], reads.Carry = value, append(reads.Carry, more...)
	}
	s = settings{
		stretch: number("stretch"), longest: number("longest"), shortest: number("shortest"), volume: number("volume"),
		scaled: b.Settings.Choice("form") == formScaled, pinned: b.Settings.Choice("end") == endPinned,
		volumeProfile: b.Settings.Curve("volumeProfile"),
	}
	return s, reaches, reads
}

// Pin returns the parameters of a chain whose first or last end is pinned, or free. The first joint always stands at the first control.
func Pin(last, pinned bool) parameter.Set {
	if !last {
		return nil
	}
	if pinned {
		return parameter.Set{"end": parameter.OfChoice(endPinned)}
	}
	return parameter.Set{"end": parameter.OfChoice(endFree)}
}
