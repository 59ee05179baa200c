package plan

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// leastTogether is how many values that are driven alike are worked out in one go.
const leastTogether = 32

// crowd is values that are driven by one driver each, all alike: they are worked out in one task, by columns.
type crowd struct {
	values []*driven
	drive  mechanism.DriveAll
	space  mechanism.Scratch[crowdSpace]
}

// crowdSpace is what a crowd works in.
type crowdSpace struct{ below, made []float64 }

// crowds finds the values that can be worked out together: by slot, which crowd each is of.
func crowds(order []int, stacks map[int][]rig.Driver, registry mechanism.Registry) (of map[int]string, err error) {
	of, sizes := map[int]string{}, map[string]int{}
	for _, slot := range order {
		if len(stacks[slot]) != 1 {
			continue
		}
		driver := stacks[slot][0]
		kind, _, err := registry.FindDriver(driver.Kind)
		if err != nil {
			return nil, err
		}
		together, ok := kind.(mechanism.Together)
		if !ok {
			continue
		}
		if alike := together.Alike(driver); alike != "" {
			of[slot] = driver.Kind + " " + alike
			sizes[of[slot]]++
		}
	}
	for slot, alike := range of {
		if sizes[alike] < leastTogether {
			delete(of, slot)
		}
	}
	return of, nil
}

// layCrowds lays one task for each crowd, in the place of the first of its values.
func layCrowds(bench *mechanism.Bench, order []int, of map[int]string, values map[int]*driven, benches map[int]*mechanism.DriverBench, tasks map[string]*mechanism.Task, registry mechanism.Registry) error {
	for _, slot := range order {
		alike, crowded := of[slot]
		task := tasks[alike]
		if !crowded || values[slot] == nil || len(task.Writes) > 0 {
			continue
		}
		c := &crowd{}
		var list []*mechanism.DriverBench
		for _, other := range order {
			if of[other] != alike {
				continue
			}
			c.values, list = append(c.values, values[other]), append(list, benches[other])
			task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.ValueOf, Index: other})
		}
		if readsItself(task) {
			return errApart
		}
		kind, _, err := registry.FindDriver(list[0].Driver.Kind)
		if err != nil {
			return err
		}
		if c.drive, err = kind.(mechanism.Together).PrepareTogether(list); err != nil {
			return fmt.Errorf("%s: %w", bench.Document.NameOfValue(c.values[0].value.Address), err)
		}
		count := len(c.values)
		c.space = mechanism.ScratchOf(bench, func() *crowdSpace { return &crowdSpace{make([]float64, count), make([]float64, count)} })
		task.Run = c.run
		bench.Tasks = append(bench.Tasks, *task)
	}
	return nil
}

// errApart tells that values that are driven alike have to be made one by one, as one reads another.
var errApart = errors.New("they read each other")

func readsItself(task *mechanism.Task) bool {
	own := map[mechanism.Resource]bool{}
	for _, r := range task.Writes {
		own[r] = true
	}
	return slices.ContainsFunc(task.Reads, func(r mechanism.Resource) bool { return own[r] })
}

// run makes all values.
func (c *crowd) run(f *mechanism.Frame) {
	s := c.space.In(f)
	for i, v := range c.values {
		s.below[i] = f.Inputs[v.slot]
	}
	c.drive(f, s.below, s.made)
	for i, v := range c.values {
		value, lost := s.below[i], false
		if share := v.layers[0].influence.At(f); share != 0 {
			value, lost = mixed(value, s.made[i], share)
		}
		v.hold(f, value, lost)
	}
}

// mixed is so much of what a driver made of what stands below it. lost tells that it made no number.
func mixed(below, made, share float64) (value float64, lost bool) {
	switch {
	case !geometry.Finite(made):
		return below, true
	case share == 1:
		return made, false
	}
	return below + share*(made-below), false
}
