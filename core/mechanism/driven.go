package mechanism

import (
	"fmt"
	"math"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Layout tells where in Frame.Channels the values of each control lie: its ChannelCount channels one after another, and its dials
// elsewhere.
type Layout struct {
	dials []int // by control: the slot of its first dial
	size  int
}

// NewLayout lays out the channels of a document's controls.
func NewLayout(d *rig.Document) Layout {
	l := Layout{dials: make([]int, len(d.Controls)), size: rig.ChannelCount * len(d.Controls)}
	for i, control := range d.Controls {
		l.dials[i] = l.size
		l.size += len(control.Dials)
	}
	return l
}

// Size returns how many values there are in all.
func (l Layout) Size() int { return l.size }

// Slot returns the place of a control's channel or dial by its index there (see rig.Control.ChannelIndex).
func (l Layout) Slot(control, index int) int {
	if index < rig.ChannelCount {
		return control*rig.ChannelCount + index
	}
	return l.dials[control] + index - rig.ChannelCount
}

// Driven is a number that is given once and for all, or by a dial.
type Driven struct {
	slot        int // -1 for a number that is given
	value       float64
	least, most float64
}

// Given returns a number that no dial drives.
func Given(value float64) Driven { return Driven{slot: -1, value: value} }

// At returns the number in a frame, within the parameter's range.
func (d Driven) At(f *Frame) float64 {
	if d.slot < 0 {
		return d.value
	}
	return math.Max(d.least, math.Min(d.most, d.value*f.Channels[d.slot]))
}

// Constant tells whether the number is given once and for all as value.
func (d Driven) Constant(value float64) bool { return d.slot < 0 && d.value == value }

// Influence is the parameter that every kind has: how much of what it does counts.
func Influence() parameter.Declaration {
	return parameter.Declaration{
		Key: InfluenceKey, Title: "Influence", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true,
		Help: "How much of what it does counts; the rest is as what stands below it has it. A dial can switch it, or blend.",
	}
}

// InfluenceKey is the key of the parameter Influence.
const InfluenceKey = "influence"

// Number returns a number parameter of the present mechanism, and what a task that uses it reads for it.
func (b *Bench) Number(key string) (Driven, []Resource) {
	ref, driven := b.Mechanism.Dials[key]
	if !driven {
		return Given(b.Settings.Number(key)), nil
	}
	declared := b.declared[key]
	control := b.controls[ref.Control]
	return Driven{
		slot: b.Layout.Slot(control, b.Document.Controls[control].ChannelIndex(ref.Dial)), value: 1, least: declared.Min, most: declared.Max,
	}, []Resource{{Kind: ChannelsOf, Index: control}}
}

// Begin turns the bench to a mechanism, whose parameters are those declared.
func (b *Bench) Begin(m rig.Mechanism, declared parameter.Declared) error {
	b.Mechanism, b.Settings, b.declared = m, declared.Complete(m.Parameters), map[string]parameter.Declaration{}
	for _, d := range declared {
		b.declared[d.Key] = d
	}
	for key, ref := range m.Dials {
		if d, ok := b.declared[key]; !ok || !d.Dial {
			return fmt.Errorf("no dial can drive its %q; take %q of %s off it", key, ref.Dial, b.Document.NameOf(ref.Control))
		}
	}
	b.influence, b.influenceReads = b.Number(InfluenceKey)
	if !m.On {
		b.influence, b.influenceReads = Given(0), nil
		for _, id := range m.Controls { // what is off moves nothing, nor what hangs on its controls
			b.Count(id)
		}
	}
	b.Influences = append(b.Influences, b.influence)
	return nil
}

// Counted is how much of a control's own motion counts.
type Counted struct {
	Driven
	Reads []Resource
}

// Count has a control's own motion count as much as the influence of the present mechanism says.
func (b *Bench) Count(control string) {
	if i, ok := b.controls[control]; ok {
		b.Counts[i] = Counted{b.influence, b.influenceReads}
	}
}
