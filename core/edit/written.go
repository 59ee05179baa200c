package edit

import (
	"fmt"
	"slices"
	"strings"

	"myriapod/core/formula"
	"myriapod/core/mechanism"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// WriteDriver has a driver that is written as text, a formula, work a number out, on top of what drives it already; or it writes one anew that is there.
// What the text names are values as people call them: NAME.KEY, or the NAME of a measure.
type WriteDriver struct {
	ID     string        `json:"id,omitempty"`     // of the driver that is written anew; empty for new ones
	All    bool          `json:"all,omitempty"`    // with the ID: all drivers that read the same are written anew, and not this one alone
	Driver string        `json:"driver,omitempty"` // the kind of new ones
	Drives []rig.Address `json:"drives,omitempty"`
	Like   string        `json:"like,omitempty"` // beside these: all values called so, with * and ? as wildcards
	Text   string        `json:"text"`
}

// Title implements Edit.
func (e *WriteDriver) Title(d *rig.Document) string {
	driver := d.Driver(e.ID)
	switch {
	case driver != nil:
		return fmt.Sprintf("Write the %s of %s anew", driver.Kind, d.NameOfValue(driver.Drives))
	case e.Like != "":
		return fmt.Sprintf("Drive %s by a %s", e.Like, e.Driver)
	case len(e.Drives) == 1:
		return fmt.Sprintf("Drive %s by a %s", d.NameOfValue(e.Drives[0]), e.Driver)
	}
	return fmt.Sprintf("Drive %d numbers by a %s", len(e.Drives), e.Driver)
}

// Touches implements Edit.
func (e *WriteDriver) Touches(*rig.Document) []string {
	touched := []string{}
	if e.ID != "" {
		touched = append(touched, e.ID)
	}
	for _, a := range e.Drives {
		touched = append(touched, a.Of)
	}
	return touched
}

// Apply implements Edit. A mistake in the text is told with its place: the error wraps a formula.Error.
func (e *WriteDriver) Apply(c *Context, d *rig.Document) error {
	layout, err := mechanism.NewLayout(d, c.Kinds)
	if err != nil {
		return err
	}
	if e.ID != "" {
		return e.anew(c, d, &layout)
	}
	targets, err := e.targets(d, &layout)
	if err != nil {
		return err
	}
	kind, err := writtenKind(c, e.Driver)
	if err != nil {
		return err
	}
	by, given, err := kind.Write(e.Text, finder(d, &layout))
	if err != nil {
		return err
	}
	for i, drives := range targets {
		add := AddDriver{Driver: e.Driver, Drives: drives, By: by, Parameters: given.Clone()}
		for key, value := range kind.Order(i, len(targets)) {
			add.Parameters[key] = value
		}
		if err := add.Apply(c, d); err != nil {
			return err
		}
	}
	return nil
}

// anew writes drivers anew that are there.
func (e *WriteDriver) anew(c *Context, d *rig.Document, layout *mechanism.Layout) error {
	first := d.Driver(e.ID)
	if first == nil {
		return missing("driver", e.ID)
	}
	kind, err := writtenKind(c, first.Kind)
	if err != nil {
		return err
	}
	by, given, err := kind.Write(e.Text, finder(d, layout))
	if err != nil {
		return err
	}
	was := kind.Text(*first, d.NamesOfValue)
	for i := range d.Drivers {
		driver := &d.Drivers[i]
		alike := driver.Kind == first.Kind && kind.Text(*driver, d.NamesOfValue) == was
		if driver.ID != e.ID && !(e.All && alike) {
			continue
		}
		driver.By = slices.Clone(by)
		driver.Parameters = driver.Parameters.Clone()
		for key, value := range given {
			driver.Parameters[key] = value
		}
		if err := checkDriver(c, d, *driver); err != nil {
			return err
		}
	}
	return nil
}

// targets lists what new drivers are to drive, each once. Of what a wildcard fits, copies are left out whose source it fits as well, as they have its drivers.
func (e *WriteDriver) targets(d *rig.Document, layout *mechanism.Layout) ([]rig.Address, error) {
	targets := slices.Clone(e.Drives)
	if e.Like != "" {
		fits, err := rig.Like(e.Like)
		if err != nil {
			return nil, err
		}
		names, _ := namesOf(d)
		fitting := map[rig.Address]bool{}
		for _, v := range layout.Values {
			name, named := names[v.Address.Of]
			if named && d.Measure(v.Address.Of) == nil && !v.State.Locked && fits(name+"."+v.Address.Key) {
				fitting[v.Address] = true
			}
		}
		for _, v := range layout.Values {
			source, copied := repeat.SourceOf(v.Address.Of)
			if fitting[v.Address] && !(copied && fitting[rig.Address{Of: source, Key: v.Address.Key}]) && !slices.Contains(targets, v.Address) {
				targets = append(targets, v.Address)
			}
		}
	}
	if len(targets) == 0 {
		return nil, fmt.Errorf("no number that could be driven is called like %q; try fewer letters, with * for the rest, as in fin_*.rotateX", e.Like)
	}
	return targets, nil
}

func writtenKind(c *Context, name string) (mechanism.Written, error) {
	kind, _, err := c.Kinds.FindDriver(name)
	if err != nil {
		return nil, err
	}
	written, ok := kind.(mechanism.Written)
	if !ok {
		return nil, fmt.Errorf("a %s is not written as text; set what it reads and its parameters", name)
	}
	return written, nil
}

// namesOf returns all names by their IDs, and the other way round.
func namesOf(d *rig.Document) (names, ids map[string]string) {
	names, ids = map[string]string{}, map[string]string{}
	d.EachNamed(func(id, name string) bool {
		names[id], ids[name] = name, id
		return true
	})
	return names, ids
}

// finder returns what finds values by their names.
func finder(d *rig.Document, layout *mechanism.Layout) func(of, key string) (rig.Address, error) {
	named, ids := namesOf(d)
	names, keys := []string{}, map[string][]string{}
	for _, v := range layout.Values {
		name, known := named[v.Address.Of] // drivers have numbers and no name
		if !known {
			continue
		}
		if len(keys[v.Address.Of]) == 0 {
			names = append(names, name)
		}
		keys[v.Address.Of] = append(keys[v.Address.Of], v.Address.Key)
	}
	return func(of, key string) (rig.Address, error) {
		id := ids[of]
		measure := d.Measure(id) != nil
		wanted := key
		if measure {
			wanted = rig.MeasureKey
		}
		a := rig.Address{Of: id, Key: wanted}
		_, there := layout.Find(a)
		switch {
		case id == "" && formula.Nearest(of, names) != "":
			return a, fmt.Errorf("there is nothing called %q; is %s meant?", of, formula.Nearest(of, names))
		case id == "":
			return a, fmt.Errorf("there is nothing called %q that has a number", of)
		case measure && key != "" && key != rig.MeasureKey:
			return a, fmt.Errorf("%s is a measure and has one number; leave .%s out", of, key)
		case there:
			return a, nil
		case len(keys[id]) == 0:
			return a, fmt.Errorf("%s has no numbers; name a control, a measure, a mechanism or a part", of)
		case key == "":
			return a, fmt.Errorf("%s has several numbers; say which, as in %s.%s", of, of, keys[id][0])
		case formula.Nearest(key, keys[id]) != "":
			return a, fmt.Errorf("%s has no %s; is %s.%s meant?", of, key, of, formula.Nearest(key, keys[id]))
		}
		return a, fmt.Errorf("%s has no %s; it has %s", of, key, strings.Join(keys[id], ", "))
	}
}
