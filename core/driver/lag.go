package driver

import (
	"myriapod/core/formula"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// Lag comes after what stands below it: of a step it has gone 63 % after its seconds (see formula.Follow).
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
			kept[0] = formula.Follow(kept[0], kept[1], below, f.Step/seconds.At(f))
		}
		if f.Step > 0 {
			kept[1] = below
		}
		return kept[0]
	}, nil
}
