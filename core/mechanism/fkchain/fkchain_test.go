package fkchain_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	open = rigtest.Open
)

// build lays a chain through places and builds an FK chain on it; the drift is returned.
func build(t require.TestingT, places []mgl64.Vec3, end bool) (*rig.Document, float64) {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	result, err := edit.Apply(c, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "ear_##"})
	require.NoError(t, err)
	ids := []string{}
	for _, j := range result.Document.Joints {
		ids = append(ids, j.ID)
	}
	result, err = edit.Apply(c, result.Document, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "ear", Joints: ids, Options: parameter.Set{"end": parameter.OfToggle(end)}})
	require.NoError(t, err)
	return result.Document, result.Drift.Joints
}

func wander(t *rapid.T, least, most int) (places []mgl64.Vec3, length float64) {
	number := rapid.Float64Range(-1, 1)
	places = []mgl64.Vec3{{}}
	for range rapid.IntRange(least, most).Draw(t, "joints") - 1 {
		step := mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
		places = append(places, places[len(places)-1].Add(step))
		length += step.Len()
	}
	return places, length
}

func TestNothingMovesWhenItIsBuilt(t *testing.T) {
	greatest := 0.0
	rapid.Check(t, func(t *rapid.T) {
		places, length := wander(t, 1, 40)
		_, drift := build(t, places, rapid.Bool().Draw(t, "end"))
		greatest = math.Max(greatest, drift/math.Max(length, 1))
		assert.LessOrEqual(t, drift, 1e-9*math.Max(length, 1))
	})
	t.Logf("greatest drift %.2g of the chain's length", greatest)
}

func TestOneJointIsEnoughAndTheEndIsOptional(t *testing.T) {
	jaw, _ := build(t, []mgl64.Vec3{{0, 1, 0}}, false)
	assert.Len(t, jaw.Mechanisms[0].Controls, 1)
	three := []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}, {0, 2, 0}}
	d, _ := build(t, three, false)
	assert.Len(t, d.Mechanisms[0].Controls, 2, "the last joint only ends the last bone")
	d, _ = build(t, three, true)
	assert.Len(t, d.Mechanisms[0].Controls, 3)
	for i, id := range d.Mechanisms[0].Controls[1:] {
		assert.Equal(t, d.Mechanisms[0].Controls[i], d.Control(id).Space, "each hangs on the one before")
	}
}

// A turned control turns its joint by as much and carries all that follow, as one rigid piece.
func TestATurnCarriesWhatFollows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		places, _ := wander(t, 3, 12)
		d, _ := build(t, places, true)
		e := open(t, d)
		at := rapid.IntRange(0, len(places)-1).Draw(t, "control")
		control := e.Plan.ControlIndex[d.Mechanisms[0].Controls[at]]
		angles := mgl64.Vec3{}
		for k, channel := range []rig.Channel{rig.RotateX, rig.RotateY, rig.RotateZ} {
			angles[k] = rapid.Float64Range(-3, 3).Draw(t, string(channel))
			require.NoError(t, e.SetChannel(control, channel, angles[k]))
		}
		e.Evaluate()
		turned := d.Controls[control].Home().Rotation.Mul(d.Controls[control].Order.Rotation(angles))
		motion := turned.Mul(d.Controls[control].Home().Rotation.Conjugate())
		for i, j := range d.Joints {
			want := j.Position
			if i >= at {
				want = places[at].Add(motion.Rotate(j.Position.Sub(places[at])))
			}
			assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(want).Len(), 1e-9, j.Name)
		}
	})
}

func TestBonesKeepTheirLengthAndNothingIsNonFinite(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		places, _ := wander(t, 2, 20)
		d, _ := build(t, places, false)
		e := open(t, d)
		for i := range d.Controls {
			for _, channel := range []rig.Channel{rig.RotateX, rig.RotateY, rig.RotateZ} {
				require.NoError(t, e.SetChannel(i, channel, rapid.Float64Range(-1e4, 1e4).Draw(t, "angle")))
			}
		}
		e.Evaluate()
		for i := 1; i < len(places); i++ {
			rest := places[i].Sub(places[i-1]).Len()
			now := e.Frame.Joints[i].Position.Sub(e.Frame.Joints[i-1].Position).Len()
			assert.InDelta(t, rest, now, 1e-9*(1+rest))
		}
	})
}

func TestTheSameBitsTwiceAndNoAllocation(t *testing.T) {
	places := make([]mgl64.Vec3, 40)
	for i := range places {
		places[i] = mgl64.Vec3{0, 0.1 * float64(i), 0.3 * math.Sin(float64(i))}
	}
	d, _ := build(t, places, false)
	first, second := open(t, d), open(t, d)
	pose := func(e *evaluate.Evaluator, value float64) {
		for i := range d.Controls {
			_ = e.SetChannel(i, rig.RotateX, value*float64(i%3))
		}
		e.Evaluate()
	}
	pose(second, 0.7)
	pose(first, 0.2)
	pose(second, 0.2)
	assert.Equal(t, first.Frame.Joints, second.Frame.Joints)
	value := 0.0
	assert.Zero(t, testing.AllocsPerRun(20, func() { value += 0.01; pose(first, value) }))
}

func TestRefusals(t *testing.T) {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	d, _ := build(t, []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}, {0, 2, 0}}, false)
	_, err := edit.Apply(c, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "none"})
	require.ErrorContains(t, err, "Chain: it needs 1 or more")
	_, err = edit.Apply(c, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "again", Joints: d.Mechanisms[0].Joints})
	require.ErrorContains(t, err, "is moved by ear and by again")
	spoilt := d.Clone()
	spoilt.Mechanisms[0].Controls = nil
	_, _, err = evaluate.Open(spoilt, kinds.All(), edit.Memory{})
	require.ErrorContains(t, err, "build it anew")
}

func BenchmarkChain(b *testing.B) {
	for _, count := range []int{10, 40, 160, 640} {
		places := make([]mgl64.Vec3, count)
		for i := range places {
			places[i] = mgl64.Vec3{0, 0.1 * float64(i), 0}
		}
		d, _ := build(b, places, false)
		e := open(b, d)
		b.Run(fmt.Sprint(count), func(b *testing.B) {
			for i := 0; b.Loop(); i++ {
				_ = e.SetChannel(1, rig.RotateX, float64(i%100)/100)
				e.Evaluate()
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(count), "ns/joint")
		})
	}
}
