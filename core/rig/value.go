package rig

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
)

// Address names one number that something can drive: what bears it, and which of its numbers. Keys are the channels and dials of a control, the
// parameters of a mechanism or driver that may be driven (its influence among them), the morph targets of a part, and MeasureKey of a measure.
type Address struct {
	Of  string `json:"of"` // ID
	Key string `json:"key"`
}

// MeasureKey is the key of a measure's one number.
const MeasureKey = "value"

// Of returns the address of a control's channel or dial.
func (c Control) Of(channel Channel) Address { return Address{c.ID, string(channel)} }

// Driver makes one number of what stands below it: of the number's input, or of what the drivers before it in the list made of that. It never
// writes the input.
type Driver struct {
	ID     string    `json:"id"`
	Kind   string    `json:"kind"`
	Drives Address   `json:"drives"`
	By     []Address `json:"by"` // what it reads, in the order that its kind says
	On     bool      `json:"on"`
	// Parameters are its kind's; the influence, how much of it counts, every kind has.
	Parameters parameter.Set `json:"parameters"`
	// Nth tells which it is in each ring and series that repeats it, the innermost first. It is known only where copies are made.
	Nth []Nth `json:"-" tstype:"-"`
}

// Nth is which one something is among what a ring or series makes of it, with the source, which is 0.
type Nth struct {
	Index int `json:"index"`
	Count int `json:"count"`
}

// LinkKind is the kind of driver that hands a number on. It is what dials were in version 1.
const LinkKind = "link"

// Measure is a number that is read off how the specimen stands.
type Measure struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Kind string   `json:"kind"`
	Of   []string `json:"of"` // joints and controls, in the order that its kind says
	// Axis is what an angle is measured about, in the joint's own axes at rest, of any length over 0. Other kinds leave it.
	Axis mgl64.Vec3 `json:"axis"`
}

// Identity implements Entity.
func (d *Driver) Identity() (id, name *string) { return &d.ID, nil }

// Refer implements Entity.
func (d *Driver) Refer(visit func(Reference) string) {
	refer(&d.Drives.Of, Reference{Field: "drives.of", Index: -1, To: bearers}, visit)
	referEach(&d.By, func(a *Address) *string { return &a.Of }, Reference{Field: "by", Of: "of", To: bearers}, visit)
}

func (d *Driver) detach() { d.Parameters = d.Parameters.Clone() }

// bearers is what bears numbers that can be driven or read.
const bearers = ToControl | ToMechanism | ToPart | ToDriver | ToMeasure

// Identity implements Entity.
func (m *Measure) Identity() (id, name *string) { return &m.ID, &m.Name }

// Refer implements Entity.
func (m *Measure) Refer(visit func(Reference) string) {
	referAll(&m.Of, Reference{Field: "of", To: ToJoint | ToControl}, visit)
}

func (m *Measure) detach() {}

// Driver returns the driver with the ID, or nil.
func (d *Document) Driver(id string) *Driver {
	return find(d.Drivers, func(x *Driver) bool { return x.ID == id })
}

// Measure returns the measure with the ID, or nil.
func (d *Document) Measure(id string) *Measure {
	return find(d.Measures, func(m *Measure) bool { return m.ID == id })
}

// DriversOf returns the drivers of a number, from the lowest on, those that are off as well.
func (d *Document) DriversOf(a Address) []Driver {
	var list []Driver
	for _, driver := range d.Drivers {
		if driver.Drives == a {
			list = append(list, driver)
		}
	}
	return list
}

// LinkedTo returns what a number is linked to by one driver alone, which is on: the dial of a blend, say. ok is false when it is driven otherwise.
func (d *Document) LinkedTo(a Address) (by Address, ok bool) {
	drivers := d.DriversOf(a)
	if len(drivers) != 1 || drivers[0].Kind != LinkKind || !drivers[0].On || len(drivers[0].By) != 1 {
		return Address{}, false
	}
	return drivers[0].By[0], true
}

// NameOfValue names a number for messages to people: NAME.KEY.
func (d *Document) NameOfValue(a Address) string {
	if driver := d.Driver(a.Of); driver != nil {
		return fmt.Sprintf("the %s of a driver of %s", a.Key, d.NameOfValue(driver.Drives))
	}
	if d.Measure(a.Of) != nil {
		return d.NameOf(a.Of)
	}
	return d.NameOf(a.Of) + "." + a.Key
}

// NamesOfValue names a number by what bears it and by its key, which is empty for a measure.
func (d *Document) NamesOfValue(a Address) (of, key string) {
	if d.Measure(a.Of) != nil {
		return d.NameOf(a.Of), ""
	}
	return d.NameOf(a.Of), a.Key
}

// checkDrivers checks drivers by themselves; whether what they name is there, and what their kinds take, is for planning.
func (d *Document) checkDrivers() error {
	for i, driver := range d.Drivers {
		place := fmt.Sprintf("drivers[%d]", i)
		for _, a := range append([]Address{driver.Drives}, driver.By...) {
			if err := CheckName(a.Key); err != nil {
				return fmt.Errorf("%s: a key: %w", place, err)
			}
		}
		if driver.Drives.Of == driver.ID {
			return fmt.Errorf("%s.drives: it cannot drive itself", place)
		}
		if d.Measure(driver.Drives.Of) != nil {
			return fmt.Errorf("%s.drives: %s is measured, and cannot be driven", place, d.NameOf(driver.Drives.Of))
		}
		for key, value := range driver.Parameters {
			if math.IsNaN(value.Number) || math.IsInf(value.Number, 0) {
				return fmt.Errorf("%s.parameters.%s: numbers are finite", place, key)
			}
		}
	}
	for i, m := range d.Measures {
		place := fmt.Sprintf("measures[%d]", i)
		if !geometry.FiniteVector(m.Axis) {
			return fmt.Errorf("%s.axis: numbers are finite", place)
		}
	}
	return nil
}
