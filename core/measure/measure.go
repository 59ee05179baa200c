// Package measure holds the kinds of measures, each in a file of its own: numbers that are read off how the specimen stands, for drivers to read. Lengths
// are those of the specimen at size 1, whatever the global control scales it to.
package measure

import (
	"fmt"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// things finds what a measure is of, and what a task that looks at them reads.
func things(b *mechanism.Bench, m rig.Measure, declared mechanism.MeasureDeclaration) ([]mechanism.Resource, error) {
	if len(m.Of) != declared.Things {
		return nil, fmt.Errorf("a measure of the kind %q is of %d things, not %d; choose them anew", declared.Kind, declared.Things, len(m.Of))
	}
	list := make([]mechanism.Resource, len(m.Of))
	for i, id := range m.Of {
		r, _, ok := b.Space(id)
		if !ok || r.Kind == mechanism.Joint && !declared.Joint || r.Kind == mechanism.Control && !declared.Control {
			return nil, fmt.Errorf("a measure of the kind %q cannot be of %s; choose something else", declared.Kind, b.Document.NameOf(id))
		}
		list[i] = r
	}
	return list, nil
}

// add lays the task of a measure on the bench.
func add(b *mechanism.Bench, m rig.Measure, slot int, reads []mechanism.Resource, raises []int, read func(*mechanism.Frame) float64) {
	b.Tasks = append(b.Tasks, mechanism.Task{
		Subject: m.ID, Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.ValueOf, Index: slot}}, Raises: raises,
		Run: func(f *mechanism.Frame) { f.Values[slot] = read(f) },
	})
}
