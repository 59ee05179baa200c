package edit_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/match"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// eel has a bent chain of 20 joints, a metre or so long, with a mechanism of the kind on it.
func eel(t *testing.T, kind string, controls int) *rig.Document {
	places := make([]mgl64.Vec3, 20)
	for i := range places {
		s := float64(i) / 19
		places[i] = mgl64.Vec3{0.1 * math.Sin(4*s), 0.5 + 0.1*math.Cos(3*s), s}
	}
	d := apply(t, rig.New("eel"), &edit.LayChain{Positions: places, Pattern: "spine_##"})
	return apply(t, d, &edit.AddMechanism{
		Mechanism: kind, Name: "spine", Joints: ids(d),
		Options: parameter.Set{"controls": parameter.OfNumber(float64(controls))}, Parameters: parameter.Set{"stretch": parameter.OfNumber(0.5)},
	})
}

// keyed keys every control of the mechanism at three frames.
func keyed(t *testing.T, d *rig.Document, random *rand.Rand, most float64) *rig.Document {
	d = apply(t, d, &edit.AddClip{Name: "wriggle", End: 24})
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for _, id := range d.Mechanisms[0].Controls {
		for _, channel := range rig.Channels {
			for _, frame := range []float64{0, 9, 24} {
				size := most
				if channel.Turns() {
					size *= 4
				}
				set.Keys = append(set.Keys, edit.KeyValue{
					KeyPlace: edit.KeyPlace{Control: id, Channel: channel, Frame: frame}, Value: size * random.NormFloat64(), Ease: rig.Smooth,
				})
			}
		}
	}
	return apply(t, d, set)
}

func opened(t *testing.T, d *rig.Document) *evaluate.Evaluator {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	e.Evaluate()
	if len(d.Clips) > 0 {
		e.SetClip(motion.Prepare(d.Clips[0]))
	}
	return e
}

// told applies an edit and returns what it tells and the drift it causes.
func told(t *testing.T, d *rig.Document, e edit.Edit) (*rig.Document, []string, float64) {
	c, remarks := context(), []string{}
	c.Tell = func(text string) { remarks = append(remarks, text) }
	result, err := edit.Apply(c, d, e)
	require.NoError(t, err)
	drift := 0.0
	if result.Drift != nil {
		drift = result.Drift.Joints
	}
	return result.Document, remarks, drift
}

// missed measures how far the joints of the mechanism miss, at the frames, where they stood before.
func missed(t *testing.T, before, after *rig.Document, frames []float64) (left match.Left) {
	was, now := opened(t, before), opened(t, after)
	for _, frame := range frames {
		was.SetFrame(frame)
		now.SetFrame(frame)
		was.Evaluate()
		now.Evaluate()
		for i := range was.Frame.Joints {
			a, b := was.Frame.Joints[i], now.Frame.Joints[i]
			left.Moves = math.Max(left.Moves, a.Position.Sub(b.Position).Len())
			between := a.Rotation.Conjugate().Mul(b.Rotation)
			left.Turns = math.Max(left.Turns, 2*math.Atan2(between.V.Len(), math.Abs(between.W)))
		}
	}
	return left
}

// Controls are added, taken out and slid along, in any order: nothing moves at rest.
func TestArrangingControlsMovesNothingAtRest(t *testing.T) {
	for _, kind := range []string{"spline-chain", "ribbon-chain"} {
		random := rand.New(rand.NewPCG(2, 6))
		d, worst := eel(t, kind, 5), 0.0
		for range 40 {
			m := d.Mechanisms[0]
			count := 3 + random.IntN(8)
			change := &edit.ArrangeControls{Mechanism: m.ID, Controls: []string{m.Controls[0]}, Places: []float64{0}}
			inner := m.Controls[1 : len(m.Controls)-1]
			for i := range count - 2 {
				id := ""
				if i < len(inner) && random.IntN(3) > 0 {
					id = inner[i]
				}
				change.Controls = append(change.Controls, id)
				change.Places = append(change.Places, (float64(i)+0.6+0.5*random.Float64())/float64(count))
			}
			change.Controls, change.Places = append(change.Controls, m.Controls[len(m.Controls)-1]), append(change.Places, 1)
			var drift float64
			d, _, drift = told(t, d, change)
			worst = math.Max(worst, drift)
			require.Len(t, d.Mechanisms[0].Controls, count)
			assert.Len(t, d.Controls, count+2)
		}
		assert.LessOrEqual(t, worst, 1e-9, kind)
		t.Logf("%s: greatest drift in 40 arrangements %.2g m of a chain of 1 m", kind, worst)
	}
}

