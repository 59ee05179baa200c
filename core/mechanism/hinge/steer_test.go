package hinge_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// However far they are steered, the axles of both front wheels meet in one place on the line of the hind axle.
func TestWheelsSteerAboutOnePlace(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		wide, base := rapid.Float64Range(0.2, 2).Draw(t, "wide"), rapid.Float64Range(0.5, 4).Draw(t, "base")
		d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "body"})
		on := d.Joints[0].ID
		for i, at := range []mgl64.Vec3{{wide, 0.3, base}, {-wide, 0.3, base}, {wide, 0.3, 0}} {
			d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at}, Pattern: fmt.Sprintf("hub_%d", i), Parent: on})
		}
		d = rigtest.Apply(t, d, &edit.AddMechanism{
			Mechanism: hinge.Name, Name: "steering", Joints: []string{d.Joints[1].ID, d.Joints[2].ID}, Options: parameter.Set{"axis": parameter.OfChoice("upright")},
			Parameters: parameter.Set{"several": parameter.OfChoice("as wheels steer"), "back": parameter.OfNumber(-60), "forth": parameter.OfNumber(60)},
		})
		require.InDelta(t, base, d.Mechanisms[0].Parameters.Number("base"), 1e-12, "it is measured")
		e := rigtest.Open(t, d)
		turn := rapid.Float64Range(-1, 1).Draw(t, "turn")
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]], rig.RotateY, turn))
		e.Evaluate()
		if math.Abs(turn) < 1e-3 {
			return
		}
		var meets [2]float64
		for i := range 2 {
			at := e.Frame.Joints[i+1]
			axle := at.Rotation.Mul(d.Joints[i+1].Rest().Rotation.Conjugate()).Rotate(mgl64.Vec3{1, 0, 0})
			meets[i] = at.Position[0] - at.Position[2]/axle[2]*axle[0] // where its axle crosses the hind one's line
		}
		assert.InDelta(t, meets[0], meets[1], 1e-9*(1+math.Abs(meets[0])))
		assert.InDelta(t, base/math.Tan(turn), meets[0], 1e-9*(1+math.Abs(meets[0])), "a wheel in the middle turns as the handle")
	})
}
