package driver

import (
	"math"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// Lag comes after what stands below it: of a step it has gone 63 % after its seconds.
//
// Method: the first-order system y' = (u - y)/T, stepped by its exact solution for an input u that is linear within the step (Franklin, Powell,
// Workman 1998, Digital Control of Dynamic Systems, the triangle-hold equivalent).
type Lag struct{}

// LagKind is the kind's name in documents.
const LagKind = "lag"

// Seconds is the parameter of a lag.
const Seconds = "seconds"

// Declare implements mechanism.DriverKind.
func (Lag) Declare() mechanism.DriverDeclaration {
	return mechanism.DriverDeclaration{
		Kind: LagKind, Title: "Lag", Summary: "Comes after what stands below it, softly: 63 % of the way after its seconds.",
		Parameters: parameter.Declared{
			{Key: Seconds, Title: "Seconds", Type: parameter.Number, Unit: "s", Min: 0, Max: 1e4, Default: parameter.OfNumber(0.25), Dial: true, Help: "After so long it has gone 63 % of the way."},
			mechanism.Influence(),
		},
	}
}

// Prepare implements mechanism.DriverKind.
func (Lag) Prepare(b *mechanism.DriverBench) (mechanism.Drive, error) {
	seconds, memory := b.Number(Seconds), b.Remember(2)
	return func(f *mechanism.Frame, below float64) float64 {
		kept := memory.In(f) // what it shows, and what stood below it in the last step
		switch {
		case f.Still:
			return below
		case f.Step > 0 && f.Fresh:
			kept[0] = below
		case f.Step > 0:
			kept[0] = follow(kept[0], kept[1], below, f.Step/seconds.At(f))
		}
		if f.Step > 0 {
			kept[1] = below
		}
		return kept[0]
	}, nil
}

// follow goes on from y for a step, in lengths of the lag, over which the input goes evenly from one number to another.
func follow(y, from, to, step float64) float64 {
	if math.IsInf(step, 1) || math.IsNaN(step) { // there is no lag
		return to
	}
	gone := -math.Expm1(-step)
	mean := 1 - step/2 + step*step/6 // of what is gone while the input goes on; its series where it is small
	if step > 1e-3 {
		mean = gone / step
	} else {
		mean -= step * step * step / 24
	}
	return y + gone*(from-y) + (to-from)*(1-mean)
}
