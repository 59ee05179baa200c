package plan

import (
	"fmt"

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
	driver    string // ID
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
// Those in of are made together.
func addDrivers(bench *mechanism.Bench, order []int, stacks map[int][]rig.Driver, of map[int]string, registry mechanism.Registry) (values map[int]*driven, err error) {
	values = map[int]*driven{}
	benches, tasks := map[int]*mechanism.DriverBench{}, map[string]*mechanism.Task{}
	for _, slot := range order {
		v := &driven{slot: slot, value: bench.Layout.Values[slot]}
		name := bench.Document.NameOfValue(v.value.Address)
		task := &mechanism.Task{Subject: v.value.Address.Of, Run: v.run, Writes: []mechanism.Resource{{Kind: mechanism.ValueOf, Index: slot}}}
		alike, crowded := of[slot]
		if crowded && tasks[alike] == nil {
			tasks[alike] = &mechanism.Task{Subject: task.Subject}
		}
		if crowded {
			task = tasks[alike]
		}
		for _, driver := range stacks[slot] {
			kind, declared, err := registry.FindDriver(driver.Kind)
			if err != nil {
				return nil, err
			}
			b, err := bench.NewDriverBench(driver, declared, slot, task)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			drive, err := kind.Prepare(b)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			v.layers = append(v.layers, layer{driver.ID, b.Number(mechanism.InfluenceKey), drive})
			benches[slot] = b
		}
		values[slot] = v
		v.held = bench.FindingOf(v.value.Address.Of, fmt.Sprintf("What drives %s asks for more than its limits or lock let through; widen them, or drive it less.", name))
		v.lost = bench.FindingOf(v.value.Address.Of, fmt.Sprintf("What drives %s makes no number of it, and it stays as it is without; look at its drivers.", name))
		task.Raises = append(task.Raises, v.held, v.lost)
		if !crowded {
			bench.Tasks = append(bench.Tasks, *task)
		}
	}
	return values, layCrowds(bench, order, of, values, benches, tasks, registry)
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
	value, lost := f.Inputs[v.slot], false
	for i := range v.layers {
		var none bool
		value, none = v.layers[i].on(f, value)
		lost = lost || none
	}
	v.hold(f, value, lost)
}

// hold has limits and locks hold what drivers made.
func (v *driven) hold(f *mechanism.Frame, value float64, lost bool) {
	if lost {
		f.Findings[v.lost] = true
	}
	held := v.value.State.Within(mechanism.Bounded(value), v.value.Rest)
	f.Findings[v.held] = held != value
	f.Values[v.slot] = held
}

// on lets a driver work on what stands below it. lost tells that it made no number.
func (l *layer) on(f *mechanism.Frame, below float64) (value float64, lost bool) {
	made, share := l.drive(f, below), l.influence.At(f)
	if share == 0 {
		return below, false
	}
	return mixed(below, made, share)
}

// Layer is what one driver made of a number.
type Layer struct {
	Driver       string // ID
	Share, Value float64
}

// Through tells what each driver of a number made of it in a frame, from the lowest on; nothing for one that nothing drives.
func (p *Plan) Through(f *mechanism.Frame, slot int) (layers []Layer) {
	v := p.values[slot]
	if v == nil {
		return nil
	}
	value := f.Inputs[slot]
	for i := range v.layers {
		value, _ = v.layers[i].on(f, value)
		layers = append(layers, Layer{v.layers[i].driver, v.layers[i].influence.At(f), value})
	}
	return layers
}
