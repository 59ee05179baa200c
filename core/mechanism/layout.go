package mechanism

import (
	"fmt"

	"myriapod/core/rig"
)

// Value is one number that something may drive or read: where it lies, what it is at rest, and what holds it.
type Value struct {
	Address rig.Address
	State   rig.ChannelState // locks and limits, which hold after the drivers
	Rest    float64          // its input where no hand and no clip says anything
	Unit    string           // as people see it
	// Turns tells that it is an angle of a control: radians, which people see as degrees.
	Turns bool
}

// Layout tells where in Frame.Inputs and Frame.Values each value lies: the ChannelCount channels of the controls, one control after another; their
// dials; what can be driven of mechanisms, and of drivers; the morph targets of parts; measures.
type Layout struct {
	Values   []Value // by slot
	slots    map[rig.Address]int
	dials    []int // by control: the slot of its first dial
	dialsEnd int
	morphs   [2]int // from, to
}

// NewLayout lays out the values of a document.
func NewLayout(d *rig.Document, registry Registry) (Layout, error) {
	l := Layout{slots: map[rig.Address]int{}, dials: make([]int, len(d.Controls))}
	for i := range d.Controls {
		for _, channel := range rig.Channels {
			l.addChannel(&d.Controls[i], channel)
		}
	}
	for i := range d.Controls {
		l.dials[i] = len(l.Values)
		for _, dial := range d.Controls[i].Dials {
			l.addChannel(&d.Controls[i], dial.Name)
		}
	}
	l.dialsEnd = len(l.Values)
	for _, m := range d.Mechanisms {
		_, declared, err := registry.Find(m.Kind)
		if err != nil {
			return l, fmt.Errorf("%s: %w", m.Name, err)
		}
		l.addParameters(m.ID, declared.Parameters, m.Parameters)
	}
	for _, driver := range d.Drivers {
		_, declared, err := registry.FindDriver(driver.Kind)
		if err != nil {
			return l, fmt.Errorf("%s: %w", d.NameOfValue(driver.Drives), err)
		}
		l.addParameters(driver.ID, declared.Parameters, driver.Parameters)
	}
	l.morphs[0] = len(l.Values)
	for _, part := range d.Parts {
		for _, morph := range part.Morphs {
			most := float64(MaxMorph)
			least := -most
			l.add(Value{Address: rig.Address{Of: part.ID, Key: morph.Name}, Rest: morph.Value, State: rig.ChannelState{Min: &least, Max: &most}})
		}
	}
	l.morphs[1] = len(l.Values)
	for _, m := range d.Measures {
		_, declared, err := registry.FindMeasure(m.Kind)
		if err != nil {
			return l, fmt.Errorf("%s: %w", m.Name, err)
		}
		l.add(Value{Address: rig.Address{Of: m.ID, Key: rig.MeasureKey}, Unit: declared.Unit})
	}
	return l, nil
}

// MaxMorph is how much of a morph target is mixed in at most, either way.
const MaxMorph = 100

func (l *Layout) add(v Value) {
	l.slots[v.Address] = len(l.Values)
	l.Values = append(l.Values, v)
}

func (l *Layout) addChannel(c *rig.Control, channel rig.Channel) {
	v := Value{Address: c.Of(channel), State: c.State(channel), Rest: c.RestValue(channel), Turns: channel.Turns(), Unit: "m"}
	if dial := c.Dial(channel); dial != nil {
		v.Unit = dial.Unit
	} else if v.Turns {
		v.Unit = "°"
	}
	l.add(v)
}

// Slot returns the place of a control's channel or dial by its index there (see rig.Control.ChannelIndex).
func (l *Layout) Slot(control, index int) int {
	if index < rig.ChannelCount {
		return control*rig.ChannelCount + index
	}
	return l.dials[control] + index - rig.ChannelCount
}

// Find returns the place of a value by its address.
func (l *Layout) Find(a rig.Address) (slot int, ok bool) {
	slot, ok = l.slots[a]
	return slot, ok
}

// Dials and Morphs return where the dials of all controls, and the amounts of all morph targets, begin and end.
func (l *Layout) Dials() (from, to int) {
	if len(l.dials) == 0 {
		return 0, 0
	}
	return l.dials[0], l.dialsEnd
}

// Morphs is as Dials.
func (l *Layout) Morphs() (from, to int) { return l.morphs[0], l.morphs[1] }

// MorphsOf returns where the amounts of a part's morph targets begin.
func (l *Layout) MorphsOf(part rig.Part) int {
	if len(part.Morphs) == 0 {
		return l.morphs[0]
	}
	return l.slots[rig.Address{Of: part.ID, Key: part.Morphs[0].Name}]
}

// Resting returns the inputs of all values at rest.
func (l *Layout) Resting() []float64 {
	rest := make([]float64, len(l.Values))
	for i := range l.Values {
		rest[i] = l.Values[i].Rest
	}
	return rest
}
