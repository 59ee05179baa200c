package wave_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// eel is a straight chain of 41 joints and 2 m with a wave on it.
func eel(t require.TestingT, parameters parameter.Set) *rig.Document {
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	places := make([]mgl64.Vec3, 41)
	joints := []string{}
	for i := range places {
		places[i] = mgl64.Vec3{0, 0, -float64(i) / 20}
	}
	result, err := edit.Apply(context, rig.New("eel"), &edit.LayChain{Positions: places, Pattern: "s_##"})
	require.NoError(t, err)
	for _, j := range result.Document.Joints {
		joints = append(joints, j.ID)
	}
	result, err = edit.Apply(context, result.Document, &edit.AddMechanism{
		Mechanism: splinechain.Name, Name: "spine", Joints: joints, Parameters: parameter.Set{"stretch": parameter.OfNumber(1)},
	})
	require.NoError(t, err)
	result, err = edit.Apply(context, result.Document, &edit.AddMechanism{
		Mechanism: wave.Name, Name: "wave", Host: result.Document.Mechanisms[0].ID, Parameters: parameters,
	})
	require.NoError(t, err)
	return result.Document
}

func at(t require.TestingT, d *rig.Document, seconds float64) *evaluate.Evaluator {
	planned, err := plan.Build(d, kinds.All(), nil)
	require.NoError(t, err)
	e := evaluate.New(planned)
	e.SetTime(seconds)
	e.Evaluate()
	return e
}

var (
	number = parameter.OfNumber
	flat   = parameter.OfProfile(parameter.Point{0, 1}, parameter.Point{1, 1})
)

func TestTheWaveHasItsAmplitudeWavelengthAndRate(t *testing.T) {
	d := eel(t, parameter.Set{
		"amplitude": number(0.05), "profile": flat, "wavelength": number(0.5), "rate": number(0.75), "anchor": parameter.OfChoice("none"),
	})
	widest := 0.0
	crossings := 0
	for frame := range 96 {
		e := at(t, d, float64(frame)/48)
		before := e.Frame.Joints[8].Position[0]
		for i := 8; i <= 32; i++ {
			x := e.Frame.Joints[i].Position[0]
			widest = math.Max(widest, math.Abs(x))
			if frame == 0 && before*x < 0 {
				crossings++
			}
			before = x
			assert.InDelta(t, 0, e.Frame.Joints[i].Position[1], 1e-9, "the wave stays in its plane")
		}
	}
	assert.InDelta(t, 0.05, widest, 0.05*0.03)
	assert.InDelta(t, 5, crossings, 1, "24 bones are 1.2 m, 2.4 waves")
	one, next := at(t, d, 0.2), at(t, d, 0.2+1/0.75)
	assert.InDelta(t, one.Frame.Joints[20].Position[0], next.Frame.Joints[20].Position[0], 1e-9, "the wave comes again after 1/rate")
}

func TestTheHeadStaysAndTheWaveGrowsTowardsTheTail(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := eel(t, parameter.Set{"amplitude": number(rapid.Float64Range(0, 0.4).Draw(t, "amplitude")), "wavelength": number(1), "plane": number(rapid.Float64Range(-180, 180).Draw(t, "plane"))})
		e := at(t, d, rapid.Float64Range(-20, 20).Draw(t, "time"))
		assert.InDelta(t, 0, e.Frame.Joints[0].Position.Sub(d.Joints[0].Position).Len(), 1e-9)
		assert.InDelta(t, 1, math.Abs(e.Frame.Joints[0].Rotation.Dot(d.Joints[0].Rotation.Quat())), 2e-3, "the head hardly turns")
	})
}

func TestAChangeOfRateKeepsThePhase(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := eel(t, parameter.Set{"rate": number(rapid.Float64Range(-3, 3).Draw(t, "before"))})
		when := rapid.Float64Range(0, 100).Draw(t, "when")
		before := at(t, d, when)
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.SetParameters{
			Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"rate": number(rapid.Float64Range(-3, 3).Draw(t, "after"))}, Time: when,
		})
		require.NoError(t, err)
		after := at(t, result.Document, when)
		for i := range before.Frame.Joints {
			assert.InDelta(t, 0, before.Frame.Joints[i].Position.Sub(after.Frame.Joints[i].Position).Len(), 1e-9)
		}
	})
}

func TestTravelDrivesTheWave(t *testing.T) {
	d := eel(t, parameter.Set{"rate": number(0), "travel": number(2)})
	e := at(t, d, 0)
	still := e.Frame.Joints[40].Position
	root := e.Plan.ControlIndex[d.ControlNamed("root").ID]
	require.NoError(t, e.SetChannel(root, rig.MoveZ, 0.5))
	e.Evaluate()
	assert.InDelta(t, 0, e.Frame.Joints[40].Position.Sub(still.Add(mgl64.Vec3{0, 0, 0.5})).Len(), 1e-9, "half a metre at two swings a metre is a whole swing")
	require.NoError(t, e.SetChannel(root, rig.MoveZ, 0.125))
	e.Evaluate()
	assert.Greater(t, e.Frame.Joints[40].Position.Sub(still.Add(mgl64.Vec3{0, 0, 0.125})).Len(), 0.01)
}

func TestAWaveNeedsAChain(t *testing.T) {
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All()}, rig.New("x"), &edit.AddMechanism{Mechanism: wave.Name, Name: "w", Host: "m9"})
	require.ErrorContains(t, err, `no mechanism "m9"`)
}
