package edit

import (
	"strings"

	"myriapod/core/driver"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// steadily makes a change that may change rates, such that what turns by them stands as it stood at a moment: a time of a clip, in seconds. What the turns begin
// with makes up for it.
func steadily(c *Context, d *rig.Document, clip string, seconds float64, change func() error) error {
	if !turns(d) {
		return change()
	}
	before, err := turnedBy(c, d, clip, seconds)
	if err != nil {
		return err
	}
	if err := change(); err != nil {
		return err
	}
	after, err := turnedBy(c, d, clip, seconds)
	if err != nil {
		return err
	}
	for i := range d.Drivers {
		if err := steady(&d.Drivers[i], before, after); err != nil {
			return err
		}
	}
	return nil
}

// turns tells whether anything turns by a rate.
func turns(d *rig.Document) bool {
	for _, x := range d.Drivers {
		if x.Kind == driver.FormulaKind && strings.Contains(x.Parameters[driver.FormulaText].Choice, "turns") {
			return true
		}
	}
	return false
}

// turnedBy returns how far all turns have come by a moment.
func turnedBy(c *Context, d *rig.Document, clip string, seconds float64) (map[mechanism.Turn]float64, error) {
	planned, err := plan.Build(d, c.Kinds, c.surfaces())
	if err != nil {
		return nil, err
	}
	e := evaluate.New(planned)
	if along := d.Clip(clip); along != nil {
		e.SetClip(motion.Prepare(*along))
	}
	return e.Turned(seconds), nil
}

// steady has a driver's turns begin with so much more as they have lost.
func steady(x *rig.Driver, before, after map[mechanism.Turn]float64) error {
	changed, count := false, 0
	for turn := range after {
		if turn.Driver == x.ID {
			count = max(count, turn.Place+1)
		}
	}
	phases, err := driver.PhasesOf(x.Parameters, count)
	if err != nil {
		return err
	}
	for place := range phases {
		turn := mechanism.Turn{Driver: x.ID, Place: place}
		if lost := before[turn] - after[turn]; lost != 0 {
			phases[place] += lost
			changed = true
		}
	}
	if changed {
		x.Parameters = x.Parameters.Clone()
		for key, value := range driver.Begin(phases) {
			x.Parameters[key] = value
		}
	}
	return nil
}
