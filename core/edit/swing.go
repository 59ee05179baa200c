package edit

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"myriapod/core/driver"
	"myriapod/core/formula"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// AddSwing has numbers swing to and fro by one formula, whose measure is dials on a control: NAME_strength, NAME_amplitude, NAME_centre, NAME_rate (turns a second), NAME_phase,
// NAME_spread (turns from the first of the numbers to the last) and NAME_alternate (turns by which the right side comes later). At rest nothing swings.
type AddSwing struct {
	Name   string        `json:"name"`
	Drives []rig.Address `json:"drives,omitempty"`
	Like   string        `json:"like,omitempty"` // beside these: all values called so, with * and ? as wildcards
	On     string        `json:"on,omitempty"`   // the control that the dials are given; empty for the root
}

// Title implements Edit.
func (e *AddSwing) Title(d *rig.Document) string {
	switch {
	case e.Like != "":
		return fmt.Sprintf("Have %s swing", e.Like)
	case len(e.Drives) == 1:
		return fmt.Sprintf("Have %s swing", d.NameOfValue(e.Drives[0]))
	}
	return fmt.Sprintf("Have %d numbers swing", len(e.Drives))
}

// Touches implements Edit.
func (e *AddSwing) Touches(d *rig.Document) []string {
	touched := []string{e.On}
	if root := d.ControlNamed(rig.RootName); e.On == "" && root != nil {
		touched[0] = root.ID
	}
	for _, a := range e.Drives {
		touched = append(touched, a.Of)
	}
	return touched
}

// swinging is the formula of a swing: %s is its name with the control that has its dials.
const swinging = "below + moving * %[1]s_strength * (%[1]s_centre + %[1]s_amplitude * wave(turns(%[1]s_rate) + %[1]s_phase + share * %[1]s_spread + (side < 0 ? %[1]s_alternate : 0)))"

// Apply implements Edit.
func (e *AddSwing) Apply(c *Context, d *rig.Document) error {
	layout, err := mechanism.NewLayout(d, c.Kinds)
	if err != nil {
		return err
	}
	write := &WriteDriver{Driver: driver.FormulaKind, Drives: e.Drives, Like: e.Like}
	targets, err := write.targets(d, &layout)
	if err != nil {
		return err
	}
	site, err := newSite(c, d, nil, nil)
	if err != nil {
		return err
	}
	reach, centre, unit, err := reachOf(d, &layout, site.Size, targets)
	if err != nil {
		return err
	}
	on := d.Control(e.On)
	if e.On == "" {
		on = d.ControlNamed(rig.RootName)
	}
	if on == nil {
		return fmt.Errorf("there is no control for the dials of the swing; choose one that is there")
	}
	name := strings.TrimSpace(e.Name)
	if name == "" {
		return fmt.Errorf("the swing has no name; its dials are called by it")
	}
	for _, dial := range swingDials(name, reach, centre, unit) {
		if on.ChannelIndex(dial.Name) >= 0 {
			return fmt.Errorf("%s has a dial %s already; give the swing another name", on.Name, dial.Name)
		}
		on.Dials = append(slices.Clone(on.Dials), dial)
	}
	write.Drives, write.Like = targets, ""
	write.Text = fmt.Sprintf(swinging, formula.Quoted(on.Name)+"."+name)
	if formula.Quoted(name) != name {
		return fmt.Errorf("the dials of the swing cannot be called %q; a name has letters, digits and _", name)
	}
	return write.Apply(c, d)
}

func swingDials(name string, reach, centre float64, unit string) []rig.Dial {
	dial := func(what string, low, high, rest float64, unit string) rig.Dial {
		return rig.Dial{Name: rig.Channel(name + "_" + what), Min: low, Max: high, Default: rest, Unit: unit}
	}
	return []rig.Dial{
		dial("strength", 0, 1, 1, ""), dial("amplitude", 0, 4*reach, reach, unit), dial("centre", -4*reach, 4*reach, centre, unit),
		dial("rate", -10, 10, 1, "/s"), dial("phase", -10, 10, 0, ""), dial("spread", -10, 10, 0, ""), dial("alternate", -1, 1, 0.5, ""),
	}
}

// Shares of what a number can go through by which it swings at first: of half a turn, of the specimen's size, and of its range.
const (
	swingTurn  = 1.0 / 9
	swingMove  = 1.0 / 20
	swingRange = 1.0 / 2
)

// reachOf tells by how much numbers swing at first, about what beside where they are, in their unit as people see it.
func reachOf(d *rig.Document, layout *mechanism.Layout, size float64, targets []rig.Address) (reach, centre float64, unit string, err error) {
	for i, a := range targets {
		slot, there := layout.Find(a)
		if !there {
			return 0, 0, "", fmt.Errorf("there is no %s that could swing; it may have been removed meanwhile", d.NameOfValue(a))
		}
		r, c, u := reachOfValue(d, size, layout.Values[slot])
		switch {
		case i == 0:
			reach, centre, unit = r, c, u
		case u != unit:
			return 0, 0, "", fmt.Errorf("%s is told in %q and %s in %q, and one dial cannot reach for both; have them swing apart", d.NameOfValue(targets[0]), unit, d.NameOfValue(a), u)
		}
		reach = math.Min(reach, r)
	}
	return reach, centre, unit, nil
}

func reachOfValue(d *rig.Document, size float64, v mechanism.Value) (reach, centre float64, unit string) {
	channel := rig.Channel(v.Address.Key).Index()
	switch control := d.Control(v.Address.Of); {
	case v.Turns:
		return 180 * swingTurn, 0, "°"
	case control != nil && channel >= 0:
		return swingMove * size, 0, "m"
	case d.Part(v.Address.Of) != nil:
		return swingRange, swingRange, ""
	case v.State.Min != nil && v.State.Max != nil:
		low, high := *v.State.Min, *v.State.Max
		return swingRange * (high - low), (low+high)/2 - v.Rest, v.Unit
	}
	return 1, 0, v.Unit
}
