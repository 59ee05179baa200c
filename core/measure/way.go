package measure

import (
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Way is how far a control has gone since the clip's first frame; Speed is how fast it goes. Both are functions of the clip: without one they are 0.
type (
	Way   struct{}
	Speed struct{}
)

// Declare implements mechanism.MeasureKind.
func (Way) Declare() mechanism.MeasureDeclaration {
	return mechanism.MeasureDeclaration{Kind: "way", Title: "Way travelled", Summary: "How far a control has gone since the clip's first frame.", Unit: "m", Things: 1, Control: true}
}

// Declare implements mechanism.MeasureKind.
func (Speed) Declare() mechanism.MeasureDeclaration {
	return mechanism.MeasureDeclaration{Kind: "speed", Title: "Speed", Summary: "How fast a control goes along the clip.", Unit: "m/s", Things: 1, Control: true}
}

// Prepare implements mechanism.MeasureKind.
func (k Way) Prepare(b *mechanism.Bench, m rig.Measure, slot int) error {
	return along(b, m, slot, k.Declare(), (*mechanism.Way).Gone)
}

// Prepare implements mechanism.MeasureKind.
func (k Speed) Prepare(b *mechanism.Bench, m rig.Measure, slot int) error {
	return along(b, m, slot, k.Declare(), (*mechanism.Way).Speed)
}

func along(b *mechanism.Bench, m rig.Measure, slot int, declared mechanism.MeasureDeclaration, read func(*mechanism.Way, float64) float64) error {
	of, err := things(b, m, declared)
	if err != nil {
		return err
	}
	way := b.Measured(of[0].Index)
	add(b, m, slot, []mechanism.Resource{{Kind: mechanism.Clock}, {Kind: mechanism.Ahead, Index: 1 + way}}, nil, func(f *mechanism.Frame) float64 {
		if f.Still || f.Ways[way] == nil {
			return 0
		}
		return read(f.Ways[way], f.Time)
	})
	return nil
}
