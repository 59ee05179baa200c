package mechanism

import (
	"math"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// addParameters lays out what can be driven of a mechanism or driver.
func (l *Layout) addParameters(of string, declared parameter.Declared, given parameter.Set) {
	for i := range declared {
		d := &declared[i]
		if !d.Dial || d.Type != parameter.Number {
			continue
		}
		v := Value{Address: rig.Address{Of: of, Key: d.Key}, Rest: d.Default.Number, Unit: d.Unit, State: rig.ChannelState{Min: &d.Min, Max: &d.Max}}
		if value, ok := given[d.Key]; ok {
			v.Rest = value.Number
		}
		l.add(v)
	}
}

// Number is a number that a task uses: given once and for all, or a value of the frame.
type Number struct {
	slot  int // -1 for a number that is given
	value float64
}

// Given returns a number that nothing drives.
func Given(value float64) Number { return Number{slot: -1, value: value} }

// At returns the number in a frame.
func (n Number) At(f *Frame) float64 {
	if n.slot < 0 {
		return n.value
	}
	return f.Values[n.slot]
}

// Constant tells whether the number is given once and for all as value.
func (n Number) Constant(value float64) bool { return n.slot < 0 && n.value == value }

// Influence is the parameter that every kind has: how much of what it does counts.
func Influence() parameter.Declaration {
	return parameter.Declaration{
		Key: InfluenceKey, Title: "Influence", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true,
		Help: "How much of what it does counts; the rest is as what stands below it has it. A dial can switch it, or blend.",
	}
}

// InfluenceKey is the key of the parameter Influence.
const InfluenceKey = "influence"

// Number returns a number parameter of the present mechanism, and what a task that uses it reads for it. One that nothing drives is given: it
// cannot change without an edit.
func (b *Bench) Number(key string) (Number, []Resource) {
	return b.numberOf(rig.Address{Of: b.Mechanism.ID, Key: key}, b.Settings.Number(key))
}

func (b *Bench) numberOf(a rig.Address, given float64) (Number, []Resource) {
	slot, ok := b.Layout.Find(a)
	if !ok || !b.Driven[slot] {
		return Given(given), nil
	}
	return Number{slot: slot}, []Resource{{Kind: ValueOf, Index: slot}}
}

// ChannelsOf returns what a task reads that reads all six channels of a control.
func ChannelsOf(control int) []Resource {
	list := make([]Resource, rig.ChannelCount)
	for k := range list {
		list[k] = Resource{Kind: ValueOf, Index: control*rig.ChannelCount + k}
	}
	return list
}

// ChannelOf returns what a task reads that reads one channel or dial of a control, and its slot. ok is false when there is no such channel.
func (b *Bench) ChannelOf(control int, channel rig.Channel) (slot int, reads Resource, ok bool) {
	index := b.Document.Controls[control].ChannelIndex(channel)
	if index < 0 {
		return -1, Resource{}, false
	}
	slot = b.Layout.Slot(control, index)
	return slot, Resource{Kind: ValueOf, Index: slot}, true
}

// Begin turns the bench to a mechanism, whose parameters are those declared and whose roles are filled.
func (b *Bench) Begin(m rig.Mechanism, declared parameter.Declared, roles map[string][]string) {
	b.roles = roles
	b.Mechanism, b.Settings = m, declared.Complete(m.Parameters)
	b.influence, b.influenceReads = b.Number(InfluenceKey)
	if !m.On {
		b.influence, b.influenceReads = Given(0), nil
		for _, id := range m.Controls { // what is off moves nothing, nor what hangs on its controls
			b.Count(id)
		}
	}
	b.Influences = append(b.Influences, b.influence)
}

// Counted is how much of a control's own motion counts.
type Counted struct {
	Number
	Reads []Resource
}

// Count has a control's own motion count as much as the influence of the present mechanism says.
func (b *Bench) Count(control string) {
	if i, ok := b.controls[control]; ok {
		b.Counts[i] = Counted{b.influence, b.influenceReads}
	}
}

// MostValue bounds every value, so that what is worked out from it is finite.
const MostValue = 1e12

// Bounded brings a number within what evaluation takes.
func Bounded(value float64) float64 { return math.Max(-MostValue, math.Min(MostValue, value)) }
