package evaluate_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// change applies edits.
func change(t require.TestingT, d *rig.Document, edits ...edit.Edit) *rig.Document {
	for _, e := range edits {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	return d
}

// value reads a number of the present frame.
func value(t require.TestingT, e *evaluate.Evaluator, a rig.Address) float64 {
	slot, ok := e.Plan.Layout.Find(a)
	require.True(t, ok, a)
	return e.Frame.Values[slot]
}

func set(t require.TestingT, e *evaluate.Evaluator, a rig.Address, v float64) {
	slot, ok := e.Plan.Layout.Find(a)
	require.True(t, ok, a)
	require.NoError(t, e.Set(slot, v))
}

func number(n float64) parameter.Value { return parameter.OfNumber(n) }

// Drivers of one number work one on top of the other, each as much as its influence says, on an input that they leave as it is: as a sum worked
// out by hand.
func TestDriversWorkOneOnTopOfTheOther(t *testing.T) {
	base := creature(t)
	from, to := base.Controls[2].Of(rig.MoveX), base.Controls[3].Of(rig.RotateY)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) float64 { return rapid.Float64Range(-2, 2).Draw(t, name) }
		d := base
		type layer struct{ times, plus, share float64 }
		layers := make([]layer, rapid.IntRange(1, 4).Draw(t, "layers"))
		for i := range layers {
			layers[i] = layer{draw("times"), draw("plus"), rapid.Float64Range(0, 1).Draw(t, "share")}
			d = change(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: to, By: []rig.Address{from}, Parameters: parameter.Set{
				driver.Times: number(layers[i].times), driver.Plus: number(layers[i].plus), "influence": number(layers[i].share),
			}})
		}
		off := rapid.IntRange(-1, len(layers)-1).Draw(t, "off")
		if off >= 0 {
			no := false
			d = change(t, d, &edit.ChangeDriver{ID: d.Drivers[off].ID, On: &no})
		}
		e := open(t, d)
		input, source := draw("input"), draw("source")
		set(t, e, to, input)
		set(t, e, from, source)
		e.Evaluate()
		want := input
		for i, l := range layers {
			if i != off { // metres as degrees, in radians
				want += l.share * ((source*l.times*math.Pi/180 + l.plus) - want)
			}
		}
		require.InDelta(t, want, value(t, e, to), 1e-12)
		slot, _ := e.Plan.Layout.Find(to)
		require.Equal(t, input, e.Frame.Inputs[slot], "the input stays")
		fresh := open(t, d)
		set(t, fresh, from, source)
		set(t, fresh, to, input)
		fresh.Evaluate()
		require.Equal(t, fresh.Frame.Joints, e.Frame.Joints)
	})
}

// A limit, a lock, and a number that is none hold after the drivers, and say so in that frame.
func TestADriverIsHeldBackAndTold(t *testing.T) {
	d := creature(t)
	from, to := d.Controls[2].Of(rig.MoveX), d.Controls[3].Of(rig.MoveY)
	low, high := -0.5, 0.25
	d = change(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: to, By: []rig.Address{from}})
	d.Controls[3].Channels = map[rig.Channel]rig.ChannelState{rig.MoveY: {Min: &low, Max: &high}}
	e := open(t, d)
	for asked, want := range map[float64]float64{0.1: 0.1, 3: 0.25, -3: -0.5} {
		set(t, e, from, asked)
		e.Evaluate()
		assert.Equal(t, want, value(t, e, to))
		assert.Equal(t, asked != want, len(e.Findings()) == 1, asked)
	}
	d.Controls[3].Channels[rig.MoveY] = rig.ChannelState{Locked: true}
	e = open(t, d)
	set(t, e, from, 1)
	e.Evaluate()
	assert.Zero(t, value(t, e, to))
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, d.Controls[3].Name+".moveY asks for more")
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: to, By: []rig.Address{from}})
	assert.ErrorContains(t, err, "is locked, and a driver could not move it; unlock it first")
}

// A change of one number runs what reads that number, and not what reads its neighbours.
func TestTasksReadSingleValues(t *testing.T) {
	d := creature(t)
	spine := d.Mechanisms[0].ID
	root := d.ControlNamed(rig.RootName)
	d = change(t, d, &edit.AddDial{Controls: []string{root.ID}, Dial: rig.Dial{Name: "grip", Max: 1}}, &edit.DriveParameter{Mechanism: spine, Key: "stretch", Control: root.ID, Dial: "grip"})
	e := open(t, d)
	ran := map[string]int{}
	for i, task := range e.Plan.Tasks {
		run := task.Run
		e.Plan.Tasks[i].Run = func(f *mechanism.Frame) {
			ran[d.NameOf(task.Subject)]++
			run(f)
		}
	}
	set(t, e, root.Of("grip"), 0.5)
	e.Evaluate()
	assert.Equal(t, map[string]int{"spine": 2, "leg_1": 1, "leg_2": 1}, ran, "the value and the joints, and neither the curve nor what hangs on the root")
}

