package evaluate_test

import (
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// layered is a chain of seven that a spline moves, which stretches and keeps its volume, with an FK chain over it that a dial blends in.
func layered(t *testing.T) *rig.Document {
	var places []mgl64.Vec3
	for i := range 7 {
		places = append(places, mgl64.Vec3{0, 1, 0.4 * float64(i)})
	}
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "s_#"})
	var joints []string
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	return rigtest.Apply(t, d,
		&edit.AddMechanism{Mechanism: "spline-chain", Name: "curve", Joints: joints, Options: parameter.Set{"controls": parameter.OfNumber(3)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(1)}},
		&edit.AddMechanism{Mechanism: "fk-chain", Name: "turns", Joints: joints, Blend: true, Options: parameter.Set{"end": parameter.OfToggle(true)}},
	)
}

// moves tells how far any joint goes, in place, turn or girth, when a control is moved and turned.
func moves(t *testing.T, e *evaluate.Evaluator, control int) float64 {
	e.Evaluate()
	was := append([]geometry.Transform{}, e.Frame.Joints...)
	girths := append([]mgl64.Vec3{}, e.Frame.Scales...)
	for _, channel := range []rig.Channel{rig.MoveX, rig.RotateZ} {
		require.NoError(t, e.SetChannel(control, channel, 0.3))
	}
	e.Evaluate()
	far := 0.0
	for i := range was {
		far = max(far, e.Frame.Joints[i].Position.Sub(was[i].Position).Len(), e.Frame.Scales[i].Sub(girths[i]).Len(), 1-abs(e.Frame.Joints[i].Rotation.Dot(was[i].Rotation)))
	}
	for _, channel := range []rig.Channel{rig.MoveX, rig.RotateZ} {
		require.NoError(t, e.SetChannel(control, channel, 0))
	}
	return far
}

func abs(x float64) float64 { return max(x, -x) }

// A control is idle just when nothing that it does moves anything, wherever the blend stands.
func TestIdleControlsMoveNothing(t *testing.T) {
	d := layered(t)
	e := rigtest.Open(t, d)
	blend := e.Plan.ControlIndex[d.ControlNamed("curve_blend").ID]
	idle := 0
	for _, at := range []float64{0, 0.25, 1} {
		require.NoError(t, e.SetChannel(blend, "blend", at))
		for i, control := range d.Controls {
			if i == blend {
				continue
			}
			e.Evaluate()
			is := e.Idle(i)
			assert.Equal(t, is, moves(t, e, i) < 1e-12, "%s at %g", control.Name, at)
			if is {
				idle++
			}
		}
	}
	assert.Equal(t, len(d.Mechanisms[0].Controls)+len(d.Mechanisms[1].Controls), idle, "those of the one at 0, of the other at 1")
}

// Own scale mixes evenly between what lies below and what lies above: at a share of the way it is that share between the two, joint by joint.
func TestOwnScaleMixesByTheShare(t *testing.T) {
	d := layered(t)
	e := rigtest.Open(t, d)
	blend := e.Plan.ControlIndex[d.ControlNamed("curve_blend").ID]
	last := e.Plan.ControlIndex[d.Mechanisms[0].Controls[2]]
	random := rand.New(rand.NewPCG(4, 4))
	at := func(share float64) []mgl64.Vec3 {
		require.NoError(t, e.SetChannel(blend, "blend", share))
		e.Evaluate()
		return append([]mgl64.Vec3{}, e.Frame.Scales...)
	}
	thinned := 0
	for range 40 {
		require.NoError(t, e.SetChannel(last, rig.MoveZ, 2*random.Float64()))
		below, above, share := at(0), at(1), random.Float64()
		for i, scale := range at(share) {
			want := below[i].Mul(1 - share).Add(above[i].Mul(share))
			require.InDelta(t, 0, scale.Sub(want).Len(), 1e-9, "joint %d", i)
			if below[i][0] < 0.9 && above[i][0] > 0.999 {
				thinned++
			}
		}
	}
	assert.Greater(t, thinned, 20, "the stretched chain is thinner than the turned one")
}
