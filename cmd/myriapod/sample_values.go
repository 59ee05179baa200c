package main

import (
	"fmt"

	"myriapod/core/evaluate"
)

// sampleValue is a number as people see it: degrees where it turns.
type sampleValue struct {
	Name  string  `json:"name"` // NAME.KEY, or the name of a measure
	Value float64 `json:"value"`
	Unit  string  `json:"unit,omitempty"`
}

// pickValues returns what reads one frame's numbers that fit.
func (s *sampler) pickValues(e *evaluate.Evaluator) (func(frame float64) sampleFrame, error) {
	var chosen []int
	var names []string
	layout := &e.Plan.Layout
	for slot, v := range layout.Values {
		name := e.Plan.Document.NameOfValue(v.Address)
		fits, err := matches("values", s.values, name)
		if err != nil {
			return nil, err
		}
		if fits {
			chosen, names = append(chosen, slot), append(names, name)
		}
	}
	if len(chosen) == 0 {
		return nil, fmt.Errorf("no number is called %q; they are called NAME.KEY, as in root.moveX, and measures by their names", s.values)
	}
	return func(frame float64) sampleFrame {
		sampled := sampleFrame{Frame: frame}
		for i, slot := range chosen {
			sampled.Values = append(sampled.Values, sampleValue{names[i], e.Frame.Values[slot] * layout.Shown(slot), layout.Values[slot].Unit})
		}
		return sampled
	}, nil
}
