package rack_test

import (
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/rack"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

func winch(t *testing.T) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "frame"})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 1.2, 0}}, Pattern: "drum", Parent: d.Joints[0].ID}, &edit.LayChain{Positions: []mgl64.Vec3{{0, 0.3, 0.8}}, Pattern: "hook", Parent: d.Joints[0].ID})
	return rigtest.Apply(t, d, &edit.AddMechanism{
		Mechanism: hinge.Name, Name: "winch", Joints: []string{d.Joints[1].ID}, Options: parameter.Set{"axis": parameter.OfChoice("the joint's X axis")},
		Parameters: parameter.Set{"back": parameter.OfNumber(-36_000), "forth": parameter.OfNumber(36_000)},
	})
}

// What hangs on a winch goes by its radius for each radian, any number of turns, and along with what carries both.
func TestARackSlidesByWhatTurns(t *testing.T) {
	d := winch(t)
	roles := map[string][]string{"rack": {d.Joints[2].ID}, "by": {d.Joints[1].ID}}
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: rack.Name, Name: "hoist", Roles: roles, Parameters: parameter.Set{"radius": parameter.OfNumber(0.15), "along": parameter.OfChoice("upright")}})
	e := rigtest.Open(t, d)
	random := rand.New(rand.NewPCG(3, 3))
	for range 60 {
		turn, lean := 200*random.NormFloat64(), random.NormFloat64()
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed("winch_handle").ID], rig.RotateY, turn))
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID], rig.RotateX, lean))
		e.Evaluate()
		frame := e.Frame.Joints[0]
		hook := frame.Inverse().Then(e.Frame.Joints[2]).Position
		assert.InDelta(t, 0, hook.Sub(mgl64.Vec3{0, -0.7 + 0.15*turn, 0.8}).Len(), 1e-9)
	}
}

func TestWhatIsNoRackIsRefused(t *testing.T) {
	d := winch(t)
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: rack.Name, Name: "hoist", Roles: map[string][]string{"rack": {d.Joints[2].ID}, "by": {d.Joints[1].ID}}}, "give the radius")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: rack.Name, Name: "hoist", Roles: map[string][]string{"rack": {d.Joints[1].ID}, "by": {d.Joints[0].ID}}}, "goes with frame as it is")
	rigtest.Refuse(t, d, &edit.AddMechanism{
		Mechanism: rack.Name, Name: "hoist", Roles: map[string][]string{"rack": {d.Joints[1].ID}, "by": {d.Joints[2].ID}}, Parameters: parameter.Set{"radius": parameter.OfNumber(1)},
	}, "turns nothing by itself")
}
