package ribbonchain_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	open = rigtest.Open
)

// ribbon is a straight chain of 21 joints, a metre long and along +Z, with five controls at even places.
func ribbon(t require.TestingT) *rig.Document {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	lay := &edit.LayChain{Pattern: "fin_##"}
	for i := range 21 {
		lay.Positions = append(lay.Positions, mgl64.Vec3{0, 0.3, float64(i) / 20})
	}
	result, err := edit.Apply(c, rig.New("x"), lay)
	require.NoError(t, err)
	add := &edit.AddMechanism{Mechanism: ribbonchain.Name, Name: "fin", Options: parameter.Set{"controls": parameter.OfNumber(5)}}
	for _, j := range result.Document.Joints {
		add.Joints = append(add.Joints, j.ID)
	}
	result, err = edit.Apply(c, result.Document, add)
	require.NoError(t, err)
	return result.Document
}

// rolled is how far a joint is turned about +Z from how it is at rest, in degrees.
func rolled(e *evaluate.Evaluator, joint int) float64 {
	now := e.Frame.Joints[joint].Rotation.Rotate(geometry.SecondAxis)
	rest := e.Plan.Document.Joints[joint].Rest().Rotation.Rotate(geometry.SecondAxis)
	return geometry.SignedAngle(rest, now, mgl64.Vec3{0, 0, 1}) * 180 / math.Pi
}

func TestEachControlTurnsTheRibbonWhereItStands(t *testing.T) {
	d := ribbon(t)
	e := open(t, d)
	middle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[2]]
	require.NoError(t, e.SetChannel(middle, rig.RotateY, math.Pi/3))
	e.Evaluate()
	assert.InDelta(t, 60, rolled(e, 10), 1e-6, "at the control all of it")
	assert.InDelta(t, 0, rolled(e, 0), 1e-9, "at the ends none")
	assert.InDelta(t, 0, rolled(e, 20), 1e-9)
	before := 0.0
	for i := 1; i <= 10; i++ {
		assert.GreaterOrEqual(t, rolled(e, i), before-8, "joint %d: it comes to it without a jump", i)
		assert.LessOrEqual(t, rolled(e, i)-before, 25.0)
		before = rolled(e, i)
	}
	for i := range d.Joints {
		assert.InDelta(t, float64(i)/20, e.Frame.Joints[i].Position[2], 1e-9, "turning moves no joint along")
	}
}

func TestAWiderControlWidensTheJointsThere(t *testing.T) {
	d := ribbon(t)
	e := open(t, d)
	last := e.Plan.ControlIndex[d.Mechanisms[0].Controls[4]]
	require.NoError(t, e.SetChannel(last, "width", 2))
	e.Evaluate()
	wide := 0 // the axis across the ribbon
	if e.Frame.Scales[20][2] > e.Frame.Scales[20][0] {
		wide = 2
	}
	across := func(i int) float64 { return e.Frame.Scales[i][wide] }
	thick := func(i int) float64 { return e.Frame.Scales[i][2-wide] }
	assert.InDelta(t, 2, across(20), 1e-6)
	assert.InDelta(t, 1, across(0), 1e-6)
	assert.Greater(t, across(18), across(14))
	for i := range d.Joints {
		assert.Greater(t, across(i), 0.85, "a curve through its controls swings back a little, and no more")
		assert.InDelta(t, 1, thick(i), 1e-6, "it is as thick as it was")
		assert.Equal(t, 1.0, e.Frame.Scales[i][1], "and as long")
	}
}

// The controls turn in small steps, anyhow, up to a third of a turn against their neighbours: no joint turns by much more than the step.
func TestARibbonDoesNotFlip(t *testing.T) {
	worst := 0.0
	const step = math.Pi / 180
	rapid.Check(t, func(t *rapid.T) {
		d := ribbon(t)
		e := open(t, d)
		ways := make([]float64, 5)
		for i := range ways {
			ways[i] = rapid.Float64Range(-1, 1).Draw(t, "way")
		}
		before := make([]mgl64.Quat, len(d.Joints))
		for degree := range 60 {
			for i, id := range d.Mechanisms[0].Controls {
				require.NoError(t, e.SetChannel(e.Plan.ControlIndex[id], rig.RotateY, ways[i]*float64(degree)*step))
			}
			e.Evaluate()
			for i, joint := range e.Frame.Joints {
				if degree > 0 {
					worst = math.Max(worst, 2*math.Acos(math.Min(1, math.Abs(joint.Rotation.Dot(before[i]))))/step)
				}
				before[i] = joint.Rotation
			}
		}
	})
	assert.LessOrEqual(t, worst, 3.0)
	t.Logf("greatest turn of a joint: %.3f of the step", worst)
}

func TestAWrungRibbonIsToldAndStaysFinite(t *testing.T) {
	d := ribbon(t)
	e := open(t, d)
	controls := d.Mechanisms[0].Controls
	assert.Empty(t, e.Findings())
	for _, id := range controls { // every control lies along the curve, edge on
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[id], rig.RotateZ, math.Pi/2))
	}
	e.Evaluate()
	for i, joint := range e.Frame.Joints {
		assert.True(t, geometry.FiniteVector(joint.Position) && geometry.FiniteVector(e.Frame.Scales[i]))
		assert.InDelta(t, 1, joint.Rotation.Len(), 1e-9)
	}
	told := e.Findings()
	require.NotEmpty(t, told)
	assert.Contains(t, told[len(told)-1].Text, "edgewise")
}

// On an arch that rises, bends over and falls, no control stands rolled against the one before it, and a ribbon whose controls only move
// stays as wide as it is.
func TestControlsOnAnArchAreNotRolled(t *testing.T) {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	lay := &edit.LayChain{Pattern: "fin_##"}
	for i := range 24 {
		sine, cosine := math.Sincos(math.Pi * float64(i) / 23)
		lay.Positions = append(lay.Positions, mgl64.Vec3{0.05 * sine, sine, -cosine})
	}
	result, err := edit.Apply(c, rig.New("x"), lay)
	require.NoError(t, err)
	add := &edit.AddMechanism{Mechanism: ribbonchain.Name, Name: "fin", Options: parameter.Set{"controls": parameter.OfNumber(7)}}
	for _, j := range result.Document.Joints {
		add.Joints = append(add.Joints, j.ID)
	}
	result, err = edit.Apply(c, result.Document, add)
	require.NoError(t, err)
	d := result.Document
	controls := d.Mechanisms[0].Controls
	for i := 1; i < len(controls); i++ {
		before, now := d.Control(controls[i-1]).Home().Rotation, d.Control(controls[i]).Home().Rotation
		between := before.Conjugate().Mul(now)
		roll := 2 * math.Atan2(between.V[1], between.W)
		assert.InDelta(t, 0, geometry.Wrap(roll), 0.02, "control %d", i+1)
	}
	e := open(t, d)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[controls[3]], rig.MoveZ, 0.3))
	e.Evaluate()
	for i, scale := range e.Frame.Scales {
		assert.InDelta(t, 1, scale[0], 0.02, "joint %d", i)
		assert.InDelta(t, 1, scale[2], 0.02, "joint %d", i)
	}
}
