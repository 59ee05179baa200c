package evaluate_test

import (
	"context"
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

// TestACourseIsWhatPlayingShows compares a course with frames that are looked at one by one, of numbers with memory, with time alone, held and free.
func TestACourseIsWhatPlayingShows(t *testing.T) {
	d, to, other := rewritten(t)
	held, most := d.Controls[1].Of(rig.MoveY), 0.5
	d = change(t, d,
		&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{held}, Text: "wave(time / 3)"},
		&edit.ChangeChannels{Controls: []string{held.Of}, Changes: []edit.ChannelChange{{Channel: rig.MoveY, Max: &most}}},
	)
	d = change(t, d, &edit.ChangeClip{Clip: d.Clips[0].ID, End: 240, Loop: true})
	for _, a := range []rig.Address{to, other, held} {
		course, err := evaluate.CourseOf(context.Background(), open(t, d), a, d.Clip(d.Clips[0].ID))
		require.NoError(t, err)
		require.Len(t, course.Made, 241)
		e, least, most := playing(t, d), math.Inf(1), math.Inf(-1)
		slot, _ := e.Plan.Layout.Find(a)
		for i := range course.Made {
			want := at(t, e, float64(i), a)
			require.Equal(t, want, course.Made[i], "%v at %d", a, i)
			require.Equal(t, e.Frame.Inputs[slot], course.Below[i])
			least, most = min(least, want), max(most, want)
		}
		assert.Equal(t, []float64{least, most}, []float64{course.Least, course.Most})
		assert.Equal(t, math.Abs(course.Made[240]-course.Made[0]), course.Seam)
		assert.Equal(t, a == held, course.Stopped > 0)
	}
	bare, err := evaluate.CourseOf(context.Background(), open(t, d), held, nil)
	require.NoError(t, err)
	assert.Equal(t, 0.5, bare.Most)
	_, err = evaluate.CourseOf(context.Background(), open(t, d), rig.Address{Of: "nobody", Key: "x"}, nil)
	require.ErrorContains(t, err, "to plot")
	ended, end := context.WithCancel(context.Background())
	end()
	_, err = evaluate.CourseOf(ended, open(t, d), held, nil)
	require.ErrorIs(t, err, context.Canceled)
}
