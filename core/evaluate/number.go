package evaluate

import (
	"fmt"

	"myriapod/core/rig"
)

// Made is what one driver has made of a number: how much of it counts, and what the number is with it.
type Made struct {
	Driver string  `json:"driver"` // ID
	Share  float64 `json:"share"`
	Value  float64 `json:"value"`
	// Reads is what it reads, in the units that people see.
	Reads []float64 `json:"reads"`
	// Answer is what the lowest driver would have to add, in that unit, for the number to stay as it makes it when the hand lets go where it rests.
	Answer *float64 `json:"answer,omitempty"`
}

// NumberTrace is how a number came about in the present frame: from its input through its drivers to what limits and locks leave of it.
type NumberTrace struct {
	Of    rig.Address `json:"of"`
	Input float64     `json:"input"`
	Made  []Made      `json:"made"`
	Value float64     `json:"value"`
	Held  bool        `json:"held"` // limits or a lock hold it back
	Late  bool        `json:"late"` // a driver reads something as it was a step ago, because that hangs on this number in turn
	// Remembers is how many bytes the steps of everything that has memory take along the present clip, where a driver of this number is among that; Apart is how many
	// seconds lie between two steps that are kept.
	Remembers int     `json:"remembers,omitempty"`
	Apart     float64 `json:"apart,omitempty"`
}

// TraceNumber tells how a number came about.
func (e *Evaluator) TraceNumber(a rig.Address) (NumberTrace, error) {
	slot, ok := e.Plan.Layout.Find(a)
	if !ok {
		return NumberTrace{}, fmt.Errorf("there is no %s to trace", e.Plan.Document.NameOfValue(a))
	}
	e.Evaluate()
	trace := NumberTrace{Of: a, Input: e.Frame.Inputs[slot], Value: e.Frame.Values[slot], Made: []Made{}}
	last := trace.Input
	for i, layer := range e.Plan.Through(e.Frame, slot) {
		made := Made{Driver: layer.Driver, Share: layer.Share, Value: layer.Value, Reads: e.reads(layer.Driver)}
		if i == 0 {
			answer := (layer.Value - e.Plan.Layout.Values[slot].Rest) * e.Plan.Layout.Shown(slot)
			made.Answer = &answer
		}
		trace.Made = append(trace.Made, made)
		last = layer.Value
	}
	trace.Held = last != trace.Value
	for _, late := range e.Plan.Lates {
		trace.Late = trace.Late || late.Driven == slot
	}
	if task := e.Plan.DrivenBy[slot]; task >= 0 && e.Plan.Tasks[task].Steps {
		trace.Remembers, trace.Apart = e.Remembered()
	}
	return trace, nil
}

// reads returns what a driver reads now, in the units that people see.
func (e *Evaluator) reads(id string) []float64 {
	list := []float64{}
	driver := e.Plan.Document.Driver(id)
	for _, by := range driver.By {
		slot, _ := e.Plan.Layout.Find(by) // the plan found it
		list = append(list, e.Frame.Values[slot]*e.Plan.Layout.Shown(slot))
	}
	return list
}
