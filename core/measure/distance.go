package measure

import (
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Distance is how far two things are from each other.
type Distance struct{}

// Declare implements mechanism.MeasureKind.
func (Distance) Declare() mechanism.MeasureDeclaration {
	return mechanism.MeasureDeclaration{Kind: "distance", Title: "Distance", Summary: "How far two joints or controls are from each other.", Unit: "m", Things: 2, Joint: true, Control: true}
}

// Prepare implements mechanism.MeasureKind.
func (k Distance) Prepare(b *mechanism.Bench, m rig.Measure, slot int) error {
	of, err := things(b, m, k.Declare())
	if err != nil {
		return err
	}
	add(b, m, slot, of, nil, func(f *mechanism.Frame) float64 { return f.At(of[1]).Position.Sub(f.At(of[0]).Position).Len() })
	return nil
}