// Loops are refused with every member named, but for one that goes through something with memory.
func TestLoopsAreRefusedButThroughMemory(t *testing.T) {
	d := creature(t)
	a, b, c := d.Controls[2].Of(rig.MoveX), d.Controls[3].Of(rig.MoveX), d.Controls[4].Of(rig.MoveX)
	link := func(to, from rig.Address) edit.Edit {
		return &edit.AddDriver{Driver: rig.LinkKind, Drives: to, By: []rig.Address{from}}
	}
	d = change(t, d, link(a, b), link(b, c))
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, link(c, a))
	for _, i := range []int{2, 3, 4} {
		require.ErrorContains(t, err, d.Controls[i].Name+".moveX")
	}
	require.ErrorContains(t, err, "in a loop")
	d = change(t, d, &edit.AddDriver{Driver: driver.LagKind, Drives: b, Parameters: parameter.Set{driver.Seconds: number(0.5)}}, link(c, a))
	p, err := plan.Build(d, kinds.All(), nil)
	require.NoError(t, err)
	require.Len(t, p.Lates, 1, "and marked")
}

// lagged is a creature of which a control is keyed to jump, and lags behind.
func lagged(t require.TestingT, seconds float64) (*rig.Document, rig.Address) {
	d := creature(t)
	to := d.Controls[3].Of(rig.MoveX)
	d = change(t, d, &edit.AddDriver{Driver: driver.LagKind, Drives: to, Parameters: parameter.Set{driver.Seconds: number(seconds)}}, &edit.AddClip{Name: "jump", Start: 0, End: 240})
	keys := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, v := range map[float64]float64{0: 0, 24: 0, 24.2: 1, 120: 1, 160: -0.5, 230: 0.3} {
		keys.Keys = append(keys.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: to.Of, Channel: rig.MoveX, Frame: frame}, Value: v, Ease: rig.Linear})
	}
	return change(t, d, keys), to
}

func playing(t require.TestingT, d *rig.Document) *evaluate.Evaluator {
	e := open(t, d)
	e.SetClip(motion.Prepare(d.Clips[0]))
	return e
}

func at(t require.TestingT, e *evaluate.Evaluator, frame float64, a rig.Address) float64 {
	e.SetFrame(frame)
	e.Evaluate()
	return value(t, e, a)
}

// A lag has gone 63 % of a step after its seconds, as the formula of the first-order system says at all times.
func TestALagGoesItsWayInItsSeconds(t *testing.T) {
	d, to := lagged(t, 0.5)
	e := playing(t, d)
	begin := 24.1 / 24 // the middle of the jump
	for _, frame := range []float64{30, 36, 48, 100} {
		assert.InDelta(t, 1-math.Exp(-(frame/24-begin)/0.5), at(t, e, frame, to), 2e-4, frame)
	}
	assert.InDelta(t, 1-math.Exp(-1), at(t, e, 24.1+12, to), 2e-4, "63 % after its seconds")
	quick, _ := lagged(t, 0)
	e = playing(t, quick)
	assert.InDelta(t, 1.0, at(t, e, 60, to), 1e-12, "without seconds there is no lag")
}

// A frame is the same, to the bit, alone, in a run, backwards, on another evaluator of the same plan, and after an edit of a later key.
func TestSteppersHangOnTheClipAlone(t *testing.T) {
	d, to := lagged(t, 0.7)
	alone := playing(t, d)
	want := at(t, alone, 200, to)
	run := playing(t, d)
	for frame := range 201 {
		at(t, run, float64(frame), to)
	}
	assert.Equal(t, want, value(t, run, to), "in a run")
	assert.Equal(t, at(t, run, 33.37, to), at(t, playing(t, d), 33.37, to), "backwards")
	for frame := 239; frame >= 200; frame-- {
		at(t, run, float64(frame), to)
	}
	assert.Equal(t, want, value(t, run, to))
	other := evaluate.New(run.Plan)
	other.SetClip(motion.Prepare(d.Clips[0]))
	at(t, other, 17, to)
	at(t, run, 150, to)
	assert.Equal(t, want, at(t, other, 200, to), "two on one plan")
	assert.Equal(t, alone.Frame.Joints, other.Frame.Joints)

	later := change(t, d, &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: to.Of, Channel: rig.MoveX, Frame: 230}, Value: 9, Ease: rig.Linear}}})
	edited := playing(t, later)
	edited.Inherit(run)
	bytes, _ := edited.Remembered()
	assert.Positive(t, bytes, "what comes before the edit is kept")
	assert.Equal(t, at(t, playing(t, later), 235, to), at(t, edited, 235, to))
	assert.Equal(t, at(t, playing(t, later), 120, to), at(t, edited, 120, to))
	earlier := change(t, d, &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: to.Of, Channel: rig.MoveX, Frame: 24.2}, Value: 2, Ease: rig.Linear}}})
	edited = playing(t, earlier)
	edited.Inherit(run)
	assert.Equal(t, at(t, playing(t, earlier), 200, to), at(t, edited, 200, to))
	assert.NotEqual(t, want, value(t, edited, to))
}

