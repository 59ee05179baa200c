// Package driver holds the kinds of drivers, each in a file of its own: a link hands a number on, a lag comes after what stands below it, a
// formula works a number out, a response answers one by a curve.
package driver

import (
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Link hands a number on: times a factor, plus an offset.
type Link struct{}

// The parameters of a link.
const (
	Times = "times"
	Plus  = "plus"
)

// Declare implements mechanism.DriverKind.
func (Link) Declare() mechanism.DriverDeclaration {
	return mechanism.DriverDeclaration{
		Kind: rig.LinkKind, Title: "Link", Summary: "Takes the number of a dial, channel or measure, times a factor and plus an offset.", Least: 1, Most: 1,
		Parameters: parameter.Declared{
			{Key: Times, Title: "Times", Type: parameter.Number, Min: -1e6, Max: 1e6, Default: parameter.OfNumber(1), Dial: true, Help: "What the number is multiplied with. Turns count in degrees."},
			{Key: Plus, Title: "Plus", Type: parameter.Number, Min: -1e6, Max: 1e6, Default: parameter.OfNumber(0), Dial: true, Help: "What is added to it, in the unit of what is driven."},
			mechanism.Influence(),
		},
	}
}

// Prepare implements mechanism.DriverKind.
func (Link) Prepare(b *mechanism.DriverBench) (mechanism.Drive, error) {
	from, err := b.Read(0)
	if err != nil {
		return nil, err
	}
	times, plus := b.Number(Times), b.Number(Plus)
	return func(f *mechanism.Frame, _ float64) float64 { return from.At(f)*times.At(f) + plus.At(f) }, nil
}