// What is told of the fit is what is measured; more controls come nearer than fewer.
func TestKeyedPosesAreFittedWhenControlsAreArranged(t *testing.T) {
	d := keyed(t, eel(t, "spline-chain", 5), rand.New(rand.NewPCG(4, 4)), 0.03)
	m := d.Mechanisms[0]
	frames := []float64{0, 9, 24}
	misses := map[int]match.Left{}
	for _, arrangement := range []*edit.ArrangeControls{
		{Mechanism: m.ID, Controls: []string{m.Controls[0], m.Controls[1], "", m.Controls[2], "", m.Controls[3], m.Controls[4]}, Places: []float64{0, 0.25, 0.4, 0.5, 0.6, 0.75, 1}},
		{Mechanism: m.ID, Controls: []string{m.Controls[0], m.Controls[2], m.Controls[4]}, Places: []float64{0, 0.5, 1}},
	} {
		after, remarks, drift := told(t, d, arrangement)
		assert.LessOrEqual(t, drift, 1e-9)
		left := missed(t, d, after, frames)
		require.Len(t, remarks, 1)
		var count int
		var millimetres, degrees float64
		_, err := fmt.Sscanf(remarks[0], "%d keyed poses were fitted: no joint of spine misses by more than %g mm and %g°", &count, &millimetres, &degrees)
		require.NoError(t, err, remarks[0])
		assert.Equal(t, 3, count)
		assert.InEpsilon(t, 1000*left.Moves, millimetres, 0.01, "the greatest miss is told")
		misses[len(arrangement.Controls)] = left
		for _, track := range after.Clips[0].Tracks {
			assert.Contains(t, append(slices.Clone(after.Mechanisms[0].Controls), "c1", "c2"), track.Control, "what is gone has no keys")
		}
	}
	t.Logf("from 5 controls to 7: %.3g m; to 3: %.3g m", misses[7].Moves, misses[3].Moves)
	assert.Less(t, misses[7].Moves, misses[3].Moves)
	assert.Less(t, misses[7].Moves, 0.01)
}

func TestArrangementsThatCannotBeAreRefused(t *testing.T) {
	d := eel(t, "spline-chain", 4)
	m := d.Mechanisms[0]
	at := func(controls []string, places ...float64) *edit.ArrangeControls {
		return &edit.ArrangeControls{Mechanism: m.ID, Controls: controls, Places: places}
	}
	refuse(t, d, at(m.Controls, 0, 0.7, 0.3, 1), "places rise from 0 to 1, and 0.3 does not")
	refuse(t, d, at(m.Controls, 0, 0.5, 1), "4 controls have 3 places")
	refuse(t, d, at(m.Controls[:2], 0, 1), "has 3 to 20 controls, not 2")
	refuse(t, d, at(m.Controls, 0, math.NaN(), 0.6, 1), "places rise from 0 to 1")
	refuse(t, d, &edit.ArrangeControls{Mechanism: "nothing"}, `no mechanism "nothing"`)
	hung := apply(t, d, &edit.AddControl{Name: "hook", Space: m.Controls[1], Shape: rig.Hoop, Reach: 0.1})
	refuse(t, hung, at([]string{m.Controls[0], m.Controls[2], m.Controls[3]}, 0, 0.6, 1), "the control hook hangs on spine_ctl_2; hang it elsewhere first")
	fk := chain(t, 4)
	fk = apply(t, fk, &edit.AddMechanism{Mechanism: "fk-chain", Name: "ear", Joints: ids(fk)})
	refuse(t, fk, &edit.ArrangeControls{Mechanism: fk.Mechanisms[0].ID}, "stand where they are")
	refuse(t, chain(t, 3), &edit.AddMechanism{
		Mechanism: "spline-chain", Name: "x", Joints: ids(chain(t, 3)), Options: parameter.Set{"controls": parameter.OfNumber(10)},
	}, "10 controls are too many for 3 joints")
	refuse(t, chain(t, 1), &edit.AddMechanism{Mechanism: "ribbon-chain", Name: "x", Joints: ids(chain(t, 1))}, "it needs 3 or more, and 1 are chosen")
}

// A pinned end stays at what it is pinned to, in every pose; freed, it goes its own way again.
func TestAPinnedEndStaysWhereItIsPinned(t *testing.T) {
	for _, kind := range []string{"spline-chain", "ribbon-chain"} {
		d := eel(t, kind, 4)
		tip := d.Joints[19]
		d = apply(t, d, &edit.AddControl{Name: "buoy", Position: tip.Position, Shape: rig.Cross, Reach: 0.1})
		d, _, drift := told(t, d, &edit.PinEnd{Mechanism: d.Mechanisms[0].ID, End: edit.Last, To: d.ControlNamed("buoy").ID})
		assert.LessOrEqual(t, drift, 1e-9)
		random, worst := rand.New(rand.NewPCG(1, 5)), 0.0
		e := opened(t, d)
		buoy := e.Plan.ControlIndex[d.ControlNamed("buoy").ID]
		for range 1000 {
			for i := range d.Controls {
				for _, channel := range rig.Channels {
					require.NoError(t, e.SetChannel(i, channel, 0.3*random.NormFloat64()))
				}
			}
			e.Evaluate()
			worst = math.Max(worst, e.Frame.Joints[19].Position.Sub(e.Frame.Controls[buoy].Position).Len())
		}
		assert.LessOrEqual(t, worst, 1e-9, kind)
		t.Logf("%s: the end parts by %.2g m at most in 1,000 poses", kind, worst)
		m := d.Mechanisms[0]
		last := m.Controls[len(m.Controls)-1]
		assert.True(t, d.Control(last).State(rig.MoveX).Locked)
		free, _, drift := told(t, d, &edit.PinEnd{Mechanism: m.ID, End: edit.Last})
		assert.LessOrEqual(t, drift, 1e-9)
		assert.False(t, free.Control(last).State(rig.MoveX).Locked)
		refuse(t, d, &edit.PinEnd{Mechanism: m.ID, End: "middle"}, "only the first and the last end")
		_, err := edit.Apply(context(), d, &edit.PinEnd{Mechanism: m.ID, End: edit.First, To: tip.ID})
		require.Error(t, err, "an end pinned to its own chain")
		for _, name := range []string{"spine", "spine_ctl_1"} {
			assert.True(t, strings.Contains(err.Error(), name), "the loop is named: %v", err)
		}
	}
}