// The rate of the film makes no difference to what happens at a time.
func TestFrameRatesAgree(t *testing.T) {
	base, to := lagged(t, 0.4)
	var want []float64
	for _, fps := range []float64{24, 23.976, 25, 30, 60} {
		d := base.Clone()
		d.FPS = fps
		clip := &d.Clips[0]
		clip.End = int(math.Ceil(10 * fps))
		clip.Tracks[0].Keys = append([]rig.Key{}, clip.Tracks[0].Keys...)
		for i := range clip.Tracks[0].Keys {
			clip.Tracks[0].Keys[i].Frame *= fps / 24
		}
		e := playing(t, d)
		for i, seconds := range []float64{0.5, 1.01, 1.37, 3, 6.3, 9.1} {
			e.SetTime(seconds)
			e.Evaluate()
			if fps == 24 {
				want = append(want, value(t, e, to))
			}
			assert.InDelta(t, want[i], value(t, e, to), 1e-9, "%g frames a second at %g s", fps, seconds)
		}
	}
}

// A pre-roll lets what has memory settle before the first frame; a loop through memory goes on a step late, and to the same bits.
func TestPreRollAndLoopsThroughMemory(t *testing.T) {
	d, to := lagged(t, 0.5)
	other := d.Controls[4].Of(rig.MoveX)
	d = change(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: other, By: []rig.Address{to}, Parameters: parameter.Set{driver.Times: number(-0.6), driver.Plus: number(0.4)}},
		&edit.AddDriver{Driver: rig.LinkKind, Drives: to, By: []rig.Address{other}, Parameters: parameter.Set{"influence": number(0.5)}})
	d.Drivers[0], d.Drivers[2] = d.Drivers[2], d.Drivers[0] // the lag on top
	e := playing(t, d)
	require.Len(t, e.Plan.Lates, 1)
	want := at(t, e, 200, to)
	for frame := range 240 {
		at(t, e, float64(frame), to)
	}
	assert.Equal(t, want, at(t, e, 200, to))
	begin := at(t, e, 0, to)
	seconds := 20.0
	rolled := change(t, d, &edit.ChangeClip{Clip: d.Clips[0].ID, End: 240, PreRoll: &seconds})
	settled := at(t, playing(t, rolled), 0, to)
	assert.NotEqual(t, begin, settled)
	assert.InDelta(t, 0.5*(-0.6*settled+0.4), settled, 1e-6, "it has come to rest on the loop's own balance")
}

// A hand goes on from where the clip stands, in its own time; released, the clip has it again.
func TestAHandGoesOnInItsOwnTime(t *testing.T) {
	d, to := lagged(t, 0.5)
	e := playing(t, d)
	stood := at(t, e, 100, to)
	slot, _ := e.Plan.Layout.Find(to)
	held := []evaluate.Held{{Slot: slot, Value: 3}}
	look := func(seconds float64) float64 {
		e.PoseAt(100.0/24, held)
		e.Hand(held, seconds)
		e.Evaluate()
		return value(t, e, to)
	}
	assert.Equal(t, stood, look(0), "it takes hold without a jump")
	for range 20 {
		look(0.025)
	}
	assert.InDelta(t, stood+(3-stood)*(1-math.Exp(-1)), value(t, e, to), 0.02, "63 % after half a second of the hand")
	assert.True(t, e.Restless())
	for range 60 {
		look(0.4)
	}
	assert.False(t, e.Restless())
	assert.InDelta(t, 3, value(t, e, to), 1e-6)
	e.Release()
	e.PoseAt(100.0/24, nil)
	e.Evaluate()
	assert.Equal(t, stood, value(t, e, to))
}

