package evaluate_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// turning is a creature one number of which is what a formula says, with dials called rate and reach on its first control.
func turning(t require.TestingT, text string) (d *rig.Document, rate, to rig.Address) {
	d = creature(t)
	rate, to = d.Controls[1].Of("rate"), d.Controls[3].Of(rig.MoveX)
	return change(t, d,
		&edit.AddDial{Controls: []string{rate.Of}, Dial: rig.Dial{Name: "rate", Min: -10, Max: 10, Default: 1}},
		&edit.AddClip{Name: "along", Start: 10, End: 250},
		&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{to}, Text: fmt.Sprintf(text, d.Controls[1].Name)},
	), rate, to
}

func keyed(rate rig.Address, d *rig.Document, keys ...rig.Key) *edit.SetKeys {
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for _, k := range keys {
		set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: rate.Of, Channel: "rate", Frame: k.Frame}, Value: k.Value, Ease: k.Ease})
	}
	return set
}

func drawKeys(t *rapid.T) (keys []rig.Key) {
	frames := rapid.SliceOfNDistinct(rapid.IntRange(-20, 270), 1, 9, rapid.ID[int]).Draw(t, "frames")
	slices.Sort(frames)
	for _, frame := range frames {
		keys = append(keys, rig.Key{
			Frame: float64(frame) + rapid.Float64Range(0, 0.9).Draw(t, "off"), Value: rapid.Float64Range(-9, 9).Draw(t, "value"),
			Ease: rapid.SampledFrom([]rig.Ease{rig.Linear, rig.Smooth, rig.Stepped}).Draw(t, "ease"),
		})
	}
	return keys
}

// area takes a rate together by the two-point rule of Gauss, which is exact for cubics, in so many parts of each stretch between keys.
func area(e *evaluate.Evaluator, keys []rig.Key, from, to, fps float64, parts int, rate func() float64) (sum float64) {
	sign := 1.0
	if to < from {
		from, to, sign = to, from, -1
	}
	cuts := []float64{from, to}
	for _, k := range keys {
		if k.Frame > from && k.Frame < to {
			cuts = append(cuts, k.Frame)
		}
	}
	slices.Sort(cuts)
	for i := 1; i < len(cuts); i++ {
		for p := range parts {
			a, b := cuts[i-1]+(cuts[i]-cuts[i-1])*float64(p)/float64(parts), cuts[i-1]+(cuts[i]-cuts[i-1])*float64(p+1)/float64(parts)
			for _, x := range []float64{-1 / math.Sqrt(3), 1 / math.Sqrt(3)} {
				e.SetFrame((a+b)/2 + x*(b-a)/2)
				e.Evaluate()
				sum += sign * (b - a) / 2 / fps * rate()
			}
		}
	}
	return sum
}

// TestTurnsAreTheAreaUnderTheRate takes keyed rates together by another rule, as the frames show them.
func TestTurnsAreTheAreaUnderTheRate(t *testing.T) {
	for text, more := range map[string]struct {
		of    func(rate, seconds float64) float64
		parts int
	}{
		"turns(%s.rate)":                                  {func(r, _ float64) float64 { return r }, 1},
		"turns(%s.rate * 3 - 1)":                          {func(r, _ float64) float64 { return 3*r - 1 }, 1},
		"turns(2 + wave(time / 2) - (%s.rate - 1)^2 / 4)": {func(r, s float64) float64 { return 2 + math.Sin(math.Pi*s) - (r-1)*(r-1)/4 }, 60},
	} {
		bare, rate, to := turning(t, text)
		rapid.Check(t, func(t *rapid.T) {
			keys, roll := drawKeys(t), 1.0
			d := change(t, bare, keyed(rate, bare, keys...), &edit.ChangeClip{Clip: bare.Clips[0].ID, Start: 10, End: 250, PreRoll: &roll})
			d.Drivers[0].Parameters = d.Drivers[0].Parameters.Clone()
			delete(d.Drivers[0].Parameters, driver.Phases) // what kept the first key from moving anything
			e, ruler := playing(t, d), playing(t, d)
			tries := 8
			if more.parts > 1 {
				tries = 1
			}
			for range tries {
				frame := rapid.Float64Range(-13, 250).Draw(t, "frame")
				want := area(ruler, keys, 10, frame, d.FPS, more.parts, func() float64 { return more.of(value(t, ruler, rate), ruler.Frame.Time) })
				bound := 1e-9
				if more.parts > 1 {
					bound = 1e-5 // of the rule that it is compared with
				}
				assert.InDelta(t, want, at(t, e, frame, to), bound, "%s at %g", text, frame)
			}
			assert.InDelta(t, 0, at(t, e, 10, to), 1e-12)
		})
	}
}

