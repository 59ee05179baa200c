package edit

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// AddDriver has something drive a number, on top of what drives it already.
type AddDriver struct {
	Driver     string        `json:"driver"` // its kind
	Drives     rig.Address   `json:"drives"`
	By         []rig.Address `json:"by,omitempty"`
	Parameters parameter.Set `json:"parameters,omitempty"`
}

// Title implements Edit.
func (e *AddDriver) Title(d *rig.Document) string {
	return fmt.Sprintf("Drive %s by a %s", d.NameOfValue(e.Drives), e.Driver)
}

// Touches implements Edit.
func (e *AddDriver) Touches(*rig.Document) []string {
	touched := []string{e.Drives.Of}
	for _, by := range e.By {
		touched = append(touched, by.Of)
	}
	return touched
}

// Apply implements Edit. What is locked is not driven: the lock would hold it.
func (e *AddDriver) Apply(c *Context, d *rig.Document) error {
	layout, err := mechanism.NewLayout(d, c.Kinds)
	if err != nil {
		return err
	}
	slot, ok := layout.Find(e.Drives)
	switch {
	case !ok:
		return fmt.Errorf("there is no %s that could be driven here; it may have been removed meanwhile", d.NameOfValue(e.Drives))
	case layout.Values[slot].State.Locked:
		return fmt.Errorf("%s is locked, and a driver could not move it; unlock it first", d.NameOfValue(e.Drives))
	}
	made := rig.Driver{ID: d.TakeID("v"), Kind: e.Driver, Drives: e.Drives, By: append([]rig.Address{}, e.By...), On: true, Parameters: e.Parameters.Clone()}
	d.Drivers = append(d.Drivers, made)
	return checkDriver(c, d, made)
}

// checkDriver tells what is wrong with a driver's parameters and with what it reads.
func checkDriver(c *Context, d *rig.Document, driver rig.Driver) error {
	_, declared, err := c.Kinds.FindDriver(driver.Kind)
	if err != nil {
		return err
	}
	if err := declared.Parameters.Check(driver.Parameters); err != nil {
		return err
	}
	if n := len(driver.By); n < declared.Least || n > declared.Most {
		return fmt.Errorf("a %s reads %d to %d numbers, not %d; choose them", driver.Kind, declared.Least, declared.Most, n)
	}
	layout, err := mechanism.NewLayout(d, c.Kinds)
	if err != nil {
		return err
	}
	for _, by := range driver.By {
		if _, ok := layout.Find(by); !ok {
			return fmt.Errorf("there is no %s that it could read; choose something else", d.NameOfValue(by))
		}
	}
	return nil
}

// ChangeDriver changes what a driver reads, its parameters, and whether it is on. What is left out stays.
type ChangeDriver struct {
	ID         string        `json:"id"`
	By         []rig.Address `json:"by,omitempty"`
	On         *bool         `json:"on,omitempty"`
	Parameters parameter.Set `json:"parameters,omitempty"`
}

// Title implements Edit.
func (e *ChangeDriver) Title(d *rig.Document) string {
	what := d.NameOf(e.ID)
	if driver := d.Driver(e.ID); driver != nil {
		what = fmt.Sprintf("the %s of %s", driver.Kind, d.NameOfValue(driver.Drives))
	}
	switch {
	case e.On != nil && *e.On:
		return "Switch on " + what
	case e.On != nil:
		return "Switch off " + what
	}
	return "Change " + what
}

// Touches implements Edit.
func (e *ChangeDriver) Touches(*rig.Document) []string {
	touched := []string{e.ID}
	for _, by := range e.By {
		touched = append(touched, by.Of)
	}
	return touched
}

// Apply implements Edit.
func (e *ChangeDriver) Apply(c *Context, d *rig.Document) error {
	driver := d.Driver(e.ID)
	if driver == nil {
		return missing("driver", e.ID)
	}
	if e.By != nil {
		driver.By = slices.Clone(e.By)
	}
	if e.On != nil {
		driver.On = *e.On
	}
	for key, value := range e.Parameters {
		driver.Parameters[key] = value
	}
	return checkDriver(c, d, *driver)
}

// MoveDriver has a driver work before or after others of the same number: Place counts those from 0, the lowest.
type MoveDriver struct {
	ID    string `json:"id"`
	Place int    `json:"place"`
}

// Title implements Edit.
func (e *MoveDriver) Title(d *rig.Document) string {
	if driver := d.Driver(e.ID); driver != nil {
		return fmt.Sprintf("Move the %s of %s", driver.Kind, d.NameOfValue(driver.Drives))
	}
	return "Move a driver"
}

// Touches implements Edit.
func (e *MoveDriver) Touches(d *rig.Document) []string {
	touched := []string{e.ID}
	if driver := d.Driver(e.ID); driver != nil {
		for _, other := range d.DriversOf(driver.Drives) {
			touched = append(touched, other.ID)
		}
	}
	return touched
}

