package plan

import (
	"fmt"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// driven is a value that something drives: its drivers work on its input, one on top of the other, and limits and locks hold what comes of it.
type driven struct {
	slot       int
	value      mechanism.Value
	layers     []layer
	held, lost int // findings
}

// layer is one driver prepared.
type layer struct {
	influence mechanism.Source
	drive     mechanism.Drive
}

// markDriven notes what will be driven, so that mechanisms know which of their numbers can change.
func markDriven(bench *mechanism.Bench) (order []int, stacks map[int][]rig.Driver, err error) {
	stacks = map[int][]rig.Driver{}
	for _, driver := range bench.Document.Drivers {
		slot, ok := bench.Layout.Find(driver.Drives)
		if !ok {
			return nil, nil, fmt.Errorf("%s cannot be driven; take its driver off", bench.Document.NameOfValue(driver.Drives))
		}
		if !driver.On {
			continue
		}
		if stacks[slot] == nil {
			order = append(order, slot)
		}
		bench.Driven[slot] = true
		stacks[slot] = append(stacks[slot], driver)
	}
	return order, stacks, nil
}

// addDrivers lays a task on the bench for every value that something drives.
func addDrivers(bench *mechanism.Bench, order []int, stacks map[int][]rig.Driver, registry mechanism.Registry) error {
	for _, slot := range order {
		v := &driven{slot: slot, value: bench.Layout.Values[slot]}
		name := bench.Document.NameOfValue(v.value.Address)
		task := mechanism.Task{Subject: v.value.Address.Of, Run: v.run, Writes: []mechanism.Resource{{Kind: mechanism.ValueOf, Index: slot}}}
		for _, driver := range stacks[slot] {
			kind, declared, err := registry.FindDriver(driver.Kind)
			if err != nil {
				return err
			}
			b, err := bench.NewDriverBench(driver, declared, slot, &task)
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			drive, err := kind.Prepare(b)
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			v.layers = append(v.layers, layer{b.Number(mechanism.InfluenceKey), drive})
		}
		v.held = bench.FindingOf(task.Subject, fmt.Sprintf("What drives %s asks for more than its limits or lock let through; widen them, or drive it less.", name))
		v.lost = bench.FindingOf(task.Subject, fmt.Sprintf("What drives %s makes no number of it, and it stays as it is without; look at its drivers.", name))
		task.Raises = []int{v.held, v.lost}
		bench.Tasks = append(bench.Tasks, task)
	}
	return nil
}

// addMeasures lays a task on the bench for every measure.
func addMeasures(bench *mechanism.Bench, registry mechanism.Registry) error {
	for _, m := range bench.Document.Measures {
		kind, _, err := registry.FindMeasure(m.Kind)
		if err != nil {
			return fmt.Errorf("%s: %w", m.Name, err)
		}
		slot, _ := bench.Layout.Find(rig.Address{Of: m.ID, Key: rig.MeasureKey})
		bench.Driven[slot] = true
		if err := kind.Prepare(bench, m, slot); err != nil {
			return fmt.Errorf("%s: %w", m.Name, err)
		}
	}
	return nil
}

// run makes the value. Every driver works, as it may have to remember; how much of it counts is its influence.
func (v *driven) run(f *mechanism.Frame) {
	value := f.Inputs[v.slot]
	for i := range v.layers {
		made, share := v.layers[i].drive(f, value), v.layers[i].influence.At(f)
		switch {
		case share == 0:
		case !geometry.Finite(made):
			f.Findings[v.lost] = true
		case share == 1:
			value = made
		default:
			value += share * (made - value)
		}
	}
	held := v.value.State.Hold(mechanism.Bounded(value), v.value.Rest)
	f.Findings[v.held] = held != value
	f.Values[v.slot] = held
}