// TestAChangedRateMovesNothingThen changes the rate in several ways in the middle of a clip: what turns by it stands as it stood at that moment.
func TestAChangedRateMovesNothingThen(t *testing.T) {
	bare, rate, to := turning(t, "turns(%[1]s.rate) + 2 * turns(%[1]s.rate * 3)")
	rapid.Check(t, func(t *rapid.T) {
		frame := rapid.Float64Range(10, 250).Draw(t, "frame")
		d := bare
		for range 3 {
			before := at(t, playing(t, d), frame, to)
			dial := *d.Control(rate.Of).Dial("rate")
			dial.Default = rapid.Float64Range(-9, 9).Draw(t, "rate")
			d = change(t, d, &edit.ChangeDial{Control: rate.Of, Name: "rate", Dial: dial, Time: frame / d.FPS, Clip: d.Clips[0].ID})
			assert.InDelta(t, before, at(t, playing(t, d), frame, to), 1e-9)
		}
		before := at(t, playing(t, d), frame, to)
		d = change(t, d, keyed(rate, d, rig.Key{Frame: frame, Value: 5, Ease: rig.Smooth}))
		assert.InDelta(t, before, at(t, playing(t, d), frame, to), 1e-9, "its first key")
		later := rapid.Float64Range(frame, 250).Draw(t, "later")
		before = at(t, playing(t, d), frame, to)
		d = change(t, d, keyed(rate, d, rig.Key{Frame: later + 1, Value: -3, Ease: rig.Smooth}))
		assert.InDelta(t, before, at(t, playing(t, d), frame, to), 1e-9, "a later key changes what comes after")

		e := playing(t, d)
		before = at(t, e, frame, to)
		set(t, e, rate, 9)
		e.Evaluate()
		assert.Equal(t, before, value(t, e, to), "a hand on the rate, while time stands")
	})
}

func TestRatesThatCannotBeKnownAhead(t *testing.T) {
	d, rate, to := turning(t, "turns(%s.rate)")
	other := d.Controls[2].Of(rig.MoveX)
	name := func(a rig.Address) string { return d.NameOfValue(a) }
	write := func(drives rig.Address, text string) *edit.WriteDriver {
		return &edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{drives}, Text: text}
	}
	rigtest.Refuse(t, d, write(other, "turns("+name(to)+")"), "turns by a rate that is not known before the clip has gone by")
	rigtest.Refuse(t, d, write(rate, name(to)), "wait for each other in a loop")
	remembering := change(t, d, &edit.RemoveDriver{ID: d.Drivers[0].ID}, write(rate, "lag(time, 1)"))
	rigtest.Refuse(t, remembering, write(other, "turns("+name(rate)+")"), "is not known before")
	rigtest.Refuse(t, d, write(other, "turns(below)"), "turn by a dial")
	rigtest.Refuse(t, d, write(other, "turns(1 + turns(time))"), "inner ones")
	rigtest.Refuse(t, d, write(other, "turns(lag(time, 1))"), "known ahead")
	rigtest.Refuse(t, d, &edit.ChangeDriver{ID: d.Drivers[0].ID, Parameters: parameter.Set{driver.Phases: parameter.OfChoice("0.5 much")}}, `"much" is nothing that turns can begin with`)
}

func TestTurnsAllocateNothingAndAreSharedByTargets(t *testing.T) {
	d, _, _ := turning(t, "wave(turns(%s.rate) + index / 8)")
	set := &edit.WriteDriver{Driver: driver.FormulaKind, Text: "wave(turns(" + d.Controls[1].Name + ".rate) + index / 8)"}
	for _, c := range d.Controls[4:] {
		set.Drives = append(set.Drives, c.Of(rig.MoveY))
	}
	e := playing(t, change(t, d, set))
	assert.Len(t, e.Plan.Totals, 1)
	frame := 0.0
	e.Evaluate()
	assert.Zero(t, testing.AllocsPerRun(50, func() {
		frame += 1.3
		e.SetFrame(frame)
		e.Evaluate()
	}))
}

// TestAHeldRateGoesOnFromWhereItIs takes hold of a rate in the middle of a clip: nothing jumps then, what comes after goes by the hand, and letting go returns to the clip.
func TestAHeldRateGoesOnFromWhereItIs(t *testing.T) {
	d, rate, to := turning(t, "turns(%s.rate)")
	d = change(t, d, keyed(rate, d, rig.Key{Frame: 10, Value: 1, Ease: rig.Linear}, rig.Key{Frame: 250, Value: 4, Ease: rig.Linear}))
	e := playing(t, d)
	slot, _ := e.Plan.Layout.Find(rate)
	rapid.Check(t, func(t *rapid.T) {
		e.TurnBy(nil)
		frame := rapid.Float64Range(10, 200).Draw(t, "frame")
		own := at(t, e, frame, to)
		hand := []evaluate.Held{{Slot: slot, Value: rapid.Float64Range(-9, 9).Draw(t, "rate")}}
		show := func(frame float64) float64 {
			e.TurnBy(hand)
			e.PoseAt(frame/d.FPS, hand)
			e.Evaluate()
			return value(t, e, to)
		}
		require.InDelta(t, own, show(frame), 1e-9)
		require.InDelta(t, own+hand[0].Value*40/d.FPS, show(frame+40), 1e-9)
		hand = []evaluate.Held{{Slot: slot, Value: 2}} // another rate from there on
		require.InDelta(t, value(t, e, to), show(frame+40), 1e-9)
		other, _ := e.Plan.Layout.Find(d.Controls[2].Of(rig.MoveX))
		hand = []evaluate.Held{{Slot: other, Value: 1}} // the rate is let go of, while something else is held
		require.InDelta(t, own, show(frame), 1e-9)
		e.TurnBy(nil)
		e.PoseAt(frame/d.FPS, nil)
		e.Evaluate()
		require.InDelta(t, own, value(t, e, to), 1e-9)
	})
}