// Apply implements Edit.
func (e *MoveDriver) Apply(_ *Context, d *rig.Document) error {
	driver := d.Driver(e.ID)
	if driver == nil {
		return missing("driver", e.ID)
	}
	stack := d.DriversOf(driver.Drives)
	if e.Place < 0 || e.Place >= len(stack) {
		return fmt.Errorf("%s has %d drivers; a place among them is 0 to %d, not %d", d.NameOfValue(driver.Drives), len(stack), len(stack)-1, e.Place)
	}
	from := slices.IndexFunc(stack, func(x rig.Driver) bool { return x.ID == e.ID })
	moved := stack[from]
	stack = slices.Insert(slices.Delete(stack, from, from+1), e.Place, moved)
	for i := range d.Drivers {
		if d.Drivers[i].Drives == moved.Drives {
			d.Drivers[i], stack = stack[0], stack[1:]
		}
	}
	return nil
}

// RemoveDriver takes a driver off what it drives.
type RemoveDriver struct {
	ID string `json:"id"`
}

// Title implements Edit.
func (e *RemoveDriver) Title(d *rig.Document) string {
	if driver := d.Driver(e.ID); driver != nil {
		return fmt.Sprintf("Take the %s off %s", driver.Kind, d.NameOfValue(driver.Drives))
	}
	return "Take a driver off"
}

// Touches implements Edit.
func (e *RemoveDriver) Touches(*rig.Document) []string { return []string{e.ID} }

// Apply implements Edit.
func (e *RemoveDriver) Apply(_ *Context, d *rig.Document) error {
	if d.Driver(e.ID) == nil {
		return missing("driver", e.ID)
	}
	d.Drivers = slices.DeleteFunc(d.Drivers, func(x rig.Driver) bool { return x.ID == e.ID })
	return nil
}

// AddMeasure reads a number off how the specimen stands, for drivers to read.
type AddMeasure struct {
	Measure string     `json:"measure"` // its kind
	Name    string     `json:"name"`    // empty for the kind and what it is of
	Of      []string   `json:"of"`
	Axis    mgl64.Vec3 `json:"axis"`
}

// Title implements Edit.
func (e *AddMeasure) Title(d *rig.Document) string { return "Measure " + e.name(d) }

// name is what the measure is to be called.
func (e *AddMeasure) name(d *rig.Document) string {
	if e.Name != "" {
		return e.Name
	}
	name := e.Measure
	for _, id := range e.Of {
		name += "_" + d.NameOf(id)
	}
	if len(name) > rig.MaxName {
		return e.Measure
	}
	return name
}

// Touches implements Edit.
func (e *AddMeasure) Touches(*rig.Document) []string { return e.Of }

// Apply implements Edit.
func (e *AddMeasure) Apply(c *Context, d *rig.Document) error {
	if _, _, err := c.Kinds.FindMeasure(e.Measure); err != nil {
		return err
	}
	for _, id := range e.Of {
		if d.Joint(id) == nil && d.Control(id) == nil {
			return missing("joint or control", id)
		}
	}
	d.Measures = append(d.Measures, rig.Measure{
		ID: d.TakeID("n"), Name: rig.UniqueName(e.name(d), d.HasName), Kind: e.Measure, Of: append([]string{}, e.Of...), Axis: e.Axis,
	})
	return nil
}

// RemoveMeasure takes a measure away. One that drives something is refused.
type RemoveMeasure struct {
	ID string `json:"id"`
}

// Title implements Edit.
func (e *RemoveMeasure) Title(d *rig.Document) string { return "Remove the measure " + d.NameOf(e.ID) }

// Touches implements Edit.
func (e *RemoveMeasure) Touches(*rig.Document) []string { return []string{e.ID} }

// Apply implements Edit.
func (e *RemoveMeasure) Apply(_ *Context, d *rig.Document) error {
	if d.Measure(e.ID) == nil {
		return missing("measure", e.ID)
	}
	d.Measures = slices.DeleteFunc(d.Measures, func(m rig.Measure) bool { return m.ID == e.ID })
	return nil
}

// settleValues sees to what numbers hang on when an edit has taken things away: drivers of what is gone go as well; what is read or measured is not
// taken away.
func settleValues(c *Context, was, now *rig.Document) error {
	if len(now.Drivers)+len(now.Measures) == 0 {
		return nil
	}
	for _, m := range now.Measures {
		for _, id := range m.Of {
			if now.Joint(id) == nil && now.Control(id) == nil {
				return fmt.Errorf("the measure %s is of %s; remove the measure first", m.Name, was.NameOf(id))
			}
		}
	}
	for dropped := true; dropped; { // a driver may drive another's influence
		layout, err := mechanism.NewLayout(now, c.Kinds)
		if err != nil {
			return err
		}
		before := len(now.Drivers)
		now.Drivers = slices.DeleteFunc(now.Drivers, func(x rig.Driver) bool { _, there := layout.Find(x.Drives); return !there })
		if dropped = len(now.Drivers) < before; dropped {
			continue
		}
		for _, driver := range now.Drivers {
			for _, by := range driver.By {
				if _, there := layout.Find(by); !there {
					return fmt.Errorf("%s drives %s; free that first", was.NameOfValue(by), was.NameOfValue(driver.Drives))
				}
			}
		}
	}
	return nil
}