// Nothing is allocated from frame to frame, with drivers and memory as well.
func TestDriversAllocateNothing(t *testing.T) {
	d, to := lagged(t, 0.5)
	d = change(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: d.Controls[2].Of(rig.RotateX), By: []rig.Address{to}})
	e := playing(t, d)
	at(t, e, 239, to)
	frame := 0.0
	assert.Zero(t, testing.AllocsPerRun(50, func() {
		frame += 1.3
		e.SetFrame(frame)
		e.Evaluate()
	}))
}

// Measures read what stands there, as worked out from the frame.
func TestMeasuresReadTheFrame(t *testing.T) {
	d := creature(t)
	joint, control := d.Joints[5], d.Controls[3]
	d = change(t, d,
		&edit.AddMeasure{Measure: "distance", Name: "reach", Of: []string{joint.ID, control.ID}},
		&edit.AddMeasure{Measure: "height", Name: "rise", Of: []string{joint.ID}},
		&edit.AddMeasure{Measure: "angle", Name: "bend", Of: []string{d.Joints[9].ID}, Axis: mgl64.Vec3{0, 2, 0}},
	)
	e := open(t, d)
	rapid.Check(t, func(t *rapid.T) {
		for i := range d.Controls {
			for _, channel := range rig.Channels {
				require.NoError(t, e.SetChannel(i, channel, rapid.Float64Range(-1, 1).Draw(t, "channel")))
			}
		}
		e.Evaluate()
		read := func(i int) float64 { return value(t, e, rig.Address{Of: d.Measures[i].ID, Key: rig.MeasureKey}) }
		p, q := e.Frame.Joints[5].Position, e.Frame.Controls[3].Position
		require.InDelta(t, p.Sub(q).Len(), read(0), 1e-12)
		global := e.Frame.Controls[0]
		require.InDelta(t, global.Inverse().Apply(p)[1], read(1), 1e-12)
		require.InDelta(t, 0, read(2), 1e-9, "what goes along with its parent is not turned against it")
	})
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddMeasure{Measure: "angle", Name: "x", Of: []string{joint.ID}})
	require.ErrorContains(t, err, "an angle is about an axis")
	_, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.DeleteControls{Controls: []string{control.ID}})
	require.Error(t, err)
}

// The way and the speed of a control are those of its keys, at any time and from any side.
func TestWayAndSpeedAlongTheClip(t *testing.T) {
	d := creature(t)
	root := d.ControlNamed(rig.RootName)
	d = change(t, d, &edit.AddMeasure{Measure: "way", Name: "gone", Of: []string{root.ID}}, &edit.AddMeasure{Measure: "speed", Name: "pace", Of: []string{root.ID}}, &edit.AddClip{Name: "go", End: 48})
	d = change(t, d, &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{
		{KeyPlace: edit.KeyPlace{Control: root.ID, Channel: rig.MoveZ, Frame: 0}, Value: 0, Ease: rig.Linear}, {KeyPlace: edit.KeyPlace{Control: root.ID, Channel: rig.MoveZ, Frame: 48}, Value: 6, Ease: rig.Linear},
	}})
	e := playing(t, d)
	gone, pace := rig.Address{Of: d.Measures[0].ID, Key: rig.MeasureKey}, rig.Address{Of: d.Measures[1].ID, Key: rig.MeasureKey}
	for _, frame := range []float64{30, 12.25, 0, 48} {
		assert.InDelta(t, frame/8, at(t, e, frame, gone), 1e-9)
		assert.InDelta(t, 3, value(t, e, pace), 1e-9)
	}
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddDriver{Driver: driver.LagKind, Drives: root.Of(rig.MoveZ)})
	assert.ErrorContains(t, err, "root is looked at ahead of its time, and root is driven by something with memory")
}

