package mechanism

import "myriapod/core/rig"

// MeasureKind is one kind of measure.
type MeasureKind interface {
	// Declare returns what the kind is called and takes. It is constant.
	Declare() MeasureDeclaration
	// Prepare lays the measure's task on the bench: it writes the value in the slot.
	Prepare(b *Bench, m rig.Measure, slot int) error
}
