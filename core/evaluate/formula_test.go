package evaluate_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// rewritten is the lagged creature with formulas in the place of its lag, and one more that reads time, noise and a number.
func rewritten(t require.TestingT) (*rig.Document, rig.Address, rig.Address) {
	d, to := lagged(t, 0.7)
	other := d.Controls[2].Of(rig.RotateX)
	name := d.NameOfValue(to)
	return change(t, d,
		&edit.RemoveDriver{ID: d.Drivers[len(d.Drivers)-1].ID},
		&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{to}, Text: "lag(below, 0.7)"},
		&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{other}, Text: "30 * wave(time / 2) + 5 * noise(3 * time, index) * " + name + " + 10 * lag(time > 2 ? 1 : 0, 0.3)"},
	), to, other
}

// TestAFormulaRemembersAsALagDoes follows a clip by a formula and by the kind that does the same.
func TestAFormulaRemembersAsALagDoes(t *testing.T) {
	byKind, _ := lagged(t, 0.7)
	byFormula, to, _ := rewritten(t)
	a, b := playing(t, byKind), playing(t, byFormula)
	for frame := 0.0; frame < 240; frame += 7.3 {
		assert.Equal(t, at(t, a, frame, to), at(t, b, frame, to), "frame %g", frame)
	}
}

func TestFormulasHangOnTheClipAlone(t *testing.T) {
	d, _, other := rewritten(t)
	want := at(t, playing(t, d), 200, other)
	run := playing(t, d)
	for frame := range 220 {
		at(t, run, float64(frame), other)
	}
	assert.Equal(t, want, at(t, run, 200, other), "backwards")
	second := evaluate.New(run.Plan)
	second.SetClip(motion.Prepare(d.Clips[0]))
	at(t, run, 31, other)
	assert.Equal(t, want, at(t, second, 200, other), "two on one plan")

	// By another way of reckoning: the swing and the wander go on evenly, however finely they are looked at.
	for frame := 60.0; frame < 100; frame += 0.125 {
		assert.Less(t, math.Abs(at(t, run, frame+0.125, other)-at(t, run, frame, other)), 0.06, "frame %g", frame)
	}
}

func TestFormulasAreSwitchedWithoutATrace(t *testing.T) {
	d, to, other := rewritten(t)
	bare := change(t, d)
	bare.Drivers = nil
	off := d
	no := false
	for _, x := range d.Drivers {
		off = change(t, off, &edit.ChangeDriver{ID: x.ID, On: &no})
	}
	a, b := playing(t, off), playing(t, bare)
	for frame := 0.0; frame < 240; frame += 11 {
		assert.Equal(t, at(t, b, frame, to), at(t, a, frame, to))
		assert.Equal(t, at(t, b, frame, other), at(t, a, frame, other))
	}
}

func TestFormulasAllocateNothing(t *testing.T) {
	d, _, _ := rewritten(t)
	e := playing(t, d)
	e.SetFrame(239)
	e.Evaluate()
	frame := 0.0
	assert.Zero(t, testing.AllocsPerRun(50, func() {
		frame += 1.3
		e.SetFrame(frame)
		e.Evaluate()
	}))
}