// A state brings any evaluator of the same plan back to the same frame, to the bit, wherever it was meanwhile, with a hand at work as well. A state of
// another plan is refused in words, and changes nothing.
func TestAStateIsRestored(t *testing.T) {
	d, to := lagged(t, 0.5)
	d = change(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: d.Controls[2].Of(rig.RotateX), By: []rig.Address{to}})
	clip := motion.Prepare(d.Clips[0])
	e := open(t, d)
	others := []*evaluate.Evaluator{evaluate.New(e.Plan), e}
	rapid.Check(t, func(t *rapid.T) {
		wander := func(e *evaluate.Evaluator) {
			e.Release()
			if e.SetClip(nil); rapid.Bool().Draw(t, "clip") {
				e.SetClip(clip)
			}
			e.SetStill(rapid.IntRange(0, 4).Draw(t, "still") == 0)
			var held []evaluate.Held
			for range rapid.IntRange(0, 6).Draw(t, "held") {
				slot := e.Slot(rapid.IntRange(1, len(d.Controls)-1).Draw(t, "control"), rapid.SampledFrom(rig.Channels[:]).Draw(t, "channel"))
				held = append(held, evaluate.Held{Slot: slot, Value: rapid.Float64Range(-1, 1).Draw(t, "value")})
			}
			for range rapid.IntRange(1, 4).Draw(t, "looks") {
				e.PoseAt(rapid.Float64Range(-1, 11).Draw(t, "seconds"), held)
				if rapid.Bool().Draw(t, "hand") {
					e.Hand(held, rapid.Float64Range(0, 0.3).Draw(t, "passed"))
				}
				e.Evaluate()
			}
		}
		rest := rapid.SampledFrom([]float64{0, 0.003, 0.1}).Draw(t, "rest")
		goOn := func(e *evaluate.Evaluator) {
			e.Hand(nil, 0.002) // less than a step
			e.Evaluate()
			e.Hand(nil, rest)
			e.Evaluate()
		}
		wander(e)
		state := e.Snapshot()
		want, memory, findings := append([]geometry.Transform{}, e.Frame.Joints...), append([]float64{}, e.Frame.Memory...), e.Findings()
		goOn(e)
		later := append([]geometry.Transform{}, e.Frame.Joints...)
		for _, other := range others {
			wander(other)
			require.NoError(t, other.Restore(state))
			other.Evaluate()
			require.Equal(t, want, other.Frame.Joints)
			require.Equal(t, memory, other.Frame.Memory)
			require.Equal(t, findings, other.Findings())
			goOn(other)
			require.Equal(t, later, other.Frame.Joints, "and goes on from there")
		}
	})
	edited := open(t, change(t, d, &edit.Rename{ID: to.Of, Name: "other"}))
	before := append([]float64{}, edited.Frame.Inputs...)
	require.ErrorContains(t, edited.Restore(e.Snapshot()), "this state was taken of "+d.Name+" before or after an edit")
	assert.Equal(t, before, edited.Frame.Inputs)
}

// What is held all along moves what has memory as well: with a clip as if it were keyed so, and without one as if it had stood so for ever.
func TestWhatIsHeldIsRemembered(t *testing.T) {
	d, to := lagged(t, 0.5)
	e := playing(t, d)
	slot, _ := e.Plan.Layout.Find(to)
	held := []evaluate.Held{{Slot: slot, Value: 2}}
	e.Hold(held)
	e.PoseAt(3, held)
	e.Evaluate()
	assert.InDelta(t, 2, value(t, e, to), 1e-12)
	e.Hold(nil)
	assert.NotEqual(t, 2.0, at(t, e, 72, to))
	still := open(t, d)
	set(t, still, to, 0.7)
	still.Evaluate()
	assert.Equal(t, 0.7, value(t, still, to))
}

// A document of version 1 whose dial drove a parameter means the same; one whose dial or control is gone says so, and is mended by taking the driver off.
func TestAnOldDocumentWithADialThatIsGone(t *testing.T) {
	d := creature(t)
	root, spine := d.ControlNamed(rig.RootName), d.Mechanisms[0].ID
	d = change(t, d, &edit.AddDial{Controls: []string{root.ID}, Dial: rig.Dial{Name: "grip", Max: 1}})
	old := func(dial rig.Channel) *rig.Document {
		was := d.Clone()
		was.Version = 1
		was.Mechanisms[0].Dials = map[string]rig.DialRef{"stretch": {Control: root.ID, Dial: dial}}
		was.Modernise()
		return was
	}
	e := open(t, old("grip"))
	set(t, e, root.Of("grip"), 0.4)
	e.Evaluate()
	assert.Equal(t, 0.4, value(t, e, rig.Address{Of: spine, Key: "stretch"}))
	gone := old("grasp")
	_, _, err := evaluate.Open(gone, kinds.All(), edit.Memory{})
	require.ErrorContains(t, err, "spine.stretch: there is no root.grasp for it to read; choose something else, or take the driver off")
	mended := change(t, gone, &edit.RemoveDriver{ID: gone.Drivers[0].ID})
	assert.Empty(t, mended.Drivers)
	open(t, mended)
	_, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddDriver{Driver: driver.LagKind, Drives: root.Of("grasp")})
	require.ErrorContains(t, err, "there is no root.grasp that could be driven here")
}
